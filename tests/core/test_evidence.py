"""What readings say together: knobs, four questions, fingerprints, comparisons; two sources."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.names import KNOBS, knobs_of, stand_in
from cata.core.bench.pedals import PEDALS
from cata.core.evidence.compare import differences, nearest_pair
from cata.core.evidence.fingerprint import fingerprint
from cata.core.evidence.knobs import foretold, knob_answers
from cata.core.evidence.probe import REGION_BANDS, Probe
from cata.core.evidence.questions import four_questions
from cata.core.gear import Control
from cata.core.measure import blend
from cata.core.measure.authority import Sweep, authority, interaction
from cata.core.measure.device import sweeps
from tests.probes import codes, probe, results
from tests.tones import code_of, pink

Floats = npt.NDArray[np.float64]

# --- authority


@pytest.mark.parametrize("seed", range(20))
def test_a_knobs_span_useful_travel_and_reversal_are_found(seed: int) -> None:
    rng = np.random.default_rng(seed)
    middle, width, span = rng.uniform(0.3, 0.7), rng.uniform(0.08, 0.3), rng.uniform(3, 20)
    curve = lambda p: span / (1 + np.exp(-(p - middle) / width))  # noqa: E731
    places = np.linspace(0, 1, 11)
    found = authority(Sweep.of([(p, float(curve(p))) for p in places])).value
    assert isinstance(found, dict)
    fine = np.linspace(0, 1, 2001)
    change = (curve(fine) - curve(0)) / (curve(1) - curve(0))
    assert found["span"] == pytest.approx(curve(1) - curve(0), rel=0.01)
    assert found["useful_from"] == pytest.approx(np.interp(0.1, change, fine), abs=0.02)
    assert found["useful_to"] == pytest.approx(np.interp(0.9, change, fine), abs=0.02)
    assert found["reverses"] == "no"
    there_and_back = authority(Sweep.of([(p, float(np.sin(np.pi * p) * span)) for p in places])).value
    assert isinstance(there_and_back, dict)
    assert there_and_back["reverses"] == "yes"


def test_a_knob_that_does_nothing_or_was_not_swept_is_refused() -> None:
    assert code_of(authority(Sweep.of([(0, 0.0), (0.5, 0.3), (1, 0.4)]))) == "hardly_moves"
    assert code_of(authority(Sweep.of([(0, 0.0), (1, 9.0)]))) == "few_positions"
    low, high = Sweep.of([(0, 0.0), (1, 10.0)]), Sweep.of([(0, 0.0), (1, 2.0)])
    assert interaction(low, high).value == pytest.approx(-8.0)
    assert interaction(Sweep.of([(0, 0.0), (1, 0.1)]), Sweep.of([(0, 0.0), (1, 0.2)])).value is None
    sweep = Sweep.of([(0, 0.0), (0.25, 1.0), (0.5, 2.0), (0.75, 3.0), (1, 4.0), (1, 4.2)])
    assert sweep.at(0.6) == pytest.approx(2.4, abs=0.05)
    assert sweep.left_out == pytest.approx(0.0, abs=0.1)
    assert low.left_out is None


# --- the four questions

CONTROLS = [Control(key="drive", name="Drive"), Control(key="tone", name="Tone"), Control(key="level", name="Level")]


def pedal(ident: int, drive: float, tone: float, *, kept: float = 1.0) -> Probe:
    """A made-up pedal: more drive breaks up earlier; tone tilts the response, the less the more ``kept`` falls."""
    hz = [float(name) for name in sweeps.NAMES]
    tilt = 3.0 * (tone - 0.5) * 2 * kept
    response = {name: tilt * float(np.log2(f / 1000)) / 4 for name, f in zip(sweeps.NAMES, hz, strict=True)}
    onset = -10.0 - 35 * drive
    readings = {
        "breakup_dbfs": {"3": onset}, "headroom_db": onset + 20, "thd_max_percent": 8 + 30 * drive,
        "gain_db": -4 + 20 * drive, "transparency_db": abs(tilt), "low_end_loss_db": tilt, "response_db": response,
        "knee_db": 11.0, "even_odd_db": -40.0, "slope_above_db_per_db": 0.4, "chord_clarity_db": -30 + 20 * drive,
        "harshness_db": 1.0, "low_tightness_ms": 80.0,
    }  # fmt: skip
    pictures = {"distortion": [(-20.0, 1.0), (0.0, 8 + 30 * drive)], "response": [(100.0, 0.0), (1000.0, tilt)]}
    name = f"Drive {drive * 10:g}, Tone {tone * 10:g}"
    return probe(ident, name, {"drive": drive, "tone": tone}, readings, bands={"gain_db": 0.1}, pictures=pictures)


FULL = [pedal(i, d, t, kept=1 - 0.9 * d) for i, (d, t) in enumerate(
    [(0, 0.5), (1, 0.5), (0.5, 0.5), (0, 0), (0, 1), (1, 0), (1, 1)])]  # fmt: skip


def test_the_four_questions_name_the_setting_the_number_and_the_proof() -> None:
    most, pleasant, clean, controls = four_questions(FULL, CONTROLS)
    (dirtiest,) = most.told
    assert (dirtiest.code, dirtiest.numbers["percent"], dirtiest.numbers["onset_dbfs"]) == ("saturated", 38.0, -45.0)
    assert str(dirtiest.numbers["setting"]).startswith("Drive 10")
    assert {FULL[i].settings["drive"] for i in most.proof} == {0, 1}
    assert codes(pleasant) == ["gradual.odd.swells"]
    cleanest, louder = clean.told
    assert (cleanest.code, cleanest.numbers["db"]) == ("wire.headroom", 10.0)
    assert str(cleanest.numbers["setting"]).startswith("Drive 0")
    assert (louder.code, louder.numbers["db"]) == ("turn_up", 4.0)
    lows, left = controls.told
    assert (lows.code, lows.numbers["moves"]) == ("lowers", "lows")
    assert lows.numbers["by"] == pytest.approx(5.0, abs=0.5)
    assert (left.code, left.numbers["at"]) == ("lost_with_drive", "10")
    assert left.numbers["db"] < 1.0
    assert most.lacking is None
    # What saturates ends at about the same share: the setting that does it under a softer hand distorts most.
    early = replace(FULL[1], results=results(FULL[1].results.readings | {"thd_max_percent": 44.0}), pictures={})
    late = replace(FULL[2], results=results(FULL[2].results.readings | {"thd_max_percent": 47.0}), pictures={})
    assert four_questions([early, late], CONTROLS)[0].told[0].numbers["percent"] == 44.0
    # A knob that stands alike in all settings is not told with each.
    level = Control(key="level", name="Level")
    turned = [replace(p, name="any", settings=p.settings | {"level": 0.3}) for p in FULL]
    assert four_questions(turned, [*CONTROLS, level])[0].told[0].numbers["setting"] == "Drive 10, Tone 5"
    assert four_questions(turned[1:2], [*CONTROLS, level])[0].told[0].numbers["setting"] == "any"
    few = four_questions(FULL[:1], CONTROLS)
    assert [answer.lacking and answer.lacking.code for answer in few] == [
        "not_full_up",
        "one_driven",
        None,
        "measure_tone",
    ]
    assert all(answer.lacking and not answer.told for answer in four_questions([], CONTROLS))


def test_what_stands_between_measured_settings_is_foretold_and_marked() -> None:
    drive = CONTROLS[0]
    breakup = {one.name: one for one in foretold(FULL, drive, 0.5)}["Breakup"]
    assert (breakup.value, breakup.measured) == (pytest.approx(-27.5), True)
    between = {one.name: one for one in foretold(FULL, drive, 0.25)}["Breakup"]
    assert between.value == pytest.approx(-18.75, abs=0.5)
    assert not between.measured
    assert foretold(FULL[:1], drive, 0.5) == []
    level = next(k for k in knob_answers(FULL, CONTROLS, tonal=False) if k.key == "level")
    assert level.refusal


def test_the_fingerprint_places_five_readings_and_says_what_is_missing() -> None:
    rays = {ray.key: ray for ray in fingerprint(FULL)}
    assert (rays["span"].said.code, rays["span"].said.numbers) == ("high", {"value": 35})
    assert all(0 <= (ray.place or 0) <= 1 for ray in rays.values())
    assert fingerprint([]) == []
    never = replace(FULL[0], results=results({"gain_db": 0.0}, {"headroom_db": "never"}))
    room = {ray.key: ray for ray in fingerprint([never])}["headroom"].said
    assert (room.code, room.numbers) == ("high", {"at_least": 20})
    told = {ray.key: ray.said for ray in fingerprint([replace(never, results=results({"gain_db": -0.3}))] * 2)}
    assert told["span"].code == "never_breaks_up"
    assert (told["output"].code, told["output"].numbers) == ("low", {"value": 0})
    lone = {ray.key: ray for ray in fingerprint(FULL[:1])}
    assert lone["span"].place is None


def test_differences_are_sorted_by_what_is_audible_and_sure() -> None:
    pair = nearest_pair(FULL[:2], [FULL[6]])
    assert pair == (FULL[1], FULL[6])
    found = differences(FULL[0], FULL[1], ("Alder", "Birk"))
    assert found[0].audible
    assert found[0].sure
    breakup = next(d for d in found if d.key == "breakup_dbfs.3")
    assert (breakup.said.code, breakup.said.numbers["by"]) == ("less", 35.0)
    same = differences(FULL[0], replace(FULL[0], ident=9), ("Alder", "Birk"))
    assert not any(d.sure and d.audible for d in same)
    unsure = replace(FULL[0], results=results(FULL[0].results.readings | {"gain_db": 0.0}, bands={"gain_db": 9.0}))
    assert next(d for d in differences(FULL[0], unsure, ("a", "b")) if d.key == "gain_db").sure is False
    assert nearest_pair([], FULL) is None
    # A region counts only beyond what its third octaves may differ by.
    noisy = {f"response_db.{band}": 20.0 for bands in REGION_BANDS.values() for band in bands}
    vague = replace(FULL[4], results=results(FULL[4].results.readings, bands=noisy))
    lows = {d.key: d for d in differences(FULL[3], vague, ("a", "b"))}["region.lows"]
    assert lows.steps > 1.0
    assert not lows.sure
    assert {d.key: d for d in differences(FULL[3], FULL[4], ("a", "b"))}["region.lows"].sure


def test_compressors_are_compared_where_they_squeeze_alike() -> None:
    def squeezing(ident: int, kept: float, **parts: float) -> Probe:
        return probe(ident, "", {}, {"gain_db": 0.0, "compressor": {"dynamics_kept_percent": kept} | parts})

    off = probe(1, "", {}, {"gain_db": 0.0}, refusals={"compressor": "no_compressor"})
    fast, slow = squeezing(2, 55.0, ratio=4.0, attack_ms=2.0), squeezing(3, 52.0, ratio=2.0, attack_ms=30.0)
    assert nearest_pair([off, fast], [slow]) == (fast, slow)
    told = [(d.key, d.said.code) for d in differences(fast, slow, ("A", "B")) if d.audible]
    assert told == [("compressor.attack_ms", "more"), ("compressor.ratio", "less")]
    most = differences(off, slow, ("A", "B"))[0]
    assert (most.key, most.said.code, most.said.numbers["by"]) == ("compressor.dynamics_kept_percent", "less", 48.0)


def test_every_bench_device_can_stand_in_and_its_knobs_exist() -> None:
    for key, knobs in KNOBS.items():
        assert set(knobs) <= {control.key for control in (PEDALS | AMPLIFIERS)[key].controls}, key
    assert stand_in("pedal", "A mid-hump drive") == "mid-hump"
    assert stand_in("amplifier", "breaks up early") == "edge"
    assert stand_in("pedal", "tremolo") == ""
    assert stand_in("guitar", "fuzz") == ""
    found = knobs_of("mid-hump", [Control(key="gain-1", name="Gain"), CONTROLS[1]], {"gain-1": 0.8, "tone": 0.2})
    assert found == {"drive": 0.8, "tone": 0.2}


# --- two sources


@pytest.mark.parametrize("gain_db", [-9.0, -3.0, 0.0, 4.5, 10.0])
@pytest.mark.parametrize("sign", [1, -1])
@pytest.mark.parametrize("delay", [0, 24])
def test_the_gain_and_side_that_made_a_sum_are_found_again(gain_db: float, sign: int, delay: int) -> None:
    first = pink(-20.0, 6.0, seed=1)
    second = np.roll(0.7 * first + 0.7 * pink(-20.0, 6.0, seed=2), delay)
    mixed = first + sign * 10 ** (gain_db / 20) * second
    pair = blend.pair_of(first.astype(np.float32), second.astype(np.float32))
    target = blend.pair_of(mixed.astype(np.float32), mixed.astype(np.float32))
    assert pair.sum_db(gain_db, sign) == pytest.approx(10 * np.log10(target.a), abs=0.1)
    found = blend.gain_for(pair, 10 * np.log10(target.a)).value
    assert isinstance(found, dict)
    assert found["sign"] == sign
    assert found["gain_db"] == pytest.approx(gain_db, abs=0.1)


def test_cancelling_and_notches() -> None:
    same = pink(-20.0, 4.0, seed=1).astype(np.float32)
    pair = blend.pair_of(same, same)
    assert pair.kept_db(0.0) == pytest.approx(3.01, abs=0.01)
    assert np.max(pair.kept_db(0.0, -1)) < -40
    assert code_of(blend.gain_for(pair, pair.sum_db(0.0), rival=0.9)) == "polarity_open"
    assert blend.notches_hz(0.001)[:2] == [500.0, 1500.0]
    assert blend.notches_hz(0.001, inverted=True)[:2] == [1000.0, 2000.0]
    assert blend.notches_hz(0.0) == []
