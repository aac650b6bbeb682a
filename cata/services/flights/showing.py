"""Rows and columns as pages show them: with letters, prices and knobs."""

from __future__ import annotations

from itertools import count

from sqlmodel import Session, col, select

from cata.core.gear import PRICE_NAMES, Control, show_position
from cata.core.money import exponent, show_price
from cata.core.names import nearest
from cata.core.shelf.prices import current_price
from cata.services.flights.rows import contenders_of
from cata.services.flights.views import ContenderView, SettingView, TestView
from cata.services.shelf.prices import prices_of
from cata.store.tables import Contender, Gear, Price, Test

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmn"


def _contender(contender: Contender, index: int, number: int, gear: Gear | None, prices: list[Price]) -> ContenderView:
    price, currency, own = contender.price_minor, contender.currency, contender.price_minor is not None
    best = current_price(prices) if price is None else None
    if best is not None:
        price, currency = best.price_minor, best.currency
    used = " used" if best is not None and best.kind == "used" else ""
    controls = [Control.model_validate(c) for c in gear.controls] if gear else []
    return ContenderView(
        id=contender.id or 0,
        name=contender.name,
        letter=LETTERS[index % len(LETTERS)],
        number=number,
        colour=contender.colour,
        position=contender.position,
        is_bypass=contender.is_bypass,
        gear_id=contender.gear_id,
        price_minor=price,
        own_price=own,
        currency=currency,
        decimals=exponent(currency),
        price_text="" if price is None else show_price(price, currency) + used,
        price_about=_about(best) if best else "",
        settings=[setting_view(control, contender.settings.get(control.key)) for control in controls],
    )


def _about(price: Price) -> str:
    """Which of an item's prices this is, and of when."""
    kind = PRICE_NAMES[price.kind]  # type: ignore[index]
    return ", ".join(filter(None, (kind, price.on_date or "no day known", price.source)))


NOT_NOTED = "not noted"


def setting_view(control: Control, position: float | None) -> SettingView:
    """A knob at its position, as its scale shows it; None where nobody noted it."""
    return SettingView(
        key=control.key,
        name=control.name,
        text=NOT_NOTED if position is None else show_position(control, position),
        position=control.default if position is None else position,
        scale=control.scale,
        labels=control.labels,
        noted=position is not None,
    )


def contender_views(session: Session, flight_id: int) -> list[ContenderView]:
    """The rows of a flight with letters, prices and knobs."""
    rows = contenders_of(session, flight_id)
    wanted = {row.gear_id for row in rows if row.gear_id is not None}
    items = {item.id or 0: item for item in session.exec(select(Gear).where(col(Gear.id).in_(wanted))).all()}
    prices = prices_of(session, items)
    views = [
        _contender(row, index, number, items.get(row.gear_id or 0), prices.get(row.gear_id or 0, []))
        for index, (row, number) in enumerate(zip(rows, _numbers(rows), strict=True))
    ]
    alone = [view for view in views if view.gear_id is None and not view.is_bypass]
    if alone:
        _offer(session, alone)
    return views


def _numbers(rows: list[Contender]) -> list[int]:
    """The key that pours each row, the same in every test: 1 and on, the bypass 0."""
    keys = count(1)
    return [0 if row.is_bypass else next(keys) for row in rows]


def _offer(session: Session, views: list[ContenderView]) -> None:
    """An item of the shelf with a like name to each contender that is linked to none."""
    shelf = session.exec(select(Gear.id, Gear.name)).all()
    names = [name for _, name in shelf]
    for view in views:
        index = nearest(view.name, names)
        if index is not None:
            view.offer_id, view.offer = shelf[index]


def test_view(test: Test) -> TestView:
    """A column."""
    return TestView(id=test.id or 0, name=test.name, position=test.position, sound=test.sound, about=test.about)
