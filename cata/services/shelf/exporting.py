"""The shelf out as a file: JSON with all prices, CSV for spreadsheets."""

from __future__ import annotations

import json
from collections import defaultdict

from sqlmodel import Session, col, select

from cata.core.gear import Control
from cata.core.money import exponent
from cata.core.shelf.controls import show_controls
from cata.core.shelf.items import (
    PRICE_KINDS,
    Item,
    Offer,
    item_as_json,
    spec_columns,
)
from cata.core.shelf.prices import current_price
from cata.core.shelf.table import write_table
from cata.core.spec_fields import FIELDS
from cata.core.specs import read_specs, show_value
from cata.services.workspace import Workspace
from cata.store.tables import Gear, Price

FORMAT = "cata-shelf"


def _shelf(session: Session) -> list[Item]:
    prices: dict[int, list[Price]] = defaultdict(list)
    for price in session.exec(select(Price).order_by(col(Price.id))).all():
        prices[price.gear_id].append(price)
    kinds = list(FIELDS)
    return [
        Item(
            kind=gear.kind,  # type: ignore[arg-type]
            name=gear.name,
            about=gear.about,
            structure=gear.structure,
            controls=tuple(Control.model_validate(control) for control in gear.controls),
            specs=read_specs(gear.kind, gear.specs)[0],  # type: ignore[arg-type]
            offers=tuple(
                Offer(p.kind, p.price_minor, p.currency, p.on_date, p.source)  # type: ignore[arg-type]
                for p in prices[gear.id or 0]
            ),
        )
        for gear in sorted(session.exec(select(Gear)).all(), key=lambda g: (kinds.index(g.kind), g.name.casefold()))  # type: ignore[arg-type]
    ]


def export_json(ws: Workspace) -> bytes:
    """The whole shelf with its price history as JSON."""
    with ws.reading() as session:
        items = _shelf(session)
    document = {"format": FORMAT, "version": 1, "items": [item_as_json(item) for item in items]}
    return json.dumps(document, ensure_ascii=False, indent=1).encode()


def export_csv(ws: Workspace) -> bytes:
    """The whole shelf as CSV, the newest price of each kind beside each item."""
    with ws.reading() as session:
        items = _shelf(session)
    columns = spec_columns(sorted({item.kind for item in items}, key=list(FIELDS).index))
    known = {key for key, _ in columns}
    extras = sorted({label for item in items for label in item.specs if label not in known})
    of_prices = [f"price {kind}{what}" for kind in PRICE_KINDS for what in ("", " date", " source")]
    heads = ["kind", "name", "about", "structure", "controls", *of_prices]
    rows = [_csv_row(item, [key for key, _ in columns], extras) for item in items]
    return write_table([*heads, *(name for _, name in columns), *extras], rows)


def _csv_row(item: Item, keys: list[str], extras: list[str]) -> list[str]:
    fields = {field.key: field for field in FIELDS[item.kind]}
    return [
        item.kind,
        item.name,
        item.about or "",
        item.structure or "",
        show_controls(item.controls or ()),
        *(cell for kind in PRICE_KINDS for cell in _price_cells(current_price(item.offers, (kind,)))),
        *(show_value(fields[key], item.specs[key], 15) if key in fields and key in item.specs else "" for key in keys),
        *(str(item.specs.get(label, "")) for label in extras),
    ]


def _price_cells(offer: Offer | None) -> tuple[str, str, str]:
    return ("", "", "") if offer is None else (_amount(offer), offer.on_date or "", offer.source)


def _amount(offer: Offer) -> str:
    """Plain digits and the code, which every spreadsheet and :func:`read_price` read alike."""
    decimals = exponent(offer.currency)
    text = f"{offer.price_minor:0{decimals + 1}d}"
    return f"{text[:-decimals]}.{text[-decimals:]} {offer.currency}" if decimals else f"{text} {offer.currency}"
