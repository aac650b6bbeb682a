"""What knobs do: where they stand against the breakup, two of them at once, and what lies between measured settings."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.pedals import PEDALS
from cata.core.evidence.knobs import KnobAnswer, foretold, knob_answers
from cata.core.evidence.maps import knob_map
from cata.core.evidence.probe import REGION_BANDS, Probe
from cata.core.evidence.stages import standing, why_not_told
from cata.core.gear import Control
from tests.probes import probe, results

PITCHES = (107.6, 226.4, 888.9)
DRIVE, TONE = Control(key="drive", name="Drive"), Control(key="tone", name="Tone", scale="clock")


BROKE_UP = {"breakup_dbfs": {"3": -20.0}}


def known(device: str, **settings: float) -> Probe:
    """A probe made of a bench circuit's analytic truth: clean gain and compression point at three pitches."""
    circuit = (PEDALS | AMPLIFIERS)[device]
    response, points = {}, []
    levels = np.arange(-60.0, 0.5, 0.5)
    for hz, name in zip(PITCHES, ("100", "200", "800"), strict=True):
        response[name] = circuit.truth(settings, hz, -90.0).gain_db
        fallen = response[name] - np.array([circuit.truth(settings, hz, float(level)).gain_db for level in levels])
        above = np.flatnonzero(fallen >= 1.0)
        if len(above) and above[0] > 0:
            around = slice(above[0] - 1, above[0] + 1)
            points.append((hz, float(np.interp(1.0, fallen[around], levels[around]))))
    response |= {"125": response["100"], "250": response["200"], "1000": response["800"]}
    return probe(1, "", settings, {"response_db": response, "gain_db": response["200"], **BROKE_UP},
                 pictures={"compression by pitch": points})  # fmt: skip


@pytest.mark.certify
@pytest.mark.parametrize(
    ("device", "knob", "place", "rest"),
    [
        ("mid-hump", "drive", "before", {}),
        ("mid-hump", "level", "after", {}),
        ("hard-clip", "filter", "after", {}),
        ("hard-clip", "distortion", "before", {}),
        ("hard-clip", "volume", "after", {}),
        ("transparent", "bass", "after", {}),
        ("crunch", "gain", "before", {}),
        ("stack-first", "bass", "before", {"volume": 0.6}),
    ],
)
def test_a_knob_stands_where_its_circuit_puts_it(device: str, knob: str, place: str, rest: dict[str, float]) -> None:
    found = standing(known(device, **rest, **{knob: 0.15}), known(device, **rest, **{knob: 0.85}))
    assert found is not None
    assert found.place == place, found
    assert found.said.code == f"stands_{place}"


def test_what_neither_moves_nor_breaks_up_stands_nowhere() -> None:
    readings = {"gain_db": 3.0, "response_db": {"100": 3.0, "200": 3.0, "800": 3.0}}
    pictures = {"compression by pitch": [(226.4, -20.0)]}
    still = probe(1, "", {}, readings | BROKE_UP, pictures=pictures)
    assert standing(still, still) is None
    assert why_code(still, still) == "moves_too_little"
    clean = probe(2, "", {}, {"gain_db": 20.0})
    assert standing(still, clean) is None
    assert why_code(still, clean) == "no_tone_at_both"
    assert why_not_told(clean, clean) is None
    bias = probe(3, "", {}, still.results.readings, pictures={"compression by pitch": [(226.4, -30.0)]})
    assert standing(still, bias).place == "elsewhere"  # type: ignore[union-attr]
    # The gain of a compressor falls as well: that is no breakup.
    squeezed = probe(4, "", {}, readings, pictures=pictures)
    assert standing(squeezed, replace(bias, results=results(readings))) is None
    assert why_not_told(squeezed, squeezed) is None


def why_code(low: Probe, high: Probe) -> str:
    found = why_not_told(low, high)
    assert found is not None
    return found.code


def moved(answer: KnobAnswer) -> tuple[str, object, object]:
    """The way, what is moved, and by how much."""
    first = answer.told[0]
    return first.code, first.numbers["moves"], round(first.numbers.get("by", 0))  # type: ignore[arg-type]


def at(place: float, **readings: object) -> Probe:
    return probe(round(100 * place), "", {"boost": place}, readings)


def test_a_boost_says_its_range_and_whether_it_turns_down() -> None:
    boost = Control(key="boost", name="Boost")

    def told(*gains: float) -> tuple[str, list[object]]:
        probes = [at(index / (len(gains) - 1), gain_db=gain) for index, gain in enumerate(gains)]
        span = knob_answers(probes, [boost], tonal=False)[0].told[1]
        return span.code, list(span.numbers.values())

    assert told(-6.0, 9.0, 24.0) == ("boosts_and_attenuates", [-6.0, 24.0])
    assert told(-20.0, -12.0, -6.0)[0] == "never_unity"
    assert told(0.5, 10.0, 20.0) == ("gain_range", [0.5, 20.0])


