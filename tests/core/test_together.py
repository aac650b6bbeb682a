"""Takes together, on constructed pairs whose truth is known: lag, polarity, best level, one tone, what is covered."""

from __future__ import annotations

import random
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from scipy import signal

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Result, Results
from cata.core.together import layers, same_tone
from cata.core.together.bands import in_db, power_of
from cata.core.together.blend import NOT_ONE, blend, gained, notches_of, told
from cata.core.together.in_the_mix import cut_through
from cata.core.together.layers import complement
from cata.core.together.same_tone import BANDS_HZ, EDGES_HZ, Equaliser, moves, remains, told_beside
from tests.corpus.parts import clean_amplifier, pedals, pickups
from tests.corpus.playing import PHRASES as PLAYED
from tests.corpus.playing import play
from tests.tones import Floats, pink, plucks

RATE_HZ = 48_000
PHRASES = ("soft-to-hard", "lead-line", "muted-riff", "offbeat")


@cache
def take(phrase: str, **chain: str) -> Clip:
    return record(ChainSettings(phrase=phrase, **chain))  # type: ignore[arg-type]


def mono(clip: Clip) -> Floats:
    return np.asarray(clip.samples.mean(axis=0), dtype=np.float64)


def late(samples: Floats, lag: int, gain_db: float, sign: int) -> Floats:
    return np.concatenate((np.zeros(lag), samples))[: len(samples)] * sign * 10 ** (gain_db / 20)


@pytest.mark.grid(1)
@pytest.mark.parametrize("phrase", PHRASES)
def test_lag_polarity_and_the_best_level_of_a_second_source_are_found(phrase: str) -> None:
    chance, first = random.Random(phrase), mono(take(phrase))
    for lag in (0, 1, 37, 480, 960):
        level, wanted, sign = chance.uniform(-20, 0), chance.uniform(-20, 0), chance.choice((1, -1))
        second = late(first, lag, level, sign)
        turned = chance.choice((1, -1))
        target = first + turned * 10 ** (wanted / 20) * second
        found = blend(*(Clip.of(one, RATE_HZ) for one in (first, second, target)))
        assert found.lag_s == pytest.approx(lag / RATE_HZ, abs=1e-9)
        assert found.polarity == ("same" if sign > 0 else "inverted")
        assert found.level_db == pytest.approx(level, abs=0.3)
        assert found.best is not None
        assert found.best.residual_rms_db < 0.05
        # Lined up it is one source twice: then only the level of the target tells, and both ways lead there.
        if lag > 1:
            assert found.best.gain_db == pytest.approx(wanted, abs=0.5)
            assert found.best.polarity == ("same" if turned > 0 else "inverted")


@pytest.mark.grid(1)
@pytest.mark.parametrize("pedal", ["transparent", "mid-hump", "hard-clip", "fuzz"])
def test_a_clean_and_a_driven_source_are_lined_up_within_what_the_pedal_itself_delays(pedal: str) -> None:
    for phrase in PHRASES[:2]:
        first, driven = mono(take(phrase)), mono(take(phrase, pedal=pedal))
        found = [blend(Clip.of(first, RATE_HZ), Clip.of(late(driven, lag, -6, -1), RATE_HZ)).lag_s for lag in (0, 300)]
        assert None not in found
        assert found[1] - found[0] == pytest.approx(300 / RATE_HZ, abs=1.1 / RATE_HZ)  # type: ignore[operator]
        assert abs(found[0] or 0.0) < 0.0002


def test_what_takes_nothing_from_a_guitar_is_not_to_be_moved() -> None:
    noise = pink(-20, 4.0)
    for lag, code in ((2, "together"), (48, "move")):
        found = blend(Clip.of(noise, RATE_HZ), Clip.of(late(noise, lag, -3, 1), RATE_HZ))
        assert told(found)[0].code == code


def test_two_performances_have_no_comb() -> None:
    found = blend(take("lead-line"), take("offbeat"))
    assert (found.lag_s, found.notches_hz, found.best) == (None, (), None)
    assert [one.code for one in told(found)] == [NOT_ONE.code] or found.reason is not None


