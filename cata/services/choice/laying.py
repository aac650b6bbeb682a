"""A brief and a shelf as a problem: every item a part, what is owned at no price, what must be so as limits."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median
from typing import cast

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.choose.checks import Check, Noted, checks, wishes
from cata.core.choose.whole import Whole
from cata.core.gear import GearKind
from cata.core.pairing.rule import Piece, clashes_of, labels_of
from cata.core.rig.liking import Opinion, liking
from cata.core.rig.parts import TOLD_FIT, Part, Problem, Requires, Slot, Wanted
from cata.core.rig.roles import MOST_OF, PLACE_OF, shares_of, stock_of
from cata.core.shelf.offers import Offer, offers
from cata.said import Said, said
from cata.services.choice.counting import gathered
from cata.services.choice.pooling import Gathered
from cata.services.evidence.items import usual_figures
from cata.services.shelf.deals import bundles_of
from cata.services.shelf.prices import prices_of
from cata.services.shelf.rates import rates_of
from cata.services.workspace import Workspace
from cata.store.tables import Gear

ORDER = ("guitar", "pickup", "pedals", "amplifier", "speaker", "power supply", "cable", "strings")
COMPARED: tuple[GearKind, ...] = ("guitar", "pickup", "pedal", "amplifier", "direct box", "speaker")
UNKNOWN_DRAW_MA = 100.0
"""What a pedal is taken to draw where nobody wrote it down: more than most drives, less than most digital ones."""
UNKNOWN_WIDTH_MM = 75.0
"""How wide a pedal is taken to be where nobody wrote it down: a usual one, with room for its plugs."""
KEPT_AS_IT_IS: Mapping[str, GearKind] = {"pedals": "pedal", "pickup": "pickup"}
"""Places that may be left as they are."""
SWAP = TOLD_FIT / 2
"""So much of the fit must another pickup add, or the guitar keeps its own."""
HARD = ("weight", "must_have", "effect")
"""Codes of checks that no rig may fail; others are cautions."""


@dataclass
class Laid:
    """The problem of a brief, with what is said about its parts; ``offers`` by part, all else by item."""

    problem: Problem
    items: Mapping[int, Gear]
    offers: dict[int, Offer | None] = field(default_factory=dict)
    checks: dict[int, Sequence[Check]] = field(default_factory=dict)
    grounds: dict[GearKind, Whole] = field(default_factory=dict)
    gathered: dict[GearKind, Gathered] = field(default_factory=dict)
    pieces: dict[int, Piece] = field(default_factory=dict)
    opinions: Mapping[int, Opinion] = field(default_factory=dict)
    liked: Mapping[int, float] = field(default_factory=dict)
    without: dict[str, Mapping[str, float]] = field(default_factory=dict)
    """By place, how well each sound is served with nothing bought for it: a pedal off, the guitar's own pickups."""
    notes: list[Said] = field(default_factory=list)


def lay(ws: Workspace, session: Session, need: Need, spendable: int | None, locked: frozenset[int], today: str) -> Laid:
    """The whole shelf as parts of a rig for a need."""
    items = {item.id or 0: item for item in session.exec(select(Gear).where(col(Gear.kind).in_(PLACE_OF))).all()}
    rates = rates_of(session)
    costs = {ident: offers(mine, need.currency, rates, today) for ident, mine in prices_of(session, items).items()}
    laid = Laid(Problem(parts=[], slots=[], sounds=[]), items)
    laid.pieces = pieces_of(session, items.values())
    for kind in COMPARED:
        told = gathered(ws, session, kind, need)
        ground = Whole(need, told.evidence)
        if any(ground.setting_for(ident, sound.key) for ident in ground.evidence.nodes for sound in need.sounds):
            laid.grounds[kind], laid.gathered[kind] = ground, told
    laid.without = _without(laid, need)
    laid.opinions = {ident: _opinion(need, item) for ident, item in items.items()}
    laid.liked = liking(need, laid.opinions)
    known = {PLACE_OF[kind] for kind in laid.grounds}
    parts: list[Part] = []
    for ident, item in items.items():
        seen = laid.gathered.get(cast(GearKind, item.kind))
        moved = seen.does.get(ident, frozenset()) if seen is not None else frozenset()
        laid.checks[ident] = checks(need, replace(_noted(item), does=moved))
        own = ident in need.own_items
        choices: list[Offer | None] = [None] if own else [one for one in costs[ident] if one.kind in need.buys]
        for offer in choices:
            part = _part(laid, item, len(parts) + 1, offer, need)
            laid.offers[part.ident] = offer
            parts.append(part)
    for place in sorted({PLACE_OF[kind] for kind in ("guitar", "pickup", "amplifier", "speaker", "pedal")} - known):
        if any(part.slot == place for part in parts):
            laid.notes.append(said("place_unknown", "nothing is known of how any {place} sounds: it only costs",
                                   place=place.removesuffix("s")))  # fmt: skip
    slots = _slots(laid, parts, need, known)
    laid.problem = Problem(
        parts=parts, slots=slots, sounds=[Wanted(sound.key, sound.weight) for sound in need.sounds],
        budget_minor=spendable, requires=_requires(parts, items),
        bundles=bundles_of(session, need.currency, rates, need.own_items), 
        clashes=clashes_of(list(laid.pieces.values()), need.sounds, need.pairing), base=_base(parts, need),
        locked=locked,
    )  # fmt: skip
    return laid


def pieces_of(session: Session, items: Collection[Gear]) -> dict[int, Piece]:
    """Items as rules of pairing see them, with what was measured of them."""
    probed = usual_figures(session, items)
    return {
        item.id or 0: Piece(item.id or 0, item.name, PLACE_OF[item.kind], item.specs, probed.get(item.id or 0, {}))  # type: ignore[index]
        for item in items
    }


