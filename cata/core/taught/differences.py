"""How each contender of a test differs from the others, how audible that is, and how sure.

A difference is told from the middle of the others. It counts where it can be heard and where two performances of one
thing would hardly differ as much: many contenders, readings and tests are looked at, so that single ones must stand
far out. Source of the limits: simulated and played flights of known truth (docs/measures.md).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import inf, sqrt
from statistics import median
from typing import Literal

from cata.core.choose.takes import Scatter
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.measure.registry import BY_KEY, jnd_of
from cata.core.measure.results import Results
from cata.core.motion.told import moves

Sureness = Literal["sure", "likely"]
SURE_SDS, LIKELY_SDS = 4.0, 2.77
UNMEASURED_SURE_SDS = 5.0
"""Where the flight repeats nothing, its playing may scatter more than what is usual."""
FEW = {1: 12.0, 2: 3.0, 3: 2.0, 4: 1.6, 5: 1.4}
"""What a deviation known from few repeats is multiplied with, about as t is to the normal distribution at 99 in 100."""
BAND_SDS = 1.96
MIDDLE_SD = 1.25
"""Standard deviation of a median against that of a mean."""
TOLD = (
    ("equivalent_drive", "percent"), ("level_spread_db", ""), ("sustain", "db_per_s"), ("low_tightness_ms", ""),
)  # fmt: skip
BAND_SD_DB, BAND_JND_DB = 0.8, 1.5
HEARD_DB, FAINT_DB = 28.0, 40.0
"""How far under the loudest third octave a band is heard for sure, and how far it may still be heard."""
MIN_BANDS = 2
NOISE_SD_DB, NOISE_JND_DB = 1.0, 3.0
TONE, NOISE = "tone", "noise_floor_dbfs"
"""What a difference in a band is called, in the place of a reading."""
SAME_MOTION = 0.1
"""Rates and times within a tenth are about one."""
LOWEST, HIGHEST = THIRD_OCTAVES_HZ[0], THIRD_OCTAVES_HZ[-1]


@dataclass(frozen=True)
class Taken:
    """A take of a test: whose it is, and its readings."""

    ident: int
    name: str
    results: Results
    is_bypass: bool = False


@dataclass(frozen=True)
class Difference:
    """By what a contender differs from the middle of the others.

    ``amount`` in the unit of the reading, ``audible`` in just-noticeable differences. ``reading`` is its key, of tone
    "tone" with the bands ``low_hz`` to ``high_hz``, 0 for an open end. ``other`` is the contender that shows it best
    beside it.
    """

    ident: int
    other: int
    reading: str
    amount: float
    audible: float
    sure: Sureness
    low_hz: float = 0.0
    high_hz: float = 0.0

    @property
    def weight(self) -> float:
        """How much it deserves to be told: what is heard well and is sure comes first."""
        return min(self.audible, 6.0) * (1.0 if self.sure == "sure" else 0.4)


def differences(takes: Sequence[Taken], scatter: Mapping[str, Scatter]) -> list[Difference]:
    """The differences of a test that can be trusted, what deserves most to be told first."""
    subjects = [take for take in takes if not take.is_bypass]
    found: list[Difference] = []
    for take in subjects:
        others = [one for one in subjects if one is not take] or [one for one in takes if one is not take]
        if not others:
            continue
        mine = _of_readings(take, others, scatter) + _of_tone(take, others, scatter)
        # Of two contenders what one has more of the other has less: said once.
        found += [one for one in mine if len(subjects) != 2 or one.amount > 0]
    return sorted(found, key=lambda one: -one.weight)


def alike(takes: Sequence[Taken], scatter: Mapping[str, Scatter]) -> list[tuple[int, int]]:
    """Pairs of contenders between which nothing differs that could be trusted."""
    subjects = [take for take in takes if not take.is_bypass]
    return [
        (one.ident, other.ident)
        for index, one in enumerate(subjects)
        for other in subjects[index + 1 :]
        if _shared(one, other)
        and _move_alike(one, other)
        and not (_of_readings(one, [other], scatter) or _of_tone(one, [other], scatter, FAINT_DB, 1))
    ]


def _shared(one: Taken, other: Taken) -> bool:
    """True where both were read well enough for their likeness to mean something."""
    return all(take.results.parts("third_octaves_db") for take in (one, other))


def _move_alike(one: Taken, other: Taken) -> bool:
    """True where both stand still, or both swing at one rate and repeat after one time."""
    if not (moves(one.results) or moves(other.results)):
        return True
    parts = [take.results.parts("motion") for take in (one, other)]
    return all(
        (key in parts[0]) == (key in parts[1])
        and abs(parts[0].get(key, 0.0) - parts[1].get(key, 0.0)) <= SAME_MOTION * parts[0].get(key, 0.0)
        for key in ("rate_hz", "echo_ms", "ring_s")
    )


def sureness(
    difference: float, jnd: float, scatter: Scatter | None, usual_sd: float, others: int, band: float = 0.0
) -> Sureness | None:
    """How sure a difference from the middle of others is; None where it cannot be told from chance, or not be heard."""
    sd = max(scatter.sd if scatter else usual_sd, 0.25 * usual_sd)
    of_both = sd * sqrt(1 + (MIDDLE_SD**2 / others if others > 1 else 1.0))
    off = sqrt(of_both**2 + (band / BAND_SDS) ** 2)
    few = (
        FEW.get(round(scatter.freedom), 1.2 if scatter.freedom < 12 else 1.0)
        if scatter and scatter.freedom < inf
        else 1.0
    )
    sds = abs(difference) / (off * few) if off else inf
    if abs(difference) < jnd or sds < LIKELY_SDS:
        return None
    return "sure" if sds >= (SURE_SDS if scatter else UNMEASURED_SURE_SDS) else "likely"


def _of_readings(take: Taken, others: Sequence[Taken], scatter: Mapping[str, Scatter]) -> list[Difference]:
    found = []
    for key, part in TOLD:
        reading, name = BY_KEY[key], f"{key}.{part}" if part else key
        values = {other.ident: v for other in others if (v := number_of(other, name)) is not None}
        mine = number_of(take, name)
        if mine is None or not values:
            continue
        middle = median(values.values())
        # A share of nothing is nothing: there the usual scatter stands in.
        jnd = jnd_of(reading, middle) or reading.scatter or 1.0
        known = take.results.bands.get(key, 0.0)
        sure = sureness(mine - middle, jnd, scatter.get(name), reading.scatter or jnd, len(values), known)
        if sure:
            other = max(values, key=lambda ident: abs(mine - values[ident]))
            found.append(Difference(take.ident, other, key, mine - middle, abs(mine - middle) / jnd, sure))
    return found + _of_noise(take, others, scatter)


def number_of(take: Taken, name: str) -> float | None:
    """A reading that is a value and no bound."""
    known = take.results.get(name.partition(".")[0])
    return None if known is None or known.bound is not None else take.results.number(name)


def hiss_of(take: Taken) -> float | None:
    """Noise against the playing, dB."""
    noise, loudness = number_of(take, "noise_floor_dbfs"), take.results.number("loudness_lufs")
    return None if noise is None or loudness is None else noise - loudness


def _of_noise(take: Taken, others: Sequence[Taken], scatter: Mapping[str, Scatter]) -> list[Difference]:
    values = {other.ident: v for other in others if (v := hiss_of(other)) is not None}
    mine = hiss_of(take)
    if mine is None or not values:
        return []
    off = mine - median(values.values())
    sure = sureness(off, NOISE_JND_DB, scatter.get("noise_floor_dbfs"), NOISE_SD_DB, len(values))
    other = max(values, key=lambda ident: abs(mine - values[ident]))
    return [Difference(take.ident, other, NOISE, off, abs(off) / NOISE_JND_DB, sure)] if sure else []


def _of_tone(
    take: Taken,
    others: Sequence[Taken],
    scatter: Mapping[str, Scatter],
    reach_db: float = HEARD_DB,
    least: int = MIN_BANDS,
) -> list[Difference]:
    """Runs of neighbouring third octaves in which a take lies over, or under, the middle of the others."""
    mine = take.results.parts("third_octaves_db")
    theirs = [(other, bands) for other in others if (bands := other.results.parts("third_octaves_db"))]
    if not mine or not theirs:
        return []
    middles = {band: median(values) for band in mine if (values := [b[band] for _, b in theirs if band in b])}
    if not middles:
        return []
    loudest = max(max(mine.values()), max(middles.values()))
    heard = {
        hz: max(mine[str(hz)], middles[str(hz)]) > loudest - reach_db for hz in THIRD_OCTAVES_HZ if str(hz) in middles
    }
    runs: list[list[tuple[int, float]]] = []
    for hz in THIRD_OCTAVES_HZ:
        off = mine[str(hz)] - middles[str(hz)] if heard.get(hz) else 0.0
        known = scatter.get(f"third_octaves_db.{hz}")
        sure = sureness(off, BAND_JND_DB, known, BAND_SD_DB, len(theirs)) if off else None
        if sure is None:
            runs.append([])
        elif runs and runs[-1] and runs[-1][-1][1] * off > 0:
            runs[-1].append((hz, off))
        else:
            runs.append([(hz, off)])
    found = []
    for run in (run for run in runs if len(run) >= least):
        off = sum(one for _, one in run) / len(run)
        measured = all(f"third_octaves_db.{hz}" in scatter for hz, _ in run)
        sds = abs(off) / (BAND_SD_DB * sqrt(2))
        sure = "sure" if measured or sds >= 2.5 else "likely"
        key = str(run[len(run) // 2][0])
        other = max(theirs, key=lambda one: (mine[key] - one[1].get(key, mine[key])) * off)[0]
        last = max(hz for hz, is_heard in heard.items() if is_heard)
        first = min(hz for hz, is_heard in heard.items() if is_heard)
        low = 0.0 if run[0][0] == first else run[0][0] / 10**0.05
        high = 0.0 if run[-1][0] == last else run[-1][0] * 10**0.05
        found.append(Difference(take.ident, other.ident, TONE, off, abs(off) / BAND_JND_DB, sure, low, high))
    return sorted(found, key=lambda one: -one.weight)[:2]
