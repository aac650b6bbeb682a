"""One tone for two takes: a smooth equaliser that brings one to the other, and what it cannot bring.

What a take is in a band is not one level but many: loud and soft, attack and decay. Its levels over time are compared
as distributions, band by band. An equaliser moves each of them as a whole; what is left between the distributions
after that is drive, dynamics and decay. Nothing has to be played in time for this.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from cata.core.choose.takes import BAND_SDS
from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.reading import Reading
from cata.core.measure.regions import THIRD_OCTAVES_HZ, band_edges
from cata.core.measure.registry import BY_KEY, jnd_of
from cata.core.measure.results import Results
from cata.core.resample import for_analysis
from cata.core.together.bands import Floats, centres, edges, in_db, power_of, powers
from cata.said import Said, said

BANDS_HZ = tuple(hz for hz in THIRD_OCTAVES_HZ if 80 <= hz <= 8000)
EDGES_HZ = np.array([band_edges(BANDS_HZ[0])[0], *(band_edges(hz)[1] for hz in BANDS_HZ)])
MOST_DB = 12.0
TAPS, GRID = 8_192, 32_768
FINE_PER_OCTAVE, WEIGHT_DB, BENT = 12.0, 20.0, 0.02
"""Bands to fit, how fast weaker ones count less, and how stiff the curve is."""
FRAME, HOP = 8_192, 4_096
HEARD_DB, SOUNDS_DB, SOUNDS_PERCENT, STRONG_DB = 45.0, 25.0, 25.0, 25.0
SHARES = np.arange(0.1, 0.96, 0.05)
"""Which levels of a band are compared: what is exceeded in so much of the time that something sounds."""
LEAST_MOVE_DB, MOST_MOVES, BELL_OCTAVES, APART_OCTAVES = 1.0, 5, 0.6, 0.8
BESIDE = ("equivalent_drive.percent", "level_spread_db", "sustain.db_per_s")
DEGREES = ((2.0, "a little "), (5.0, ""))
"""Below so many noticed steps; above them it is much."""
ONLY_TONE, AUDIBLE_LEFT_DB = 0.9, 1.5
ALIKE_DB = 0.5
"""Less than this between two takes of one performance is no difference that could be explained."""
AGAIN_DB, AGAIN_MOST_DB, MORE_DB = 1.0, 1.4, 1.8
"""What playing it again leaves between two takes of one and the same thing: usually, in nine of ten, in none of 42."""

ALIKE = "{take} and {reference} differ by less than half a dB."
ALIKE_AGAIN = "{take} and {reference} differ by no more than one of them does when it is played again."
ONLY = "{take} and {reference} differ by their tone only: an equaliser explains {percent:.0f} % of it."
ONLY_ANEW = (
    "{take} and {reference} differ by their tone only: an equaliser leaves no more than playing it again does "
    "({left:.1f} dB)."
)
PERHAPS = "An equaliser leaves {left:.1f} dB between {take} and {reference}: how it was played, or more than tone."
NOT_ONLY = "An equaliser explains {percent:.0f} % of how {take} differs from {reference}; {left:.1f} dB are left."


@dataclass(frozen=True)
class Equaliser:
    """Gains in dB at third octaves (``BANDS_HZ``), within ±12 dB, of no level of their own."""

    gains_db: tuple[float, ...]

    @cached_property
    def impulse(self) -> Floats:
        """Its impulse response at 48 kHz, minimum phase: it adds no delay and no ringing before."""
        hz = np.linspace(0, ANALYSIS_RATE_HZ / 2, GRID // 2 + 1)
        log = np.log(10) / 20 * _curve(np.array(self.gains_db), hz)
        # The cepstrum of a minimum phase is that of its magnitude, folded (Oppenheim and Schafer).
        cepstrum = scipy.fft.irfft(log, GRID)
        cepstrum[1 : GRID // 2] *= 2
        cepstrum[GRID // 2 + 1 :] = 0
        response = scipy.fft.irfft(np.exp(scipy.fft.rfft(cepstrum)), GRID)[:TAPS]
        return np.asarray(response * _fade_out(TAPS))

    def apply(self, clip: Clip) -> Clip:
        """A clip through it, at 48 kHz and of the same length."""
        work = for_analysis(clip)
        shaped = scipy.signal.fftconvolve(work.samples.astype(np.float64), self.impulse[None], axes=1)
        return Clip.of(shaped[:, : work.length].astype(np.float32), work.rate_hz)


@dataclass(frozen=True)
class Move:
    """One turn of an equaliser: a bell about an octave wide."""

    hz: int
    db: float


@dataclass(frozen=True)
class Remains:
    """What lies between a take and a reference, and how much of it an equaliser explains.

    ``apart_db`` and ``remains_db`` are root mean squares over bands and levels, before and after the equaliser; where
    takes were played ``anew`` both hold what playing it again does.
    """

    equaliser: Equaliser
    moves: tuple[Move, ...]
    apart_db: float
    remains_db: float
    anew: bool = False

    @property
    def explained(self) -> float | None:
        """The share of the squared difference that is gone, playing it again aside; None where they are alike."""
        again, least = (AGAIN_DB, AGAIN_MOST_DB) if self.anew else (0.0, ALIKE_DB)
        if self.apart_db < least:
            return None
        return 1.0 - min(1.0, max(0.0, self.remains_db**2 - again**2) / (self.apart_db**2 - again**2))


def _fade_out(count: int) -> Floats:
    fade = np.ones(count)
    quarter = count // 4
    fade[-quarter:] = 0.5 + 0.5 * np.cos(np.pi * np.arange(quarter) / quarter)
    return fade


def _curve(gains_db: Floats, hz: Floats) -> Floats:
    """Gains between third octaves, smoothly over the logarithm of frequency; even beyond the outer ones."""
    at = np.log2(np.maximum(hz, 10.0))
    known = np.log2(np.array(BANDS_HZ, dtype=float))
    curve = scipy.interpolate.PchipInterpolator(known, gains_db)(np.clip(at, known[0], known[-1]))
    return np.asarray(curve)


def _mono(clip: Clip) -> Floats:
    return np.asarray(for_analysis(clip).samples.mean(axis=0), dtype=np.float64)


def equaliser(take: Clip, reference: Clip) -> Equaliser:
    """The smooth equaliser that brings a take's tone to that of a reference, as far as 12 dB go.

    Fitted to narrow bands in which both have something, so that what lies beside a strong string is not turned up for
    it; bent no more than it must be.
    """
    fine = edges(FINE_PER_OCTAVE, EDGES_HZ[0], EDGES_HZ[-1])
    mine, wanted = (in_db(power_of(_mono(one), fine)) for one in (take, reference))
    heard = (mine > mine.max() - HEARD_DB) & (wanted > wanted.max() - HEARD_DB)
    # A band counts by how strong the weaker of both is in it.
    weight = np.where(heard, 10 ** (np.minimum(mine - mine.max(), wanted - wanted.max()) / WEIGHT_DB), 0.0)
    count, known = len(BANDS_HZ), np.log2(np.array(BANDS_HZ, dtype=float))
    shape = np.array([np.interp(np.log2(centres(fine)), known, one) for one in np.eye(count)]).T
    design = np.hstack([shape, np.ones((len(fine) - 1, 1))])
    bends = np.hstack([np.diff(np.eye(count), 2, axis=0), np.zeros((count - 2, 1))])
    level = np.append(np.full(count, 1e-3), 0.0)
    both = (design.T * weight) @ design + BENT * weight.sum() / len(weight) * bends.T @ bends + np.diag(level)
    gains = np.linalg.solve(both, (design.T * weight) @ (wanted - mine))[:count]
    # Its level is nobody's: the one that leaves most of it alone is the one somebody would set.
    gains = np.clip(gains - np.median(gains), -MOST_DB, MOST_DB)
    return Equaliser(tuple(float(round(one, 3)) for one in gains))


def _levels(clip: Clip) -> Floats:
    """Levels in dB of third octaves over time where something sounds, (bands, frames)."""
    _, _, spectrum = scipy.signal.stft(
        _mono(clip), ANALYSIS_RATE_HZ, "hann", FRAME, FRAME - HOP, boundary=None, padded=False
    )
    frames = np.array([powers(one, EDGES_HZ) for one in (np.abs(spectrum) ** 2).T]).T
    levels = in_db(frames)
    # Against what each band reaches itself, so that an equaliser does not change what counts as sounding.
    reached = np.quantile(levels, 0.98, axis=1)
    strong = reached > reached.max() - HEARD_DB
    # A quarter of its bands must: where something is weak its noise alone is near what it reaches.
    sounds = np.percentile(levels[strong] - reached[strong, None], 100 - SOUNDS_PERCENT, axis=0) > -SOUNDS_DB
    return np.asarray(levels[:, sounds])


def remains(take: Clip, reference: Clip, *, anew: bool = False) -> Remains:
    """How a take differs from a reference, and what is left of that after an equaliser.

    ``anew``: each was played by itself; else they are one performance.
    """
    found = equaliser(take, reference)
    wanted = np.quantile(_levels(reference), SHARES, axis=1).T
    apart, left = (_apart(np.quantile(_levels(one), SHARES, axis=1).T, wanted) for one in (take, found.apply(take)))
    return Remains(found, moves(found), apart, left, anew)


def _apart(mine: Floats, wanted: Floats) -> float:
    """Root mean square between two distributions, their overall level aside; what is under the floor is at it."""
    strong = (mine > mine.max() - STRONG_DB) & (wanted > wanted.max() - STRONG_DB)
    mine = mine - (mine - wanted)[strong].mean() if strong.any() else mine
    floor = wanted.max() - HEARD_DB
    counts = (wanted > floor) | (mine > floor)
    off = (np.maximum(mine, floor) - np.maximum(wanted, floor))[counts]
    return float(np.sqrt(np.mean((off - off.mean()) ** 2)))


def moves(of: Equaliser) -> tuple[Move, ...]:
    """The few turns that make up most of an equaliser, the largest first."""
    octaves = np.log2(np.array(BANDS_HZ, dtype=float))
    rest, found, free = np.array(of.gains_db), list[Move](), np.ones(len(octaves), dtype=bool)
    for _ in range(MOST_MOVES):
        # Two turns so near to each other are one that nobody would make.
        at = int(np.where(free, np.abs(rest), 0.0).argmax())
        if abs(rest[at]) < LEAST_MOVE_DB:
            break
        found.append(Move(BANDS_HZ[at], float(round(rest[at], 1))))
        free &= np.abs(octaves - octaves[at]) > APART_OCTAVES
        rest = rest - rest[at] * np.exp(-(((octaves - octaves[at]) / BELL_OCTAVES) ** 2))
    return tuple(found)


def told(one: Remains, take: str, reference: str) -> list[Said]:
    """How much of a difference is tone, and the moves that take it away."""
    names = {"take": take, "reference": reference}
    if one.explained is None:
        return [said("alike", ALIKE_AGAIN if one.anew else ALIKE, **names)]
    turns = ", ".join(f"{move.db:+.0f} dB around {_hz(move.hz)}".replace("-", "\N{MINUS SIGN}") for move in one.moves)
    numbers = {"percent": 100 * one.explained, "left": one.remains_db}
    only = one.remains_db < (AGAIN_MOST_DB if one.anew else AUDIBLE_LEFT_DB)
    if only and (one.anew or one.explained >= ONLY_TONE):
        found = [said("only_tone", ONLY_ANEW if one.anew else ONLY, **names, **numbers)]
    elif one.anew and one.remains_db < MORE_DB:
        found = [said("perhaps_only_tone", PERHAPS, **names, **numbers)]
    else:
        found = [said("not_only_tone", NOT_ONLY, **names, **numbers)]
    return [*found, Said("moves", f"For {take}: {turns}.")] if turns else found


def told_beside(take: Results, reference: Results, keys: Sequence[str] = BESIDE, *, anew: bool = False) -> list[Said]:
    """What no equaliser changes: drive, dynamics and decay of a take against a reference, where it can be heard.

    Of takes that were played ``anew`` only what is more than playing it again does.
    """
    found, off = [], dict[str, float]()
    for key in keys:
        mine, wanted = take.number(key), reference.number(key)
        reading = BY_KEY[key.partition(".")[0]]
        if mine is None or wanted is None:
            continue
        again = _again(reading, take, reference) if anew else 0.0
        if abs(mine - wanted) < max(jnd_of(reading, wanted) or 0.0, again):
            continue
        off[key] = mine - wanted
        found.append(_amount(reading, mine - wanted, jnd_of(reading, wanted) or 1.0))
    return [Said("beside_tone", f"Besides its tone: {', '.join(found)}.", off)] if found else []


def _amount(reading: Reading, off: float, jnd: float) -> str:
    """By how much: in the reading's unit, or in words where it has none that says anything to anybody."""
    word = reading.more if off > 0 else reading.less
    if reading.step_unit:
        return f"{word} by {abs(off):.{reading.decimals}f} {reading.step_unit}"
    return next((f"{degree}{word}" for steps, degree in DEGREES if abs(off) < steps * jnd), f"much {word}")


def _again(reading: Reading, *takes: Results) -> float:
    """What a reading of two takes of one and the same thing differs by less than, 19 times in 20."""
    bands = [(one.bands.get(reading.key) or 0.0) / BAND_SDS for one in takes]
    return BAND_SDS * float(np.hypot.reduce([*bands, *[reading.scatter or 0.0] * len(takes)]))


def _hz(hz: int) -> str:
    return f"{hz / 1000:g} kHz" if hz >= 1000 else f"{hz} Hz"
