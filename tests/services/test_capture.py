"""Capture in the store: takes by order, cuts that become takes, and what an interruption leaves."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from sqlmodel import select

from cata.core.signals.slate import SlateMark, slate
from cata.errors import BadAudio, Conflict, Invalid
from cata.services import capturing, cutting, flights, ordering, rehearsing, takes
from cata.services.flight_view import get_flight
from cata.services.flights import FlightIn
from cata.services.ordering import OrderIn
from cata.services.rehearsing import RehearsalIn
from cata.services.views.capture import RecordingView
from cata.services.workspace import Workspace
from cata.store.tables import Take
from tests.conftest import noise_file, write_take
from tests.services.test_planning import a_plan


def ordered(ws: Workspace, **options: Any) -> tuple[int, list]:  # type: ignore[type-arg]
    flight, _ = a_plan(ws, **options)
    return flight, ordering.make_order(ws, flight, OrderIn(anchors=True)).steps


def receive(ws: Workspace, flight: int, path: Path) -> int:
    facts = cutting_facts()
    return takes.add_take(ws, flight, path.name, ws.vault.add(path), facts)


def cutting_facts() -> dict[str, Any]:
    return {"container": "WAV", "codec": "PCM_16", "rate_hz": 48000, "channels": 1, "duration_s": 3.2}


def test_names_are_sorted_as_people_count() -> None:
    assert sorted(["take 10", "take 2", "Take 1"], key=capturing.natural) == ["Take 1", "take 2", "take 10"]


def test_files_fill_the_open_takes_in_order_the_anchors_as_repeats(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    for index in range(len(steps)):
        receive(ws, flight, write_take(tmp_path / f"REC_{index + 9}.wav", hz=200 + index))
    assert capturing.place_in_order(ws, flight) == len(steps)
    view = get_flight(ws, flight)
    placed = {(t.contender_id, t.test_id, t.repeat): t.filename for t in view.takes}
    for index, step in enumerate(steps):
        assert placed[step.contender_id, step.test_id, max(0, step.anchor - 1)] == f"REC_{index + 9}.wav"
    assert view.steps[1].text == "4 takes"
    receive(ws, flight, write_take(tmp_path / "more.wav", hz=500))
    with pytest.raises(Conflict, match="no open take"):
        capturing.place_in_order(ws, flight)


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
    found = capturing.check_long(ws, path, flight, 0, by_slates)
    return capturing.add_recording(ws, flight, path.name, ws.vault.add(path), found, by_slates, "played")


def test_slates_say_where_each_piece_goes_and_what_is_missing(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    numbers = [steps[2].number, steps[0].number]
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", numbers))
    assert {piece.take: piece.planned_id for piece in view.pieces} == {
        steps[2].number: steps[2].planned_id, steps[0].number: steps[0].planned_id,
    }  # fmt: skip
    assert all(piece.end_s - piece.start_s == pytest.approx(2.0, abs=0.001) for piece in view.pieces)
    assert len(view.missing) == len(steps) - 2
    made = capturing.make_takes(ws, view.id)
    assert made.made == 2
    again = capturing.make_takes(ws, view.id)
    assert [piece.take_id for piece in again.pieces] == [piece.take_id for piece in made.pieces]
    assert {step.state for step in ordering.get_order(ws, flight).steps[:1]} == {"done"}


def test_an_interruption_keeps_every_finished_take_and_the_rest_goes_on(
    ws: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    flight, steps = ordered(ws)
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", [step.number for step in steps[:4]]))
    real, count = capturing._store_piece, 0

    def dies_after_two(*arguments: Any) -> None:
        nonlocal count
        count += 1
        if count > 2:
            raise OSError(28, "No space left on device")
        real(*arguments)

    monkeypatch.setattr(capturing, "_store_piece", dies_after_two)
    with pytest.raises(OSError, match="No space"):
        capturing.make_takes(ws, view.id)
    after = capturing.get_recording(ws, view.id)
    assert after.made == 2
    assert sum(step.state == "done" for step in ordering.get_order(ws, flight).steps) == 2
    monkeypatch.undo()
    assert capturing.make_takes(ws, view.id).made == 4
    with ws.reading() as session:
        assert len({take.digest for take in session.exec(select(Take)).all()}) == 4


def test_cuts_are_moved_by_hand_within_the_recording(ws: Workspace, tmp_path: Path) -> None:
    flight, steps = ordered(ws)
    view = recorded(ws, flight, long_file(tmp_path / "day.wav", [steps[0].number]))
    piece = view.pieces[0]
    moved = capturing.change_pieces(ws, view.id, [piece.model_copy(update={"start_s": piece.start_s + 0.2})])
    assert moved.pieces[0].start_s == pytest.approx(piece.start_s + 0.2)
    assert (moved.pieces[0].confidence, moved.pieces[0].flag) == (1.0, "")
    with pytest.raises(Invalid, match="lies within the recording"):
        capturing.change_pieces(ws, view.id, [piece.model_copy(update={"end_s": 999.0})])
    assert capturing.change_pieces(ws, view.id, []).pieces == []
    assert [r.id for r in capturing.list_recordings(ws, flight)] == [view.id]
    capturing.remove_recording(ws, view.id)
    assert capturing.list_recordings(ws, flight) == []


@pytest.mark.parametrize("name", ["empty.wav", "words.wav"])
def test_a_long_file_that_is_none_is_refused(ws: Workspace, tmp_path: Path, name: str) -> None:
    flight, _ = ordered(ws)
    path = tmp_path / name
    path.write_bytes(b"" if name == "empty.wav" else b"these are words")
    with pytest.raises(BadAudio, match=r"0 bytes|not a readable"):
        capturing.check_long(ws, path, flight, 3, False)


def test_without_an_order_the_number_of_takes_must_be_said(ws: Workspace, tmp_path: Path) -> None:
    flight = flights.add_flight(ws, FlightIn(name="x"))
    with pytest.raises(Conflict, match="say how many"):
        capturing.check_long(ws, noise_file(tmp_path / "n.wav"), flight, 0, False)


def test_the_round_trip_of_an_interface_is_read_from_its_slate(ws: Workspace, tmp_path: Path) -> None:
    tone = slate(SlateMark(1)).samples[0]
    heard = np.concatenate((np.zeros(24_000 + 984), tone * 0.05, np.zeros(24_000)))
    soundfile.write(str(tmp_path / "loop.wav"), heard, 48_000, subtype="FLOAT")
    answer = capturing.measure_latency(ws, tmp_path / "loop.wav")
    assert answer.latency_ms == pytest.approx(984 / 48, abs=0.05)
    silent = capturing.measure_latency(ws, noise_file(tmp_path / "n.wav"))
    assert silent.latency_ms is None
    assert "not heard" in silent.reason


def test_a_flight_is_rehearsed_and_says_where_a_stand_in_is_one(ws: Workspace) -> None:
    flight, steps = ordered(ws)
    done = rehearsing.rehearse(ws, flight, RehearsalIn(planned_ids=[steps[0].planned_id, steps[1].planned_id]))
    assert done.made == 2
    assert any("is not simulated; soft to hard" in note for note in done.notes)
    states = [step.state for step in ordering.get_order(ws, flight).steps]
    assert states[:2] == ["done", "done"]
    assert "todo" in states
    with pytest.raises(Conflict, match="nothing to rehearse"):
        rehearsing.rehearse(ws, flights.add_flight(ws, FlightIn(name="x")), RehearsalIn())


def test_a_test_without_a_dry_take_cannot_be_re_amped(ws: Workspace) -> None:
    flight, steps = ordered(ws)
    with pytest.raises(Conflict, match=r"no dry take of “(Riff|Lead)”"):
        rehearsing.reamp_file(ws, flight, steps[0].contender_id)


def test_a_piece_is_cut_to_the_sample(tmp_path: Path) -> None:
    ramp = np.arange(96_000, dtype=np.float32) / 100_000
    soundfile.write(str(tmp_path / "r.wav"), ramp, 48_000, subtype="PCM_24")
    facts = cutting.write_piece(str(tmp_path / "r.wav"), 0.5, 1.25, str(tmp_path / "p.flac"))
    piece, _ = soundfile.read(str(tmp_path / "p.flac"), dtype="float32")
    assert facts["duration_s"] == 0.75
    assert piece[0] == pytest.approx(ramp[24_000], abs=1e-6)
    assert len(piece) == 36_000
