"""Whole flights with one known fault or none, and what the audit says of them."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy.signal

from cata.core.clip import Clip
from cata.core.match.audit import audit_test
from cata.core.match.cells import cell_of
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.features import features_of
from cata.core.match.rules.flight import audit_table
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from tests.corpus.parts import RATE_HZ, Floats, amplifiers, clean_amplifier, gain, pedals, pickups, shelf
from tests.corpus.playing import PHRASES, play

Place = tuple[str, str]
FAMILIES = {"pedal": pedals, "pickup": pickups, "amplifier": amplifiers}
WAV = Source("PCM_24", False, RATE_HZ, 1)


@dataclass(frozen=True)
class Flight:
    """Takes by contender and test; ``wrong`` are the takes with the fault.

    ``dirt`` is the share of a take's power, 60 Hz to 8 kHz, that no linear filter of its dry signal explains.
    """

    takes: Mapping[Place, Floats]
    wrong: frozenset[Place]
    dirt: Mapping[Place, float]


def make_flight(family: str, fault: str | None, seed: int, day: int = 0) -> Flight:
    """A flight of a family with a fault in one take ("exchanged": in two), every take played anew on each day."""
    r, hands, noise = random.Random(seed), random.Random(seed * 7 + 1 + 1000 * day), np.random.default_rng(seed)
    devices, amplifier = FAMILIES[family](r), clean_amplifier(r)
    tests = r.sample(sorted(PHRASES), r.choice((3, 4)))
    # A room cannot be heard behind a phrase that rings on to its end (docs/measures.md).
    cells = [(c, t) for c in devices for t in tests if fault != "room" or t != "lead line"]
    hit = r.choice(cells)
    twin = (r.choice([c for c in devices if c != hit[0]]), hit[1])
    takes, dirt = {}, {}
    for place in ((c, t) for c in devices for t in tests):
        mine = fault if place == hit else None
        phrase = r.choice([p for p in PHRASES if p not in tests]) if mine == "phrase" else place[1]
        cents = -22.0 if mine == "tuning" else hands.gauss(0, 0.6)
        dry = play(phrase, hands, cents=cents, tempo=1.05 if mine == "tempo" else 1.0)
        dry = dry + noise.normal(0, gain(-92), len(dry))
        there = {hit: twin[0], twin: hit[0]}.get(place, place[0]) if fault == "exchanged" else place[0]
        wet = devices[there](dry)
        if family != "amplifier":
            wet = amplifier(wet, 10.0 if mine == "amplifier knob" else 0.0)
        elif mine == "amplifier knob":
            wet = shelf(wet, 2500, -8)
        if mine == "microphone":
            far = shelf(wet, 1500, -7)
            wet = far + gain(-6) * np.concatenate((np.zeros(40), far[:-40]))
        dirt[place] = _dirt(dry, wet)
        wet = wet / np.abs(wet).max() * gain(r.uniform(-9, -4))
        wet = wet + noise.normal(0, gain(-72 if family == "amplifier" else -78), len(wet))
        takes[place] = _recorded(wet, mine, noise)
    wrong = {None: frozenset[Place](), "exchanged": frozenset({hit, twin})}.get(fault, frozenset({hit}))
    return Flight(takes, wrong, dirt)


def _dirt(dry: Floats, wet: Floats) -> float:
    hz, linear = scipy.signal.coherence(dry, wet, RATE_HZ, nperseg=8192)
    power = scipy.signal.welch(wet, RATE_HZ, nperseg=8192)[1]
    heard = (hz > 60) & (hz < 8000)
    return float(1 - (linear[heard] * power[heard]).sum() / power[heard].sum())


def _recorded(wet: Floats, fault: str | None, noise: np.random.Generator) -> Floats:
    seconds = np.arange(len(wet)) / RATE_HZ
    if fault == "room":
        tail = noise.normal(0, 1, int(0.9 * RATE_HZ)) * np.exp(-np.arange(int(0.9 * RATE_HZ)) / RATE_HZ * 6.9 / 0.8)
        wet = wet + gain(-9) * scipy.signal.oaconvolve(wet, tail / np.sqrt((tail**2).sum()))[: len(wet)]
    if fault == "hum":
        wet = wet + sum(gain(-38 - 5 * k) * np.sin(2 * np.pi * 50 * (2 * k + 1) * seconds) for k in range(4))
    if fault == "clipped":
        return np.asarray(np.clip(wet / np.quantile(np.abs(wet), 0.995), -1, 1) * 0.9999)
    return np.asarray(wet * min(1.0, 0.7 / np.abs(wet).max()))


def audited(flight: Flight) -> Sequence[tuple[str, str, Place]]:
    """Rule, severity and take of every finding that is no note, as the audits of tests and flight make them."""
    places = list(flight.takes)
    evidence = {}
    for place, samples in flight.takes.items():
        material = Material(Clip.of(samples.astype(np.float32), RATE_HZ))
        evidence[place] = TakeEvidence(0, " - ".join(place), features_of(material), analyse_material(material), WAV)
    contenders, tests = (list(dict.fromkeys(one)) for one in zip(*places, strict=True))
    found: list[tuple[str, str, Place]] = []
    for test in tests:
        mine = [place for place in places if place[1] == test]
        takes = [
            TakeEvidence(i, one.name, one.features, one.analysis, WAV)
            for i, one in enumerate(map(evidence.get, mine))
            if one
        ]
        audit = audit_test(takes, next((i for i, place in enumerate(mine) if place[0] == "no pedal"), None))
        found += [(one.rule, one.severity, mine[one.take]) for one in audit.findings]
    spoilt = {place for _, severity, place in found if severity == "fault"}
    cells = [
        cell_of(i, contenders.index(c), tests.index(t), c, t, evidence[c, t].features, evidence[c, t].analysis)
        for i, (c, t) in enumerate(places)
        if (c, t) not in spoilt
    ]
    found += [(one.rule, one.severity, places[one.take]) for one in audit_table([cell for cell in cells if cell])]
    return [one for one in found if one[1] != "note"]
