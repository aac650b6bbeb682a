"""Cutting by silences: which of the sounding stretches of a long recording are the takes?

People talk, tune and noodle between takes. A take is told from them by its likeness: the same phrase comes
again through every contender, noodling and talk do not. Likeness looks at when energy comes in each of several
bands, each band against its own mean, so that a bright fuzz and a dark amplifier playing one phrase are alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.capture.pieces import SURE, Piece
from cata.core.clip import Low
from cata.said import Said, said

HOP_S = 0.01
FRAME_S = 0.05
BAND_EDGES_HZ = (70, 140, 220, 350, 550, 900, 1500, 2500, 3900)
OVER_FLOOR_DB, UNDER_TOP_DB = 12.0, 45.0
GAPS_S = (0.7, 1.0, 1.5, 0.45, 2.2)
"""Rests that end a stretch, the usual one first; the one whose stretches are most alike is taken."""
STEADY_DB = 6.0
MIN_STRETCH_S = 1.0
SHIFT_FRAMES = 6
BLOCK = 4096
"""Frames that are looked at together: hours need no more memory than minutes."""
LENGTH_TOLERANCE = 0.2
PRE_ROLL_S, RING_OUT_S = 0.03, 0.15
ALIKE, CLEARLY_ALIKE, CLEARLY_NOT = 0.62, 0.85, 0.6
CLEAR, MENDS, MENDS_IN_PLACE = 0.8, 0.1, 0.02
LONGER, SHORT, USUAL_SHARE = 0.3, 0.8, 0.5
BEGINS_ALIKE, FALSE_START = 0.75, 0.6
EXACT_COUNT = 0.75

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Stretch:
    """A sounding stretch, in seconds, with its picture in bands, shape (bands, frames)."""

    start_s: float
    end_s: float
    picture: Floats

    @property
    def length_s(self) -> float:
        """Its length in seconds."""
        return self.end_s - self.start_s


def envelope_db(low: Low, rate_hz: int) -> Floats:
    """Level every 10 ms in dBFS (RMS of 20 ms), shape (frames,)."""
    hop = round(HOP_S * rate_hz)
    frames = len(low) // hop
    cells = np.concatenate([
        np.square(low[start * hop : min(start + BLOCK, frames) * hop].reshape(-1, hop), dtype=np.float64).mean(axis=1)
        for start in range(0, max(1, frames), BLOCK)
    ])  # fmt: skip
    smooth = np.convolve(cells, (0.5, 0.5), mode="same") if frames > 1 else cells
    return np.asarray(10 * np.log10(smooth + 1e-12))


def threshold_db(levels: Floats) -> float:
    """The level over which something sounds: over the floor by 12 dB, at most 45 dB under the loudest."""
    floor = float(np.percentile(levels, 5))
    top = float(np.percentile(levels, 99))
    return max(floor + min(OVER_FLOOR_DB, (top - floor) * 0.4), top - UNDER_TOP_DB)


def sounding(levels: Floats, gap_s: float) -> list[tuple[int, int]]:
    """Runs of frames that sound, rests shorter than ``gap_s`` included, at least a second long."""
    loud = levels > threshold_db(levels)
    edges = np.flatnonzero(np.diff(np.concatenate(([0], loud.astype(np.int8), [0]))))
    runs: list[tuple[int, int]] = []
    for start, stop in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        if stop - start < 2:
            continue
        if runs and (start - runs[-1][1]) * HOP_S < gap_s:
            runs[-1] = (runs[-1][0], stop)
        else:
            runs.append((start, stop))
    return [run for run in runs if (run[1] - run[0]) * HOP_S >= MIN_STRETCH_S]


def band_levels(low: Low, rate_hz: int) -> Floats:
    """Compressed band levels every 50 ms, shape (bands, frames)."""
    size = 512
    hop = round(FRAME_S * rate_hz)
    window = np.hanning(size).astype(np.float32)
    edges = np.round(np.array(BAND_EDGES_HZ) * size / rate_hz).astype(int)
    rows = []
    for start in range(0, len(low) // hop + 1, BLOCK):
        first, last = start * hop - size // 2, (start + BLOCK - 1) * hop + size // 2
        part = low[max(0, first) : last].astype(np.float32)
        padded = np.pad(part, (max(0, -first), max(0, min(last, len(low) + size // 2) - len(low))))
        view = np.lib.stride_tricks.sliding_window_view(padded, size)[::hop]
        power = np.abs(np.fft.rfft(view * window, axis=1)) ** 2
        rows.append(np.add.reduceat(power[:, : edges[-1]], edges[:-1], axis=1))
    energy = np.concatenate(rows).T
    floor = energy.max(axis=1, keepdims=True) * 1e-4 + 1e-12
    return np.asarray(np.log10(energy + floor))


def alike(a: Stretch, b: Stretch) -> float:
    """How much two stretches play the same thing, -1 to 1: mean correlation of the bands at the best shift.

    Stretches whose lengths differ by more than a fifth are not alike at all.
    """
    if abs(a.length_s - b.length_s) > LENGTH_TOLERANCE * max(a.length_s, b.length_s):
        return 0.0
    return max(_correlation(a.picture, b.picture, shift) for shift in range(-SHIFT_FRAMES, SHIFT_FRAMES + 1))


def _correlation(a: Floats, b: Floats, shift: int) -> float:
    a, b = (a[:, shift:], b) if shift >= 0 else (a, b[:, -shift:])
    width = min(a.shape[1], b.shape[1])
    if width < 8:
        return 0.0
    x, y = a[:, :width], b[:, :width]
    x = x - x.mean(axis=1, keepdims=True)
    y = y - y.mean(axis=1, keepdims=True)
    norms = np.linalg.norm(x, axis=1) * np.linalg.norm(y, axis=1)
    rho = np.divide((x * y).sum(axis=1), norms, out=np.zeros(len(norms)), where=norms > 1e-9)
    return float(rho.mean())


def _stretches(runs: Sequence[tuple[int, int]], bands: Floats) -> list[Stretch]:
    found = []
    for start, stop in runs:
        begin, end = start * HOP_S, stop * HOP_S
        found.append(Stretch(begin, end, bands[:, round(begin / FRAME_S) : max(round(end / FRAME_S), 1)]))
    return found


def likenesses(stretches: Sequence[Stretch]) -> Floats:
    """How alike any two stretches are, shape (stretches, stretches); 0 with itself."""
    count = len(stretches)
    table = np.zeros((count, count))
    for i in range(count):
        for j in range(i + 1, count):
            table[i, j] = table[j, i] = alike(stretches[i], stretches[j])
    return table


def companions(table: Floats, takes: int) -> Floats:
    """For each stretch how alike its best companions are, shape (stretches,).

    The second best counts from four takes on: two bursts of talk may happen to be alike, three hardly.
    """
    count = len(table)
    rank = 2 if takes >= 4 and count > 2 else 1
    return np.asarray(np.sort(table, axis=1)[:, -rank]) if count > 1 else np.ones(count)


def false_starts(stretches: Sequence[Stretch], table: Floats) -> Floats:
    """For each stretch how surely it is the beginning of a longer one that comes again in full, 0 to 1."""
    found = np.zeros(len(stretches))
    again = [j for j in range(len(stretches)) if table[j].max(initial=0.0) > ALIKE]
    for i, short in enumerate(stretches):
        width = short.picture.shape[1]
        for j in again:
            if width < (1 - LENGTH_TOLERANCE) * stretches[j].picture.shape[1]:
                start = stretches[j].picture[:, : width + SHIFT_FRAMES]
                found[i] = max(found[i], *(_correlation(short.picture, start, n) for n in range(-2, SHIFT_FRAMES + 1)))
    return found


@dataclass(frozen=True)
class _Cut:
    chosen: list[Stretch]
    scores: list[float]
    runner_up: float

    @property
    def weakest(self) -> float:
        return min(self.scores, default=0.0)


def _choose(stretches: Sequence[Stretch], takes: int) -> _Cut:
    table = likenesses(stretches)
    scores = companions(table, takes) + LONGER * _length_rank(stretches)
    scores -= SHORT * _shortness(stretches, scores)
    scores -= np.where(false_starts(stretches, table) > BEGINS_ALIKE, FALSE_START, 0.0)
    order = sorted(range(len(stretches)), key=lambda i: -scores[i])
    chosen = sorted(order[:takes])
    rest = [float(scores[i]) for i in order[takes:]]
    return _Cut([stretches[i] for i in chosen], [float(scores[i]) for i in chosen], max(rest, default=0.0))


def _overlap(a: Stretch, b: Stretch) -> bool:
    return a.start_s < b.end_s and b.start_s < a.end_s


def _length_rank(stretches: Sequence[Stretch]) -> Floats:
    """0 for the shortest to 1 for the longest: what decides where likeness cannot, a phrase that comes only once."""
    lengths = np.array([stretch.length_s for stretch in stretches])
    return np.asarray(np.searchsorted(np.sort(lengths), lengths) / max(len(lengths) - 1, 1))


def _shortness(stretches: Sequence[Stretch], scores: Floats) -> Floats:
    """0 from half the usual length of what is alike on, up to 1 for nothing: short bursts are alike by chance."""
    lengths = np.array([stretch.length_s for stretch in stretches])
    told = scores > ALIKE
    if np.count_nonzero(told) < 2:
        return np.zeros(len(lengths))
    # Half of all the time that alike stretches take is in longer ones than this.
    order = np.argsort(lengths[told])
    time = np.cumsum(lengths[told][order])
    usual = lengths[told][order][int(np.searchsorted(time, time[-1] / 2))]
    return np.asarray(np.clip(1 - lengths / (USUAL_SHARE * usual), 0.0, 1.0))


def cut_by_silences(low: Low, rate_hz: int, takes: int) -> list[Piece]:
    """The ``takes`` stretches that are most alike, in order of time, numbered from 1.

    ``low`` is mono, of single or half precision, shape (samples,). Fewer pieces come back where fewer stretches sound.
    A piece whose likeness does not stand clear of what was left out is flagged.
    """
    levels = envelope_db(low, rate_hz)
    if len(levels) < 100 or float(np.subtract(*np.percentile(levels, (95, 5)))) < STEADY_DB:
        return []
    bands = band_levels(low, rate_hz)
    best: _Cut | None = None
    seen: list[list[tuple[int, int]]] = []
    for gap_s in GAPS_S:
        if (runs := sounding(levels, gap_s)) in seen:
            continue
        seen.append(runs)
        cut = _choose(_stretches(runs, bands), takes)
        if best is None or _merit(cut, takes) > _merit(best, takes) + 0.02:
            best = cut
        if len(best.chosen) == takes and best.weakest > CLEARLY_ALIKE and best.runner_up < CLEARLY_NOT:
            break
    assert best is not None
    best = _mended(best, _stretches(sorted({run for runs in seen for run in runs}), bands))
    return [
        _piece(number, stretch, score, best, takes, len(low) / rate_hz)
        for number, (stretch, score) in enumerate(zip(best.chosen, best.scores, strict=True), start=1)
    ]


def _mended(cut: _Cut, others: Sequence[Stretch]) -> _Cut:
    """A cut whose takes give way to stretches of other gaps that are more like the rest.

    Each first to one in its own place, for a rest beside a take may be shorter than those within another; then the
    least likely to any other, which must be far more alike.
    """
    chosen, scores = list(cut.chosen), list(cut.scores)
    for at in range(len(chosen)) if len(chosen) > 3 else ():
        rest = chosen[:at] + chosen[at + 1 :]
        here = [one for one in others if _overlap(one, chosen[at]) and not any(_overlap(one, two) for two in rest)]
        own = _second(chosen[at], rest)
        likely = [_second(one, rest) for one in here]
        if likely and max(likely) > own + MENDS_IN_PLACE:
            chosen[at], scores[at] = here[int(np.argmax(likely))], scores[at] + max(likely) - own
    while len(chosen) > 3:
        weak = int(np.argmin(scores))
        rest = chosen[:weak] + chosen[weak + 1 :]
        free = [one for one in others if not any(_overlap(one, other) for other in rest)]
        likely = [_second(one, rest) for one in free]
        if not likely or max(likely) < scores[weak] + MENDS:
            break
        chosen[weak], scores[weak] = free[int(np.argmax(likely))], max(likely)
    order = sorted(range(len(chosen)), key=lambda i: chosen[i].start_s)
    return _Cut([chosen[i] for i in order], [scores[i] for i in order], cut.runner_up)


def _second(one: Stretch, rest: Sequence[Stretch]) -> float:
    """How alike the second best companion of a stretch is."""
    return sorted(alike(one, other) for other in rest)[-2]


def _merit(cut: _Cut, takes: int) -> float:
    if not cut.chosen:
        return -1.0
    # Found in full, alike among themselves, and unlike what was left out.
    return len(cut.chosen) / takes + cut.weakest + 0.5 * float(np.mean(cut.scores)) - 0.5 * max(cut.runner_up, 0.0)


def _piece(number: int, stretch: Stretch, score: float, cut: _Cut, takes: int, duration_s: float) -> Piece:
    clear = (score - max(cut.runner_up, 0.2)) / CLEAR
    confidence = float(np.clip(0.5 + 0.5 * min(clear, (score - ALIKE) / 0.2), 0.0, 1.0))
    if cut.runner_up == 0.0 and len(cut.chosen) == takes:
        # Just as many stretches as takes: nothing had to be told apart.
        confidence = max(confidence, EXACT_COUNT)
    flag = None
    if confidence < SURE:
        flag = Said("unlike_others", "unlike the other takes") if score < ALIKE else \
            Said("between_takes", "could be playing between takes")  # fmt: skip
    if len(cut.chosen) < takes:
        confidence = min(confidence, 0.4)
        words = "only {found} of {takes} takes were found"
        flag = flag or said("too_few", words, found=len(cut.chosen), takes=takes)
    start = max(0.0, stretch.start_s - PRE_ROLL_S)
    return Piece(number, start, min(duration_s, stretch.end_s + RING_OUT_S), round(confidence, 3), flag)
