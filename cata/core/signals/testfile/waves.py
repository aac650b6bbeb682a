"""The waves of the test file at any rate, each from its formula: no resampling between file and theory."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.resample import to_rate
from cata.core.signals import strings
from cata.core.signals.phrase import OPEN_STRINGS_MIDI, Note, Phrase
from cata.core.signals.slate import SlateMark, slate
from cata.core.signals.testfile.layout import (
    BURST_AT_S,
    LEAD_S,
    PartName,
    Section,
    layout,
)
from cata.errors import Invalid

Floats = npt.NDArray[np.float64]

EDGE_S, BURST_EDGE_S = 0.004, 0.001
SWEEP_LOW_HZ, SWEEP_HIGH_HZ = 20.0, 20_000.0
SWEEP_L_S = 17 / SWEEP_LOW_HZ
"""L of the synchronised sweep sin(2π f1 L exp(t / L)): f1 L is whole, so its harmonics are the same sweep, earlier.
Source: Novak, Lotton and Simon 2015."""
SWEEP_S = SWEEP_L_S * float(np.log(SWEEP_HIGH_HZ / SWEEP_LOW_HZ))
SWEEP_FADE_S = (0.05, 0.004)


def amplitude(dbfs: float) -> float:
    """Linear amplitude of a level in dBFS peak."""
    return float(10 ** (dbfs / 20))


def _ramp(t: Floats, start_s: float, length_s: float) -> Floats:
    """0 before, 1 after, half a cosine between."""
    x = np.clip((t - start_s) / length_s, 0.0, 1.0)
    return np.asarray(0.5 - 0.5 * np.cos(np.pi * x))


def stepped(
    t: Floats, starts_s: tuple[float, ...], levels_dbfs: tuple[float, ...], end_s: float, edge_s: float = EDGE_S
) -> Floats:
    """Amplitude over time: each level from its start, moving within ``edge_s``, silent at both ends."""
    envelope = np.zeros_like(t)
    before = 0.0
    for start, level in zip((*starts_s, end_s - edge_s), (*map(amplitude, levels_dbfs), 0.0), strict=True):
        first, settled = np.searchsorted(t, (start, start + edge_s))
        envelope[first:settled] = before + (level - before) * _ramp(t[first:settled], start, edge_s)
        envelope[settled:] = level  # until the next one
        before = level
    return envelope


def sweep(t: Floats) -> Floats:
    """The synchronised exponential sweep of amplitude 1, 20 Hz to 20 kHz, from t = 0."""
    inside = (t >= 0) & (t <= SWEEP_S)
    phase = 2 * np.pi * SWEEP_LOW_HZ * SWEEP_L_S * np.exp(np.clip(t, 0, SWEEP_S) / SWEEP_L_S)
    fades = _ramp(t, 0.0, SWEEP_FADE_S[0]) * (1 - _ramp(t, SWEEP_S - SWEEP_FADE_S[1], SWEEP_FADE_S[1]))
    return np.asarray(np.where(inside, np.sin(phase) * fades, 0.0))


def wave(section: Section, rate_hz: int) -> Audio:
    """One section at a rate, shape (samples,)."""
    t = np.arange(round(section.length_s * rate_hz)) / rate_hz
    if section.kind == "noise":
        return np.zeros(len(t), dtype=np.float32)
    if section.kind == "sweep":
        return np.asarray(amplitude(section.levels_dbfs[0]) * sweep(t), dtype=np.float32)
    if section.kind == "ladder":
        return _ladder(section, rate_hz)
    if section.kind == "chord":
        level = amplitude(section.levels_dbfs[0]) / len(section.hz)
        edges = _ramp(t, 0.0, EDGE_S) * (1 - _ramp(t, section.length_s - EDGE_S, EDGE_S))
        return np.asarray(level * edges * sum(np.sin(2 * np.pi * hz * t) for hz in section.hz), dtype=np.float32)
    starts: tuple[float, ...] = BURST_AT_S
    edge_s = BURST_EDGE_S
    if section.kind in ("tones", "steady"):
        edge_s = EDGE_S
        step_s = section.step_s or section.length_s
        starts = tuple(step_s * i for i in range(len(section.levels_dbfs)))
    envelope = stepped(t, starts, section.levels_dbfs, section.length_s, edge_s)
    return np.asarray(envelope * np.sin(2 * np.pi * section.pitch_hz * t), dtype=np.float32)


def _ladder_phrase() -> Phrase:
    """A chord, a note and three muted strokes in 1.6 s."""
    chord = ((0, 0), (1, 2), (2, 2), (3, 1), (4, 0), (5, 0))
    notes = [
        Note(start_s=0.02 + 0.007 * i, length_s=0.62, string=s, midi=OPEN_STRINGS_MIDI[s] + fret, strength=0.8)
        for i, (s, fret) in enumerate(chord)
    ]
    notes.append(Note(start_s=0.72, length_s=0.36, string=3, midi=OPEN_STRINGS_MIDI[3] + 2, strength=0.8))
    notes += [
        Note(start_s=1.14 + 0.16 * i, length_s=0.12, string=0, midi=OPEN_STRINGS_MIDI[0], strength=0.85, muted=True)
        for i in range(3)
    ]
    return Phrase(key="ladder", name="Picking ladder", bpm=104.0, length_s=1.66, notes=tuple(notes))


@lru_cache(maxsize=1)
def ladder_step() -> Audio:
    """The ladder's playing at 48 kHz, peak 1, shape (samples,): the same dry guitar at every step."""
    dry = strings.render(_ladder_phrase(), strings.Sensing(), seed=3)
    return np.asarray(dry / np.max(np.abs(dry)), dtype=np.float32)


def _ladder(section: Section, rate_hz: int) -> Audio:
    one = to_rate(Clip.of(ladder_step(), ANALYSIS_RATE_HZ), rate_hz).samples[0]
    # Resampling may lift the peak between samples; the step still peaks at its level.
    one = one / np.max(np.abs(one))
    out = np.zeros(round(section.length_s * rate_hz), dtype=np.float32)
    for index, level in enumerate(section.levels_dbfs):
        at = round(index * section.step_s * rate_hz)
        out[at : at + len(one)] += one * np.float32(amplitude(level))
    return out


def sent_file(part: PartName = "all", rate_hz: int = ANALYSIS_RATE_HZ) -> Clip:
    """The test file as a mono clip that peaks at 0 dBFS; Invalid for another part or rate than those offered."""
    if not 44_100 <= rate_hz <= 192_000:
        raise Invalid(f"a test file is written at 44.1 to 192 kHz (20 kHz is swept), got {rate_hz} Hz", "rate")
    plan = layout(part)
    out = np.zeros(round(plan.length_s * rate_hz), dtype=np.float32)

    def put(samples: Audio, at_s: float) -> None:
        at = round((LEAD_S + at_s) * rate_hz)
        out[at : at + len(samples)] += samples

    put(slate(SlateMark(plan.mark), rate_hz).samples[0], 0.0)
    for section in plan.sections:
        put(wave(section, rate_hz), section.start_s)
    put(slate(SlateMark(plan.mark, closes=True), rate_hz).samples[0], plan.closing_s)
    return Clip.of(out, rate_hz)
