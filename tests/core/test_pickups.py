"""Pickups: coils and their loads, resonance by sweep coil and by playing, strings, height, waver."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest

from cata.core.bench.pickups import PICKUPS, Pickup, placed, record_strings
from cata.core.clip import Clip
from cata.core.evidence.pickups import Strung, advice, against, bridge_to_neck, heights
from cata.core.measure.device import responses, steady, sweeps
from cata.core.measure.material import Material
from cata.core.measure.pickup import fit_resonance, resonance_from_playing
from cata.core.measure.strings import Strings, decay_db_per_s, read_strings, tone_rms_dbfs, worst_waver
from cata.core.measure.waver import waver
from cata.core.signals.phrase import Note, Phrase, open_strings, varied
from cata.core.workshop.coil import Loaded, millivolts, with_cable
from cata.said import Said
from tests.outside import RATE_HZ, come_back, sent_samples
from tests.probes import codes
from tests.tones import code_of, seconds


@pytest.mark.parametrize(
    ("henry", "farad", "ohm", "load", "f0", "q"),
    [(2.5, 600e-12, 6500, 200e3, 4176, 2.40), (4.5, 600e-12, 8200, 333e3, 3100, 2.85)],
)
def test_the_stated_coils(henry: float, farad: float, ohm: float, load: float, f0: float, q: float) -> None:
    coil = Loaded(inductance_h=henry, resistance_ohm=ohm, capacitance_f=farad, load_ohm=load)
    assert coil.resonance_hz == pytest.approx(f0, rel=0.005)
    assert coil.q == pytest.approx(q, rel=0.01)
    if henry == 2.5:
        assert coil.peak == (pytest.approx(3990, rel=0.005), pytest.approx(7.8, abs=0.1))


COILS = [
    with_cable(h, r, c, cable_m=m, volume_ohm=v, tone_ohm=t)
    for h, r, c in ((2.4, 6200, 120), (3.4, 6900, 140), (4.5, 8200, 130), (6.2, 8600, 150), (8.6, 15600, 160))
    for m, v, t in ((3.0, 250e3, 250e3), (5.0, 500e3, 500e3), (1.5, 1e6, None), (6.0, 300e3, 500e3))
]


@pytest.mark.grid(1)
@pytest.mark.parametrize("coil", COILS, ids=lambda c: f"{c.resonance_hz:.0f} Hz")
def test_a_resonance_is_read_back_from_a_sweep_coil(coil: Loaded) -> None:
    sent_wave = sent_samples("sweep")
    points = 1 << 21
    x = np.fft.rfftfreq(points, 1 / RATE_HZ) / coil.resonance_hz
    out = np.fft.irfft(np.fft.rfft(sent_wave, points) / (1 - x * x + 1j * x / coil.q), points)[: len(sent_wave)]
    returned, sent, _ = come_back(out, "sweep", seed=int(coil.resonance_hz))
    density = sweeps.noise_density(steady.silence(returned))
    swept = [sweeps.read_sweep(returned, section, density) for section in sent.plan.of("sweep")]
    best, _ = responses.most_linear([one for one in swept if not isinstance(one, str)])
    inside = (sweeps.HZ > 100) & (min(12_000, 4 * coil.resonance_hz) > sweeps.HZ)
    level = 20 * np.log10(np.abs(best.responses[0][inside]) + 1e-9)
    found = fit_resonance(sweeps.HZ[inside], level).value
    assert isinstance(found, dict)
    assert found["resonance_hz"] == pytest.approx(coil.resonance_hz, rel=0.01)
    assert found["q"] == pytest.approx(coil.q, rel=0.03)


def test_responses_that_are_no_resonance_are_refused() -> None:
    hz = np.geomspace(100, 12_000, 200)
    assert code_of(fit_resonance(hz, np.zeros(200))) == "resonance_above"
    combed = 10 * np.sin(hz / 300)
    assert code_of(fit_resonance(hz, combed)) == "no_coil"
    heavy = Loaded(inductance_h=4.5, resistance_ohm=8200, capacitance_f=700e-12, load_ohm=45e3)
    x = hz / heavy.resonance_hz
    damped = -10 * np.log10((1 - x * x) ** 2 + (x / heavy.q) ** 2)
    assert code_of(fit_resonance(hz, damped)) == "no_peak"
    assert code_of(fit_resonance(hz[:5], damped[:5])) == "few_frequencies"
    assert heavy.peak is None
    assert millivolts(-20.0, -14.0, 100.0) == pytest.approx(50.1, abs=0.1)
    assert COILS[0].low_loss_db < 0


def test_a_longer_cable_lowers_the_resonance_and_a_near_pickup_is_louder_and_wavers() -> None:
    short, long = (with_cable(2.5, 6500, 120, cable_m=m, volume_ohm=250e3, tone_ohm=250e3) for m in (2.0, 8.0))
    assert long.resonance_hz < 0.7 * short.resonance_hz
    held = Phrase(key="held", name="", bpm=100, length_s=5.0, notes=(
        Note(start_s=0.1, length_s=4.8, string=2, midi=62, strength=0.8),))  # fmt: skip
    far = PICKUPS["narrow-single"]
    near = replace(far, height_mm=1.2)
    loud = [20 * np.log10(np.sqrt(np.mean(one.record(held) ** 2))) for one in (far, near)]
    assert loud[1] - loud[0] == pytest.approx(10.2, abs=3.0)
    found = waver(Material(Clip.of(near.record(held), RATE_HZ))).value
    assert isinstance(found, dict)
    beats = 293.66 * (2 ** (near.pull_cents / 1200) - 1)
    assert (float(found["rate_hz"]) / beats) % 1 == pytest.approx(0.0, abs=0.15) or found["rate_hz"] > beats
    still = waver(Material(Clip.of(far.record(held), RATE_HZ)))
    assert still.value is None


@pytest.mark.grid(5)
@pytest.mark.parametrize("rate", [1.3, 2.0, 3.1, 4.4, 5.5, 6.3, 8.2])
@pytest.mark.parametrize(("level", "cents"), [(2.0, 0.0), (0.8, 6.0), (0.0, 12.0)])
def test_waver_is_read_within_its_tolerance(rate: float, level: float, cents: float) -> None:
    t = seconds(5.0)
    turn = np.sin(2 * np.pi * rate * t)
    pitch = 220.0 * 2 ** (cents / 2 * turn / 1200)
    wave = np.sin(2 * np.pi * np.cumsum(pitch) / RATE_HZ) * 10 ** ((level / 2 * turn - 4 * t) / 20) * 0.3
    wave += np.random.default_rng(1).standard_normal(len(t)) * 1e-4
    found = waver(Material(Clip.of(wave, RATE_HZ))).value
    assert isinstance(found, dict)
    assert found["rate_hz"] == pytest.approx(rate, abs=0.06)
    assert found["level_db"] == pytest.approx(level, abs=0.3)
    assert found["pitch_cents"] == pytest.approx(cents, abs=0.5)


def test_waver_refuses_what_is_too_short_or_still() -> None:
    t = seconds(4.0)
    still = np.sin(2 * np.pi * 220 * t) * 10 ** (-6 * t / 20) * 0.3
    still += np.random.default_rng(1).standard_normal(len(t)) * 1e-4
    assert code_of(waver(Material(Clip.of(still, RATE_HZ)))) == "steady"
    assert code_of(waver(Material(Clip.of(still[:50_000], RATE_HZ)))) == "too_short"
    assert code_of(waver(Material(Clip.of(np.zeros(200_000), RATE_HZ)))) == "silent"


# --- six open strings

REFERENCE = PICKUPS["narrow-single"]


def strung(pickup: Pickup, seed: int, *, bass_mm: float = 2.5, treble_mm: float = 2.5, rounds: int = 3) -> Clip:
    """Six open strings by a hand that varies, with an interface's noise, 0.4 of full scale."""
    phrase = varied(open_strings(rounds=rounds), 0.5, seed)
    signal = record_strings(pickup, phrase, bass_mm, treble_mm, seed)
    noise = np.random.default_rng(seed).standard_normal(len(signal)) * 10 ** (-80 / 20)
    return Clip.of(0.4 * signal + noise, RATE_HZ)


