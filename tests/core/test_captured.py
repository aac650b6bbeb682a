"""Takes as they come in: by telephone, through lossy coders, after talk, cut tight. The right phrase is lined up."""

from __future__ import annotations

import random

import numpy as np
import pytest

from cata.core.clip import Clip
from cata.core.match.audit import audit_test
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.features import features_of
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from tests.corpus.captured import CAPTURES
from tests.corpus.moving import RATE_HZ, STILL
from tests.corpus.parts import Floats, gain
from tests.corpus.phrases import PHRASES
from tests.corpus.playing import sampled
from tests.corpus.strings import GUITARS, strum

DEVICES = ("nothing", "drive", "dark")
WAV = Source("PCM_24", False, RATE_HZ, 1)
WITHIN_MS = 60.0
MADE_BY_THE_WAY = {"noise", "source", "length", "loudness_gap", "lag", "wet_tail", "tone_moved"}
"""What may be said of a take that came in otherwise than the rest: its noise, its file, its ends, its room."""


def take(world: str, phrase: str, device: str, seed: int) -> Floats:
    hands, notes = random.Random(seed), PHRASES[phrase](random.Random(3))
    dry = strum(notes, hands, guitar=GUITARS[seed % 3]) if world == "strings" else sampled(notes, hands)
    wet = STILL["cabinet"](STILL[device](0.6 * dry / np.abs(dry).max()))
    hiss = np.random.default_rng(seed).normal(0, gain(-80), len(wet))
    return np.asarray(0.5 * wet / np.abs(wet).max() + hiss)


def evidence(index: int, name: str, x: Floats) -> TakeEvidence:
    material = Material(Clip.of(np.asarray(x, dtype=np.float32), RATE_HZ))
    return TakeEvidence(index, name, features_of(material), analyse_material(material), WAV)


@pytest.mark.grid(0, len(CAPTURES))
@pytest.mark.parametrize("capture", CAPTURES)
@pytest.mark.parametrize("world", ["strings", "samples"])
def test_the_right_phrase_is_lined_up_however_it_came_in(world: str, capture: str) -> None:
    """Four phrases, one of three takes captured otherwise: no wrong lag, hardly one open, no false fault."""
    wrong, opened, faults, count = [], [], [], 0
    for at, phrase in enumerate(("arpeggio", "chugs", "lead", "repeating chords")):
        takes, begins = [], []
        for index, device in enumerate(DEVICES):
            x, later = take(world, phrase, device, 100 * at + index), 0.0
            if index == 1:
                x, later = CAPTURES[capture](x, random.Random(at))
            takes.append(evidence(index, f"{device} - {phrase}", x))
            begins.append(later)
        audit = audit_test(takes)
        base = begins[audit.reference or 0]
        for index, match in audit.matches.items():
            count += 1
            if match.lag_ms is None:
                opened.append((phrase, index))
            elif abs(match.lag_ms / 1000 - begins[index] + base) > WITHIN_MS / 1000:
                wrong.append((phrase, index, match.lag_ms))
        faults += [
            (phrase, one.rule, one.take) for one in audit.findings
            if one.severity == "fault" and one.rule not in MADE_BY_THE_WAY
        ]  # fmt: skip
    assert not wrong
    assert len(opened) <= count // 4, opened
    assert not faults