def test_the_knobs_of_a_compressor_are_told_in_dynamics_kept() -> None:
    blend = Control(key="blend", name="Blend")
    probes = [
        probe(1, "", {"blend": place}, {"gain_db": 6.0, "compressor": {"dynamics_kept_percent": kept}})
        for place, kept in ((0.0, 100.0), (0.5, 72.0), (1.0, 50.0))
    ]
    (answer,) = knob_answers(probes, [blend], tonal=False)
    assert moved(answer) == ("lowers", "compressor.dynamics_kept_percent", 50)
    assert (answer.unit, answer.span) == ("%", 50.0)
    # Where the dry path is left alone nothing is squeezed: that is all of the dynamics, not an unknown share of them.
    dry = replace(probes[0], results=results({"gain_db": 0.0}, {"compressor": "no_compressor"}))
    (answer,) = knob_answers([dry, *probes[1:]], [blend], tonal=False)
    assert answer.points == [(0.0, 100.0), (0.5, 72.0), (1.0, 50.0)]
    attack = Control(key="attack", name="Attack")
    whole = probes[2].results.readings["compressor"]
    slow = [
        replace(probes[0], settings={"attack": place}, results=results({"compressor": whole | {"attack_ms": ms}}))
        for place, ms in ((0.0, 2.0), (1.0, 40.0))
    ]
    (answer,) = knob_answers(slow, [attack], tonal=False)
    assert moved(answer)[:2] == ("lengthens", "compressor.attack_ms")
    assert (answer.told[0].numbers["first"], answer.told[0].numbers["last"]) == (2.0, 40.0)
    assert answer.stands is None


def test_a_volume_whose_gain_was_refused_is_told_by_the_level() -> None:
    volume = Control(key="volume", name="Volume")

    def loud(place: float) -> Probe:
        response = {band: -12.0 + 24.0 * place for bands in REGION_BANDS.values() for band in bands}
        return probe(1, "", {"volume": place}, {"breakup_dbfs": {"3": -58.0}, "response_db": response})

    (answer,) = knob_answers([loud(0.0), loud(1.0)], [volume], tonal=False)
    assert moved(answer) == ("lifts", "level", 24)


def grid() -> list[Probe]:
    """A drive of three settings times a tone of three: treble that a full drive halves."""
    probes = []
    for drive in (0.0, 0.5, 1.0):
        for tone in (0.0, 0.5, 1.0):
            lift = 20.0 * (tone - 0.5) * (1 - 0.5 * drive)
            response = dict.fromkeys((band for bands in REGION_BANDS.values() for band in bands), 0.0)
            response |= dict.fromkeys(REGION_BANDS["presence"], lift)
            probes.append(probe(len(probes), "", {"drive": drive, "tone": tone, "level": 0.5},
                                {"response_db": response, "gain_db": 10 * drive}))  # fmt: skip
    return probes


def test_two_knobs_are_mapped_over_the_plane() -> None:
    answer = next(a for a in knob_answers(grid(), [DRIVE, TONE]) if a.key == "tone")
    assert answer.map is not None
    assert len(answer.map["points"]) == 9
    assert len(answer.map["grid"]) == 121
    # Halfway between two measured drives the lift is the mean of theirs.
    at = {(x, y): value for x, y, value in answer.map["grid"]}
    middle = at[(1.0, 0.5)]
    assert middle == pytest.approx((at[(1.0, 0.0)] + at[(1.0, 1.0)]) / 2, abs=0.1)
    assert answer.map["other_name"] == "Drive"
    assert knob_map(grid()[:3], "tone", "drive", "presence", Probe.region_db) is None


def test_a_tone_control_is_told_by_what_it_does_not_by_what_it_leaves_behind() -> None:
    treble = Control(key="treble", name="Treble")
    lifted = {"lows": 0.0, "low mids": 0.0, "mids": 4.0, "upper mids": 14.0, "presence": 22.0, "air": 23.0}

    def turned(place: float, *without: str, air: float = 0.0) -> Probe:
        bands = {band: -20.0 + place * lifted[name] for name, bands in REGION_BANDS.items() for band in bands}
        bands |= {band: bands[band] + air for band in REGION_BANDS["air"]}
        return probe(round(place * 9), "", {"treble": place},
                     {"response_db": {band: gain for band, gain in bands.items() if band not in without}})  # fmt: skip

    (answer,) = knob_answers([turned(0.0), turned(1.0)], [treble])
    assert moved(answer) == ("lifts", "air", 23)
    # Behind a speaker the air is covered by the rest, however far it moves.
    (answer,) = knob_answers([turned(0.0, air=-45.0), turned(1.0, air=-45.0)], [treble])
    assert moved(answer) == ("lifts", "presence", 22)
    # A region that lost a band to the noise at one end is not held against the whole one at the other.
    (answer,) = knob_answers([turned(0.0, "12500"), turned(1.0)], [treble])
    assert moved(answer) == ("lifts", "presence", 22)
    assert turned(0.0, "12500").region_db("air") is None
    assert turned(0.0, "12500").region_db("lows") == pytest.approx(turned(0.0).region_db("lows"))


def test_what_lies_between_measured_settings_is_foretold_and_marked() -> None:
    found = {one.name: one for one in foretold(grid(), DRIVE, 0.25)}
    assert found["Gain"].value == pytest.approx(2.5, abs=0.3)
    assert not found["Gain"].measured
    assert {one.name: one for one in foretold(grid(), DRIVE, 0.5)}["Gain"].measured
    assert foretold(grid()[:1], DRIVE, 0.5) == []
    assert foretold([p for p in grid() if p.settings["drive"] < 0.6], DRIVE, 0.9) == []