@lru_cache(maxsize=64)
def read(key: str, seed: int, bass_mm: float = 2.5, treble_mm: float = 2.5, rounds: int = 3) -> Strings:
    pickup = replace(PICKUPS[key], sensing=REFERENCE.sensing, second_place=None)
    found = read_strings(strung(pickup, seed, bass_mm=bass_mm, treble_mm=treble_mm, rounds=rounds))
    assert isinstance(found, Strings), found
    return found


@pytest.mark.certify
def test_resonance_by_playing_is_within_its_band_and_a_tenth() -> None:
    """Six coils, three hands, against a coil whose resonance is known; the weaker grade says how weak it is."""
    inside = []
    for key in PICKUPS:
        truth = PICKUPS[key]
        for hand in range(3):
            reference = read("narrow-single", 2 * hand + 1)
            found = resonance_from_playing(read(key, 2 * hand + 2), reference, (REFERENCE.resonance_hz, REFERENCE.q))
            assert isinstance(found.value, dict), (key, hand, found.refusal)
            assert found.flag is not None
            assert float(found.value["resonance_hz"]) == pytest.approx(truth.resonance_hz, rel=0.12)
            assert float(found.value["q"]) == pytest.approx(truth.q, rel=0.35)
            off = abs(float(found.value["resonance_hz"]) - truth.resonance_hz)
            inside.append(off <= float(found.value["resonance_band_hz"]))
    assert np.mean(inside) >= 0.8


