"""What items can be had for in a brief's currency."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sqlmodel import Session, col, or_, select

from cata.core.brief import Need
from cata.core.rates import Rate, convert
from cata.core.shelf.offers import Offer, best_offer, offers
from cata.services.flights.views import ContenderView
from cata.services.shelf.prices import prices_of
from cata.services.shelf.rates import rates_of
from cata.store.tables import Gear, Price


@dataclass(frozen=True)
class Costs:
    """Items with all their prices, their offers, cheapest first, and the rates that led to them."""

    items: Mapping[int, Gear]
    prices: Mapping[int, Sequence[Price]]
    offers: Mapping[int, Sequence[Offer]]
    rates: Sequence[Rate]

    def of_contender(self, one: ContenderView, need: Need) -> int | None:
        """What a contender costs: its own price, else the best offer of its item; None where nobody knows."""
        if one.own_price and one.price_minor is not None:
            converted = convert(one.price_minor, one.currency, need.currency, self.rates)
            return converted.price_minor if converted is not None else None
        offer = best_offer(self.offers.get(one.gear_id or 0, ()), need.buys)
        return offer.price_minor if offer is not None else None

    def usual(self, kind: str, need: Need) -> tuple[int, ...]:
        """What the items of a kind cost."""
        mine = (self.offers[ident] for ident, item in self.items.items() if item.kind == kind)
        return tuple(offer.price_minor for one in mine if (offer := best_offer(one, need.buys)) is not None)


def costs_of(session: Session, kind: str, idents: Iterable[int], need: Need, today: str) -> Costs:
    """All items of a kind, and these besides."""
    statement = select(Gear).where(or_(col(Gear.kind) == kind, col(Gear.id).in_(set(idents))))
    items = {item.id or 0: item for item in session.exec(statement).all()}
    rates, prices = rates_of(session), prices_of(session, items)
    found = {ident: offers(mine, need.currency, rates, today) for ident, mine in prices.items()}
    return Costs(items, prices, found, rates)
