"""What a flight taught: sentences that are true, that chance does not make, and the places that let them be heard."""

from __future__ import annotations

import random
from collections.abc import Mapping

import numpy as np
import pytest

from cata.core.choose.takes import Scatter
from cata.core.clip import Clip
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.outcome import Bound
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.measure.results import Result, Results
from cata.core.taught.differences import Difference, Taken, alike, differences
from cata.core.taught.pictures import spectrum_beside, values_of
from cata.core.taught.places import place_of
from cata.core.taught.sentences import told, told_alike
from cata.core.taught.verdict import Priced, Taught, Tested, verdict
from tests.corpus.flights import make_flight
from tests.corpus.parts import RATE_HZ, Floats

FLAT = dict.fromkeys(THIRD_OCTAVES_HZ, -30.0)


def taken(
    ident: int,
    bands: Mapping[int, float] | None = None,
    *,
    drive: float | None = None,
    spread: float = 12.0,
    bound: Bound | None = None,
    bypass: bool = False,
) -> Taken:
    results = Results(
        third_octaves_db=Result(value={str(hz): db for hz, db in (bands or FLAT).items()}),
        level_spread_db=Result(value=spread, bound=bound),
    )
    if drive is not None:
        results["equivalent_drive"] = Result(value={"percent": drive}, band=4.0)
    return Taken(ident, f"c{ident}", results, bypass)


def raised(from_hz: float, to_hz: float, by_db: float) -> dict[int, float]:
    return {hz: db + by_db * (from_hz <= hz <= to_hz) for hz, db in FLAT.items()}


@pytest.mark.parametrize(
    ("bands", "code", "words"),
    [
        (raised(2500, 20_000, 6), "tone_more", "c1 is brighter than the other three above 2.2 kHz, by 6 dB: likely."),
        (raised(0, 250, -6), "tone_less", "c1 is thinner than the other three below 280 Hz, by 6 dB: likely."),
        (
            raised(500, 800, 6),
            "tone_more",
            "c1 has stronger mids than the other three (450 Hz to 900 Hz), by 6 dB: likely.",
        ),
    ],
)
def test_a_tone_is_told_where_it_is(bands: dict[int, float], code: str, words: str) -> None:
    takes = [taken(1, bands), taken(2), taken(3), taken(4)]
    first, *rest = differences(takes, {})
    assert (first.ident, rest) == (1, [])
    said = told(first, takes)
    assert (said.code, said.words, said.numbers["sure"]) == (code, words, "likely")
    # Repeats make it sure: only they say what the playing scatters by.
    known = {f"third_octaves_db.{hz}": Scatter(0.5, 12) for hz in FLAT}
    assert told(differences(takes, known)[0], takes).words == words.replace("likely", "sure")


def test_of_two_contenders_a_difference_is_told_once_and_by_name() -> None:
    takes = [taken(1, drive=2.0), taken(2, drive=30.0), taken(0, drive=0.0, bypass=True)]
    (only,) = differences(takes, {})
    said = told(only, takes)
    assert (said.code, said.numbers["contender"]) == ("equivalent_drive_more", 2)
    assert said.words == "c2 is more driven than c1, by 28 points (30 %, driven): likely."


def test_of_three_of_which_two_are_alike_the_third_is_named_and_once() -> None:
    takes = [taken(1), taken(2), taken(3, spread=20.0)]
    (only,) = differences(takes, {})
    assert told(only, takes).words == "c3 keeps more of the dynamics than the other two, by 8.0 dB: likely."
    takes = [taken(1, spread=20.0), taken(2, spread=20.2), taken(3, spread=12.0)]
    (only,) = differences(takes, {})
    assert told(only, takes).words == "c3 keeps less of the dynamics than the other two, by 8.0 dB: likely."


