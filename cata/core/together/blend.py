"""Two sources of one performance mixed: lag, polarity, the comb that their sum has, and the best level of the second.

What the sum has in each band follows from the band powers of both and from what they share, so every level can be
tried without mixing anything. The comb is that of a lag ``t`` at a level ratio: the first notch lies at 1/(2t) where
both have one polarity and at 1/t where they have not; how deep it is, against what both have without any relation of
phase, follows from their levels there.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.match.features import features_of
from cata.core.match.lag import find_lag
from cata.core.measure.material import Material
from cata.core.resample import for_analysis
from cata.core.together.bands import TINY, Floats, centres, edges, in_db, pair_of, power_of
from cata.said import Said, said

PER_OCTAVE, COMB_PER_OCTAVE = 6, 12
GAINS_DB = np.arange(-40.0, 12.01, 0.1)
HEARD_DB, SAME_SHAPE_DB = 45.0, 0.002
"""Bands so far below the strongest are not judged."""
NOTCHES, LAST_HZ = 8, 8_000.0
DEEPEST_DB = 40.0
NO_LAG_S = 0.5 / ANALYSIS_RATE_HZ
SOUND_CM_S = 34_300.0
HIGHEST_NOTCH_HZ = 6_000.0
"""A comb that begins higher takes nothing from a guitar through a speaker."""
AUDIBLE_NOTCH_DB, FIRST_HEARD_HZ = 6.0, 60.0
WHITE_HZ, WHITENED, REACH_S, PEAK_S = (80.0, 6_000.0), 0.8, 0.03, 0.00125
MOST_RIVAL, LEAST_CLEAR = 0.33, 15.0
"""Of one performance, clean to fuzz, the rival has 0.29 of the peak at most (84 pairs), of two 0.38 at least (120)."""
NOT_ONE = Said("not_one_performance", "these are not two recordings of one performance: a blend has no comb to find")
Polarity = Literal["same", "inverted"]


@dataclass(frozen=True, order=True)
class Sum:
    """The level of the second source that brings a sum nearest to a target: gain in dB, polarity, what is left in dB.

    ``lined_up``: with the lag between the sources taken out first.
    """

    gain_db: float
    polarity: Polarity
    residual_rms_db: float
    lined_up: bool


@dataclass(frozen=True)
class Blend:
    """Two sources: how much later the second is, its polarity, its level, and where the sum loses most.

    ``lag_s`` None where they are not of one performance (``reason``). ``level_db`` is the second's against the first's.
    """

    lag_s: float | None
    polarity: Polarity | None
    level_db: float
    notches_hz: tuple[float, ...]
    notch_depth_db: float | None
    best: Sum | None
    reason: Said | None = None


def blend(first: Clip, second: Clip, target: Clip | Mapping[float, float] | None = None) -> Blend:
    """What blending two recordings of one performance does; with a ``target``, how to come nearest to it.

    A target is a recording, or a curve: levels in dB of bands of one width (third octaves, say) by frequency in Hz.
    """
    a, b = (np.asarray(for_analysis(one).samples.mean(axis=0), dtype=np.float64) for one in (first, second))
    lag_s, polarity, reason = lag_of(a, b)
    of = edges(PER_OCTAVE)
    level_db = float(10 * np.log10((np.mean(b**2) + TINY) / (np.mean(a**2) + TINY)))
    if lag_s is None or polarity is None:
        return Blend(None, None, level_db, (), None, None, reason)
    notches = notches_of(lag_s, polarity)
    depth = depth_of(a, b, notches[0]) if notches else None
    best = None
    if target is not None:
        if isinstance(target, Clip):
            wanted = power_of(np.asarray(for_analysis(target).samples.mean(axis=0), dtype=np.float64), of)
        else:
            wanted = _curve(target, of)
        best = nearest(a, b, lag_s, wanted)
    return Blend(lag_s, polarity, level_db, notches, depth, best)


def _curve(levels_db: Mapping[float, float], of: Floats) -> Floats:
    """Band powers along a curve; nothing beyond its ends, so that nothing is judged there."""
    hz = np.array(sorted(levels_db))
    levels = np.array([levels_db[one] for one in sorted(levels_db)])
    along = np.interp(np.log2(centres(of)), np.log2(hz), levels, left=-np.inf, right=-np.inf)
    return np.asarray(10 ** (along / 10))


def lag_of(a: Floats, b: Floats) -> tuple[float | None, Polarity | None, Said | None]:
    """How much later the second is and its polarity, or why that cannot be told.

    Where the waveforms differ too much for Match (a clean and a driven amplifier), nearly whitened correlation of all
    of them: of one performance it has one peak, of two it has many.
    """
    first, second = (features_of(Material(Clip.of(one, ANALYSIS_RATE_HZ))) for one in (a, b))
    found = find_lag(first, second)
    if found.exact and found.polarity != "cannot tell":
        return found.lag_s, found.polarity, None
    size = scipy.fft.next_fast_len(len(a) + len(b), real=True)
    cross = scipy.fft.rfft(b, size) * np.conj(scipy.fft.rfft(a, size))
    strength = np.abs(cross)
    hz = scipy.fft.rfftfreq(size, 1 / ANALYSIS_RATE_HZ)
    votes = (hz > WHITE_HZ[0]) & (hz < WHITE_HZ[1]) & (strength > 1e-7 * strength.max(initial=0.0))
    curve = scipy.fft.irfft(cross / np.maximum(strength, TINY) ** WHITENED * votes, size)
    reach, near = round(REACH_S * ANALYSIS_RATE_HZ), round(PEAK_S * ANALYSIS_RATE_HZ)
    around = np.concatenate((curve[-reach:], curve[: reach + 1]))
    at = int(np.abs(around).argmax())
    rest = np.abs(around)
    height = float(rest[at])
    clear = height / max(float(np.median(rest)), TINY)
    rest[max(0, at - near) : at + near + 1] = 0.0
    if not height or float(rest.max()) > MOST_RIVAL * height or clear < LEAST_CLEAR:
        return None, None, found.reason or NOT_ONE
    return (at - reach) / ANALYSIS_RATE_HZ, "same" if around[at] > 0 else "inverted", None


def gained(first: Floats, second: Floats, gain: float, lag_s: float = 0.0) -> tuple[Floats, Floats]:
    """What the sum has against both without any relation of phase, in dB, at frequencies in Hz: its comb.

    ``gain`` linear, negative where the second is inverted; ``lag_s`` is taken out first. Where neither is heard (NaN)
    there is nothing to gain or lose.
    """
    of, length = edges(COMB_PER_OCTAVE), max(len(first), len(second))
    a = np.pad(first, (0, length - len(first)))
    both = pair_of(a, shifted(second, lag_s, length), of)
    apart = both.first + gain * gain * both.second
    heard = in_db(apart) > in_db(apart).max() - HEARD_DB
    return centres(of), np.where(heard, in_db(both.of_sum(gain)) - in_db(apart), np.nan)


def notches_of(lag_s: float, polarity: Polarity) -> tuple[float, ...]:
    """Where the sum of two sources has its notches, up to 8 kHz; none where they lie on one sample."""
    if abs(lag_s) < NO_LAG_S:
        return ()
    first = (0.5 if polarity == "same" else 1.0) / abs(lag_s)
    found = [first + n / abs(lag_s) for n in range(NOTCHES)]
    return tuple(hz for hz in found if hz <= LAST_HZ)


def depth_of(a: Floats, b: Floats, hz: float) -> float:
    """How deep a notch is in dB, by the levels of both within an octave of it (or all over, where nothing is there)."""
    near = np.array([hz / 2**0.5, hz * 2**0.5])
    mine, other = power_of(a, near)[0], power_of(b, near)[0]
    if mine < 1e-6 * np.sum(np.square(a)) * len(a) / 2:
        mine, other = float(np.sum(np.square(a))), float(np.sum(np.square(b)))
    ratio = float(np.sqrt((other + TINY) / (mine + TINY)))
    left = abs(1 - ratio) / np.sqrt(1 + ratio**2)
    return float(min(DEEPEST_DB, -20 * np.log10(max(left, 1e-9))))


def shifted(b: Floats, lag_s: float, length: int) -> Floats:
    """The second source moved to where the first is, cut or padded to a length."""
    lag = round(lag_s * ANALYSIS_RATE_HZ)
    found = np.zeros(length)
    start, into = max(0, lag), max(0, -lag)
    count = min(len(b) - start, length - into)
    if count > 0:
        found[into : into + count] = b[start : start + count]
    return found


def nearest(a: Floats, b: Floats, lag_s: float, wanted: Floats) -> Sum:
    """The sum whose spectrum is nearest to a wanted one, its level aside: as recorded or lined up, either polarity."""
    of, length = edges(PER_OCTAVE), max(len(a), len(b))
    first = np.pad(a, (0, length - len(a)))
    judged = in_db(wanted) > in_db(wanted).max() - HEARD_DB
    found: list[tuple[float, float, int, Sum]] = []
    for lined_up, second in ((False, np.pad(b, (0, length - len(b)))), (True, shifted(b, lag_s, length))):
        if lined_up and abs(lag_s) < NO_LAG_S:
            continue
        both = pair_of(first, second, of)
        for polarity, sign in (("same", 1.0), ("inverted", -1.0)):
            gains = sign * 10 ** (GAINS_DB[:, None] / 20)
            off = in_db(both.of_sum(gains))[:, judged] - in_db(wanted)[judged]
            level = off.mean(axis=1)
            left = np.sqrt(np.mean((off - level[:, None]) ** 2, axis=1))
            # Where the shape does not tell (one source twice, lined up), the level of the target does.
            at = int(np.where(left <= left.min() + SAME_SHAPE_DB, np.abs(level), np.inf).argmin())
            one = Sum(float(GAINS_DB[at]), polarity, float(left[at]), lined_up)  # type: ignore[arg-type]
            found.append((round(one.residual_rms_db, 2), round(abs(float(level[at])), 1), at, one))
    return min(found)[-1]


def told(one: Blend) -> list[Said]:
    """What a player does about it."""
    if one.lag_s is None or one.polarity is None:
        return [one.reason or NOT_ONE]
    found = []
    if one.polarity == "inverted":
        found.append(Said("turn_polarity", "The polarities are opposite: turn one of them, or the lows go."))
    if one.notches_hz and one.notches_hz[0] < HIGHEST_NOTCH_HZ:
        later = "second" if one.lag_s > 0 else "first"
        words = "The {later} is {ms:.2f} ms later: move it by that much, or its microphone by {cm:.0f} cm."
        found.append(said("move", words, later=later, ms=abs(one.lag_s) * 1e3, cm=abs(one.lag_s) * SOUND_CM_S))
    else:
        found.append(Said("together", "Both lie together: what is between them takes nothing that a guitar has."))
    heard = [hz for hz in one.notches_hz if hz >= FIRST_HEARD_HZ]
    if heard and one.notch_depth_db is not None and one.notch_depth_db >= AUDIBLE_NOTCH_DB:
        words = "As they lie the sum loses up to {db:.0f} dB at {hz}."
        found.append(said("comb", words, db=one.notch_depth_db, hz=", ".join(f"{hz:.0f}" for hz in heard[:3]) + " Hz"))
    if one.best is not None:
        words = "Nearest to the target with the second at {gain:+.1f} dB, {how}: {left:.1f} dB off on average."
        how = f"{'polarity turned' if one.best.polarity == 'inverted' else 'polarity as it is'}"
        how += ", lined up" if one.best.lined_up else ""
        found.append(said("best", words, gain=one.best.gain_db, how=how, left=one.best.residual_rms_db))
    return found
