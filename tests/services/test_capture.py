"""Capture in the store: takes by order, cuts that become takes, and what an interruption leaves."""

from __future__ import annotations

import errno
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from sqlmodel import select

from cata.core.signals.slate import SlateMark, slate
from cata.errors import BadAudio, Conflict, Invalid
from cata.services.background import runner_for
from cata.services.capture import recordings, rehearsing
from cata.services.capture.cutting import CUT_OUT, FIND
from cata.services.capture.reamping import reamp_file
from cata.services.capture.rehearsing import RehearsalIn
from cata.services.capture.slates import measure_latency
from cata.services.capture.steps import in_order
from cata.services.capture.views import RecordingView
from cata.services.flights import table
from cata.services.flights.table import FlightIn
from cata.services.plan import ordering, sheet
from cata.services.plan.cells import OrderIn
from cata.services.standing.flight import get_flight
from cata.services.takes import receiving
from cata.services.takes.placing import CellIn, place_all
from cata.services.takes.proposing import natural
from cata.services.upkeep.sweeping import retry
from cata.services.upkeep.undoing import undo
from cata.services.workspace import Workspace
from cata.store.tables import Take
from cata.tasks.cuts import Span, cut_out
from cata.tasks.desk import Desk
from cata.tasks.runner import Runner
from cata.tasks.shape import Due
from cata.tasks.takes import Facts
from tests.conftest import SOME_FACTS, declines, noise_file, write_take
from tests.services.test_planning import a_plan


def ordered(ws: Workspace, **options: Any) -> tuple[int, list]:  # type: ignore[type-arg]
    flight, _ = a_plan(ws, **options)
    ordering.make_order(ws, flight, OrderIn(anchors=True))
    return flight, sheet.get_order(ws, flight).steps


def receive(ws: Workspace, flight: int, path: Path) -> int:
    return receiving.add_take(ws, flight, path.name, ws.vault.add(path), SOME_FACTS)


def test_names_are_sorted_as_people_count() -> None:
    assert sorted(["take 10", "take 2", "Take 1"], key=natural) == ["Take 1", "take 2", "take 10"]


def place_in_order(ws: Workspace, flight: int) -> int:
    keys = ("take_id", "contender_id", "test_id", "repeat")
    cells = [CellIn(**{key: getattr(one, key) for key in keys}) for one in in_order(ws, flight)]
    place_all(ws, flight, cells)
    return len(cells)