def _part(laid: Laid, item: Gear, ident: int, offer: Offer | None, need: Need) -> Part:
    kind: GearKind = item.kind  # type: ignore[assignment]
    ground = laid.grounds.get(kind)
    place = PLACE_OF[kind]
    fits = {sound.key: ground.fit_for(item.id or 0, sound) for sound in need.sounds} if ground is not None else {}
    without = laid.without.get(place, {})
    # What is on, or is fitted, for no more than anybody would speak of counts as if it were not there.
    fits = {key: fit if key not in without or fit > without[key] + TOLD_FIT else min(fit, without[key])
            for key, fit in fits.items()}  # fmt: skip
    specs = item.specs
    takes: dict[str, float] = {}
    gives: dict[str, float] = {}
    if place == "pedals":
        takes = {"mA": float(specs.get("draw_ma", UNKNOWN_DRAW_MA)), "outlets": 1.0,
                 "board": float(specs.get("width_mm", UNKNOWN_WIDTH_MM))}  # fmt: skip
    elif place == "power supply":
        outputs = float(specs.get("outputs", 1))
        total = specs.get("total_ma", float(specs.get("current_ma", UNKNOWN_DRAW_MA)) * outputs)
        gives = {"mA": float(total), "outlets": outputs}
    failed = {_wish(one) for one in laid.checks[item.id or 0] if one.answer == "no" and one.said.code in HARD}
    return Part(ident=ident, item=item.id or 0, slot=place, price_minor=0 if offer is None else offer.price_minor,
                fits=fits, takes=takes, gives=gives, fails=frozenset(failed),
                labels=labels_of(laid.pieces[item.id or 0]),
                stock=stock_of(place, offer.kind if offer is not None else None),
                liked=laid.liked.get(item.id or 0, 0.0) - (SWAP if place == "pickup" and offer else 0.0))  # fmt: skip


def _noted(item: Gear) -> Noted:
    return Noted(item.kind, item.name, item.about, item.specs)


def _opinion(need: Need, item: Gear) -> Opinion:
    ident, kind = item.id or 0, cast(GearKind, item.kind)
    feel = need.feel.get(ident)
    score = feel.score if feel is not None else None
    return Opinion(PLACE_OF[kind], score, wishes(need, _noted(item)), own=ident in need.own_items)


def _wish(check: Check) -> str:
    """What is asked for of every part, where a check says that one does not have it."""
    if check.said.code == "effect":
        return f"a pedal that does {check.said.numbers['wanted']}"
    if check.said.code == "weight":
        return f"no piece over {check.said.numbers['limit']:g} kg"
    return str(check.said.numbers["demand"])


def _has_speaker(item: Gear) -> bool:
    return any(item.specs.get(key) for key in ("speaker_count", "speaker_size_in", "speaker_sensitivity_db"))


def _slots(laid: Laid, parts: Sequence[Part], need: Need, known: set[str]) -> list[Slot]:
    there = {part.slot for part in parts}
    shares = {sound.key: shares_of(need.role, sound, known & there) for sound in need.sounds}
    return [
        Slot(
            key=place, most=need.most_pedals if place == "pedals" else MOST_OF.get(place, 1),
            # What is owned already is no part of what has to be bought; a pickup is fitted only where it is wanted.
            least=1 if place in ("amplifier", "guitar") else 0,
            share={key: mine[place] for key, mine in shares.items() if place in mine},
            idle=laid.without.get(place, {}),
        )
        for place in ORDER
        if place in there or place == "amplifier"
    ]  # fmt: skip


def _without(laid: Laid, need: Need) -> dict[str, Mapping[str, float]]:
    """How well sounds are served with nothing bought for a place: as the bypass shows it.

    A guitar has pickups. Where nobody played them beside those of the shelf they count as middling ones.
    """
    found: dict[str, Mapping[str, float]] = {}
    for place, kind in KEPT_AS_IT_IS.items():
        ground = laid.grounds.get(kind)
        if ground is not None:
            idle = {sound.key: ground.idle(sound) for sound in need.sounds}
            if place == "pickup":
                idents = [ident for ident in ground.evidence.nodes if ident > 0]
                middle = {one.key: median(ground.fit_for(ident, one) for ident in idents) for one in need.sounds}
                if None in idle.values():
                    laid.notes.append(Said("own_pickups", "what the guitar has counts as a middling pickup"))
                found[place] = {key: middle[key] if fit is None else fit for key, fit in idle.items()}
            else:
                found[place] = {key: fit or 0.0 for key, fit in idle.items()}
    return found


def _requires(parts: Sequence[Part], items: Mapping[int, Gear]) -> list[Requires]:
    """Pedals want power where the shelf has any; an amplifier without a speaker wants one."""
    supplies = frozenset(part.item for part in parts if part.slot == "power supply")
    speakers = frozenset(part.item for part in parts if part.slot == "speaker")
    found = [Requires(item, supplies) for item in sorted({p.item for p in parts if p.slot == "pedals"}) if supplies]
    heads = {p.item for p in parts if items[p.item].kind == "amplifier" and not _has_speaker(items[p.item])}
    return found + [Requires(item, speakers) for item in sorted(heads) if speakers]


def _base(parts: Sequence[Part], need: Need) -> dict[str, float]:
    """Without any power supply on the shelf power is no matter of this rig; without a board its width is none."""
    free = 0.0 if any(part.slot == "power supply" for part in parts) else 1e9
    return {"mA": free, "outlets": free, "board": need.board_mm if need.board_mm is not None else 1e9}
