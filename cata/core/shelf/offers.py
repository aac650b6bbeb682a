"""What an item can be had for: the current price of each kind, in the currency that is asked for."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from cata.core.gear import PRICE_NAMES, PriceKind
from cata.core.money import show_price
from cata.core.rates import Rate, convert
from cata.core.shelf.prices import PRICE_ORDER, Dated, current_price

OLD_DAYS = 180
"""After so long a price is no more than a hint."""


@dataclass(frozen=True)
class Offer:
    """A price: in minor units of the currency asked for, and as it was written; ``rate`` is what lies between."""

    price_minor: int
    kind: PriceKind
    written_minor: int
    currency: str
    on_date: str
    source: str
    rate: Rate | None
    old: bool

    @property
    def text(self) -> str:
        """The amount as it was written, with its kind: "95.00 EUR used"."""
        kind = "" if self.kind == "new" else f" {PRICE_NAMES[self.kind]}"
        return show_price(self.written_minor, self.currency) + kind

    @property
    def about(self) -> str:
        """Kind, day, source, and the rate it was converted by."""
        parts = [PRICE_NAMES[self.kind], self.on_date or "no day known", self.source]
        if self.rate is not None:
            shown = f"1 {self.rate.base} = {self.rate.rate.normalize():f} {self.rate.quote}"
            parts.append(f"at {shown} of {self.rate.on_date}")
        return ", ".join(part for part in parts if part)


def offers(prices: Iterable[Dated], currency: str, rates: Sequence[Rate], today: str) -> list[Offer]:
    """The current price of each kind, as far as it is in this currency or a rate leads to it, cheapest first."""
    known = list(prices)
    found = []
    for kind in PRICE_ORDER:
        price = current_price(known, (kind,))
        converted = convert(price.price_minor, price.currency, currency, rates) if price is not None else None
        if price is not None and converted is not None:
            day = price.on_date or ""
            found.append(Offer(converted.price_minor, kind, price.price_minor, price.currency, day,
                               getattr(price, "source", ""), converted.rate, is_old(day, today)))  # fmt: skip
    return sorted(found, key=lambda one: one.price_minor)


def best_offer(found: Sequence[Offer], kinds: Iterable[PriceKind]) -> Offer | None:
    """The cheapest offer of some kinds."""
    wanted = set(kinds)
    return next((one for one in found if one.kind in wanted), None)


def is_old(day: str, today: str) -> bool:
    """True where a price is so old, or of no known day, that it is a hint only."""
    if not day:
        return True
    return (date.fromisoformat(today[:10]) - date.fromisoformat(day[:10])).days > OLD_DAYS