def test_the_comb_lies_where_its_lag_says_and_is_as_deep_as_its_levels_say() -> None:
    noise = pink(-20, 4.0)
    for lag, sign, gain in ((48, 1, 0.0), (48, -1, 0.0), (96, 1, -6.0), (24, -1, -12.0)):
        other = late(noise, lag, gain, sign)
        found = blend(Clip.of(noise, RATE_HZ), Clip.of(other, RATE_HZ))
        hz, power = signal.welch(noise + other, RATE_HZ, nperseg=16_384)
        apart = 10 * np.log10(power / sum(signal.welch(one, RATE_HZ, nperseg=16_384)[1] for one in (noise, other)))
        first = found.notches_hz[0]
        assert notches_of(lag / RATE_HZ, found.polarity or "same")[0] == first
        near = (hz > 0.6 * first) & (hz < 1.4 * first)
        assert hz[near][apart[near].argmin()] == pytest.approx(first, rel=0.03)
        assert found.notch_depth_db is not None
        assert -apart[near].min() == pytest.approx(min(found.notch_depth_db, 30), abs=1.0 if gain else 12.0)


def bell(samples: Floats, hz: float, db: float, q: float = 1.0) -> Floats:
    a, w = 10 ** (db / 40), 2 * np.pi * hz / RATE_HZ
    alpha, cos = np.sin(w) / 2 / q, np.cos(w)
    return np.asarray(signal.lfilter([1 + alpha * a, -2 * cos, 1 - alpha * a], [1 + alpha / a, -2 * cos, 1 - alpha / a],
                                     samples))  # fmt: skip


@pytest.mark.grid(1)
@pytest.mark.parametrize("phrase", PHRASES)
def test_what_differs_by_a_filter_is_closed_by_an_equaliser_and_what_differs_by_drive_is_not(phrase: str) -> None:
    clean = take(phrase)
    filtered = mono(clean)
    for hz, db in ((300, -5), (3_000, 6), (1_000, 8)):
        filtered = bell(filtered, hz, db)
    reference = Clip.of(0.4 * filtered, RATE_HZ)
    found = remains(clean, reference)
    assert found.explained is not None
    assert found.explained > 0.95
    after, wanted = (in_db(power_of(mono(one), EDGES_HZ)) for one in (found.equaliser.apply(clean), reference))
    heard = wanted > wanted.max() - 45
    off = (after - wanted)[heard]
    assert np.abs(off - off.mean()).max() < 1.0
    for pedal in ("hard-clip", "fuzz"):
        driven = remains(take(phrase, pedal=pedal), clean)
        assert driven.explained is not None
        assert driven.explained < 0.85
        assert driven.remains_db > max(1.5, 10 * found.remains_db)
        assert same_tone.told(driven, "A", "B")[0].code == "not_only_tone"
    assert same_tone.told(found, "A", "B")[0].code == "only_tone"
    assert remains(clean, clean).explained is None


@pytest.mark.certify
def test_what_is_said_of_tone_is_true_of_takes_that_were_played_anew() -> None:
    codes: dict[str, list[str]] = {"again": [], "tone": [], "drive": []}
    for seed in range(1, 5):
        r, noise = random.Random(seed), np.random.default_rng(seed)
        amplifier, phrase = clean_amplifier(r), sorted(PLAYED)[seed]
        coils, drives = (list(made(r).values()) for made in (pickups, pedals))
        for name, (one, other) in {
            "again": (coils[0], coils[0]), "tone": (coils[0], coils[1]), "drive": (drives[0], drives[3])
        }.items():  # fmt: skip
            pair = []
            for device in (one, other):
                wet = amplifier(device(play(phrase, r)), 0.0)
                wet = 0.5 * wet / np.abs(wet).max()
                pair.append(Clip.of(wet + noise.normal(0, 10 ** (-78 / 20), len(wet)), RATE_HZ))
            codes[name].append(same_tone.told(remains(*pair, anew=True), "A", "B")[0].code)
    assert codes["again"].count("alike") >= 3
    assert "not_only_tone" not in codes["again"] + codes["tone"]
    assert codes["tone"].count("only_tone") >= 2
    assert set(codes["drive"]) == {"not_only_tone"}


