"""A sound made by pointing: from takes that a person likes and dislikes to ranges, with how sure that leaves each."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import nan
from statistics import median
from typing import Annotated

from pydantic import BaseModel, Field
from sqlmodel import col, select

from cata.core.brief import Target, targets_of
from cata.core.choose.takes import Scatter, jnd_at, key_of
from cata.core.choose.words import range_in_words
from cata.core.measure.reading import Reading
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Results
from cata.core.pool.seen import Seen
from cata.errors import Invalid
from cata.said import Said, said
from cata.services.choice.pooling import scatters_of, seen_of
from cata.services.flights.rows import tests_of
from cata.services.match.counted import counted
from cata.services.ranges.views import PointedRange, PointedTake, PointedView
from cata.services.takes.rows import placed_takes
from cata.services.workspace import Workspace
from cata.store.tables import Take

COUNTS, MAY_COUNT = 0.5, 0.25
MOST_RANGES, FEWEST_RANGES = 5, 2
WEIGHTS = ((0.8, 3.0), (0.5, 2.0), (0.25, 1.0), (0.0, 0.5))
MOST_OTHERS = 60
TakeId = Annotated[int, Field(ge=1, le=2**53)]
FAMILIES = ("tone", "drive", "dynamics")
MOST_PARTS = 8


class PointIn(BaseModel):
    """The takes that are liked and that are not, by number."""

    liked: list[TakeId] = Field(default_factory=list, max_length=60)
    disliked: list[TakeId] = Field(default_factory=list, max_length=60)


@dataclass(frozen=True)
class _Heard:
    """A take with what is known of it; ``beside`` are all takes of its test, ``base`` that of the bypass."""

    take: Take
    name: str
    test: str
    results: Results
    beside: Sequence[Results]
    base: Results | None
    scatters: Mapping[str, Scatter]

    def shows(self, target: Target) -> tuple[Seen, str] | None:
        """What it shows of a target, and what that is held against; None where nothing is known for sure."""
        one, key = seen_of("", "", self.take, target, self.results, self.scatters), key_of(target)
        if one is None or one.bound is not None:
            return None
        if not target.against:
            return one, ""
        if self.base is not None and (number := self.base.number(key)) is not None:
            return replace(one, value=one.value - number), "bypass"
        middle = median(number for each in self.beside if (number := each.number(key)) is not None)
        return replace(one, value=one.value - middle), f"middle {self.take.flight_id}"


def point(ws: Workspace, data: PointIn) -> PointedView:
    """What the takes that were pointed at say. Invalid for a take that is pointed at both ways, or has no cell."""
    pointed = [*data.liked, *data.disliked]
    if len(set(pointed)) < len(pointed):
        raise Invalid("a take is either liked or not", "both_ways")
    if not data.liked or not data.disliked:
        word = "one you like" if not data.liked else "one you do not like"
        return PointedView(lacking=said("one_side", "Point at {word}, too: one side alone says where no range ends.",
                                        word=word))  # fmt: skip
    takes = _heard(ws, pointed)
    places = {one.take.id or 0: at for at, one in enumerate(takes)}
    missing = [take for take in pointed if take not in places]
    if missing:
        raise Invalid("only a take that was read and has its cell can be pointed at", "no_cell", take=missing[0])
    return _told(data, takes, places, [_asked(one, part) for one in _telling() for part, _ in targets_of(one)])


def _telling() -> list[Reading]:
    """Readings that say how something sounds, and that the ear follows; not every single third octave."""
    return [
        one for one in BY_KEY.values()
        if one.family in FAMILIES and one.jnd is not None and len(one.parts) <= MOST_PARTS
        and (one.phrase_sd is not None or one.family == "drive")
    ]  # fmt: skip


def _told(data: PointIn, takes: Sequence[_Heard], places: dict[int, int], targets: Sequence[Target]) -> PointedView:
    import numpy as np

    from cata.core.choose import pointing

    chosen = [places[take] for take in (*data.liked, *data.disliked)]
    seen = []
    for at, target in enumerate(targets):
        values, sds = _column(takes, target, chosen)
        seen.append(pointing.Seen(str(at), np.array(values), np.array(sds)))
    found = pointing.point(seen, [places[take] for take in data.liked], [places[take] for take in data.disliked])
    ranges: list[PointedRange] = []
    for one in found.found:
        if one.low is None and one.high is None:
            continue
        enough = one.chance >= MAY_COUNT or len(ranges) < FEWEST_RANGES
        target = _with_ends(targets[int(one.key)], one.low, one.high, one.chance)
        ranges.append(PointedRange(
            target=target, name=_name(target), words=range_in_words(target).words, chance=round(one.chance, 3),
            sure=_sure(one.chance), ends=_ends(target, one.low, one.high),
            proposed=enough and len(ranges) < MOST_RANGES,
        ))  # fmt: skip
    others = [
        PointedTake(take_id=takes[at].take.id or 0, contender=takes[at].name, test=takes[at].test,
                    flight_id=takes[at].take.flight_id,
                    chance=round(share, 3))
        for at, share in found.liked.items()
    ]  # fmt: skip
    ask = min(others, key=lambda one: abs(one.chance - 0.5), default=None)
    return PointedView(ranges=ranges, ask=ask, others=sorted(others, key=lambda one: -one.chance)[:MOST_OTHERS])


def _heard(ws: Workspace, pointed: Sequence[int]) -> list[_Heard]:
    """All takes that count of the flights in which these stand."""
    keys, found = {one.key for one in _telling()}, []
    with ws.reading() as session:
        flights = session.exec(select(Take.flight_id).where(col(Take.id).in_(pointed)).distinct()).all()
        for flight in sorted(flights):
            scatters = scatters_of(session, flight, keys)
            for test in tests_of(session, flight):
                takes = counted(session, placed_takes(session, test.id or 0))
                base = next((results for _, who, results in takes if who.is_bypass), None)
                beside = [results for _, who, results in takes if not who.is_bypass]
                found += [_Heard(take, who.name, test.name, results, beside, base, scatters)
                          for take, who, results in takes if not who.is_bypass]  # fmt: skip
    return found


def _asked(reading: Reading, part: str) -> Target:
    """What is asked of a reading: the difference from the reference where the phrase has a say in it."""
    return Target(reading=reading.key, part=part, against="reference" if reading.phrase_sd is not None else "")


def _column(takes: Sequence[_Heard], target: Target, chosen: Sequence[int]) -> tuple[list[float], list[float]]:
    """Values and deviations of a reading over all takes; those held against something else than most are not known."""
    known = [one.shows(target) for one in takes]
    usual = Counter(shown[1] for at in chosen if (shown := known[at]) is not None).most_common(1)
    kept = [shown[0] if shown is not None and usual and shown[1] == usual[0][0] else None for shown in known]
    return [nan if one is None else one.value for one in kept], [1.0 if one is None else one.sd for one in kept]


Ends = tuple[float, float, float] | None


def _with_ends(target: Target, low: Ends, high: Ends, chance: float) -> Target:
    """A range with the middle of where its ends may lie, as soft there as they are unsure."""
    digits = BY_KEY[target.reading].decimals
    weight = next(weight for least, weight in WEIGHTS if chance >= least)
    soft = {}
    for name, end in (("soft_low", low), ("soft_high", high)):
        if end is not None:
            usual = 3 * jnd_at(target, end[1])
            soft[name] = round(max(usual, end[2] - end[0]), digits + 1)
    begins = None if low is None else round(low[1], digits)
    stops = None if high is None else round(high[1], digits)
    if begins is not None and stops is not None:
        stops = max(begins, stops)
    return target.model_copy(update={"low": begins, "high": stops, **soft, "weight": weight})


def _name(target: Target) -> str:
    reading = BY_KEY[target.reading]
    part = dict(reading.parts).get(target.part, "")
    return f"{reading.name}: {part}" if part and len(targets_of(reading)) > 1 else reading.name


def _ends(target: Target, low: Ends, high: Ends) -> str:
    """Between what the ends lie, half of the time."""
    reading = BY_KEY[target.reading]
    told = [
        f"{word} between {end[0]:.{reading.decimals}f} and {end[2]:.{reading.decimals}f}"
        for word, end in (("begins", low), ("ends", high))
        if end is not None
    ]
    unit = f" {reading.step_unit if target.against else reading.unit}".rstrip()
    return " and ".join(told).replace("-", "\N{MINUS SIGN}") + (unit if told else "")


def _sure(chance: float) -> Said:
    """How surely a range counts, in words."""
    if chance >= COUNTS:
        return said("counts", "counts, {of_100:.0f} of 100", of_100=chance * 100)
    if chance >= MAY_COUNT:
        return said("may_count", "may count, {of_100:.0f} of 100", of_100=chance * 100)
    return said("cannot_tell", "cannot be told yet, {of_100:.0f} of 100", of_100=chance * 100)
