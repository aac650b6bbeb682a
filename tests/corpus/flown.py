"""Takes of one flight as evidence, without a database: what choosing says of contenders whose readings are known."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import hypot

from cata.core.brief import Need
from cata.core.choose.checks import Check
from cata.core.choose.evidence import Asked, Evidence, asked_of
from cata.core.choose.ranking import Candidate, Ranked, rank_on
from cata.core.choose.takes import BAND_SDS, HEARD_SHARE, Scatter, jnd_at, key_of
from cata.core.choose.whole import Whole
from cata.core.measure.outcome import Bound
from cata.core.measure.registry import BY_KEY
from cata.core.pool.seen import NOTHING, Seen


@dataclass(frozen=True)
class Played:
    """The readings of one take, by "reading" or "reading.part", in a test that stands for a sound (empty: any)."""

    test: str
    sound: str
    values: Mapping[str, float]
    bands: Mapping[str, float] = field(default_factory=dict)
    bounds: Mapping[str, Bound] = field(default_factory=dict)


@dataclass(frozen=True)
class Stands:
    """A contender of a flight with its takes."""

    ident: int
    name: str
    price_minor: int | None
    takes: tuple[Played, ...] = ()
    is_bypass: bool = False
    checks: tuple[Check, ...] = ()


def whole_of(
    need: Need, standing: Sequence[Stands], scatter: Mapping[str, Scatter] | None = None, *, can_be_off: bool = False
) -> Whole:
    """All takes of a flight as evidence for a need."""
    seen: dict[Asked, list[Seen]] = defaultdict(list)
    for sound in need.sounds:
        for who, take in ((one, take) for one in standing for take in one.takes if take.sound in ("", sound.key)):
            node = NOTHING if who.is_bypass else f"row {who.ident}"
            for target in sound.targets:
                key = key_of(target)
                if key not in take.values:
                    continue
                value = take.values[key]
                jnd = jnd_at(target, value)
                known = (scatter or {}).get(key) or Scatter(BY_KEY[target.reading].scatter_of(target.part) or jnd)
                sd = max(hypot(known.sd, take.bands.get(key, 0.0) / BAND_SDS), HEARD_SHARE * jnd)
                seen[asked_of(sound, target)].append(
                    Seen(node, "f", take.test, value, sd, known.freedom, take.bounds.get(key), node)
                )
    nodes = {one.ident: [f"row {one.ident}"] for one in standing if not one.is_bypass}
    return Whole(need, Evidence(dict(seen), nodes, one_flight=True), can_be_off=can_be_off)


def rank(
    need: Need, standing: Sequence[Stands], scatter: Mapping[str, Scatter] | None = None, *,
    can_be_off: bool = False, seed: int = 1,
) -> list[Ranked]:  # fmt: skip
    """What was played of a flight, in order."""
    played = [Candidate(one.ident, one.name, one.price_minor, checks=one.checks) for one in standing
              if not one.is_bypass and any(take.values for take in one.takes)]  # fmt: skip
    return rank_on(whole_of(need, standing, scatter, can_be_off=can_be_off), need, played, seed=seed)
