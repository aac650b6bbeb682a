"""Money: integer minor units of an ISO 4217 currency."""

from __future__ import annotations

import re
from decimal import Decimal, InvalidOperation
from functools import cache

from iso4217 import Currency

from cata.errors import Invalid

WORDS = {
    "euro": "EUR", "euros": "EUR", "dollar": "USD", "dollars": "USD", "pound": "GBP", "pounds": "GBP", "yen": "JPY",
    "franken": "CHF", "francs": "CHF", "kronor": "SEK", "kroner": "NOK",
}  # fmt: skip
SIGNS = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "zł": "PLN", "₹": "INR"}
MAX_MINOR = 10**12


@cache
def exponent(currency: str) -> int:
    """How many decimals a currency has (2 for EUR, 0 for JPY, 3 for KWD). Invalid for an unknown code."""
    try:
        return Currency(currency).exponent or 0
    except ValueError:
        raise Invalid(
            f"{currency!r} is no currency code of ISO 4217 (such as EUR, USD, GBP, JPY)", "no_currency"
        ) from None


def show_price(price_minor: int, currency: str) -> str:
    """An amount of minor units with its code, e.g. 1,150.00 EUR or 12,500 JPY."""
    decimals = exponent(currency)
    return f"{Decimal(price_minor).scaleb(-decimals):,.{decimals}f} {currency}"


def read_price(text: str, default: str = "EUR") -> tuple[int, str]:
    """(minor units, currency) of a price as people write it: "1.299,00 €", "USD 450", "89,-", "150 Euro".

    Invalid otherwise, with what is wrong: no amount is guessed out of a sentence.
    """
    rest = text.strip()
    currency = default
    for sign, code in SIGNS.items():
        if sign in rest:
            currency, rest = code, rest.replace(sign, " ")
    for word in re.findall(r"[^\W\d_]+", rest):
        if word.casefold() in WORDS:
            currency, rest = WORDS[word.casefold()], rest.replace(word, " ", 1)
    if found := re.search(r"(?<![A-Za-z])[A-Za-z]{3}(?![A-Za-z])", rest):
        currency, rest = found[0].upper(), rest.replace(found[0], " ")
    decimals = exponent(currency)
    return _minor(rest, decimals, text), currency


def _wrong(text: str, why: str) -> Invalid:
    return Invalid(f"{text!r} {why}: write one amount, such as 89.00", "no_price")


def _minor(rest: str, decimals: int, text: str) -> int:
    # "89,-" and "89.--" leave the small coins out.
    rest = re.sub(r"[.,]\s*(?:-{1,2}|[–—])\s*$", "", rest.strip())
    if re.match(r"[-−–]\s*\d", rest):
        raise _wrong(text, "is below zero")
    if len(re.findall(r"\d[\d.,'\s\u00a0\u202f]*", rest)) > 1:
        raise _wrong(text, "holds more than one amount")
    if re.search(r"[^\W\d_]", rest):
        raise _wrong(text, "is not a price")
    compact = re.sub(r"[\s\u00a0\u202f']", "", rest)
    # The last separator is the decimal one if what follows it is no group of three, or the currency has three decimals.
    places = r"\d{1,3}|\d{4,}" if decimals == 3 else r"\d{1,2}|\d{4,}"
    if match := re.fullmatch(rf"(\d{{1,3}}(?:[.,]\d{{3}})*?|\d+)(?:[.,]({places}))?", compact):
        whole = re.sub(r"[.,]", "", match[1])
        amount = f"{whole}.{match[2] or 0}"
    else:
        raise Invalid(
            f"{text!r} is not a price: write an amount such as 89.00, with a currency code where it differs", "no_price"
        )
    try:
        minor = Decimal(amount).scaleb(decimals)
    except InvalidOperation:
        raise Invalid(f"{text!r} is not a price", "no_price") from None
    if minor != int(minor) or not 0 <= minor <= MAX_MINOR:
        raise Invalid(f"{text!r} does not fit: an amount with at most {decimals} decimals", "no_price")
    return int(minor)
