"""What strokes leave open: nothing where all agree, much where one decides, and about what playing it anew does."""

from __future__ import annotations

import random
from itertools import pairwise

import numpy as np
import pytest

from cata.core.clip import Clip
from cata.core.comparison import STROKES_TIMES, WHOLE_TAKE, usual_sd
from cata.core.match.strokes import HOP_S, NAMES, band_powers, strokes_apart, together
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.of_flights import STROKES
from cata.core.measure.onsets import onsets_of
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Result, Results
from tests.corpus.moving import RATE_HZ, STILL
from tests.corpus.phrases import PHRASES
from tests.corpus.playing import sampled
from tests.corpus.strings import GUITARS, strum

ONSETS = np.arange(8) * 0.5
BRIGHT = [at for at, hz in enumerate(THIRD_OCTAVES_HZ) if hz > 2500]


def played(gain_db: np.ndarray) -> np.ndarray:
    """Band powers of eight strokes, their top louder by so much each."""
    frames = np.repeat(np.arange(8), round(0.5 / HOP_S))
    powers = np.full((len(THIRD_OCTAVES_HZ), len(frames)), 1.0)
    powers[BRIGHT] = 0.05 * 10 ** (gain_db[frames] / 10)
    return powers


def test_where_all_strokes_agree_nothing_is_open_and_where_one_decides_much_is() -> None:
    flat, all_up, one_up = np.zeros(8), np.full(8, 6.0), np.where(np.arange(8) == 3, 12.0, 0.0)
    agreed, decided = (strokes_apart(played(flat), played(gain), (ONSETS, ONSETS)) for gain in (all_up, one_up))
    assert set(agreed) == set(NAMES)
    assert max(agreed.values()) < 0.01
    assert decided["harshness_db"] > 1.5 > 0.2 > decided["regions_db.mids"]


def test_notes_that_differ_within_the_phrase_cancel() -> None:
    notes = np.array([0, 9, -4, 7, 2, -8, 5, 0.0])
    assert max(strokes_apart(played(notes), played(notes + 3), (ONSETS, ONSETS)).values()) < 0.2


def test_a_take_that_begins_later_or_plays_faster_is_held_stroke_against_stroke() -> None:
    one_up = played(np.where(np.arange(8) == 3, 12.0, 0.0))
    late = np.concatenate([np.full((len(one_up), 10), 1e-9), one_up], axis=1)
    known = strokes_apart(played(np.zeros(8)), one_up, (ONSETS, ONSETS))
    found = strokes_apart(played(np.zeros(8)), late, (ONSETS, ONSETS + 0.5), lag_s=0.5)
    assert found["harshness_db"] == pytest.approx(known["harshness_db"], rel=0.15)


def test_few_strokes_tell_nothing_and_takes_of_a_test_count_together() -> None:
    assert strokes_apart(played(np.zeros(8)), played(np.zeros(8)), (ONSETS[:3], ONSETS[:3])) == {}
    assert together([]) == {}
    assert together([{}, {"a": 1.0}, {"a": 3.0}, {"a": 2.0}]) == {"a": 2.0}


def test_what_strokes_leave_open_stands_in_for_what_takes_usually_scatter_by() -> None:
    usual = BY_KEY["harshness_db"].scatter or 0.0
    known, unknown = Results({STROKES.key: Result(value={"harshness_db": 0.3})}), Results()
    expected = np.hypot(STROKES_TIMES * 0.3, WHOLE_TAKE * usual)
    assert usual_sd("harshness_db", [known, known]) == pytest.approx(expected)
    assert usual_sd("harshness_db", [known, unknown]) == usual
    assert usual_sd("harshness_db", []) == usual


@pytest.mark.certify
@pytest.mark.parametrize("world", ["strings", "samples"])
def test_what_is_open_is_about_what_playing_it_anew_does(world: str) -> None:
    """Five takes each of four phrases: their scatter in standard deviations that were told; limits by the strings."""
    shares = []
    for at, phrase in enumerate(("chugs", "lead", "offbeats", "repeating chords")):
        takes, values = [], []
        for seed in range(5):
            hands, notes = random.Random(900 + 10 * at + seed), PHRASES[phrase](random.Random(70 + at))
            dry = strum(notes, hands, guitar=GUITARS[at % 3]) if world == "strings" else sampled(notes, hands)
            hiss = np.random.default_rng(seed).normal(0, 1e-4, len(dry))
            wet = STILL["cabinet"](0.6 * dry / np.abs(dry).max() + hiss)
            material = Material(Clip.of((0.5 * wet / np.abs(wet).max()).astype(np.float32), RATE_HZ))
            takes.append((band_powers(material), material.shared(onsets_of)))
            values.append(analyse_material(material, ("regions_db", "harshness_db", "third_octaves_db")).numbers())
        open_ = together([strokes_apart(a[0], b[0], (a[1], b[1])) for a, b in pairwise(takes)])
        told = Results({STROKES.key: Result(value={**open_})})
        for key in ("harshness_db", "regions_db.low_mids", "regions_db.upper_mids", "third_octaves_db.630"):
            sd = float(np.std([one[key] for one in values], ddof=1))
            shares.append(sd / (usual_sd(key, [told]) or 1.0))
    rms = float(np.sqrt(np.mean(np.square(shares))))
    assert 0.2 < rms < 1.1
    assert max(shares) < 2.5