def test_where_nobody_lies_apart_the_two_ends_are_told_by_name() -> None:
    takes = [taken(n, spread=10.0 + 2.5 * n) for n in range(1, 6)]
    (only,) = differences(takes, {})
    assert told(only, takes).words == "c5 keeps more of the dynamics than c1, by 10.0 dB: likely."


def test_chance_makes_no_sentence() -> None:
    chance = random.Random(1)
    sure = told_at_all = 0
    for _ in range(200):
        takes = [
            taken(n, {hz: db + chance.gauss(0, 0.4) for hz, db in FLAT.items()}, spread=12 + chance.gauss(0, 0.7))
            for n in range(4)
        ]
        found = differences(takes, {})
        told_at_all += bool(found)
        sure += any(one.sure == "sure" for one in found)
    assert (sure, told_at_all <= 10) == (0, True)


def test_few_repeats_are_trusted_less_than_many() -> None:
    takes = [taken(1, spread=16.0), taken(2), taken(3)]
    known = {freedom: differences(takes, {"level_spread_db": Scatter(0.6, freedom)}) for freedom in (1, 20)}
    assert [len(found) for found in known.values()] == [0, 1]


def test_a_bound_is_no_value() -> None:
    assert differences([taken(1, spread=30.0, bound="at_most"), taken(2), taken(3)], {}) == []


def test_who_cannot_be_told_apart_is_told_together() -> None:
    takes = [taken(1), taken(2, raised(2500, 20_000, 6)), taken(3), taken(4), taken(5, raised(2500, 20_000, 6))]
    said = told_alike(alike(takes, {}), takes)
    assert [one.words for one in said] == [
        "c1, c3 and c4: no difference you can trust.", "c2 and c5: no difference you can trust.",
    ]  # fmt: skip


def test_the_verdict_tells_price_drive_and_what_is_open() -> None:
    drives = {1: 1.0, 2: 1.5, 3: 40.0}
    tests = [Tested(n, f"test {n}", tuple(taken(i, drive=d) for i, d in drives.items())) for n in range(3)]
    prices = {1: 9500, 2: 18000, 3: 4000, 4: None}
    found = verdict([Priced(n, f"c{n}", price) for n, price in prices.items()], tests, {})
    codes = [one.said.code for one in found]
    assert codes == ["drive_order", "alike", "not_played", "record_repeats"]
    # Who drives by half a point more is not told apart.
    order = "From clean to driven: c1 (a touch of grit), then perhaps c2 (a touch of grit), then c3 (saturated)."
    assert found[0].said.words == order
    assert found[1].said.words == "c1 (95.00 EUR) and c2 (180.00 EUR) differ by nothing you can trust in 3 of 3 tests."
    assert found[1] == Taught(found[1].said, 0, (0, 1, 2))
    assert found[2].said.words.endswith("c4.")
    many = [Tested(n, f"t{n}", tuple(taken(i, raised(2500, 9e9, 4.0 * i)) for i in range(9))) for n in range(4)]
    assert len(verdict([Priced(n, f"c{n}", None) for n in range(9)], many, {})) <= 10
    assert verdict([Priced(1, "c1", None)], [Tested(1, "t", (taken(1),))], {}) == []


def _noise(seconds: float, seed: int) -> Floats:
    return np.random.default_rng(seed).normal(0, 0.1, round(seconds * 24_000))


def test_the_place_is_where_the_difference_is() -> None:
    take, other = _noise(20, 1), _noise(20, 1)
    stretch = slice(8 * 24_000, 11 * 24_000)
    take[stretch] += 2 * np.diff(_noise(3, 2), append=0.0)
    start, end = place_of(take.astype(np.float32), other.astype(np.float32), "band", 4000.0)
    assert abs(start - 8) < 0.4
    assert end - start == pytest.approx(3.0)
    quiet = _noise(20, 3)
    quiet[stretch] *= 0.01
    assert abs(place_of(quiet.astype(np.float32), other.astype(np.float32), "rest")[0] - 8) < 0.4
    held = 0.01 * _noise(20, 4)
    held[14 * 24_000 :] += np.sin(np.arange(6 * 24_000) * 0.1) * np.exp(-np.arange(6 * 24_000) / 60_000)
    assert place_of(held.astype(np.float32), other.astype(np.float32), "decay")[0] > 15


