"""Calculators: each found by itself, each held against arithmetic done another way."""

from __future__ import annotations

import math
from collections.abc import Mapping

import pytest

from cata.core.workshop.calculator import Worked, calculators, work_out
from cata.core.workshop.clock import audio_share
from cata.core.workshop.speakers import MIXED, PARALLEL, SERIES, impedances, together
from cata.errors import Invalid
from tests.conftest import declines

COIL = ("pickup", "Gorse Single", {"inductance_h": 2.4, "dc_resistance_kohm": 6.1, "capacitance_pf": 110})


def work(key: str, typed: Mapping[str, object], *items: tuple[str, str, Mapping[str, object]]) -> Worked:
    return work_out(calculators()[key], typed, items)  # type: ignore[arg-type]


def lines(worked: Worked) -> dict[str, float | None]:
    assert worked.answer is not None
    return {line.name: line.value for line in worked.answer.lines}


def test_every_calculator_answers_to_what_is_usual_or_says_what_it_lacks() -> None:
    assert set(calculators()) == {"cable", "clock", "loudness", "speakers", "tempo"}
    for key, calculator in calculators().items():
        worked = work(key, {})
        needed = [one.field.name for one in calculator.questions if one.usual is None and not one.optional]
        assert list(worked.lacking) == needed
        assert (worked.answer is None) == bool(needed)


def test_what_is_typed_comes_before_an_item_and_that_before_what_is_usual() -> None:
    worked = work("cable", {"dc_resistance_kohm": "8.2k ohm", "volume_pot_kohm": ""}, COIL)
    assert worked.used["dc_resistance_kohm"] == 8.2
    assert worked.used["volume_pot_kohm"] is None
    assert worked.used["capacitance_pf"] == 110
    assert [worked.sources[key] for key in ("dc_resistance_kohm", "inductance_h", "length_m")] == [
        "typed", "Gorse Single", "usual",
    ]  # fmt: skip
    with declines(Invalid, "no_number"):
        work("cable", {"inductance_h": "many"}, COIL)
    with declines(Invalid, "out_of_range"):
        work("cable", {"inductance_h": "0"}, COIL)


def test_an_item_that_notes_nought_has_not_answered() -> None:
    assert work("loudness", {}, ("amplifier", "Ebb", {"watts": 0})).lacking == ["Power"]


def test_a_cable_moves_the_resonance_as_the_root_of_what_hangs_on_the_coil() -> None:
    short, long = (work("cable", {"length_m": str(metres)}, COIL) for metres in (1, 10))
    found = [lines(one)["Resonance"] for one in (short, long)]
    assert found[0] / found[1] == pytest.approx(math.sqrt(1110 / 210), rel=0.01)  # type: ignore[operator]
    assert short.answer is not None
    assert max(gain for _, gain in next(iter(short.answer.curves.values()))) == pytest.approx(
        lines(short)["Height"] + lines(short)["Level lost into the load"], abs=0.05  # type: ignore[operator]
    )  # fmt: skip
    damped = work("cable", {"volume_pot_kohm": "20"}, COIL)
    assert "Peak" not in lines(damped)


def test_an_amplifier_is_as_loud_as_its_watts_speakers_and_distance_say() -> None:
    ebb = ("amplifier", "Ebb", {"watts": 22, "power_positions": "full, 5 W", "speaker_count": 2})
    assert lines(work("loudness", {"speaker_sensitivity_db": "100"}, ebb)) == {
        "full, 22 W": pytest.approx(110.4, abs=0.1), "5 W": pytest.approx(104.0, abs=0.1),
    }  # fmt: skip
    near = work("loudness", {"distance_m": "0.5"}, ebb)
    far = work("loudness", {"distance_m": "2"}, ebb)
    assert near.answer is not None
    assert far.answer is not None
    assert len(near.answer.caution) > len(far.answer.caution)  # over 120 dB more is said


@pytest.mark.parametrize(
    ("typed", "place"), [("12:00", 0.5), ("7:00", 0.0), ("5", 0.5), ("75 %", 0.75), ("2:30", 0.75), ("5:00", 1.0)]
)
def test_a_place_of_a_knob_is_the_same_however_it_is_written(typed: str, place: float) -> None:
    found = lines(work("clock", {"position": typed}))
    assert found["On a clock face"] == pytest.approx(place)
    assert found["Turned"] == pytest.approx(300 * place)
    assert found["An audio pot gives"] == pytest.approx(100 * audio_share(place))


def test_an_audio_pot_rises_from_nothing_to_all_and_is_slow_at_first() -> None:
    assert [audio_share(place) for place in (0, 0.5, 1)] == pytest.approx([0, 0.15, 1])
    with declines(Invalid, "bad_position"):
        work("clock", {"position": "6:00"})


@pytest.mark.parametrize("bpm", [60, 97.5, 180])
def test_notes_fill_the_bar(bpm: float) -> None:
    ms = lines(work("tempo", {"bpm": str(bpm)}))
    bar = 4 * 60_000 / bpm
    for name, in_a_bar in (("Quarter note", 4), ("Eighth triplet", 12), ("Sixteenth note", 16), ("Half note", 2)):
        assert ms[name] == pytest.approx(bar / in_a_bar)
    assert ms["Dotted eighth"] == pytest.approx(ms["Eighth note"] + ms["Sixteenth note"])  # type: ignore[operator]


@pytest.mark.parametrize(
    ("ohms", "wiring", "total"),
    [([8, 8], PARALLEL, 4), ([8, 8], SERIES, 16), ([8, 16], PARALLEL, 16 / 3), ([8, 8, 8, 8], MIXED, 8)],
)
def test_speakers_make_a_load_together(ohms: list[float], wiring: str, total: float) -> None:
    found, shares = together(ohms, wiring)
    assert found == pytest.approx(total)
    assert sum(shares) == pytest.approx(1)
    # At 1 V over all of them, by the current through each: P = U²/R or I²R.
    if wiring == PARALLEL:
        assert shares == pytest.approx([1 / ohm * total for ohm in ohms])
    if wiring == SERIES:
        assert shares == pytest.approx([ohm / total for ohm in ohms])


@pytest.mark.parametrize(
    ("text", "ohms"), [("8", [8]), ("8, 16", [8, 16]), ("2 x 16 Ω", [16, 16]), ("8 ohm and 8 ohm", [8, 8])]
)
def test_impedances_are_read_as_written(text: str, ohms: list[float]) -> None:
    assert impedances(text) == ohms


@pytest.mark.parametrize("text", ["", "8,,8", "0", "0 x 8", "big", "20 x 8", "8 kΩ"])
def test_what_is_no_impedance_is_told(text: str) -> None:
    with declines(Invalid, "no_impedances", "too_many_speakers"):
        impedances(text)


def test_a_load_is_held_against_what_the_amplifier_wants() -> None:
    def said(ohm: float, build: str) -> str:
        worked = work("speakers", {"speakers": "8, 8", "speaker_load_ohm": str(ohm), "build": build})
        assert worked.answer is not None
        return worked.answer.sentence

    told = {said(ohm, build) for ohm in (4, 8, 2) for build in ("valve", "solid-state")}
    assert len(told) == 5  # a match is a match whatever the build; each mismatch is told for itself
    assert said(4, "valve") == said(4, "solid-state")
    with declines(Invalid, "not_four_speakers"):
        work("speakers", {"wiring": MIXED})