def test_an_equaliser_has_its_curve_no_delay_and_few_moves() -> None:
    gains = [6.0 * np.exp(-((np.log2(hz / 1_000) / 0.6) ** 2)) for hz in BANDS_HZ]
    one = Equaliser(tuple(gains))
    response = 20 * np.log10(np.abs(np.fft.rfft(one.impulse, 65_536)))
    at = [round(hz / RATE_HZ * 65_536) for hz in BANDS_HZ]
    assert response[at] == pytest.approx(gains, abs=0.05)
    assert int(np.abs(one.impulse).argmax()) == 0
    assert [(move.hz, round(move.db)) for move in moves(one)] == [(1_000, 6)]
    click = np.zeros(4_800)
    click[1_000] = 0.5
    shaped = one.apply(Clip.of(click, RATE_HZ)).samples[0]
    assert np.abs(shaped[:990]).max() < 1e-4 * np.abs(shaped).max()


@pytest.mark.grid(1)
@pytest.mark.parametrize(("low", "high"), [(100, 300), (900, 1_800), (2_500, 5_000)])
def test_the_more_of_a_bed_lies_over_a_take_the_less_of_it_is_heard(low: float, high: float) -> None:
    mine = take("soft-to-hard")
    chance = np.random.default_rng(1)
    rest = 1e-3 * chance.standard_normal(mine.length)
    band = signal.sosfilt(
        signal.butter(4, (low, high), "band", fs=RATE_HZ, output="sos"), chance.standard_normal(mine.length)
    )
    found = [cut_through(mine, Clip.of(rest + 10 ** (db / 20) * band, RATE_HZ)) for db in range(-60, 1, 10)]
    shares = [one.share for one in found if one is not None]
    assert len(shares) == 7
    assert all(more > less for more, less in pairwise(shares))
    loud, soft = found[-1], found[0]
    assert loud is not None
    assert soft is not None
    inside = [hz for hz in loud.covered if low <= hz <= high]
    assert all(loud.covered[hz] > soft.covered[hz] for hz in inside)
    assert all(loud.covered[hz] > 0.9 for hz in inside)
    assert cut_through(mine, Clip.of(np.zeros(100), RATE_HZ)).share == pytest.approx(1.0)  # type: ignore[union-attr]
    assert cut_through(Clip.of(np.zeros(RATE_HZ), RATE_HZ), mine) is None


def test_a_louder_take_is_heard_better_through_a_bed() -> None:
    mine, bed = Clip.of(plucks([0.2, 0.8], 220.0, 12.0, 2.0), RATE_HZ), Clip.of(pink(-30, 1.5), RATE_HZ)
    shares = [one.share for db in (-12, -6, 0, 6) if (one := cut_through(mine, bed, db)) is not None]
    assert shares == sorted(shares)
    assert shares[-1] - shares[0] > 0.1


def band(low: float, high: float, seed: int) -> Floats:
    sections = signal.butter(4, (low, high), "band", fs=RATE_HZ, output="sos")
    return np.asarray(0.1 * signal.sosfilt(sections, np.random.default_rng(seed).standard_normal(4 * RATE_HZ)))


def test_a_pair_that_fills_each_other_is_told_from_one_that_piles_up() -> None:
    low, high = band(100, 400, 1), band(1_500, 6_000, 2)
    apart = complement(Clip.of(low, RATE_HZ), Clip.of(0.3 * high, RATE_HZ))
    assert apart.share > 0.6
    assert (apart.covers["low_mids"], apart.covers["presence"], apart.piles) == (0, 1, ())
    same = complement(Clip.of(low, RATE_HZ), Clip.of(band(100, 400, 3), RATE_HZ))
    assert same.share < 0.1
    assert "low_mids" in same.piles
    assert abs(same.mono_db["low_mids"]) < 1.0
    turned = complement(Clip.of(low, RATE_HZ), Clip.of(-0.5 * low, RATE_HZ))
    assert turned.mono_db["low_mids"] < -20
    assert [one.code for one in layers.told(turned, "A", "B", one_performance=True)] == ["complement", "piles", "mono"]
    assert [one.code for one in layers.told(turned, "A", "B", one_performance=False)] == ["complement", "piles"]
    assert "covers" in [one.code for one in layers.told(apart, "A", "B", one_performance=True)]


