"""Recordings with imperfect names reach their cells, and nothing is placed wrongly without a word."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from cata.errors import Invalid
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.standing.flight import get_flight
from cata.services.takes import placing, receiving
from cata.services.takes.placing import CellIn
from cata.services.workspace import Workspace
from tests.conftest import SOME_FACTS, declines, noise_file

ROWS = ("Tube-like drive", "Clean boost", "Alder fuzz")
COLUMNS = ("Muted riff", "Full chords", "Soft chords", "Lead line")
MEANT = {
    "tubey - riff take2.wav": (0, 0), "Tube-like_full chords.wav": (0, 1), "TUBEY softchords (3).wav": (0, 2),
    "tube like lead.flac": (0, 3), "CLEANBOOST_riff.flac": (1, 0), "clean boost - chords full.wav": (1, 1),
    "boost soft.wav": (1, 2), "2026-03-01 alder muted.wav": (2, 0), "fuzz - Full Chords take 11.wav": (2, 1),
    "alderfuzz_lead_new.wav": (2, 3), "IMG_0042.wav": (1, 3),
}  # fmt: skip
"""Eleven cells of twelve: soft chords through the fuzz were never played."""
DOUBLED = "Clean Boost - riff 2nd.wav"


def flight_of(ws: Workspace, rows: tuple[str, ...] = ROWS, columns: tuple[str, ...] = COLUMNS) -> int:
    flight = table.add_flight(ws, FlightIn(name="Which?"))
    for name in rows:
        table.add_contender(ws, flight, ContenderIn(name=name))
    for name in columns:
        table.add_test(ws, flight, TestIn(name=name))
    return flight


def receive(ws: Workspace, flight: int, folder: Path, name: str, seed: int) -> int:
    path = noise_file(folder / f"{seed}.wav", 0.3, seed=seed)
    return receiving.add_take(ws, flight, name, ws.vault.add(path), replace(SOME_FACTS))


def test_twelve_files_with_imperfect_names_reach_their_cells_with_a_few_actions(ws: Workspace, tmp_path: Path) -> None:
    flight = flight_of(ws)
    for seed, name in enumerate((*MEANT, DOUBLED)):
        receive(ws, flight, tmp_path, name, seed)
    done = placing.arrange(ws, flight)  # 1: what a drop does by itself
    assert done.numbers["left"] == 2
    view = get_flight(ws, flight)
    rows, columns = [one.id for one in view.contenders], [one.id for one in view.tests]

    def cells() -> dict[str, tuple[int, int]]:
        found = {}
        for one in get_flight(ws, flight).takes:
            if one.contender_id is not None and one.test_id is not None:
                found[one.filename] = rows.index(one.contender_id), columns.index(one.test_id)
        return found

    assert cells() == {name: cell for name, cell in MEANT.items() if name != "IMG_0042.wav"}
    left = {one.filename: one for one in view.takes if one.proposal is not None}
    assert {name: one.proposal.code for name, one in left.items() if one.proposal} == {
        "IMG_0042.wav": "nothing_named", DOUBLED: "filled",
    }  # fmt: skip
    placing.place_take(ws, left["IMG_0042.wav"].id, rows[1], columns[3])  # 2, after hearing it
    again = left[DOUBLED].proposal
    assert again is not None
    assert (again.contender_id, again.test_id, again.repeat) == (rows[1], columns[0], 1)
    placing.place_take(ws, left[DOUBLED].id, again.contender_id, again.test_id, again.repeat)  # 3: its suggestion
    assert cells() == {**MEANT, DOUBLED: (1, 0)}
    assert get_flight(ws, flight).next_text == "1 take to record"


def test_the_last_recording_is_proposed_for_the_last_cell_but_not_put_there(ws: Workspace, tmp_path: Path) -> None:
    flight = flight_of(ws, ("Alder", "Birk"), ("Riff",))
    receive(ws, flight, tmp_path, "alder riff.wav", 1)
    receive(ws, flight, tmp_path, "DSC00017.wav", 2)
    assert placing.arrange(ws, flight).code == "some_left"
    left = next(one for one in get_flight(ws, flight).takes if one.test_id is None)
    assert left.proposal is not None
    assert (left.proposal.code, left.proposal.contender_id) == ("only_left", get_flight(ws, flight).contenders[1].id)


def test_a_recording_that_has_its_place_is_not_offered_a_second_one(ws: Workspace, tmp_path: Path) -> None:
    flight = flight_of(ws, ("Alder", "Birk"), ("Riff",))
    for name in ("alder riff.wav", "alder riff copy.wav"):
        receive(ws, flight, tmp_path, name, 1)
    placing.arrange(ws, flight)
    left = next(one for one in get_flight(ws, flight).takes if one.test_id is None)
    assert left.proposal is not None
    assert (left.proposal.code, left.proposal.test_id) == ("twice", None)


def test_a_better_take_takes_the_place_and_the_old_one_steps_aside(ws: Workspace, tmp_path: Path) -> None:
    flight = flight_of(ws, ("Alder", "Birk"), ("Riff",))
    old = receive(ws, flight, tmp_path, "alder riff.wav", 1)
    receive(ws, flight, tmp_path, "birk riff.wav", 2)
    placing.arrange(ws, flight)
    view = get_flight(ws, flight)
    cell = CellIn(take_id=receive(ws, flight, tmp_path, "better.wav", 3), contender_id=view.contenders[0].id,
                  test_id=view.tests[0].id)  # fmt: skip
    with declines(Invalid, "cell_filled"):
        placing.place_all(ws, flight, [cell])
    placing.place_all(ws, flight, [cell.model_copy(update={"replaces": old})])
    view = get_flight(ws, flight)
    stepped = next(one for one in view.takes if one.id == old)
    assert (stepped.test_id, stepped.aside, stepped.proposal) == (None, True, None)
    # Nobody has to place it: what comes next is what the table itself needs.
    assert view.next_code != "place"
    assert placing.arrange(ws, flight).code == "nothing_to_place"
    placing.bring_back(ws, old)
    assert get_flight(ws, flight).next_code == "place"
