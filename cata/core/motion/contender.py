"""Whether a contender moves or repeats, from all its takes: rate and depth, or the time of its echo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.motion.against import Kind, Moves, moves_between
from cata.core.motion.rate import rate_of
from cata.core.motion.ring import Fall, falls_between, ring_of
from cata.core.motion.track import HOP_S, LAGS_S, STEP, Floats, Track

ECHO_LEAST, FEW_LEAST = 2.75, {1: 10.4, 2: 3.7}
"""From where an echo is believed; what repeats nothing reaches 2.6 over three tests, 3.6 over two, 10.2 in one."""
SHORT_S, SHORT_MORE = 0.15, 1.6
"""A chord through a fuzz repeats as often as the periods of all its strings meet: within 0.15 s as far as 3.4."""
TURN = 0.006
OTHERS_SHARE, SAME_LAG, SAME_TAKE, HALF_SHARE = 0.6, 0.004, 0.001, 0.6
STEPS = 24


@dataclass(frozen=True)
class Heard:
    """A take of a contender: its ``echo`` curve, what moves in it against others of its test, where it falls as slowly
    as they do not, and the others' echo curves."""

    echo: Floats
    moves: tuple[Moves, ...]
    falls: tuple[Fall, ...]
    others: tuple[Floats, ...]


@dataclass(frozen=True)
class Motion:
    """What moves by itself: ``rate_hz`` with the kinds that swing at it, ``level_db`` and ``cents`` peak to peak
    (None: does not), ``echo_s``, after which what is played returns, and ``ring_s``, in which it falls by 60 dB."""

    rate_hz: float | None = None
    kinds: tuple[Kind, ...] = ()
    level_db: float | None = None
    cents: float | None = None
    echo_s: float | None = None
    ring_s: float | None = None

    @property
    def still(self) -> bool:
        """Nothing moves, returns or rings on."""
        return self.rate_hz is None and self.echo_s is None and self.ring_s is None


def heard_of(track: Track, lag_s: float, others: Sequence[tuple[Track, float]]) -> Heard:
    """A take held against others of its test; lags behind the test's reference in seconds."""
    moves = [moves_between(track, other, lag_s - theirs) for other, theirs in others]
    falls = falls_between(track, others[0][0], lag_s - others[0][1]) if others else []
    curves = tuple(other.echo for other, _ in others)
    return Heard(track.echo, tuple(one for one in moves if one is not None), tuple(falls), curves)


def motion_of(takes: Sequence[Heard]) -> Motion:
    """What moves in a contender, what returns, and how it rings on, from its takes of several tests."""
    rate = rate_of([take.moves for take in takes])
    level = cents = None
    if rate is not None:
        if "level" in rate.kinds:
            level = _depth([moves.level_db for take in takes for moves in take.moves[:1]], rate.hz)
        if "pitch" in rate.kinds:
            cents = _depth([moves.cents for take in takes for moves in take.moves[:1]], rate.hz)
    echo = echo_of_all(takes, rate.hz if rate else None)
    # What returns is what falls slowly then.
    ring = None if echo else ring_of([take.falls for take in takes])
    return Motion(rate.hz if rate else None, rate.kinds if rate else (), level, cents, echo, ring)


def _depth(curves: Sequence[Floats], hz: float) -> float:
    """Swing from low to high of what is folded at a rate, the median of the takes."""
    found = []
    for curve in curves:
        told = curve != 0
        if told.sum() < 100:
            continue
        turn = np.arange(len(curve)) * HOP_S * hz % 1.0
        wave = np.exp(2j * np.pi * turn)[told]
        values = curve[told] - curve[told].mean()
        basis = np.stack([part for k in (1, 2, 3) for part in ((wave**k).real, (wave**k).imag)], axis=1)
        weights = np.linalg.lstsq(basis, values, rcond=None)[0]
        fine = np.exp(2j * np.pi * np.arange(STEPS) / STEPS)
        shape = np.stack([part for k in (1, 2, 3) for part in ((fine**k).real, (fine**k).imag)], axis=1) @ weights
        found.append(float(np.ptp(shape)))
    return float(np.median(found)) if found else 0.0


def echo_of_all(takes: Sequence[Heard], rate_hz: float | None = None) -> float | None:
    """The time in seconds after which what is played returns; None where nothing returns at one time.

    ``rate_hz``: at which it moves besides.
    """
    if not takes:
        return None
    curves = np.sort([_best_near(take.echo) for take in takes], axis=0)
    # A sampled note is the same each time, and so repeats in one phrase or the other: the plainest test does not count.
    mine = curves[:-1].mean(axis=0) if len(takes) > 1 else curves[0]
    mine = np.where(LAGS_S < SHORT_S, mine / SHORT_MORE, mine)
    if rate_hz is not None:
        # What moves comes round after whole turns as well.
        turns = LAGS_S * rate_hz
        mine = np.where(np.abs(turns - np.round(turns)) < TURN * turns, 0.0, mine)
    at = int(np.argmax(mine))
    half = _lags_near(LAGS_S[at] / 2, SAME_LAG)
    # Repeats of repeats stand out too, of a tape that wavers as much as the first.
    if half.any() and float(mine[half].max()) > HALF_SHARE * mine[at]:
        at = int(np.flatnonzero(half)[np.argmax(mine[half])])
    if mine[at] < FEW_LEAST.get(len(takes), ECHO_LEAST):
        return None
    near = _lags_near(LAGS_S[at], SAME_LAG)
    theirs = [float(one[near].max()) for take in takes for one in take.others]
    # What all takes show is the phrase, or the room.
    if theirs and float(np.median(theirs)) > max(OTHERS_SHARE * mine[at], 2.0):
        return None
    return float(LAGS_S[at])


def _best_near(echo: Floats) -> Floats:
    """Takes may show a lag a little to either side: a tape wavers."""
    return np.asarray(scipy.ndimage.maximum_filter1d(echo, 2 * round(SAME_TAKE / STEP) + 1))


def _lags_near(lag_s: float, within: float) -> npt.NDArray[np.bool_]:
    return np.asarray(np.abs(np.log(LAGS_S / lag_s)) < within)