@pytest.mark.whole
def test_two_performances_are_not_taken_for_one_and_nothing_is_said_to_cancel() -> None:
    for seed, phrase in enumerate(sorted(PLAYED)):
        r, noise = random.Random(seed), np.random.default_rng(seed)
        amplifier, device = clean_amplifier(r), list(pedals(r).values())[seed % 5]
        dry = [play(phrase, r) for _ in range(2)]
        clean, again, driven = amplifier(dry[0], 0.0), amplifier(dry[1], 0.0), amplifier(device(dry[0]), 0.0)
        heard = [Clip.of(one + noise.normal(0, 1e-4, len(one)), RATE_HZ) for one in (clean, again, driven)]
        assert blend(heard[0], heard[1]).lag_s is None, phrase
        found = blend(heard[0], heard[2])
        assert found.lag_s == pytest.approx(0.0, abs=6 / RATE_HZ), phrase
        sides = layers.told(complement(heard[0], heard[1]), "A", "B", one_performance=False)
        assert {one.code for one in sides} <= {"complement", "piles"}, phrase


def test_layers_build_up_where_they_are_alike() -> None:
    common = band(150, 400, 5)
    different = [band(1_000, 2_500, seed) for seed in (6, 7, 8, 9)]
    built = layers.build_up([Clip.of(common + one, RATE_HZ) for one in different])
    # Four of one thing add up to 12 dB, four different ones to 6.
    assert built["low_mids"] - built["upper_mids"] == pytest.approx(6.0, abs=0.7)
    even = layers.told_layers(dict.fromkeys(built, 1.0), ["A", "B"])
    assert [one.words for one in even] == ["A and B add up evenly: no region builds up."]
    told_of = layers.told_layers(dict.fromkeys(built, 0.0) | {"low_mids": 3.0, "air": -4.0}, ["A", "B", "C"])
    assert [one.words for one in told_of] == [
        "A, B and C build up in the low mids: turn that down in one of them.", "In the air they take from each other.",
    ]  # fmt: skip


@pytest.mark.parametrize("sign", [1, -1])
def test_the_comb_of_a_sum_has_its_notches_where_the_lag_puts_them(sign: int) -> None:
    first = pink(-20, 2.0)
    hz, gains = gained(first, late(first, 48, 0.0, sign), 1.0)
    near = {notch: float(np.nanmin(gains[(hz > 0.97 * notch) & (hz < 1.03 * notch)])) for notch in (500, 1_000, 1_500)}
    deep, high = ((500, 1_500), 1_000) if sign > 0 else ((1_000,), 500)
    assert all(near[notch] < -10 for notch in deep)
    assert near[high] > 2
    lined = gained(first, late(first, 48, 0.0, sign), float(sign), 0.001)[1]
    assert np.nanmin(lined[:-6]) > 2.5


def test_what_no_equaliser_changes_is_told_where_it_can_be_heard() -> None:
    clean, driven = (analyse_material(Material(take("lead-line", **chain))) for chain in ({}, {"pedal": "fuzz"}))
    (said,) = told_beside(driven, clean)
    assert float(said.numbers["level_spread_db"]) < -1
    assert told_beside(clean, clean) == []
    # Played anew a level spread differs by that much by itself; what is squeezed hard is told all the same.
    near, far = (Results(level_spread_db=Result(value=value, band=0.5)) for value in (12.0, 14.0))
    assert told_beside(near, far) != []
    assert told_beside(near, far, anew=True) == []
    squeezed = Results(level_spread_db=Result(value=8.0, band=0.5))
    assert told_beside(squeezed, far, anew=True)[0].numbers == {"level_spread_db": -6.0}
    assert float(told_beside(clean, driven)[0].numbers["level_spread_db"]) > 1


@pytest.mark.parametrize(
    ("density", "words"),
    [(0.64, "a little more driven"), (0.70, "more driven"), (0.80, "much more driven"), (0.30, "much cleaner")],
)
def test_a_difference_whose_number_says_nothing_is_told_in_words(density: float, words: str) -> None:
    take, reference = (Results(drive_density=Result(value=value)) for value in (density, 0.6))
    (said,) = told_beside(take, reference, ["drive_density"])
    assert said.words == f"Besides its tone: {words}."
    assert said.numbers == {"drive_density": pytest.approx(density - 0.6)}