@pytest.mark.certify
def test_playing_gives_no_resonance_where_it_cannot_be_known() -> None:
    reference = read("narrow-single", 1)
    alike = resonance_from_playing(read("wide-single", 2), read("wide-single", 4), None)
    assert alike.value is None  # a flat pickup against another has nothing that falls
    assert code_of(alike) == "strokes_differ"
    once = resonance_from_playing(read("wide-single", 2, rounds=1), reference, None)
    assert code_of(once) == "one_round"
    elsewhere = read_strings(strung(placed(REFERENCE, "neck"), 5))
    assert isinstance(elsewhere, Strings)
    moved = resonance_from_playing(elsewhere, reference, (REFERENCE.resonance_hz, REFERENCE.q))
    assert code_of(moved) == "no_coil"


@pytest.mark.certify
@pytest.mark.parametrize(("bass_mm", "treble_mm"), [(2.5, 2.5), (3.2, 3.2), (2.1, 3.0), (3.4, 2.2)])
def test_output_and_balance_follow_the_heights(bass_mm: float, treble_mm: float) -> None:
    level = read("narrow-single", 1)
    other = read("narrow-single", 8, bass_mm, treble_mm)
    # Output falls with the power 1.6 of the distance (the bench's own law).
    each = -32 * np.log10(np.linspace(bass_mm, treble_mm, 6) / 2.5)
    assert level.output_band_db is not None
    assert other.output_lufs - level.output_lufs == pytest.approx(each.mean(), abs=0.8)
    assert other.balance_db - level.balance_db == pytest.approx(each - each.mean(), abs=1.2)


@pytest.mark.certify
def test_repeats_of_one_hand_differ_by_less_than_the_bands_say() -> None:
    several = [read("narrow-single", seed) for seed in (1, 3, 5, 8, 12, 14)]
    outputs, balances = [s.output_lufs for s in several], [s.balance_db for s in several]
    band = np.median([s.output_band_db for s in several if s.output_band_db is not None])
    own = np.median([s.balance_band_db for s in several if s.balance_band_db is not None])
    gaps = [abs(a - b) for i, a in enumerate(outputs) for b in outputs[:i]]
    each = np.concatenate([np.abs(a - b) for i, a in enumerate(balances) for b in balances[:i]])
    assert np.mean(np.array(gaps) <= band) >= 0.7
    assert np.mean(each <= own) >= 0.8
    assert 0.05 < band < 1.5


@pytest.mark.certify
def test_strings_die_away_and_near_magnets_make_them_waver() -> None:
    far, near = read("narrow-single", 1), read("narrow-single", 3, 1.4, 1.4)
    decay = decay_db_per_s(far)
    assert decay is not None
    assert list(decay) == sorted(decay)  # the low strings ring longest
    assert decay[0] == pytest.approx(60 / (9.0 * (110 / 82.41) ** 0.3), rel=0.1)
    assert worst_waver(far).value is None
    worst = worst_waver(near).value
    assert isinstance(worst, dict)
    assert float(worst["pitch_cents"]) > 4.0


@pytest.mark.certify
@pytest.mark.parametrize(
    ("make", "code"),
    [
        (lambda: Clip.of(np.zeros(RATE_HZ * 9), RATE_HZ), "silent"),
        (lambda: Clip.of(strung(REFERENCE, 1).samples[:, : RATE_HZ * 10], RATE_HZ), "not_six_strings"),
        (lambda: Clip.of(np.clip(strung(REFERENCE, 1).samples * 40, -1, 1 - 2**-23), RATE_HZ), "clipped"),
    ],
)
def test_recordings_that_are_not_six_strings_are_refused(make, code: str) -> None:  # type: ignore[no-untyped-def]
    found = read_strings(make())
    assert isinstance(found, Said)
    assert found.code == code


