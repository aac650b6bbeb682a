"""Rows that come from elsewhere, held to what Cata itself would have written."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, get_args

from pydantic import BaseModel, ValidationError

from cata.core.brief import Need
from cata.core.card.card import Card
from cata.core.dates import read_day
from cata.core.gear import Control, GearKind, PriceKind
from cata.core.money import exponent
from cata.core.plan.chain import Chain
from cata.core.plan.condition import Condition
from cata.core.rates import read_rate
from cata.core.taste.rounds import Round
from cata.errors import CataError, Refused
from cata.services.bundle.columns import Row
from cata.services.bundle.links import TABLES
from cata.services.card.views import CardIn
from cata.services.plan.cells import OrderKept
from cata.services.plan.setups import Changes

MOST_TEXT = 20_000
MOST_ID = 2**53
DIGEST = 64


def checked(table: str, row: Row, number: int) -> Row:
    """The row as the table has it, all that a new row has filled in. Refused where anything in it cannot be."""
    model = TABLES[table]
    try:
        found = model.model_validate(row).model_dump(mode="json")
        if not isinstance(found["id"], int) or not 0 < found["id"] <= MOST_ID:
            raise ValueError("it has no number")
        for key, value in found.items():
            _check(key, value)
        inside = INSIDE.get(table)
        if inside is not None:
            inside(found)
    except (ValidationError, ValueError, TypeError, KeyError, AttributeError, CataError) as error:
        text = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
        raise Refused(f"the table {table} of the bundle, row {number}: {text[:200]}", "bad_row") from error
    return found


def _check(key: str, value: Any) -> None:
    if isinstance(value, str):
        if len(value) > MOST_TEXT or "\x00" in value:
            raise ValueError(f"{key} is too long, or no text")
        if key == "digest" and value and not _is_digest(value):
            raise ValueError("digest is no SHA-256")
    elif isinstance(value, int) and not isinstance(value, bool) and abs(value) > MOST_ID:
        raise ValueError(f"{key} is far too large")


def _is_digest(text: str) -> bool:
    return len(text) == DIGEST and all(letter in "0123456789abcdef" for letter in text)


def _one(model: type[BaseModel], key: str) -> Callable[[Row], None]:
    """A check that a column holds what a model has."""

    def check(row: Row) -> None:
        if row[key]:
            model.model_validate(row[key])

    return check


def _among(key: str, allowed: Any) -> Callable[[Row], None]:
    def check(row: Row) -> None:
        if row[key] not in get_args(allowed):
            raise ValueError(f"{key} cannot be {row[key]!r}")

    return check


def _all(*checks: Callable[[Row], None]) -> Callable[[Row], None]:
    def check(row: Row) -> None:
        for one in checks:
            one(row)

    return check


def _gear(row: Row) -> None:
    for control in row["controls"]:
        Control.model_validate(control)
    if not all(isinstance(value, int | float | str) for value in row["specs"].values()):
        raise ValueError("a specification in it cannot be")


def _positions(row: Row) -> None:
    for value in row["settings"].values():
        if not 0 <= float(value) <= 1:
            raise ValueError("a knob stands outside its travel")


def _pieces(row: Row) -> None:
    for piece in row["pieces"]:
        if not 0 <= float(piece["start_s"]) <= float(piece["end_s"]):
            raise ValueError("a piece ends before it begins")


def _rate(row: Row) -> None:
    exponent(row["base"])
    exponent(row["quote"])
    read_rate(row["rate"])


def _price(row: Row) -> None:
    exponent(row["currency"])
    read_day(row["on_date"])


def _tasting(row: Row) -> None:
    count = len(row["contenders"])
    for one in row["rounds"]:
        if max(Round.model_validate(one).of) >= count or len(row["digests"]) != count:
            raise ValueError("a round in it asks of what it does not pour")


def _deal(row: Row) -> None:
    exponent(row["currency"])
    read_day(row["on_date"])
    if row["off_minor"] <= 0 or not all(isinstance(one, int) for one in row["items"]):
        raise ValueError("a deal in it cannot be")


INSIDE: Mapping[str, Callable[[Row], None]] = {
    "gear": _all(_among("kind", GearKind), _gear),
    "price": _all(_among("kind", PriceKind), _price),
    "rate": _rate,
    "deal": _deal,
    "brief": _one(Need, "need"),
    "flight": _all(_one(Chain, "chain"), _one(OrderKept, "order")),
    "contender": _all(_one(Changes, "changes"), _positions),
    "test": _one(Condition, "condition"),
    "recording": _pieces,
    "probe": _positions,
    "tasting": _tasting,
    "choice": _all(_one(Need, "need"), _one(Card, "card"), _one(CardIn, "asked")),
}
