"""How each contender of a test differs from the others, how audible that is, and how sure.

Who differs is named by contrasts: the one that lies apart from all others, by what it differs from the nearest of them;
where nobody lies apart, the two ends. So one fact is told once, and of three of which two are alike the third is named.
A difference counts where it can be heard and where two performances of one thing would hardly differ as much.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from math import inf, sqrt
from statistics import fmean, median

from cata.core.choose.takes import Scatter
from cata.core.comparison import Comparison, Doubt, Sureness, compared, doubt_of, looks_among, usual_sd
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.measure.registry import BY_KEY, jnd_of
from cata.core.measure.results import Results
from cata.core.motion.told import does, move_alike

TOLD = (
    ("equivalent_drive", "percent"), ("level_spread_db", ""), ("sustain", "db_per_s"), ("low_tightness_ms", ""),
)  # fmt: skip
TONE, NOISE = "tone", "noise_floor_dbfs"
"""What a difference in a band is called, in the place of a reading."""
BANDS = BY_KEY["third_octaves_db"]
HEARD_DB, FAINT_DB = 28.0, 40.0
"""How far under the loudest third octave a band is heard for sure, and how far it may still be heard."""
MIN_BANDS = 2
NOISE_SD_DB, NOISE_JND_DB = 1.0, 3.0
BANDS_ALIKE = 3.0
"""So many neighbouring third octaves scatter together."""
MOST_RUNS = 2


@dataclass(frozen=True)
class Taken:
    """A take of a test: whose it is, and its readings."""

    ident: int
    name: str
    results: Results
    is_bypass: bool = False


@dataclass(frozen=True)
class Difference:
    """By what a contender differs from others.

    ``amount`` in the unit of the reading, ``audible`` in just-noticeable differences. ``reading`` is its key, of tone
    "tone" with the bands ``low_hz`` to ``high_hz``, 0 for an open end. ``other`` is the contender that shows it best
    beside it, ``against`` all from which it differs by that or more. ``strong``: only that no repeat measured the
    scatter keeps it from being sure.
    """

    ident: int
    other: int
    reading: str
    amount: float
    audible: float
    sure: Sureness
    low_hz: float = 0.0
    high_hz: float = 0.0
    against: tuple[int, ...] = ()
    strong: bool = False

    @property
    def weight(self) -> float:
        """How much it deserves to be told: what is heard well and is sure comes first."""
        return min(self.audible, 6.0) * (1.0 if self.sure == "sure" or self.strong else 0.4)


def differences(takes: Sequence[Taken], scatter: Mapping[str, Scatter], over: int = 1) -> list[Difference]:
    """The differences of a test that can be trusted, what deserves most to be told first.

    ``over``: of how many tests the readings are means.
    """
    scatter = _of_means(scatter, over)
    subjects = [take for take in takes if not take.is_bypass]
    compare = subjects if len(subjects) > 1 else list(takes)
    if len(compare) < 2:
        return []
    found = [*_of_readings(compare, scatter, over), *_of_tone(compare, scatter, over)]
    # Beside a bypass alone, what differs is told of the contender.
    if len(subjects) == 1:
        found = [one if one.ident == subjects[0].ident else _turned(one) for one in found]
    return sorted(found, key=lambda one: -one.weight)


def _of_means(scatter: Mapping[str, Scatter], over: int) -> Mapping[str, Scatter]:
    return scatter if over == 1 else {key: replace(one, sd=one.sd / sqrt(over)) for key, one in scatter.items()}


def _turned(one: Difference) -> Difference:
    """The same from the other side."""
    return Difference(one.other, one.ident, one.reading, -one.amount, one.audible, one.sure, one.low_hz, one.high_hz,
                      (one.ident,), one.strong)  # fmt: skip


def alike(takes: Sequence[Taken], scatter: Mapping[str, Scatter]) -> list[tuple[int, int]]:
    """Pairs of contenders between which nothing differs that could be trusted."""
    subjects = [take for take in takes if not take.is_bypass]
    return [
        (one.ident, other.ident)
        for one, other in combinations(subjects, 2)
        if _shared(one, other)
        and move_alike(does(one.results), does(other.results))
        and not (_of_readings((one, other), scatter) or _runs(one, [other], scatter, FAINT_DB, 1))
    ]


def _shared(one: Taken, other: Taken) -> bool:
    """True where both were read well enough for their likeness to mean something."""
    return all(take.results.parts("third_octaves_db") for take in (one, other))


def number_of(take: Taken, name: str) -> float | None:
    """A reading that is a value and no bound."""
    known = take.results.get(name.partition(".")[0])
    return None if known is None or known.bound is not None else take.results.number(name)


def hiss_of(take: Taken) -> float | None:
    """Noise against the playing, dB."""
    noise, loudness = number_of(take, "noise_floor_dbfs"), take.results.number("loudness_lufs")
    return None if noise is None or loudness is None else noise - loudness


Contrast = Callable[[int, int, float], Comparison]
"""What the value of one is over that of another: both idents, how many were looked at."""


def _of_readings(takes: Sequence[Taken], scatter: Mapping[str, Scatter], over: int = 1) -> list[Difference]:
    found = []
    for key, part in TOLD:
        reading, name = BY_KEY[key], f"{key}.{part}" if part else key
        values = {take.ident: value for take in takes if (value := number_of(take, name)) is not None}
        bands = {take.ident: take.results.bands.get(key, 0.0) for take in takes}
        if len(values) < 2:
            continue
        usual = usual_sd(name, [take.results for take in takes])
        # A share of nothing is nothing: there the usual scatter stands in.
        jnd = jnd_of(reading, median(values.values())) or usual or 1.0
        doubt = doubt_of((usual or jnd) / sqrt(over), scatter.get(name))

        def contrast(one: int, other: int, looks: float) -> Comparison:
            return compared(values[one] - values[other], jnd, doubt, (bands[one], bands[other]), looks)  # noqa: B023

        found += _contrasts(key, values, contrast)
    noises = {take.ident: value for take in takes if (value := hiss_of(take)) is not None}
    doubt = doubt_of(NOISE_SD_DB / sqrt(over), scatter.get(NOISE))
    found += _contrasts(
        NOISE, noises, lambda one, other, looks: compared(noises[one] - noises[other], NOISE_JND_DB, doubt, looks=looks)
    )
    return found


def _contrasts(key: str, values: Mapping[int, float], contrast: Contrast) -> list[Difference]:
    """Who lies apart from all others, at either end; else the two ends against each other, where they differ."""
    if len(values) < 2:
        return []
    order = sorted(values, key=lambda ident: values[ident])
    looks = looks_among(len(order))
    ends = [(order[-1], order[-2], order[0])]
    if len(order) > 2:
        ends.append((order[0], order[1], order[-1]))
    found = []
    for ident, nearest, farthest in ends:
        one = contrast(ident, nearest, looks)
        if sure := one.sure:
            against = tuple(other for other in order if other != ident)
            found.append(
                Difference(ident, farthest, key, one.amount, one.steps, sure, against=against, strong=one.strong)
            )
    if not found and len(order) > 2:
        one = contrast(order[-1], order[0], looks)
        if sure := one.sure:
            found.append(Difference(order[-1], order[0], key, one.amount, one.steps, sure, against=(order[0],),
                                    strong=one.strong))  # fmt: skip
    return found


def _of_tone(takes: Sequence[Taken], scatter: Mapping[str, Scatter], over: int = 1) -> list[Difference]:
    """Who lies over or under all others in a run of third octaves; else the pair that differs most."""
    found = []
    for take in takes:
        others = [one for one in takes if one is not take]
        mine = _runs(take, others, scatter, over=over)
        # Of two contenders what one has more of the other has less: told once.
        found += [one for one in mine if len(takes) > 2 or one.amount > 0]
    if found or len(takes) == 2:
        return found
    pairs = [
        one
        for a, b in combinations(takes, 2)
        for one in _runs(a, [b], scatter, looks=looks_among(len(takes)), over=over)
    ]
    best = max(pairs, key=lambda one: one.weight, default=None)
    if best is None:
        return []
    return [best if best.amount > 0 else _turned(best)]


def _band_doubt(scatter: Mapping[str, Scatter], key: str, takes: Sequence[Taken], over: int) -> Doubt:
    """What a third octave scatters by: its own repeats beside those of all bands, which say more than two takes do."""
    usual, own = (usual_sd(key, [take.results for take in takes]) or 1.0) / sqrt(over), scatter.get(key)
    if own is None or own.freedom == inf:
        return doubt_of(usual, own)
    known = [one for name, one in scatter.items() if name.startswith(f"{BANDS.key}.")]
    together = sqrt(fmean(one.sd**2 for one in known))
    alike = doubt_of(usual, Scatter(together, own.freedom * len(known) / BANDS_ALIKE))
    return doubt_of(alike.sd, own)


def _runs(
    take: Taken,
    others: Sequence[Taken],
    scatter: Mapping[str, Scatter],
    reach_db: float = HEARD_DB,
    least: int = MIN_BANDS,
    looks: float = 1.0,
    over: int = 1,
) -> list[Difference]:
    """Runs of neighbouring third octaves in which a take lies over all others, or under them."""
    mine = take.results.parts("third_octaves_db")
    theirs = {other.ident: bands for other in others if (bands := other.results.parts("third_octaves_db"))}
    if not mine or not theirs:
        return []
    loudest = max(max(bands.values()) for bands in (mine, *theirs.values()))
    there = [hz for hz in THIRD_OCTAVES_HZ if str(hz) in mine and all(str(hz) in bands for bands in theirs.values())]
    heard = [
        hz for hz in there if max(mine[str(hz)], *(bands[str(hz)] for bands in theirs.values())) > loudest - reach_db
    ]
    runs: list[list[tuple[int, Comparison]]] = []
    for hz in there:
        key = f"third_octaves_db.{hz}"
        gaps = [mine[str(hz)] - bands[str(hz)] for bands in theirs.values()]
        off = min(gaps, key=abs) if len({gap > 0 for gap in gaps}) == 1 else 0.0
        doubt = _band_doubt(scatter, key, (take, *others), over)
        one = compared(off, BANDS.jnd or 0.0, doubt, looks=max(looks, float(len(theirs))))
        if hz not in heard or not one.trusted:
            runs.append([])
        elif runs and runs[-1] and runs[-1][-1][1].amount * off > 0:
            runs[-1].append((hz, one))
        else:
            runs.append([(hz, one)])
    found = []
    for run in (run for run in runs if len(run) >= least):
        off = sum(one.amount for _, one in run) / len(run)
        middle = str(run[len(run) // 2][0])
        other = max(theirs, key=lambda ident: (mine[middle] - theirs[ident][middle]) * off)
        low = 0.0 if run[0][0] == heard[0] else run[0][0] / 10**0.05
        high = 0.0 if run[-1][0] == heard[-1] else run[-1][0] * 10**0.05
        strong = sum(one.strong for _, one in run) * 2 > len(run)
        sure: Sureness = "sure" if strong and all(one.measured for _, one in run) else "likely"
        found.append(Difference(take.ident, other, TONE, off, abs(off) / (BANDS.jnd or inf), sure, low, high,
                                tuple(theirs), strong))  # fmt: skip
    return sorted(found, key=lambda one: -one.weight)[:MOST_RUNS]