def test_files_fill_the_open_takes_in_order_the_anchors_as_repeats(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    for index in range(len(steps)):
        receive(ws, flight, write_take(tmp_path / f"REC_{index + 9}.wav", hz=200 + index))
    assert place_in_order(ws, flight) == len(steps)
    view = get_flight(ws, flight)
    placed = {(t.contender_id, t.test_id, t.repeat): t.filename for t in view.takes}
    for index, step in enumerate(steps):
        assert placed[step.contender_id, step.test_id, max(0, step.anchor - 1)] == f"REC_{index + 9}.wav"
    assert view.steps[1].text == "4 takes"
    receive(ws, flight, write_take(tmp_path / "more.wav", hz=500))
    with declines(Conflict, "nothing_open"):
        place_in_order(ws, flight)


def long_file(path: Path, numbers: list[int], seconds: float = 2.0) -> Path:
    rng = np.random.default_rng(1)
    parts = [rng.normal(0, 1e-4, 24_000)]
    for number in numbers:
        t = np.arange(int(seconds * 48_000)) / 48_000
        parts += [slate(SlateMark(number)).samples[0], 0.3 * np.sin(2 * np.pi * (200 + number) * t)]
        parts += [slate(SlateMark(number, closes=True)).samples[0], rng.normal(0, 1e-4, 48_000)]
    soundfile.write(str(path), np.concatenate(parts), 48_000, subtype="PCM_24")
    return path


def recorded(ws: Workspace, flight: int, path: Path, *, by_slates: bool = True) -> RecordingView:
    takes = recordings.check_long(ws, path, flight, 0, by_slates)
    view = recordings.add_recording(ws, flight, path.name, ws.vault.add(path), takes, by_slates, "played")
    assert view.state == "looking"
    Runner(ws, (FIND,)).run_until_idle()
    return recordings.get_recording(ws, view.id)


def test_slates_say_where_each_piece_goes_and_what_is_missing(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    numbers = [steps[2].number, steps[0].number]
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", numbers))
    assert {piece.take: piece.planned_id for piece in view.pieces} == {
        steps[2].number: steps[2].planned_id, steps[0].number: steps[0].planned_id,
    }  # fmt: skip
    assert all(piece.end_s - piece.start_s == pytest.approx(2.0, abs=0.001) for piece in view.pieces)
    assert len(view.missing) == len(steps) - 2
    recordings.make_takes(ws, view.id)
    recordings.make_takes(ws, view.id)
    runner_for(ws).run_until_idle()
    made = recordings.get_recording(ws, view.id)
    assert made.made == 2
    recordings.make_takes(ws, view.id)
    runner_for(ws).run_until_idle()
    again = recordings.get_recording(ws, view.id)
    assert [piece.take_id for piece in again.pieces] == [piece.take_id for piece in made.pieces]
    assert {step.state for step in sheet.get_order(ws, flight).steps[:1]} == {"done"}


@pytest.mark.certify
def test_an_interruption_keeps_every_finished_take_and_the_rest_goes_on(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", [step.number for step in steps[:4]]))
    recordings.make_takes(ws, view.id)
    kept: list[Due] = []

    def full_after_two(board: Workspace, due: Due, facts: Facts) -> None:
        if len(kept) == 2:
            raise OSError(errno.ENOSPC, "No space left on device")
        kept.append(due)
        CUT_OUT.keep(board, due, facts)

    Runner(ws, (replace(CUT_OUT, keep=full_after_two),)).run_until_idle()
    after = recordings.get_recording(ws, view.id)
    assert after.made == 2
    assert sum(step.state == "done" for step in sheet.get_order(ws, flight).steps) == 2
    standing = get_flight(ws, flight)
    assert {one.code for one in standing.failures} == {"disk_full"}
    assert standing.making is not None
    assert standing.making.left == 2
    # There is room all the time: what stopped goes on as soon as somebody, or the disk, says so.
    retry(ws, flight)
    runner_for(ws).run_until_idle()
    assert recordings.get_recording(ws, view.id).made == 4
    assert get_flight(ws, flight).failures == []
    with ws.reading() as session:
        assert len({take.digest for take in session.exec(select(Take)).all()}) == 4
    undo(ws)
    assert recordings.get_recording(ws, view.id).made == 0


def test_cuts_are_moved_by_hand_within_the_recording(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", [steps[0].number]))
    piece = view.pieces[0]
    moved = recordings.change_pieces(ws, view.id, [piece.model_copy(update={"start_s": piece.start_s + 0.2})])
    assert moved.pieces[0].start_s == pytest.approx(piece.start_s + 0.2)
    assert (moved.pieces[0].confidence, moved.pieces[0].flag) == (1.0, "")
    with declines(Invalid, "outside_recording"):
        recordings.change_pieces(ws, view.id, [piece.model_copy(update={"end_s": 999.0})])
    assert recordings.change_pieces(ws, view.id, []).pieces == []
    assert [r.id for r in recordings.list_recordings(ws, flight)] == [view.id]
    recordings.remove_recording(ws, view.id)
    assert recordings.list_recordings(ws, flight) == []


@pytest.mark.parametrize("name", ["empty.wav", "words.wav"])
def test_a_long_file_that_is_none_is_refused(ws: Workspace, tmp_path: Path, name: str) -> None:
    flight, _ = ordered(ws)
    path = tmp_path / name
    path.write_bytes(b"" if name == "empty.wav" else b"these are words")
    with declines(BadAudio, "empty", "not_audio"):
        recordings.check_long(ws, path, flight, 3, False)


def test_without_an_order_the_number_of_takes_must_be_said(ws: Workspace, tmp_path: Path) -> None:
    flight = table.add_flight(ws, FlightIn(name="x"))
    with declines(Conflict, "no_takes_said"):
        recordings.check_long(ws, noise_file(tmp_path / "n.wav"), flight, 0, False)


def test_the_round_trip_of_an_interface_is_read_from_its_slate(ws: Workspace) -> None:
    tone = slate(SlateMark(1)).samples[0]
    heard = np.concatenate((np.zeros(24_000 + 984), tone * 0.05, np.zeros(24_000)))
    soundfile.write(str(ws.data_dir / "loop.wav"), heard, 48_000, subtype="FLOAT")
    answer = measure_latency(ws, ws.data_dir / "loop.wav")
    assert answer.latency_ms == pytest.approx(984 / 48, abs=0.05)
    silent = measure_latency(ws, noise_file(ws.data_dir / "n.wav"))
    assert silent.latency_ms is None
    assert silent.code == "tone_not_heard"


@pytest.mark.certify
def test_a_flight_is_rehearsed_and_says_where_a_stand_in_is_one(ws: Workspace) -> None:
    flight, steps = ordered(ws)
    done = rehearsing.rehearse(ws, flight, RehearsalIn(planned_ids=[steps[0].planned_id, steps[1].planned_id]))
    assert done.asked == 2
    assert rehearsing.rehearse(ws, flight, RehearsalIn(planned_ids=[steps[0].planned_id])).asked == 0
    runner_for(ws).run_until_idle()
    assert "other_phrase" in {note.code for note in done.notes}
    states = [step.state for step in sheet.get_order(ws, flight).steps]
    assert states[:2] == ["done", "done"]
    assert "todo" in states
    with declines(Conflict, "nothing_open"):
        rehearsing.rehearse(ws, table.add_flight(ws, FlightIn(name="x")), RehearsalIn())


def test_a_test_without_a_dry_take_cannot_be_re_amped(ws: Workspace) -> None:
    flight, steps = ordered(ws)
    with declines(Conflict, "no_dry_take"):
        reamp_file(ws, flight, steps[0].contender_id)


def test_a_piece_is_cut_to_the_sample(tmp_path: Path) -> None:
    ramp = np.arange(96_000, dtype=np.float32) / 100_000
    soundfile.write(str(tmp_path / "r.wav"), ramp, 48_000, subtype="PCM_24")
    facts = cut_out(Span("r.wav", 0.5, 1.25, "p.flac"), Desk(str(tmp_path)))
    piece, _ = soundfile.read(str(tmp_path / "p.flac"), dtype="float32")
    assert facts.duration_s == 0.75
    assert piece[0] == pytest.approx(ramp[24_000], abs=1e-6)
    assert len(piece) == 36_000