@pytest.mark.grid(0, 2)
@pytest.mark.parametrize(("family", "seed"), [("amplifier", 51), ("pickup", 52), ("pedal", 53)])
def test_what_is_sure_on_one_day_is_so_on_another(family: str, seed: int) -> None:
    told_on, seen_on = (_by_test(family, seed, day) for day in (0, 1))
    found = [(test, one) for test, takes in told_on.items() for one in differences(takes, {})]
    shares = [(one, _amount(seen_on[test], one) / one.amount) for test, one in found]
    assert [one for one, share in shares if one.strong and share <= 0.5] == []
    assert sum(share <= 0 for _, share in shares) == 0
    assert len(found) >= 3


def _amount(takes: list[Taken], one: Difference) -> float:
    """By what a contender differs from those it was held against, on the average."""

    def value(take: Taken) -> float:
        if one.reading == "tone":
            bands = take.results.parts("third_octaves_db")
            return float(np.mean([db for hz, db in bands.items() if one.low_hz < float(hz) < (one.high_hz or 7000)]))
        if one.reading == "noise_floor_dbfs":
            return (take.results.number(one.reading) or 0.0) - (take.results.number("loudness_lufs") or 0.0)
        known = take.results.number(f"{one.reading}.db_per_s" if one.reading == "sustain" else one.reading)
        return float("nan") if known is None else known

    mine = next(value(take) for take in takes if take.ident == one.ident)
    return float(np.nanmean([mine - value(take) for take in takes if take.ident in one.against]))


def _by_test(family: str, seed: int, day: int) -> dict[str, list[Taken]]:
    flight = make_flight(family, None, seed, day)
    idents = {name: n for n, name in enumerate(dict.fromkeys(name for name, _ in flight.takes))}
    found: dict[str, list[Taken]] = {}
    for (name, test), samples in flight.takes.items():
        results = analyse_material(Material(Clip.of(samples.astype(np.float32), RATE_HZ)))
        found.setdefault(test, []).append(Taken(idents[name], name, results))
    return found


def test_a_difference_of_tone_is_drawn_beside_the_middle_of_the_others_where_it_is_heard() -> None:
    takes = [taken(1, raised(2000, 4000, 5.0)), taken(2), taken(3), taken(4, raised(80, 12_500, 9.0), bypass=True)]
    picture = spectrum_beside(1, takes, 2000.0, 4000.0)
    assert picture is not None
    off = dict(zip(picture.x, picture.series[0].y, strict=True))
    assert {hz: db for hz, db in off.items() if db} == {2000.0: 5.0, 2500.0: 5.0, 3150.0: 5.0, 4000.0: 5.0}
    assert [hz for hz, _ in picture.marks] == [2000.0, 4000.0]
    faint = dict.fromkeys(THIRD_OCTAVES_HZ, -90.0) | {500: -30.0, 630: -30.0}
    assert spectrum_beside(1, [taken(1, faint), taken(2)], 0, 0).x == [500.0, 630.0]  # type: ignore[union-attr]
    assert spectrum_beside(1, [taken(1)], 0, 0) is None


def test_other_differences_show_everybodys_value_and_no_bound() -> None:
    takes = [taken(1, drive=20.0), taken(2, drive=35.0), taken(3, spread=9.0, bound="at_most")]
    drives = values_of("equivalent_drive", takes)
    assert [(one.ident, one.value, one.band) for one in drives] == [(2, 35.0, 4.0), (1, 20.0, 4.0)]
    assert [one.ident for one in values_of("level_spread_db", takes)] == [1, 2]
