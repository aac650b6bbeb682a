"""Finding slates in a long recording: a matched filter for the sweeps, then the symbols, then the exact place.

The search runs on a copy at 8 kHz; each hit is placed to the sample on the recording itself.
Conventions: ``low`` is mono float32 at :data:`SEARCH_RATE_HZ`; ``span(start_s, end_s)`` reads a stretch of the
recording at its own rate.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio, Clip, Low
from cata.core.signals import slate
from cata.core.signals.slate import SlateMark

SEARCH_RATE_HZ = 8_000
CANDIDATE = 0.22
"""Normalised correlation from which a sweep is looked at; guitar, talk and noise stay below 0.15 on both sweeps."""
MIN_MARGIN_DB = 3.0
"""A symbol's tone over the next best tone."""
AROUND_S = 0.006
BLOCK = 600 * SEARCH_RATE_HZ

Floats = npt.NDArray[np.float32]
Span = Callable[[float, float], Clip]


@dataclass(frozen=True)
class FoundSlate:
    """A slate in a recording: where it begins and ends, in seconds, and how surely it was read, 0 to 1."""

    mark: SlateMark
    start_s: float
    end_s: float
    confidence: float


def likeness(signal: Audio, template: Audio) -> Floats:
    """Normalised correlation (absolute) of a template with every place of a signal, shape (len - len + 1,).

    1 where the signal is the template at any level, either way up; silence is 0.
    """
    if len(signal) < len(template):
        return np.zeros(0, dtype=np.float32)
    products = scipy.signal.oaconvolve(signal, template[::-1], mode="valid")
    energy = np.concatenate(([0.0], np.cumsum(signal.astype(np.float64) ** 2)))
    local = energy[len(template) :] - energy[: -len(template)]
    # Rounding of the running sum must not turn silence into likeness.
    floor = max(float(local.max(initial=0.0)) * 1e-9, 1e-12)
    norm = np.sqrt(np.maximum(local, floor) * float(np.dot(template, template)))
    return np.asarray(np.abs(products) / norm, dtype=np.float32)


def find_slates(low: Low, span: Span) -> list[FoundSlate]:
    """All readable slates of a recording in order of time; a slate whose symbols contradict each other is none.

    ``low`` may be of half precision. It is gone through in blocks: hours of it need no more memory than minutes.
    """
    found: list[FoundSlate] = []
    overlap = round(2 * slate.LENGTH_S * SEARCH_RATE_HZ)
    for start in range(0, len(low), BLOCK):
        block = low[start : start + BLOCK + overlap].astype(np.float32)
        for one in _find(block, start, span):
            # What lies in two blocks is found twice.
            if not found or one.start_s > found[-1].start_s + slate.LENGTH_S / 2:
                found.append(one)
    return found


def _find(low: Audio, start: int, span: Span) -> list[FoundSlate]:
    """The slates of a block that begins at a sample of the whole."""
    rate = SEARCH_RATE_HZ
    rise = likeness(low, slate.sweep(rate, up=True))
    fall = likeness(low, slate.sweep(rate, up=False))
    offset = round(slate.DOWN_AT_S * rate)
    # A player's clock may differ: the second sweep is looked for within 2 ms.
    fall = scipy.ndimage.maximum_filter1d(fall, 33) if len(fall) else fall
    usable = min(len(rise), len(fall) - offset)
    if usable <= 0:
        return []
    both = np.minimum(rise[:usable], fall[offset : offset + usable])
    peaks, _ = scipy.signal.find_peaks(both, height=CANDIDATE, distance=round(slate.LENGTH_S * rate / 2))
    found = []
    for peak in peaks:
        read = _read_symbols(low, int(peak))
        if read is None:
            continue
        mark, margin = read
        start_s = _place(span, (start + peak) / rate)
        confidence = min(1.0, float(both[peak]) / 0.6, margin / 10.0)
        found.append(FoundSlate(mark, start_s, start_s + slate.LENGTH_S, round(confidence, 3)))
    return found


def _read_symbols(low: Audio, start: int) -> tuple[SlateMark, float] | None:
    """The mark at a place and the smallest margin of its symbols in dB."""
    rate, size = SEARCH_RATE_HZ, round(slate.SYMBOL_S * SEARCH_RATE_HZ)
    tones = np.exp(
        -2j * np.pi * (slate.FIRST_HZ + slate.STEP_HZ * np.arange(slate.BASE))[:, None] * np.arange(size) / rate
    ) * np.hanning(size)
    values, margins = [], []
    for index in range(slate.SYMBOLS):
        at = start + round((slate.SYMBOLS_AT_S + index * (slate.SYMBOL_S + slate.GAP_S)) * rate)
        cut = low[at : at + size]
        if len(cut) < size:
            return None
        power = np.abs(tones @ cut) ** 2
        order = np.argsort(power)
        values.append(int(order[-1]))
        margins.append(10 * np.log10((power[order[-1]] + 1e-20) / (power[order[-2]] + 1e-20)))
    mark = slate.mark_of(tuple(values))
    return (mark, float(min(margins))) if mark is not None and min(margins) >= MIN_MARGIN_DB else None


def _place(span: Span, about_s: float) -> float:
    """The exact start: the sweeps again at the recording's own rate, the mean of both, to a fraction of a sample."""
    begin = max(0.0, about_s - AROUND_S)
    clip = span(begin, about_s + slate.LENGTH_S + AROUND_S)
    rate = clip.rate_hz
    first = _peak(likeness(clip.carrier[: round((2 * AROUND_S + slate.SWEEP_S) * rate)], slate.sweep(rate, up=True)))
    shift = round((slate.DOWN_AT_S - AROUND_S) * rate)
    second = _peak(likeness(clip.carrier[max(shift, 0) :], slate.sweep(rate, up=False)))
    if first is None:
        return about_s
    ends = [first] if second is None else [first, second + shift - slate.DOWN_AT_S * rate]
    # Both sweeps agree within a sample or two; a reflection or a burst of talk may have pulled one of them.
    exact = sum(ends) / len(ends) if max(ends) - min(ends) < 0.001 * rate else first
    return begin + exact / rate


def _peak(values: Floats) -> float | None:
    """Index of the greatest value, refined by a parabola."""
    if len(values) < 3:
        return None
    at = int(np.argmax(values))
    if not 0 < at < len(values) - 1:
        return float(at)
    before, here, after = (float(v) for v in values[at - 1 : at + 2])
    bend = before - 2 * here + after
    return at + (0.5 * (before - after) / bend if bend < 0 else 0.0)
