"""Where a take plays other notes than the reference: one wrong chord among right ones, or all of it an octave away.

Pitch classes of a stroke are compared with those of the reference's stroke, as they are and moved by up to six
semitones either way. A device changes how strong partials are, not where they lie: so whatever the device, notes that
are the same fit best unmoved.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.match.chroma import CHROMA_HOP_S, REGISTER_STEP
from cata.core.match.features import Features
from cata.core.match.tempo import Tempo

Floats = npt.NDArray[np.float64]

LEAST_S, MOST_S = 0.45, 1.2
AFTER_ONSET_S = 0.03
BLUR_TENTHS, SEMITONES = 3.0, 6
QUIET_SHARE = 0.1
MOVED_FITS_BETTER, SURELY_BETTER = 0.05, 0.2
"""How much better (cosine, 0 to 1) the moved notes must fit. Of 450 right takes through 45 devices no stroke came above
-0.04; of 252 with a quarter of the phrase moved 246 came above the first, 229 above the second (docs/measures.md)."""

OCTAVE_FITS, MOST_OWN = -0.3, 0.95
STRONG, AROUND_STEPS, LOWEST_MISSING = 0.1, 15, 0.6
"""Of 96 pairs of a string model an octave apart 77 meet both, none the wrong way; of 288 in one register through drives
and compressors one, of 336 of a sampler none. A pedal that takes the lows out leaves them standing out where they are.
"""

HUM_SHARE, HUM_DB = 0.5, -50.0


@dataclass(frozen=True, eq=False)
class Astray:
    """A stretch of the reference's time in which the take plays other notes.

    ``fits`` is how well its notes agree (0 to 1), ``moved_fits`` how well they would if all lay ``semitones`` higher;
    ``wanted`` and ``played`` are the pitch classes of the two where they differ most, in tenths of a semitone above A.
    """

    start_s: float
    end_s: float
    fits: float
    moved_fits: float
    semitones: int
    wanted: Floats
    played: Floats

    @property
    def margin(self) -> float:
        """How much better the moved notes fit."""
        return self.moved_fits - self.fits

    @property
    def surely(self) -> bool:
        """Far beyond what right notes do."""
        return self.margin > SURELY_BETTER


def strokes_of(take: Features) -> Iterator[tuple[float, float]]:
    """Start and end in seconds of strokes, or of as many as fill 0.45 s together; at most 1.2 s of each."""
    times = [float(t) for t in take.onsets_s]
    start: float | None = None
    for time in [*times, take.duration_s]:
        if start is None:
            start = time
        elif time - start >= LEAST_S:
            yield start, min(time, start + MOST_S)
            start = time


def _places(start_s: float, end_s: float) -> npt.NDArray[np.intp]:
    first = int(np.ceil((start_s + AFTER_ONSET_S) / CHROMA_HOP_S))
    return np.arange(first, max(int(end_s / CHROMA_HOP_S), first + 1))


def astray(a: Features, b: Features, tempo: Tempo, tuning_cents: float) -> tuple[Astray, ...]:
    """The strokes of ``a`` in whose place ``b`` plays other notes; neighbours are one stretch."""
    blurred = [
        scipy.ndimage.gaussian_filter(chroma, (0, BLUR_TENTHS), mode=("nearest", "wrap"))
        for chroma in (a.chroma, np.roll(b.chroma, -round(tuning_cents / 10), axis=1))
    ]
    x, y = blurred
    if not len(x) or not len(y) or tempo.ratio is None:
        return ()
    quiet = QUIET_SHARE * float(np.percentile(x.sum(axis=1), 95))
    found: list[Astray] = []
    for start_s, end_s in strokes_of(a):
        here = _places(start_s, end_s)
        there = np.round((here * CHROMA_HOP_S + tempo.shift_s) / tempo.ratio / CHROMA_HOP_S).astype(np.intp)
        both = (here < len(x)) & (there >= 0) & (there < len(y))
        if not both.any() or float(x[here[both]].sum(axis=1).mean()) < quiet:
            continue
        one = _compared(start_s, end_s, x[here[both]].sum(axis=0), y[there[both]].sum(axis=0))
        if one is None:
            continue
        if found and one.semitones == found[-1].semitones and one.start_s - found[-1].end_s < LEAST_S:
            before = found.pop()
            one = replace(max(before, one, key=lambda each: each.margin), start_s=before.start_s, end_s=one.end_s)
        found.append(one)
    return tuple(found)


def octaves(a: Features, b: Features, tuning_cents: float) -> int:
    """1 where ``b`` is surely played an octave above ``a``, -1 where below, else 0.

    Partials of a note and of its octave largely fall together, and a drive adds more. What tells is both: moved by an
    octave they fit nearly as well as unmoved, held against how well the lower take fits itself so moved; and the
    lowest partials of the lower take are missing from the higher one, for a device adds partials and takes none out.
    """
    if _hums(a) or _hums(b):
        return 0
    registers = a.register, np.roll(b.register, -round(tuning_cents / REGISTER_STEP))
    x, y = (_evened(register) for register in registers)
    unmoved = _cosine(x, y)

    def above(low: Floats, high: Floats, evened_low: Floats, evened_high: Floats) -> bool:
        own = min(_an_octave_up(evened_low, evened_low), MOST_OWN)
        fits = (_an_octave_up(evened_low, evened_high) - unmoved) / (1.0 - own)
        return fits > OCTAVE_FITS and _lowest_in(low, high) < LOWEST_MISSING

    up, down = above(*registers, x, y), above(*registers[::-1], y, x)
    return 0 if up == down else 1 if up else -1


def _hums(take: Features) -> bool:
    """Whether the mains are loud enough in a take to be taken for its notes."""
    rest_db = float(np.subtract(*np.percentile(take.blocks_db, (4.0, 95.0)))) if len(take.blocks_db) else 0.0
    return take.hum_share > HUM_SHARE and rest_db > HUM_DB


def _lowest_in(low: Floats, high: Floats) -> float:
    """How far the lowest octave of a take's strong partials stands out in another one too (0 to 1).

    From what lies around them, not from the whole: an equaliser lowers partials and their surroundings alike.
    """
    fine = _fine(low)
    tops = np.flatnonzero((fine[1:-1] > fine[:-2]) & (fine[1:-1] >= fine[2:])) + 1
    tops = tops[fine[tops] > STRONG * fine.max()]
    if not len(tops):
        return 1.0
    tops = tops[tops < tops[0] + 1200 // REGISTER_STEP]
    there = np.minimum(_standing_out(_fine(high))[tops] / _standing_out(fine)[tops], 1.0)
    return float(np.average(there, weights=fine[tops]))


def _standing_out(fine: Floats) -> Floats:
    around = scipy.ndimage.uniform_filter1d(fine, 2 * AROUND_STEPS + 1)
    return np.asarray(scipy.ndimage.maximum_filter1d(fine, 3) / (around + 1e-4 * float(fine.max()) + 1e-30))


def _fine(register: Floats) -> Floats:
    return np.asarray(scipy.ndimage.gaussian_filter1d(register, 24 / REGISTER_STEP))


def _evened(register: Floats) -> Floats:
    """Partials without the tone of a device: divided by the root of what lies around them."""
    fine = _fine(register)
    around = scipy.ndimage.uniform_filter1d(fine, 500 // REGISTER_STEP)
    return np.asarray(fine / np.sqrt(around + 1e-3 * fine.mean() + 1e-30))


def _an_octave_up(low: Floats, high: Floats) -> float:
    step = 1200 // REGISTER_STEP
    return _cosine(low[:-step], high[step:])


def _cosine(x: Floats, y: Floats) -> float:
    energy = float(np.linalg.norm(x) * np.linalg.norm(y))
    return float(x @ y) / energy if energy > 0 else 0.0


def _compared(start_s: float, end_s: float, first: Floats, second: Floats) -> Astray | None:
    moves = [move for move in range(-SEMITONES, SEMITONES + 1) if move]
    fits = _cosine(first, second)
    # Moved down by as much as it plays higher.
    moved = [_cosine(first, np.roll(second, -10 * move)) for move in moves]
    best = int(np.argmax(moved))
    if moved[best] - fits < MOVED_FITS_BETTER:
        return None
    return Astray(start_s, end_s, fits, moved[best], moves[best], first, second)
