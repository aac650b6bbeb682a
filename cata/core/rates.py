"""Amounts in another currency, by rates that a person keeps: never by one that nobody wrote down."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal, InvalidOperation

from cata.core.money import exponent
from cata.errors import Invalid

LEAST, MOST = Decimal("1e-6"), Decimal("1e6")


@dataclass(frozen=True)
class Rate:
    """One unit of ``base`` is ``rate`` units of ``quote``, as of a day (ISO date)."""

    base: str
    quote: str
    rate: Decimal
    on_date: str


@dataclass(frozen=True)
class Converted:
    """An amount in minor units of another currency; ``rate`` is what it was converted by, None where nothing was."""

    price_minor: int
    rate: Rate | None


def read_rate(text: str) -> Decimal:
    """A rate as people write it ("0,92", "1.08"). Invalid for anything else, nothing and less, or what is absurd."""
    try:
        rate = Decimal(text.strip().replace(",", "."))
    except InvalidOperation:
        raise Invalid(f"{text!r} is no rate: write what one unit is worth, such as 0.92", "no_rate") from None
    if not rate.is_finite() or not LEAST <= rate <= MOST:
        raise Invalid(f"{text!r} is no rate: write what one unit is worth, such as 0.92", "no_rate")
    return rate


def convert(price_minor: int, currency: str, into: str, rates: Iterable[Rate]) -> Converted | None:
    """An amount in another currency by the newest rate between the two, either way round; None where none is kept."""
    if currency == into:
        return Converted(price_minor, None)
    between = [rate for rate in rates if {rate.base, rate.quote} == {currency, into}]
    if not between:
        return None
    newest = max(between, key=lambda rate: (rate.on_date, rate.base))
    amount = Decimal(price_minor).scaleb(-exponent(currency))
    amount = amount * newest.rate if newest.base == currency else amount / newest.rate
    minor = amount.scaleb(exponent(into)).to_integral_value(ROUND_HALF_EVEN)
    return Converted(int(minor), newest)
