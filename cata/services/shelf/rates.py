"""Rates between currencies: kept with their day, so that amounts of two currencies can be compared."""

from __future__ import annotations

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.money import exponent
from cata.core.rates import Rate as Known
from cata.core.rates import read_rate
from cata.errors import Invalid
from cata.services.shelf.views import RateView
from cata.services.workspace import Workspace, require
from cata.store.tables import Rate


class RateIn(BaseModel):
    """A rate as a person writes it: one unit of ``base`` is ``text`` units of ``quote``."""

    base: str = Field(pattern="^[A-Z]{3}$")
    quote: str = Field(pattern="^[A-Z]{3}$")
    text: str = Field(min_length=1, max_length=40)
    on_date: str = Field(default="", pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    source: str = Field(default="", max_length=200)


def list_rates(ws: Workspace) -> list[RateView]:
    """All rates, the newest first."""
    with ws.reading() as session:
        rows = session.exec(select(Rate).order_by(col(Rate.on_date).desc(), col(Rate.id).desc())).all()
        return [_view(row) for row in rows]


def rates_of(session: Session) -> list[Known]:
    """All rates, for converting."""
    return [Known(row.base, row.quote, read_rate(row.rate), row.on_date) for row in session.exec(select(Rate)).all()]


def set_rate(ws: Workspace, data: RateIn) -> list[RateView]:
    """Note a rate; that of the same pair and day is corrected."""
    exponent(data.base)
    exponent(data.quote)
    if data.base == data.quote:
        raise Invalid("a rate is between two currencies", "one_currency")
    rate = read_rate(data.text)
    with ws.acting("Change a rate") as session:
        day = data.on_date or ws.now()[:10]
        same = select(Rate).where(Rate.base == data.base, Rate.quote == data.quote, Rate.on_date == day)
        row = session.exec(same).first() or Rate(base=data.base, quote=data.quote, rate="", on_date=day)
        row.rate, row.source = f"{rate.normalize():f}", data.source
        session.add(row)
    return list_rates(ws)


def remove_rate(ws: Workspace, rate_id: int) -> list[RateView]:
    """Remove a rate."""
    with ws.acting("Remove a rate") as session:
        session.delete(require(session, Rate, rate_id))
    return list_rates(ws)


def _view(row: Rate) -> RateView:
    return RateView(
        id=row.id or 0, base=row.base, quote=row.quote, rate=row.rate, on_date=row.on_date, source=row.source,
        text=f"1 {row.base} = {row.rate} {row.quote}",
    )  # fmt: skip
