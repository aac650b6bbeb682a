"""Dynamics: spread of levels, tightness of muted low notes, balance of the strings."""

from __future__ import annotations

import itertools

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.kweight import k_weighted
from cata.core.measure.level import OFFSET_LUFS
from cata.core.measure.material import LOW_RATE_HZ, Material, db
from cata.core.measure.nonsense import no_notes, no_tone
from cata.core.measure.onsets import onsets_of
from cata.core.measure.outcome import SILENT, Outcome, Value, measured, refused, too_short
from cata.said import Said, said

MIN_SPREAD_S, SPREAD_RANGE_DB = 2.0, 40.0
LOW_PERCENT, WOBBLE = 25.0, 4.0

TIGHT_HZ = (45.0, 200.0)
# The band's skirts: steep ones would ring before the note and blur its start.
TIGHT_SKIRT_HZ = (15.0, 30.0)
TIGHT_RATE_HZ = 2000
TIGHT_FROM, TIGHT_TO = 0.01, 0.937
MIN_GAP_S, QUIET_NOTE_DB, BEFORE_ONSET_S = 0.15, 20.0, 0.02
MUTED_MAX_S = 0.6
RINGS_S, RINGS_DB = 0.03, 15.0
MIN_SHARE_DB = -20.0

STRINGS, STRING_GAP_S, STRING_WINDOW_S = 6, 0.6, 1.0


def level_spread_db(material: Material) -> Outcome:
    """95th minus 25th percentile of the 50 ms levels within 40 dB of the loudest, dB. Refused under 2 s.

    Where a phrase is loud or silent and little between, the lower end falls from one into the other with a few blocks
    more or less: its band is what that does.
    """
    if reason := material.shared(no_tone):
        return refused(reason)
    if material.clip.duration_s < MIN_SPREAD_S:
        return refused(too_short(MIN_SPREAD_S))
    levels = db(material.blocks)
    heard = levels[levels > levels.max() - SPREAD_RANGE_DB]
    high, low = np.percentile(heard, [95, LOW_PERCENT])
    above, below = np.percentile(heard, [LOW_PERCENT + WOBBLE, LOW_PERCENT - WOBBLE])
    return measured(float(high - low), band=float(above - below) / 2)


def low_band(material: Material) -> npt.NDArray[np.float64]:
    """Power of the take between 45 and 200 Hz, 2000 values a second (analytic signal, zero phase)."""
    carrier, rate = material.reduced.low, LOW_RATE_HZ
    length = len(carrier)
    size = scipy.fft.next_fast_len(length, real=True)
    bin_hz = rate / size
    top = int((TIGHT_HZ[1] + TIGHT_SKIRT_HZ[1]) / bin_hz) + 2
    hz = np.arange(top) * bin_hz
    rise = np.clip((hz - TIGHT_HZ[0] + TIGHT_SKIRT_HZ[0]) / TIGHT_SKIRT_HZ[0], 0, 1)
    fall = np.clip((TIGHT_HZ[1] + TIGHT_SKIRT_HZ[1] - hz) / TIGHT_SKIRT_HZ[1], 0, 1)
    shape = np.square(np.sin(0.5 * np.pi * rise) * np.sin(0.5 * np.pi * fall))
    band = np.zeros(round(size * TIGHT_RATE_HZ / rate), dtype=np.complex64)
    band[:top] = scipy.fft.rfft(carrier, size)[:top] * shape
    return np.asarray(np.abs(scipy.fft.ifft(band)) ** 2, dtype=np.float64)


def _rings(power: npt.NDArray[np.float64]) -> bool:
    """Whether a note has fallen by less than 15 dB when the next one begins."""
    last = round(RINGS_S * TIGHT_RATE_HZ)
    total = np.cumsum(power)
    running = total[last:] - total[:-last]
    return bool(running[-1] > running.max() * 10 ** (-RINGS_DB / 10)) if len(running) else False


