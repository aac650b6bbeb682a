"""Substitutes on things whose difference is known: an equaliser closes what is tone, and only that."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from cata.core.bench.chain import LEAD_IN_S, ChainSettings, dry, record
from cata.core.choose.substitutes import BESIDE, TONE, Shows, compare
from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.drive.of_test import share_of_image
from cata.core.measure.analysis import analyse
from cata.core.measure.registry import BY_KEY, jnd_of
from cata.core.resample import downsample

BANDS = [part for part, _ in BY_KEY[TONE].parts]
AT = np.log2(np.array([float(band) for band in BANDS]) / 1000)


def shows(curve: np.ndarray, beside: tuple[float, float, float] = (10.0, 0.0, 0.0), sd: float = 0.1) -> Shows:
    """An item with this curve over third octaves (dB), drive, level spread and decay."""
    values = {f"{TONE}.{band}": (float(level), sd, 1.5) for band, level in zip(BANDS, curve, strict=True)}
    return Shows(values | {key: (value, sd, 2.0) for key, value in zip(BESIDE, beside, strict=True)})


FLAT = shows(np.zeros(len(BANDS)))


def test_what_is_tone_alone_is_closed_and_what_is_drive_is_not() -> None:
    tilted = compare(FLAT, shows(2.0 * AT))
    driven = compare(FLAT, shows(np.zeros(len(BANDS)), (30.0, -4.0, -6.0)))
    assert tilted is not None
    assert driven is not None
    assert tilted.explained > 0.95
    assert tilted.after < 0.3 < tilted.distance
    assert driven.explained < 0.01
    assert driven.after == pytest.approx(driven.distance)
    assert [one.code for one in driven.told] == ["differs"] * 3
    assert driven.told[0].numbers["reading"] == BESIDE[0]


def test_a_notch_is_no_matter_of_a_tone_knob_and_level_none_at_all() -> None:
    comb = compare(FLAT, shows(np.where(np.arange(len(BANDS)) % 2, 6.0, -6.0)))
    louder = compare(FLAT, shows(np.full(len(BANDS), 9.0)))
    assert comb is not None
    assert louder is not None
    assert comb.explained < 0.3
    assert louder.distance == pytest.approx(0.0, abs=1e-9)
    assert louder.same


def test_what_may_be_chance_is_no_difference() -> None:
    rng = np.random.default_rng(3)
    unsure = compare(shows(rng.normal(0, 1, len(BANDS)), sd=2.0), shows(rng.normal(0, 1, len(BANDS)), sd=2.0))
    assert unsure is not None
    assert unsure.same
    assert unsure.told == ()


def test_too_little_known_is_not_compared() -> None:
    assert compare(FLAT, Shows(dict(list(FLAT.values.items())[:8]))) is None


def test_it_is_nearest_to_itself_and_as_far_one_way_as_the_other() -> None:
    other = shows(3.0 * AT + np.cos(3 * AT), (16.0, -2.0, 1.0))
    there, back = compare(FLAT, other), compare(other, FLAT)
    assert there is not None
    assert back is not None
    assert there.distance == pytest.approx(back.distance)
    itself = compare(other, other)
    assert itself is not None
    assert (itself.distance, itself.same) == (0.0, True)


@cache
def played(
    *, treble: float = 0.5, bass: float = 0.5, pedal: str = "bypass", drive: float = 0.5, seed: int = 1
) -> Shows:
    """A take of the bench, its drive known from what was sent."""
    knob = {"hard-clip": "distortion", "mid-hump": "drive", "fuzz": "fuzz"}.get(pedal)
    chain = ChainSettings(phrase="soft-to-hard", pedal=pedal, pedal_settings={knob: drive} if knob else {}, seed=seed,
                          amplifier_settings={"treble": treble, "bass": bass}, player=0.5)  # fmt: skip
    clip = record(chain)
    known = analyse(clip, lead_in_s=LEAD_IN_S).numbers()
    sent, heard = dry(chain), clip.samples[0][round(LEAD_IN_S * ANALYSIS_RATE_HZ) :]
    known[BESIDE[0]] = 100 * share_of_image(downsample(sent, 2), downsample(heard[: len(sent)], 2)).value
    keys = [f"{TONE}.{band}" for band in BANDS] + [*BESIDE]
    return Shows({
        key: (known[key], reading.scatter or 0.7, jnd_of(reading, known[key]) or 1.0)
        for key in keys if key in known and (reading := BY_KEY[key.split(".")[0]])
    })  # fmt: skip


@pytest.mark.certify
def test_an_equaliser_is_said_to_close_what_tone_controls_did_and_nothing_else() -> None:
    """Pairs of a bench rig of known truth: other hands, tone controls turned, a clipper put in front."""
    base = [played(seed=seed) for seed in (1, 2)]
    again = [compare(base[0], base[1])]
    turned = [compare(one, played(treble=treble, bass=bass, seed=seed)) for one, seed in zip(base, (3, 4), strict=True)
              for treble, bass in ((0.0, 0.5), (1.0, 0.5), (0.2, 1.0), (0.9, 0.1))]  # fmt: skip
    driven = [compare(one, played(pedal=pedal, drive=drive, seed=5)) for one in base
              for pedal, drive in (("hard-clip", 0.6), ("mid-hump", 1.0), ("fuzz", 0.5), ("fuzz", 1.0))]  # fmt: skip
    assert [one.closes.code for one in again if one is not None] == ["same"]
    codes = [one.closes.code for one in turned if one is not None]
    assert codes.count("closed") >= 6
    assert "closed" not in [one.closes.code for one in driven if one is not None]
    assert [one.closes.code for one in driven if one is not None].count("open") == 8