def test_a_calibrating_tone_is_read_or_refused() -> None:
    t = seconds(2.0)
    tone = np.sin(2 * np.pi * 440 * t)
    found = tone_rms_dbfs(Clip.of(np.concatenate((np.zeros(9600), 0.2 * tone)), RATE_HZ))
    assert found.value == pytest.approx(20 * np.log10(0.2 / np.sqrt(2)), abs=0.02)
    assert code_of(tone_rms_dbfs(Clip.of(0.2 * tone * (1 + 0.5 * np.sin(2 * t)), RATE_HZ))) == "level_moves"
    assert code_of(tone_rms_dbfs(Clip.of(0.2 * tone[:9600], RATE_HZ))) == "too_short"
    assert code_of(tone_rms_dbfs(Clip.of(np.clip(3 * tone, -1, 1 - 2**-23), RATE_HZ))) == "clipped"


# --- what they say together

EVEN = {str(i): 0.0 for i in range(1, 7)}


def heard(ident: int, lufs: float, **more: object) -> Strung:
    known: dict[str, object] = {"rms_dbfs": lufs, "balance_db": EVEN, "output_band_db": 0.4, "balance_band_db": 0.4}
    return Strung(ident=ident, gear_id=1, name="Alder", heard_lufs=lufs, **(known | more))  # type: ignore[arg-type]


def test_output_is_compared_in_millivolts_where_both_are_calibrated() -> None:
    plain, gained = heard(1, -30.0, calibrated=(-20.0, 100.0)), heard(2, -18.0, calibrated=(-8.0, 100.0))
    found = against(gained, plain)
    assert found.basis.code == "in_mv"
    assert found.output_db == pytest.approx(0.0, abs=1e-9)
    assert not found.heard
    bare = against(heard(3, -24.0), plain)
    assert bare.basis.code == "as_recorded"
    assert (bare.said.code, bare.said.numbers) == ("louder", {"db": 6.0})
    assert plain.output_mv == pytest.approx(31.6, abs=0.1)


def test_raising_a_pickup_is_told_with_where_to_stop() -> None:
    rows = [
        heard(1, -33.0, bass_mm=3.0, treble_mm=3.0),
        heard(2, -30.0, bass_mm=2.0, treble_mm=2.0),
        heard(3, -27.0, bass_mm=1.5, treble_mm=1.5,
              waver={"string": 1.0, "rate_hz": 2.0, "level_db": 3.0, "pitch_cents": 6.0}),
    ]  # fmt: skip
    found = heights(rows)
    assert found is not None
    assert [p.height_mm for p in found.points] == [3.0, 2.0, 1.5]
    assert found.db_per_mm == pytest.approx(4.0)
    assert codes(found) == ["gains", "waver_near"]
    assert found.told[1].numbers == {"near_mm": 1.5, "keep_mm": 2.0}
    assert heights(rows[:1]) is None
    (wavers,) = advice(rows[2])
    assert (wavers.code, wavers.numbers["string"], wavers.numbers["rate_hz"]) == ("wavers", 6, 2.0)


def test_balance_is_told_by_side_and_by_string() -> None:
    tilted = {"1": 2.0, "2": 2.0, "3": 2.0, "4": -2.0, "5": -2.0, "6": -2.0}
    (told,) = advice(heard(1, -30, balance_db=tilted), 3.0)
    assert (told.code, told.numbers) == ("bass_side", {"db": 4.0, "mm": pytest.approx(4 / 3)})
    odd = EVEN | {"3": 4.0}
    assert 4 in [one.numbers.get("string") for one in advice(heard(1, -30, balance_db=odd))]
    assert advice(heard(1, -30)) == []


def test_bridge_and_neck_are_held_against_each_other() -> None:
    bridge, neck = heard(1, -30, position="bridge"), heard(2, -26, position="neck")

    def told(own: list[Strung], others: list[Strung]) -> tuple[str, object] | None:
        found = bridge_to_neck(own, others)
        return None if found is None else (found.code, found.numbers.get("db"))

    assert told([bridge, neck], []) == ("louder", 4.0)
    assert told([bridge], []) is None
    assert told([bridge, heard(2, -30.2, position="neck")], []) == ("alike", None)
    other = replace(neck, name="Birk", gear_id=2, bass_mm=3.0, heard_lufs=-34.0)
    assert told([bridge], [other]) == ("quieter", 4.0)
    assert told([heard(3, -30)], [bridge, other]) is None
