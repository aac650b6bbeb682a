"""Decision cards: what is on them is what the page said, and what changes later is told."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from cata.cli import app
from cata.core.card.card import Card
from cata.errors import Conflict
from cata.services.brief.briefs import BriefIn, BriefPatch, add_brief, change_brief, remove_brief
from cata.services.card.cards import card_html, changes_of, get_card, keep_card, list_cards, remove_card, rename_card
from cata.services.card.views import CardIn, CardPatch, CardView
from cata.services.choice.choosing import choose
from cata.services.choice.rigs import find_rigs
from cata.services.shelf import gear
from cata.services.shelf.prices import PriceIn, add_price
from cata.services.upkeep.undoing import undo
from cata.services.workspace import Workspace
from tests.conftest import declines
from tests.services.test_choosing_shelf import NEED, drive, flight
from tests.services.test_rigs import NEED as RIG_NEED
from tests.services.test_rigs import shelf as rig_shelf


def two(ws: Workspace) -> tuple[int, int]:
    """A brief and a flight of two drives, the second as good and cheaper than it looks."""
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk & <b>", ("new", "120"))
    brief = add_brief(ws, BriefIn(name="Evenings", need=NEED)).id
    return brief, flight(ws, "One", {alder: 1.0, birk: 9.0})


def test_the_numbers_of_a_card_are_those_of_the_page(ws: Workspace) -> None:
    brief, _ = two(ws)
    page = choose(ws, "pedal", brief)
    first, second = page.ranked
    card = keep_card(ws, CardIn(source="shelf", kind="pedal", brief_id=brief)).card
    assert (card.title, card.sentence, card.certainty) == (first.name, page.sentence, page.certainty)
    assert (card.price_text, card.left_text, card.chance) == (first.price_text, first.left_text, first.best_share)
    assert card.fit == (min(first.fit_low or 0.0, first.fit), first.fit, max(first.fit_high or 0.0, first.fit))
    assert card.runner_up is not None
    assert (card.runner_up.name, card.runner_up.fit) == (second.name, second.fit)
    assert {(one.name, one.fit, one.price_minor) for one in card.points} == {
        (one.name, one.fit, one.price_minor) for one in page.ranked
    }
    states = {one.reading: one.state for one in card.evidence}
    assert states == {"harshness": "met", "crest": "met"}
    html = get_card(ws, 1).article
    assert f"{first.fit * 100:.0f} %" in html
    assert first.price_text in html


def test_a_card_of_a_flight_and_of_one_that_is_not_first(ws: Workspace) -> None:
    brief, ident = two(ws)
    page = choose(ws, brief_id=brief, flight_id=ident)
    second = page.ranked[1]
    asked = CardIn(source="flight", flight_id=ident, brief_id=brief, chosen=second.contender_id)
    made = keep_card(ws, asked.model_copy(update={"name": "Against advice"}))
    assert (made.name, made.card.title) == ("Against advice", "Against advice")
    assert made.card.parts[0].name == second.name
    assert made.card.sentence == f"{second.name} is chosen, place 2 of the 2 in this flight, as they were set."
    assert (made.card.certainty, made.card.chance) == ("", second.best_share)
    with declines(Conflict, "nothing_chosen"):
        keep_card(ws, asked.model_copy(update={"chosen": 999}))


def test_a_card_of_a_rig_says_what_the_rig_says(ws: Workspace) -> None:
    made = rig_shelf(ws)
    need = RIG_NEED.model_copy(update={"own_items": [made["guitar"]]})
    brief = add_brief(ws, BriefIn(name="B", need=need)).id
    first, other = find_rigs(ws, brief).rigs[:2]
    card = keep_card(ws, CardIn(source="rig", brief_id=brief)).card
    assert [(part.name, part.price_text, part.owned) for part in card.parts] == [
        (part.name, part.price_text, part.gear_id == made["guitar"]) for part in first.parts
    ]
    assert (card.price_text, card.left_text, card.by_sound) == (first.price_text, first.left_text, first.by_sound)
    assert card.fit[0] <= card.fit[1] <= card.fit[2]
    assert card.runner_up is not None
    assert card.runner_up.fit == other.fit
    assert card.chain == ["Plank", "Alder", "Clean"]
    assert any("Alder: nothing is known for Lead" in line for line in card.not_tested)
    with declines(Conflict, "nothing_chosen"):
        keep_card(ws, CardIn(source="rig", brief_id=brief, budget_minor=100))


def test_what_changes_later_is_said(ws: Workspace) -> None:
    brief, _ = two(ws)
    made = keep_card(ws, CardIn(source="shelf", kind="pedal", brief_id=brief))
    assert changes_of(ws, made.id).changes == []
    alder = made.card.parts[0].gear_id or 0
    add_price(ws, alder, PriceIn(text="250", on_date="2099-01-01"))
    found = {one.code: one for one in changes_of(ws, made.id).changes}
    assert set(found) == {"price", "left"}
    assert found["price"].numbers["after"] == "250.00 EUR"
    assert get_card(ws, made.id).card == made.card
    add_price(ws, alder, PriceIn(text="500", on_date="2099-01-02"))
    assert changes_of(ws, made.id).changes[0].code == "another"
    change_brief(ws, brief, BriefPatch(need=NEED.model_copy(update={"budget_minor": 90_000})))
    assert changes_of(ws, made.id).changes[-1].code == "brief"
    remove_brief(ws, brief)
    assert changes_of(ws, made.id).gone is None
    for one in choose(ws, "pedal", need=NEED).ranked:
        gear.remove_gear(ws, one.gear_id)
    gone = changes_of(ws, made.id)
    assert (gone.gone.code if gone.gone else "", gone.changes) == ("gone", [])


def test_cards_are_kept_renamed_removed_and_brought_back(ws: Workspace) -> None:
    brief, _ = two(ws)
    made = keep_card(ws, CardIn(source="shelf", brief_id=brief))
    assert rename_card(ws, made.id, CardPatch(name="The one")).card.title == "The one"
    remove_card(ws, made.id)
    assert list_cards(ws) == []
    undo(ws)
    assert [(one.name, one.sentence) for one in list_cards(ws)] == [("The one", made.card.sentence)]
    undo(ws)
    assert get_card(ws, made.id) == made


def loads_nothing(html: str) -> bool:
    """True where a file asks for nothing beside itself."""
    return not re.search(r"<script|<link|\bsrc=|href=|url\(|@import|https?:", html)


def test_the_file_stands_by_itself_and_every_text_in_it_is_text(ws: Workspace) -> None:
    brief, _ = two(ws)
    made = keep_card(ws, CardIn(source="shelf", brief_id=brief, name="<script>alert(1)</script>"))
    html = card_html(ws, made.id)
    assert loads_nothing(html)
    assert "&lt;script&gt;" in html
    assert "Birk &amp; &lt;b&gt;" in html
    assert html.startswith("<!doctype html>")


def test_cards_over_the_api(client: TestClient) -> None:
    assert client.get("/api/cards").json() == []
    assert client.post("/api/cards", json={"source": "shelf"}).status_code == 409
    assert client.post("/api/cards", json={"source": "rig", "brief_id": 7}).status_code == 404
    assert client.get("/api/cards/1/file").status_code == 404
    assert "decision" in client.get("/api/cards/style.css").text


def test_a_card_by_the_command_line(ws: Workspace, tmp_path: Path) -> None:
    brief, _ = two(ws)
    where = ["--data-dir", str(ws.data_dir)]
    ws.close()
    run = CliRunner()
    kept = json.loads(run.invoke(app, ["choose", "--brief", str(brief), "--keep", "Ours", "--json", *where]).stdout)
    assert kept["card"] == 1
    written = run.invoke(app, ["card", "1", str(tmp_path / "card.html"), *where])
    assert written.exit_code == 0
    assert "Ours" in (tmp_path / "card.html").read_text(encoding="utf-8")
    run.invoke(app, ["card", "1", str(tmp_path / "card.json"), *where])
    assert Card.model_validate_json((tmp_path / "card.json").read_text(encoding="utf-8")).title == "Ours"
    assert run.invoke(app, ["card", "9", str(tmp_path / "x.html"), *where]).exit_code == 2


@pytest.mark.parametrize("source", ["shelf", "rig"])
def test_a_card_is_the_same_each_time_it_is_made(ws: Workspace, source: str) -> None:
    made = rig_shelf(ws)
    need = RIG_NEED.model_copy(update={"own_items": [made["guitar"]]})
    brief = add_brief(ws, BriefIn(name="B", need=need)).id

    def again() -> CardView:
        ws.answers.forget()
        return keep_card(ws, CardIn.model_validate({"source": source, "brief_id": brief}))

    assert again().card == again().card
