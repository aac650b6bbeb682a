"""The audit of flights that no sampler played: a string model, other phrases, other hands, hiss before the gain.

No limit of the audit was set on these; docs/measures.md has how often each world was right.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping

import numpy as np
import pytest

from tests.corpus.flights import Flight, Place, audited
from tests.corpus.parts import RATE_HZ, Floats, bend, clean_amplifier, cut, gain, peak, pedals
from tests.corpus.phrases import CAREFUL, LOOSE, PHRASES, USUAL
from tests.corpus.strings import GUITARS, strum

HISS_DBFS = (-84, -78, -70)


def fuzz(x: Floats) -> Floats:
    bent = bend(cut(cut(x, 40, "high"), 3000, "low") * 250, lambda v: np.clip(np.tanh(v + 0.25) - 0.245, -0.9, 0.7))
    return peak(bent, 900, -6) * 0.5


def hum(x: Floats) -> Floats:
    seconds = np.arange(len(x)) / RATE_HZ
    return np.asarray(x + sum(gain(-38 - 5 * k) * np.sin(2 * np.pi * 50 * (2 * k + 1) * seconds) for k in range(4)))


FAULTS: Mapping[str, Callable[[Floats], Floats]] = {
    "clipping": lambda x: np.clip(x / np.quantile(np.abs(x), 0.995), -1, 1) * 0.9999,
    "hum": hum,
    "loudness_gap": lambda x: x * gain(-14),
}


def strings_flight(seed: int, fault: str | None = None, tests: int = 3) -> Flight:
    """Three phrases through no pedal, three pedals and a fuzz, each take played anew; a fault in one of them."""
    r, noise = random.Random(seed), np.random.default_rng(seed)
    devices = pedals(r)
    devices = {name: devices[name] for name in ("no pedal", *r.sample(("humped", "open", "slab", "press"), 3))}
    devices["fuzz"] = fuzz
    amplifier, hands = clean_amplifier(r), random.Random(seed + 1)
    by, guitar, hiss = (r.choice(one) for one in ((CAREFUL, USUAL, LOOSE), GUITARS, HISS_DBFS))
    played = {kind: PHRASES[kind](random.Random(seed)) for kind in r.sample(sorted(PHRASES), tests)}
    hit = (r.choice(list(devices)), r.choice(list(played)))
    takes: dict[Place, Floats] = {}
    for name, device in devices.items():
        for kind, notes in played.items():
            dry = strum(notes, hands, by=by, guitar=guitar)
            wet = amplifier(device(dry + noise.normal(0, gain(hiss), len(dry))), 0.0)
            wet = wet / np.abs(wet).max() * 0.6 * gain(noise.normal(0, 1.2)) + noise.normal(0, gain(-84), len(wet))
            wet = FAULTS[fault](wet) if fault and (name, kind) == hit else wet
            takes[name, kind] = np.asarray(wet * min(1.0, 0.99 / np.abs(wet).max()))
    return Flight(takes, frozenset({hit} if fault else ()), {})


@pytest.mark.grid(0, 3)
@pytest.mark.parametrize("seed", [61, 62, 63, 64, 65, 66])
def test_a_flight_on_strings_without_a_fault_has_nothing_to_redo_and_hardly_anything_to_look_at(seed: int) -> None:
    found = audited(strings_flight(seed))
    assert [one for one in found if one[1] == "fault"] == []
    assert len(found) <= 1


@pytest.mark.grid(0, len(FAULTS))
@pytest.mark.parametrize("fault", sorted(FAULTS))
@pytest.mark.parametrize("seed", [71, 72])
def test_a_fault_on_strings_is_named_and_no_other_take_is_to_be_recorded_again(fault: str, seed: int) -> None:
    flight = strings_flight(seed, fault)
    found = audited(flight)
    assert {place for _, severity, place in found if severity == "fault"} <= flight.wrong
    # Hum under a fuzz's own hiss is told as noise.
    named = {fault, "noise"} if fault == "hum" else {fault}
    assert flight.wrong & {place for rule, _, place in found if rule in named}