def _tightness(power: npt.NDArray[np.float64]) -> float:
    """Milliseconds between 1 % and 93.7 % of the energy of one note."""
    running = np.cumsum(power)
    if running[-1] <= 0:
        return float("nan")
    share = running / running[-1]
    first, last = np.interp([TIGHT_FROM, TIGHT_TO], share, np.arange(len(share)))
    return float((last - first) * 1000 / TIGHT_RATE_HZ)


def low_tightness_ms(material: Material) -> Outcome:
    """Time in which a muted low note gives 1 to 93.7 % (-12 dB) of its energy, 45 to 200 Hz: median in ms.

    Notes less than 150 ms apart or 20 dB under the loudest are left out; refused where none is left, and where most
    are still sounding when the next one begins: chords that ring are not muted.
    """
    if reason := material.shared(no_notes):
        return refused(reason)
    power = low_band(material)
    times = np.append(material.shared(onsets_of), material.work.duration_s)
    notes: list[tuple[float, float, bool]] = []
    for start, end in itertools.pairwise(times):
        if end - start < MIN_GAP_S:
            continue
        first = int(max(0.0, start - BEFORE_ONSET_S) * TIGHT_RATE_HZ)
        last = int(min(end - BEFORE_ONSET_S, start + 2.0) * TIGHT_RATE_HZ)
        part = power[first:last]
        if part.size > 8:
            notes.append((float(part.sum()), _tightness(part), _rings(part)))
    if not notes:
        return refused(said("no_onsets", "no onsets at least {least_ms:.0f} ms apart", least_ms=1000 * MIN_GAP_S))
    loudest = max(energy for energy, _, _ in notes)
    if db(material.whole.energy(*TIGHT_HZ) / material.whole.energy(20.0, 12000.0)) < MIN_SHARE_DB:
        return refused(said("no_low_notes", "hardly anything between 45 and 200 Hz: no low notes"))
    loud = [(ms, rings) for energy, ms, rings in notes if db(loudest) - db(energy) < QUIET_NOTE_DB and np.isfinite(ms)]
    middle = float(np.median([ms for ms, _ in loud]))
    if middle > MUTED_MAX_S * 1000:
        return refused(
            said("rings_on", "no muted notes: the lows ring on for more than {most_s:g} s", most_s=MUTED_MAX_S)
        )
    if np.mean([rings for _, rings in loud]) > 0.5:
        return refused(said("rings_on", "no muted notes: the lows still ring when the next note begins"))
    return measured(middle)


def _not_six(notes: int) -> Said:
    return said("not_six_strings", "{notes} notes found, six open strings are needed", notes=notes)


def strokes(material: Material) -> list[tuple[float, float]] | Said:
    """Start and end in seconds of the strokes of six open strings, in one round or several; why not, otherwise."""
    times = material.shared(onsets_of)
    if not len(times) or len(times) % STRINGS:
        return _not_six(len(times))
    ends = np.append(times[1:], material.work.duration_s)
    if np.min(ends - times) < STRING_GAP_S:
        return said("too_close", "notes less than {least_s:g} s apart", least_s=STRING_GAP_S)
    return list(zip(times.tolist(), ends.tolist(), strict=True))


def string_balance_db(material: Material) -> Outcome:
    """{"1" to "6": K-weighted level over 1 s of each of six notes re their mean, dB}, in the order played.

    Report it as the change against another take. Refused unless there are six notes 0.6 s apart.
    """
    if material.silent:
        return refused(SILENT)
    found = strokes(material)
    if isinstance(found, Said):
        return refused(found)
    if len(found) != STRINGS:
        return refused(_not_six(len(found)))
    rate = material.work.rate_hz
    weighted = [k_weighted(plane, rate) for plane in material.work.distinct]
    levels = []
    for start, end in found:
        first, last = int(start * rate), int(min(start + STRING_WINDOW_S, end) * rate)
        power = np.mean([np.mean(np.square(plane[first:last], dtype=np.float64)) for plane in weighted])
        levels.append(OFFSET_LUFS + float(db(power)))
    mean = float(np.mean(levels))
    value: Value = {str(i + 1): level - mean for i, level in enumerate(levels)}
    return measured(value)
