"""Which price of an item counts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Protocol, TypeVar

from cata.core.gear import PriceKind

PRICE_ORDER: tuple[PriceKind, ...] = ("new", "offer", "used")
"""Which kind counts where nobody asked for one: a used item is another thing."""


class Dated(Protocol):
    """A price with its kind and day, wherever it is kept."""

    @property
    def kind(self) -> str:
        """New, used or offer."""

    @property
    def price_minor(self) -> int:
        """Minor units of the currency."""

    @property
    def currency(self) -> str:
        """ISO 4217."""

    @property
    def on_date(self) -> str | None:
        """ISO date; empty or None where nobody knows it."""


Price = TypeVar("Price", bound=Dated)


def current_price(prices: Iterable[Price], kinds: Sequence[PriceKind] = PRICE_ORDER) -> Price | None:
    """The price that counts: of the first of some kinds that has any, the newest by its own date.

    When it was entered does not matter, so that price lists give the same whatever order they come in; of two with one
    date it is the lower. A price without a date is older than any with one.
    """
    known = list(prices)
    for kind in kinds:
        mine = [price for price in known if price.kind == kind]
        if mine:
            newest = max(price.on_date or "" for price in mine)
            return min((p for p in mine if (p.on_date or "") == newest), key=lambda p: (p.price_minor, p.currency))
    return None
