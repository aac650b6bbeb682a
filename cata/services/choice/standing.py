"""All of a kind, or of one flight, as they stand for a need: what is known of them, what they cost, their places."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from cata.core.brief import Need
from cata.core.choose.answer import Scope
from cata.core.choose.checks import Noted, checks, wishes
from cata.core.choose.ranking import Candidate, Ranked, rank_on
from cata.core.choose.whole import Whole
from cata.core.money import show_price
from cata.core.pool.links import Link
from cata.core.rates import Rate, convert
from cata.core.shelf.offers import Offer, best_offer
from cata.said import Said
from cata.services.choice.costs import Costs
from cata.services.choice.pooling import Gathered
from cata.services.flights.views import ContenderView
from cata.store.tables import Brief, Flight, Gear

OWNED = "owned"
"""What stands in the place of a price."""
CAN_BE_OFF = ("pedal",)
"""Kinds of gear that a player turns off where they do not help."""


@dataclass(frozen=True)
class Price:
    """The amount that counts, in the brief's currency, as it is written, and what it is; ``old``: only a hint."""

    minor: int
    text: str
    about: str
    old: bool = False


@dataclass(frozen=True)
class Offered:
    """Something to choose: an ``item`` of the shelf, or a ``row`` of a flight, which may be an item too."""

    ident: int
    name: str
    item: Gear | None
    offers: Sequence[Offer]
    price: Price | None
    row: ContenderView | None = None


@dataclass(frozen=True)
class Standing:
    """All of a kind, or of one ``flight``, as they stand for a need."""

    kind: str
    kinds: Sequence[str]
    flight: Flight | None
    brief: Brief | None
    need: Need
    offered: Mapping[int, Offered]
    known: Costs
    gathered: Gathered
    whole: Whole
    apart: Mapping[int, Link | None]
    standing: Sequence[Candidate]
    blind: Mapping[int, list[Said]]
    kept: Sequence[Said] = ()
    left_out: Sequence[Said] = ()
    of_before: bool = False
    """The newest takes are not counted in."""

    @property
    def scope(self) -> Scope:
        """Of whom all this is said."""
        return Scope(len(self.offered), self.kind, self.flight is not None)

    @cached_property
    def ranked(self) -> Sequence[Ranked]:
        """Those that were played and are linked, in order."""
        return rank_on(self.whole, self.need, self.standing, self.known.usual(self.kind, self.need))


def items_of(known: Costs, kind: str, need: Need) -> dict[int, Offered]:
    """All items of a kind as something to choose."""
    return {
        ident: Offered(ident, item.name, item, known.offers[ident], _price(ident, known.offers[ident], need))
        for ident, item in known.items.items()
        if item.kind == kind
    }


def rows_of(rows: Sequence[ContenderView], known: Costs, need: Need) -> dict[int, Offered]:
    """The contenders of a flight as something to choose; the bypass is none."""
    found = {}
    for row in rows:
        if not row.is_bypass:
            offers = known.offers.get(row.gear_id or 0, ())
            price = _price(row.gear_id, offers, need)
            if row.own_price and row.price_minor is not None and row.gear_id not in need.own_items:
                price = _own_price(row, need, known.rates)
            found[row.id] = Offered(row.id, row.name, known.items.get(row.gear_id or 0), offers, price, row)
    return found


def _price(gear_id: int | None, offers: Sequence[Offer], need: Need) -> Price | None:
    """What something costs for this brief: nothing where it is owned, else the best offer of a kind that counts."""
    if gear_id in need.own_items:
        return Price(0, OWNED, "owned already")
    offer = best_offer(offers, need.buys)
    return None if offer is None else Price(offer.price_minor, offer.text, offer.about, offer.old)


def _own_price(row: ContenderView, need: Need, rates: Sequence[Rate]) -> Price | None:
    converted = convert(row.price_minor or 0, row.currency, need.currency, rates)
    if converted is None:
        return None
    return Price(converted.price_minor, show_price(row.price_minor or 0, row.currency), "noted in this flight")


def standing_of(
    kind: str, need: Need, offered: Mapping[int, Offered], known: Costs, told: Gathered, *, kinds: Sequence[str] = (),
    flight: Flight | None = None, brief: Brief | None = None, blind: Mapping[int, list[Said]] = {},
    kept: Sequence[Said] = (), left_out: Sequence[Said] = (), of_before: bool = False,
) -> Standing:  # fmt: skip
    """What can be chosen, with what was gathered of it and what it costs, for a need."""
    whole = Whole(need, told.evidence, can_be_off=kind in CAN_BE_OFF)
    apart = {ident: link for ident, link in whole.apart.items() if ident in offered}
    standing = [
        _candidate(need, one, kind, told.does.get(ident, frozenset()))
        for ident, one in offered.items()
        # Where no sound is asked for, prices are all that is compared.
        if not need.sounds or (ident in told.evidence.nodes and ident not in apart
                               and any(whole.setting_for(ident, sound.key) for sound in need.sounds))
    ]  # fmt: skip
    return Standing(kind, kinds, flight, brief, need, offered, known, told, whole, apart, standing, blind, kept,
                    left_out, of_before)  # fmt: skip


def _candidate(need: Need, one: Offered, kind: str, does: frozenset[str]) -> Candidate:
    item = one.item
    noted = Noted(kind, one.name) if item is None else Noted(item.kind, item.name, item.about, item.specs)
    noted = replace(noted, does=does)
    feel = need.feel.get(item.id or 0) if item is not None else None
    return Candidate(one.ident, one.name, one.price.minor if one.price else None, checks=checks(need, noted),
                     wishes=wishes(need, noted), feel=feel.score if feel is not None else None)  # fmt: skip
