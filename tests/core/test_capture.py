"""Slates and silences: a long recording becomes the takes that were played, and what is doubtful says so."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from cata.core.capture.by_slates import NOTHING_FOLLOWS, SLATED_AGAIN, cut_by_slates
from cata.core.capture.pieces import SURE
from cata.core.capture.silences import cut_by_silences
from cata.core.capture.slates import SEARCH_RATE_HZ, FoundSlate, find_slates
from cata.core.clip import Clip
from cata.core.resample import to_rate
from cata.core.signals.slate import LENGTH_S, SlateMark, mark_of, slate, symbols_of
from cata.errors import Invalid
from tests.conftest import declines
from tests.sessions import Session, session
from tests.tolerances import CUT_S

RATE_HZ = 8_000


def found_in(clip: Clip) -> list[FoundSlate]:
    low = to_rate(clip, SEARCH_RATE_HZ).samples[0]
    return find_slates(low, lambda a, b: clip.cut(round(a * clip.rate_hz), round(b * clip.rate_hz)))


def with_slate(mark: SlateMark, at_s: float = 1.7, rate_hz: int = 48_000, noise_dbfs: float = -60.0) -> np.ndarray:
    tone = slate(mark, rate_hz).samples[0]
    samples = np.random.default_rng(3).normal(0, 10 ** (noise_dbfs / 20), 4 * rate_hz)
    at = round(at_s * rate_hz)
    samples[at : at + len(tone)] += tone
    return samples


@given(st.integers(1, 999), st.booleans())
def test_every_mark_is_read_back_from_its_symbols(take: int, closes: bool) -> None:
    assert mark_of(symbols_of(SlateMark(take, closes))) == SlateMark(take, closes)


@given(st.integers(1, 999), st.integers(0, 4), st.integers(1, 15))
def test_one_wrong_symbol_is_always_noticed(take: int, place: int, shift: int) -> None:
    symbols = list(symbols_of(SlateMark(take)))
    symbols[place] = (symbols[place] + shift) % 16
    assert mark_of(tuple(symbols)) is None


@pytest.mark.parametrize("take", [0, 1000])
def test_a_number_that_no_slate_carries_is_refused(take: int) -> None:
    with declines(Invalid, "out_of_range"):
        slate(SlateMark(take))


PATHS = {
    "plain": lambda x: x,
    "upside down, 40 dB down": lambda x: -0.01 * x,
    "hard clipped": lambda x: np.clip(30 * x, -0.5, 0.5),
    "rectified in part": lambda x: np.tanh(8 * x + 0.6) - np.tanh(0.6),
    "through a small speaker": lambda x: scipy.signal.lfilter(
        *scipy.signal.butter(2, [400, 3500], "band", fs=48000), x
    ),
    "in hiss 6 dB under it": lambda x: x + np.random.default_rng(5).normal(0, 0.09, len(x)),
    "with a wall 5 m away": lambda x: x + 0.4 * np.concatenate((np.zeros(1400), x[:-1400])),
}


@pytest.mark.grid(3)
@pytest.mark.parametrize("path", PATHS)
def test_a_slate_is_found_to_a_millisecond_whatever_played_it(path: str) -> None:
    (one,) = found_in(Clip.of(PATHS[path](with_slate(SlateMark(217))), 48_000))
    assert one.mark == SlateMark(217)
    assert one.start_s == pytest.approx(1.7, abs=CUT_S)
    assert one.end_s - one.start_s == pytest.approx(LENGTH_S, abs=1e-9)


@pytest.mark.parametrize("rate_hz", [8_000, 44_100, 96_000])
def test_slates_of_any_rate_are_read(rate_hz: int) -> None:
    (one,) = found_in(Clip.of(with_slate(SlateMark(38, closes=True), rate_hz=rate_hz), rate_hz))
    assert one.mark == SlateMark(38, closes=True)
    assert one.start_s == pytest.approx(1.7, abs=CUT_S)


def test_a_slate_on_the_very_first_sample_and_one_cut_short() -> None:
    tone = slate(SlateMark(5)).samples[0]
    assert [f.mark.take for f in found_in(Clip.of(np.concatenate((tone, np.zeros(9000))), 48_000))] == [5]
    assert found_in(Clip.of(np.concatenate((np.zeros(9000), tone[: len(tone) // 2])), 48_000)) == []
    assert found_in(Clip.of(np.zeros(400), 48_000)) == []


@pytest.mark.certify
@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000))
def test_playing_and_talk_hold_no_slate(seed: int) -> None:
    made = session(takes=2, seconds=60, rate_hz=8_000, seed=seed)
    assert found_in(Clip.of(made.samples, made.rate_hz)) == []


def marks(*spec: tuple[int, float, bool]) -> list[FoundSlate]:
    return [FoundSlate(SlateMark(take, closes), at, at + 1, 0.9) for take, at, closes in spec]


def test_a_piece_ends_at_its_closing_slate_its_planned_length_or_the_next_slate() -> None:
    slates = marks((1, 0, False), (1, 10, True), (2, 20, False), (3, 40, False), (4, 60, False))
    pieces = cut_by_slates(slates, 90.0, 4, {2: 12.0, 3: 30.0})
    assert [(p.start_s, p.end_s) for p in pieces] == [(1, 10), (21, 33), (41, 60), (61, 90)]
    assert [p.flag and p.flag.code for p in pieces] == [None, None, "shorter_than_planned", "end_not_known"]


def test_of_a_take_that_was_slated_twice_the_last_counts_and_unknown_numbers_are_left() -> None:
    pieces = cut_by_slates(marks((1, 0, False), (1, 20, False), (9, 40, False)), 60.0, 2)
    assert [(p.take, p.start_s, p.end_s) for p in pieces] == [(1, 21, 40)]
    assert pieces[0].flag == SLATED_AGAIN
    # Nothing says where it ends: talk may follow, and the cut is not called sure.
    assert cut_by_slates(marks((1, 0, False)), 60.0, 1)[0].confidence < SURE
    assert cut_by_slates(marks((1, 0, False)), 1.2, 1)[0].flag == NOTHING_FOLLOWS


def low_of(made: Session) -> np.ndarray:
    return to_rate(Clip.of(made.samples, made.rate_hz), SEARCH_RATE_HZ).samples[0]


@pytest.mark.certify
def test_forty_takes_of_25_minutes_are_cut_within_a_millisecond_by_their_slates() -> None:
    made = session(takes=40, seconds=1500, rate_hz=RATE_HZ, slates=True, seed=7)
    slates = found_in(Clip.of(made.samples, made.rate_hz))
    lengths = {number: end - start for number, (start, end) in enumerate(made.takes, 1)}
    pieces = cut_by_slates(slates, 1500.0, 40, lengths)
    assert [piece.take for piece in pieces] == list(range(1, 41))
    for piece, (start, _) in zip(pieces, made.takes, strict=True):
        assert piece.start_s == pytest.approx(start, abs=CUT_S)
        assert piece.confidence >= SURE
        assert not piece.flag


@pytest.mark.certify
@pytest.mark.parametrize("seed", [11, 12])
def test_forty_takes_of_25_minutes_are_cut_by_silence_and_what_is_wrong_is_flagged(seed: int) -> None:
    made = session(takes=40, seconds=1500, rate_hz=SEARCH_RATE_HZ, seed=seed)
    pieces = cut_by_silences(made.samples, SEARCH_RATE_HZ, 40)
    right = [
        piece
        for piece in pieces
        if abs(piece.start_s - made.takes[piece.take - 1][0]) < 0.1
        and abs(piece.end_s - made.takes[piece.take - 1][1]) < 0.6
    ]
    assert len(right) >= 38
    assert all(piece.flag for piece in pieces if piece not in right)


def test_a_take_that_is_missing_is_not_made_up() -> None:
    made = session(takes=6, seconds=240, rate_hz=SEARCH_RATE_HZ, seed=21)
    pieces = cut_by_silences(made.samples, SEARCH_RATE_HZ, 40)
    assert len(pieces) < 40
    assert all(piece.flag and piece.confidence < SURE for piece in pieces)


@pytest.mark.parametrize("samples", [np.zeros(8000 * 20), np.random.default_rng(1).normal(0, 0.1, 8000 * 20)])
def test_nothing_is_cut_from_silence_or_steady_noise(samples: np.ndarray) -> None:
    assert cut_by_silences(samples.astype(np.float32), SEARCH_RATE_HZ, 4) == []
