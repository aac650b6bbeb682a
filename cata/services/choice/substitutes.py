"""What sounds nearest to an item, under a price."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

from pydantic import BaseModel
from sqlmodel import Session, col, select

from cata.core.brief import Need, Sound, Target, targets_of
from cata.core.choose.evidence import Evidence, asked_of, trait_of
from cata.core.choose.substitutes import BESIDE, REGIONS, TONE, Shows, Substitute, compare
from cata.core.measure.of_flights import MOTION
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Results
from cata.core.motion.told import does, moves
from cata.core.pool.estimate import estimate
from cata.core.pool.seen import Node
from cata.core.shelf.offers import best_offer
from cata.said import Said
from cata.services.brief.needs import need_of
from cata.services.choice.costs import costs_of
from cata.services.choice.counting import gathered
from cata.services.choice.pooling import Gathered
from cata.services.takes.rows import readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Brief, Contender, Gear, Take

MOST = 8
ANY = "any"


class SubstituteView(BaseModel):
    """One that sounds near: how far (just-noticeable differences), what differs, what an equaliser closes (0 to 1)."""

    gear_id: int
    name: str
    price_text: str
    price_minor: int | None
    distance: float
    after: float
    explained: float
    said: Said
    differs: list[Said]


class Substitutes(BaseModel):
    """What sounds nearest to an item, the nearest first. ``lacking``: why nothing can be said."""

    gear_id: int
    found: list[SubstituteView]
    lacking: Said | None = None


@cache
def everything() -> Need:
    """A need that asks for all that substitutes are compared by, in whatever test."""
    keys = [(TONE, part) for part, _ in targets_of(BY_KEY[TONE])] + [("regions_db", part) for part in REGIONS]
    targets = [Target(reading=key, part=part, against="reference") for key, part in keys]
    for key in BESIDE:
        reading, _, part = key.partition(".")
        against = "reference" if BY_KEY[reading].phrase_sd is not None else ""
        targets.append(Target(reading=reading, part=part, against=against))
    return Need(sounds=[Sound(key=ANY, name="Any", targets=targets)])


def substitutes_of(ws: Workspace, gear_id: int, most_minor: int | None = None) -> Substitutes:
    """What sounds nearest to an item; only what is known to cost at most so much, where that is said."""
    with ws.reading() as session:
        item = require(session, Gear, gear_id, "item of gear")
        brief = session.exec(select(Brief)).first()
        need = need_of(session, brief) if brief is not None else Need()
        told = gathered(ws, session, item.kind, everything(), every_test=True)
        costs = costs_of(session, item.kind, (), need, ws.now())
        shows = told.evidence.drawn.get("shows") or _shows(told, _motions(session))
    if gear_id not in told.evidence.nodes:
        alone = Said("not_played", "It was not played in any flight yet.")
        return Substitutes(gear_id=gear_id, found=[], lacking=alone)
    told.evidence.drawn["shows"] = shows
    mine = [shows[node] for node in told.evidence.nodes[gear_id] if node in shows]
    found = []
    for ident, other in costs.items.items():
        if ident == gear_id or ident not in told.evidence.nodes:
            continue
        offer = best_offer(costs.offers[ident], need.buys)
        price = offer.price_minor if offer is not None else None
        if most_minor is not None and (price is None or price > most_minor):
            continue
        theirs = [shows[node] for node in told.evidence.nodes[ident] if node in shows]
        near = [one for wanted in mine for each in theirs if (one := compare(wanted, each)) is not None]
        if near:
            best = min(near, key=lambda one: one.distance)
            found.append(_view(ident, other.name, offer.text if offer else "", price, best))
    lacking = None if found else Said("nothing_near", "Nothing met it in a flight, directly or over others.")
    return Substitutes(gear_id=gear_id, found=sorted(found, key=lambda one: one.distance)[:MOST], lacking=lacking)


def _view(ident: int, name: str, price_text: str, price: int | None, one: Substitute) -> SubstituteView:
    return SubstituteView(gear_id=ident, name=name, price_text=price_text, price_minor=price,
                          distance=round(one.distance, 2), after=round(one.after, 2),
                          explained=round(one.explained, 3), said=one.closes, differs=list(one.told))  # fmt: skip


def _motions(session: Session) -> dict[int, Results]:
    """What items do by themselves, as one of their takes shows it."""
    takes = select(Take.id, Contender.gear_id).join(Contender, col(Contender.id) == Take.contender_id)
    whose = dict(session.exec(takes.where(col(Contender.gear_id).is_not(None))).all())
    known = readings_of(session, [take for take in whose if take], (MOTION.key,))
    return {whose[take] or 0: results for take, results in known.items() if does(results)}


def _shows(told: Gathered, motions: Mapping[int, Results]) -> dict[Node, Shows]:
    """What every node shows of everything, pooled."""
    evidence: Evidence = told.evidence
    found: dict[Node, dict[str, tuple[float, float, float]]] = {}
    (sound,) = everything().sounds
    for target in sound.targets:
        one = estimate(evidence.seen.get(asked_of(sound, target), ()), trait_of(target))
        if one is None:
            continue
        key = f"{target.reading}.{target.part}" if target.part else target.reading
        for at, node in enumerate(one.nodes):
            value = float(one.mean[at])
            found.setdefault(node, {})[key] = value, float(one.cov[at, at]) ** 0.5, evidence.jnd(target, value)
    whose = {node: ident for ident, nodes in evidence.nodes.items() for node in nodes}
    still = Results()
    moving = {node: motions.get(whose.get(node, 0), still) for node in found}
    return {node: Shows(values, does(moving[node]), moves(moving[node])) for node, values in found.items()}
