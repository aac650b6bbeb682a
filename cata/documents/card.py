"""The decision card as HTML: the same article within a page of the application and in a file of its own."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from jinja2 import Environment, PackageLoader, StrictUndefined

from cata.core.card.card import Card
from cata.documents.pictures import knob_angle, price_picture, strip


@lru_cache(maxsize=1)
def environment() -> Environment:
    """Templates, with what pictures need."""
    made = Environment(
        loader=PackageLoader("cata.documents", "templates"), autoescape=True, undefined=StrictUndefined,
        trim_blocks=True, lstrip_blocks=True,
    )  # fmt: skip
    made.filters["knob_angle"] = knob_angle
    made.filters["strip"] = strip
    made.filters["price_picture"] = price_picture
    return made


def card_article(card: Card) -> str:
    """The card as an HTML article, to be shown with :func:`card_style`; all text in it is escaped."""
    return environment().get_template("card.html.j2").render(card=card)


def card_style() -> str:
    """The style of the article. Where the page around it has the colours of a theme, it takes those."""
    return files("cata.documents").joinpath("templates", "card.css").read_text(encoding="utf-8")


def card_file(card: Card) -> str:
    """The card as a whole HTML file that needs nothing beside it: no script, no font, no picture from elsewhere."""
    page = environment().get_template("file.html.j2")
    return page.render(title=card.title, style=card_style(), article=card_article(card))
