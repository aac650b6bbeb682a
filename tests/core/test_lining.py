"""Anybody's takes are lined up: phrases that repeat, drives that flatten them; what is ambiguous stays open."""

from __future__ import annotations

import random
from functools import cache

import numpy as np
import pytest

from cata.core.clip import Clip
from cata.core.match.features import Features, features_of
from cata.core.match.lining import line_up
from cata.core.match.pair import match_pair
from cata.core.measure.material import Material
from tests.corpus.parts import RATE_HZ, Floats, bend, clean_amplifier, compress, cut, peak
from tests.corpus.phrases import LOOSE, PHRASES, Note
from tests.corpus.strings import GUITARS, strum

DEVICES = {
    "fuzz": lambda x: peak(
        bend(cut(cut(x, 40, "high"), 3000, "low") * 250, lambda v: np.clip(np.tanh(v + 0.25) - 0.245, -0.9, 0.7)),
        900, -6,
    ),
    "hard clip": lambda x: bend(cut(x, 90, "high") * 60, lambda v: np.clip(v, -0.8, 0.8)),
    "compressor": compress,
}  # fmt: skip


def heard(dry: Floats, device: str | None, seed: int) -> Features:
    noise = np.random.default_rng(seed)
    wet = dry + noise.normal(0, 10 ** (-76 / 20), len(dry))
    wet = clean_amplifier(random.Random(seed))(DEVICES[device](wet) if device else wet, 0.0)
    return features_of(Material(Clip.of((0.5 * wet / np.abs(wet).max()).astype(np.float32), RATE_HZ)))


@cache
def played(kind: str, seed: int, hands: int, device: str | None) -> Features:
    dry = strum(PHRASES[kind](random.Random(seed)), random.Random(hands), by=LOOSE, guitar=GUITARS[seed % 3])
    return heard(dry, device, seed)


@pytest.mark.grid(6)
@pytest.mark.parametrize("device", sorted(DEVICES))
@pytest.mark.parametrize("seed", [42])
@pytest.mark.parametrize("kind", sorted(PHRASES))
def test_the_right_phrase_is_lined_up_through_any_device(kind: str, seed: int, device: str) -> None:
    match = match_pair(played(kind, seed, 1, None), played(kind, seed, 2, device))
    assert match.same_phrase == "yes"
    assert match.lag_ms == pytest.approx(0, abs=60)
    assert match.astray == ()


@pytest.mark.grid(4)
@pytest.mark.parametrize("device", sorted(DEVICES))
@pytest.mark.parametrize(("kind", "other"), [(a, b) for a in sorted(PHRASES) for b in sorted(PHRASES) if a < b])
def test_another_kind_of_phrase_is_never_taken_for_it(kind: str, other: str, device: str) -> None:
    assert match_pair(played(kind, 41, 1, None), played(other, 42, 2, device)).same_phrase != "yes"


def strokes(count: int, from_s: float) -> list[Note]:
    return [
        Note(start=from_s + 0.6 * k, length=0.5, pitch=pitch, strength=0.7) for k in range(count) for pitch in (45, 52)
    ]


def test_what_repeats_without_an_edge_is_said_to_be_open_and_the_near_place_is_believed() -> None:
    whole = heard(strum(strokes(12, 0.0), random.Random(1)), None, 1)
    late = heard(strum(strokes(7, 2.7), random.Random(2)), None, 1)
    match = match_pair(whole, late)
    assert match.lag_ms is None
    assert len(match.lag_rivals_ms) >= 2
    assert match.refusals["lag_ms"].code == "repeats"
    near = match_pair(whole, heard(strum(strokes(7, 0.0), random.Random(2)), None, 1))
    assert near.lag_ms == pytest.approx(0, abs=60)
    assert near.lag_rivals_ms


def test_strokes_alone_do_not_tell_a_chord_from_the_next_and_its_notes_do() -> None:
    names = ((45, 52), (50, 57), (43, 50), (45, 52), (50, 57), (40, 47))
    chords = [Note(start=0.8 * k, length=0.7, pitch=p, strength=0.6) for k, two in enumerate(names) for p in two]
    lined = line_up(*(heard(strum(chords, random.Random(k)), None, 1) for k in (1, 2)))
    assert lined.shift_s == pytest.approx(0, abs=0.06)
    assert lined.varied > 0.5
    assert lined.agreement > 0.8
    assert lined.notes > 0.6


@pytest.mark.grid(3)
@pytest.mark.parametrize("late_s", [0.4, 1.7, 3.1])
@pytest.mark.parametrize("kind", ["repeating chords", "one chord", "offbeats", "chugs"])
def test_a_phrase_that_repeats_is_found_where_it_begins_however_late(kind: str, late_s: float) -> None:
    notes = PHRASES[kind](random.Random(41))
    later = heard(
        np.concatenate((np.zeros(round(late_s * RATE_HZ)), strum(notes, random.Random(2), by=LOOSE))), None, 41
    )
    assert match_pair(played(kind, 41, 1, None), later).lag_ms == pytest.approx(1000 * late_s, abs=60)
