"""Sustain: how fast the longest held note dies away."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.measure.held import strokes_of
from cata.core.measure.material import CELL_S, Material, db
from cata.core.measure.noise import Noise, find_noise
from cata.core.measure.nonsense import no_notes
from cata.core.measure.onsets import onsets_of
from cata.core.measure.outcome import Outcome, measured, refused
from cata.said import said

WINDOW_S = 0.05
SKIP_S, FIT_TO_DB, ABOVE_NOISE_DB = 0.05, 25.0, 10.0
STOP_S, STOP_DB, STOP_SOON_S, STOP_SOON_DB = 0.1, 10.0, 0.2, 15.0
MIN_FIT_S, MIN_FALL_DB, MIN_R2, T20_DB = 0.4, 3.0, 0.9, 20.0


UNEVEN = said("uneven", "does not die away evenly: the slope is an average")


def envelope_db(material: Material) -> npt.NDArray[np.float64]:
    """Level in dB every 5 ms: power under a 50 ms Hann window, averaged over channels."""
    window = np.hanning(int(WINDOW_S / CELL_S) + 1)
    if len(material.cells) < len(window):
        return db(material.cells)
    return db(np.convolve(material.cells, window / window.sum(), mode="same"))


def _held_note(material: Material, levels: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The part of the envelope from the top of the note that is held longest to the next onset."""
    times = material.shared(onsets_of)
    if not times.size:
        times = np.zeros(1)
    ends = np.append(times[1:] - 0.03, material.work.duration_s)
    # Silence after a note that was stopped is long too, and no note.
    held = max(material.shared(strokes_of), key=lambda one: one.last - one.first, default=None)
    inside = np.flatnonzero(times <= held.first * CELL_S + CELL_S) if held else np.zeros(0, dtype=int)
    longest = int(inside[-1]) if inside.size else int(np.argmax(ends - times))
    first, last = int(times[longest] / CELL_S), int(ends[longest] / CELL_S)
    note = levels[first:last]
    if not note.size:
        return note
    return np.asarray(note[int(np.argmax(note[: int(0.3 / CELL_S)])) :])


def sustain(material: Material) -> Outcome:
    """{"db_per_s", "t20_s", "status"} of the longest held note.

    A line fitted to the envelope from 50 ms after its top down to -25 dB, the noise + 10 dB or where a hand stops it;
    T20 is the first fall by 20 dB before that. The band is half of what its two halves fall unlike. Status: "ok",
    "longer than the clip" (falls by less than 3 dB, no slope) or "not exponential" (r² < 0.9). Refused with less than
    0.4 s to fit.
    """
    if reason := material.shared(no_notes):
        return refused(reason)
    note = _held_note(material, envelope_db(material))
    if note.size < MIN_FIT_S / CELL_S:
        return refused(said("nothing_held", "no note is held for {least_s:g} s", least_s=MIN_FIT_S))
    noise = material.shared(find_noise)
    top = float(note[0])
    floor = top - FIT_TO_DB
    if isinstance(noise, Noise):
        floor = max(floor, float(db(noise.power)) + ABOVE_NOISE_DB)
    skip = int(SKIP_S / CELL_S)
    # Half a window at the end of a take holds silence that was never played.
    note = note[: max(skip, len(note) - int(WINDOW_S / CELL_S / 2))]
    stopped = _stopped(note)
    note = note[:stopped]
    usable = note[skip:]
    below = np.flatnonzero(usable < floor)
    part = usable[: below[0]] if below.size else usable
    crossing = np.flatnonzero(note <= top - T20_DB)
    t20 = _crossing_s(note, int(crossing[0]), top - T20_DB) if crossing.size else None
    if part.size < MIN_FIT_S / CELL_S:
        return refused(
            said(
                "too_short",
                "less than {least_s:g} s between the top of the note and -25 dB, its end or the noise",
                least_s=MIN_FIT_S,
            )
        )
    time = np.arange(part.size) * CELL_S
    slope, start = np.polyfit(time, part, 1)
    if part[0] - part[-1] < MIN_FALL_DB:
        return measured({"db_per_s": None, "t20_s": None, "status": "longer than the clip"})
    fitted = slope * time + start
    r2 = 1 - float(np.sum((part - fitted) ** 2) / np.sum((part - part.mean()) ** 2))
    status = "ok" if r2 >= MIN_R2 else "not exponential"
    flag = None if r2 >= MIN_R2 else UNEVEN
    return measured({"db_per_s": float(-slope), "t20_s": t20, "status": status}, flag, band=_slope_band(part))


def _stopped(note: npt.NDArray[np.float64]) -> int:
    """The cell in which a hand stops the note: from there it falls by 10 dB in 0.1 s and soon by 15; else its length.

    Not where it has just been struck: picks fall fast.
    """
    span, later = int(STOP_S / CELL_S), int(STOP_SOON_S / CELL_S)
    first = int(SKIP_S / CELL_S) + span
    if len(note) <= first + later:
        return len(note)
    fall = note[first:-later] - note[first + span : len(note) - later + span]
    soon = note[first:-later] - note[first + later :]
    steep = np.flatnonzero((fall > STOP_DB) & (soon > STOP_SOON_DB))
    return first + int(steep[0]) if steep.size else len(note)


def _slope_band(part: npt.NDArray[np.float64]) -> float:
    """Within what a slope is known that the note does not keep: by how much its two halves fall unlike, dB/s."""
    half = len(part) // 2
    slopes = [float(np.polyfit(np.arange(len(one)) * CELL_S, one, 1)[0]) for one in (part[:half], part[half:])]
    return abs(slopes[0] - slopes[1]) / 2


def _crossing_s(note: npt.NDArray[np.float64], index: int, level: float) -> float:
    """Time in seconds after the top at which the envelope first reaches ``level``, interpolated."""
    if index == 0:
        return 0.0
    before, after = note[index - 1], note[index]
    return float((index - 1 + (before - level) / (before - after)) * CELL_S)
