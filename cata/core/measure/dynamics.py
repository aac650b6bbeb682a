"""Dynamics: spread of levels, tightness of muted low notes, balance of the strings."""

from __future__ import annotations

import itertools

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.held import floor_db, smoothed_db, strokes_of
from cata.core.measure.kweight import k_weighted
from cata.core.measure.level import OFFSET_LUFS
from cata.core.measure.material import BLOCK_S, CELL_S, LOW_RATE_HZ, Material, db
from cata.core.measure.nonsense import no_notes, no_tone
from cata.core.measure.onsets import onsets_of
from cata.core.measure.outcome import SILENT, Outcome, Value, measured, refused, too_short
from cata.said import Said, said

MIN_SPREAD_S, LOW_PERCENT = 2.0, 25.0
FEWEST_BLOCKS, TINY_SHARE = 6, 0.1
STRUCK_CELLS, CLEAR_STROKE_DB, MOST_HIDDEN = 20, 10.0, 0.1
HAND_DB, HAND_DRAWS, HAND_SEED, BAND_SDS = 1.0, 24, 3, 1.96

TIGHT_HZ = (45.0, 200.0)
# The band's skirts: steep ones would ring before the note and blur its start.
TIGHT_SKIRT_HZ = (15.0, 30.0)
TIGHT_RATE_HZ = 2000
TIGHT_FROM, TIGHT_TO = 0.01, 0.937
MIN_GAP_S, QUIET_NOTE_DB, BEFORE_ONSET_S = 0.15, 20.0, 0.02
MUTED_MAX_S = 0.6
QUARTILES_SDS, MIDDLE_SD, LEAST_TIGHT_MS = 1.349, 1.25, 1.0
LEAST_GROUP, APART_SHARE = 0.25, 0.35
"""Two groups of a quarter of the strokes each, further apart than a third of their median, are two kinds."""
RINGS_S, RINGS_DB = 0.03, 15.0
MIN_SHARE_DB = -20.0

STRINGS, STRING_GAP_S, STRING_WINDOW_S = 6, 0.6, 1.0


def level_spread_db(material: Material) -> Outcome:
    """95th minus 25th percentile of the levels of what is played, dB: every 50 ms of strokes while they are held.

    Pauses, and what has died away by 20 dB, do not count, so that hiss changes nothing. Refused under 2 s, and where
    the soft strokes lie in the noise. The band is what a hand does that strikes each time 1 dB harder or softer.
    """
    if reason := material.shared(no_tone):
        return refused(reason)
    if material.clip.duration_s < MIN_SPREAD_S:
        return refused(too_short(MIN_SPREAD_S))
    parts = _held_levels(material)
    if sum(map(len, parts)) < FEWEST_BLOCKS:
        return refused(said("little_held", "less than {least_s:g} s of it is held", least_s=FEWEST_BLOCKS * BLOCK_S))
    struck, floor = onset_levels_db(material), material.shared(floor_db)
    if len(struck) and np.mean(struck < floor + CLEAR_STROKE_DB) > MOST_HIDDEN:
        return refused(said("soft_hidden", "the soft strokes are buried in the noise"))
    value = _spread(np.concatenate(parts))
    hand = np.random.default_rng(HAND_SEED).normal(0, HAND_DB, (HAND_DRAWS, len(parts)))
    again = [_spread(np.concatenate([part + by for part, by in zip(parts, row, strict=True)])) for row in hand]
    return measured(value, band=BAND_SDS * float(np.std(again)))


def _spread(levels: npt.NDArray[np.float64]) -> float:
    high, low = np.percentile(levels, [95, LOW_PERCENT])
    return float(high - low)


def _held_levels(material: Material) -> list[npt.NDArray[np.float64]]:
    """Levels of each stroke while it is held, in blocks of 50 ms from its top on; of all of it where none is struck."""
    cells, size = material.cells, round(BLOCK_S / CELL_S)
    noise = 10 ** (material.shared(floor_db) / 10)
    found = []
    for stroke in material.shared(strokes_of):
        count = (stroke.last - stroke.first) // size
        blocks = cells[stroke.first : stroke.first + count * size].reshape(count, size).mean(axis=1)
        found.append(db(np.maximum(blocks - noise, TINY_SHARE * blocks)))
    return [part for part in found if len(part)]


def onset_levels_db(material: Material) -> npt.NDArray[np.float64]:
    """The level of every stroke, 0.1 s from its beginning, noise in it, dB."""
    levels = material.shared(smoothed_db)
    starts = (material.shared(onsets_of) / CELL_S).astype(int)
    return np.array([levels[at : at + STRUCK_CELLS].max() for at in starts if at < len(levels)])


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
    are still sounding when the next one begins: chords that ring are not muted. Refused, too, where strokes are of two
    kinds. The band is that of the median, from how the strokes scatter.
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
    each = np.sort([ms for ms, _ in loud])
    middle = float(np.median(each))
    if middle > MUTED_MAX_S * 1000:
        return refused(
            said("rings_on", "no muted notes: the lows ring on for more than {most_s:g} s", most_s=MUTED_MAX_S)
        )
    if np.mean([rings for _, rings in loud]) > 0.5:
        return refused(said("rings_on", "no muted notes: the lows still ring when the next note begins"))
    if _two_kinds(each):
        return refused(said("two_kinds", "strokes of two kinds: some stop their lows, some ring on"))
    spread = np.subtract(*np.percentile(each, (75, 25))) / QUARTILES_SDS
    return measured(middle, band=BAND_SDS * max(MIDDLE_SD * float(spread) / np.sqrt(len(each)), LEAST_TIGHT_MS))


def _two_kinds(each: npt.NDArray[np.float64]) -> bool:
    """Whether times, in rising order, fall into two groups, so that their median jumps from one into the other."""
    least = max(2, round(LEAST_GROUP * len(each)))
    if len(each) < 2 * least:
        return False
    steps = np.diff(each)[least - 1 : len(each) - least]
    return bool(steps.max(initial=0.0) > APART_SHARE * np.median(each))


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
