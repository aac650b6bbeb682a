"""Commands that choose: from the whole shelf or among the contenders of a flight."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from cata.cli.common import AsJson, DataDir, app, opened, put_bytes
from cata.core.money import read_price
from cata.errors import Invalid
from cata.services.background import runner_for
from cata.services.card.cards import card_html, changes_of, get_card, keep_card
from cata.services.card.views import CardIn
from cata.services.choice.choosing import choose
from cata.services.choice.rigs import find_rigs
from cata.services.choice.views import ChoiceItem
from cata.services.shelf.listing import names
from cata.services.workspace import Workspace

Brief = Annotated[int | None, typer.Option(help="Number of the brief (default: the oldest).")]

Keep = Annotated[str | None, typer.Option(help="Keep the first as a decision card of this name.")]
NOT_KNOWN = ("no_price", "not_played_in", "little_judged", "weight", "loudness", "must_have")


@app.command("choose")
def choose_command(
    flight: Annotated[int | None, typer.Option(help="Among the contenders of this flight only.")] = None,
    kind: Annotated[
        str, typer.Option(help="Kind of gear: pedal, amplifier, pickup ... (default: most compared).")
    ] = "",
    brief: Brief = None,
    keep: Keep = None,
    as_json: AsJson = False,
    data_dir: DataDir = None,
) -> None:
    """What to buy: items in order, why, how sure that is; takes that wait are read first."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        found = choose(workspace, "" if flight is not None else kind, brief, flight_id=flight)
        source: Literal["flight", "shelf"] = "flight" if flight is not None else "shelf"
        card = _kept(workspace, keep, CardIn(source=source, flight_id=flight, kind=kind or None, brief_id=brief))
    answer: dict[str, Any] = {
        "sentence": found.sentence,
        "certainty": found.certainty,
        "ranked": [_entry(one) for one in found.ranked],
        "not_yet_played": [one.name for one in found.not_played],
        "not_comparable": [one.said.words for one in found.apart],
    }
    if as_json:
        typer.echo(json.dumps(answer | card, indent=2, ensure_ascii=False))
        return
    typer.echo(f"{found.sentence} {found.certainty}".strip())
    for one in found.ranked:
        typer.echo(f"{one.place:3d}. {one.name}, fit {one.fit * 100:.0f} %, {one.price_text or 'no price known'}")
        for sign, reasons in (("+", one.strengths), ("-", one.shortfalls)):
            for reason in reasons:
                typer.echo(f"       {sign} {reason.words}")
    for lone in found.apart:
        typer.echo(f"     {lone.said.words}")
    if found.not_played:
        typer.echo(f"     Not yet played: {', '.join(one.name for one in found.not_played)}")
    if card:
        typer.echo(f"     Kept as card {card['card']}")


def _entry(one: ChoiceItem) -> dict[str, Any]:
    low = one.fit if one.fit_low is None else one.fit_low
    high = one.fit_best if one.fit_high is None else one.fit_high
    return {
        "name": one.name,
        "place": one.place,
        "fit": [round(min(low, one.fit), 4), round(one.fit, 4), round(max(high, one.fit), 4)],
        "price_minor": one.price_minor,
        "chance_first": round(one.best_share, 3),
        "strengths": [reason.words for reason in one.strengths],
        "shortfalls": [reason.words for reason in one.shortfalls],
        "not_known": [reason.words for reason in one.shortfalls if reason.code in NOT_KNOWN],
    }


@app.command("rig")
def rig_command(
    brief: Brief = None,
    budget: Annotated[str | None, typer.Option(help="Another sum to spend, as people write it (1150.00).")] = None,
    lock: Annotated[
        list[str] | None, typer.Option(help="An item that must be in it, by name; may be repeated.")
    ] = None,
    keep: Keep = None,
    as_json: AsJson = False,
    data_dir: DataDir = None,
) -> None:
    """The best rigs within the budget that are really different; takes that wait are read first."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        locked = [_item(workspace, name) for name in lock or []]
        minor = read_price(budget)[0] if budget is not None else None
        found = find_rigs(workspace, brief, budget_minor=minor, locked=locked, curve=False)
        card = _kept(workspace, keep, CardIn(source="rig", brief_id=brief, budget_minor=minor, locked=locked))
    if as_json:
        rigs = [
            {
                "gear": [part.name for part in one.parts for _ in range(part.count)],
                "price_minor": one.price_minor,
                "left_minor": one.left_minor,
                "fit": round(one.fit, 4),
                "chance": round(one.chance, 3),
                "gives_up": [said.words for said in one.gives_up],
            }
            for one in found.rigs
        ]
        answer = {"verdict": found.verdict.words, "rigs": rigs, "bound": round(found.bound, 4), "proven": found.proven}
        typer.echo(json.dumps(answer | card, indent=2, ensure_ascii=False))
        return
    typer.echo(found.verdict.words)
    for number, one in enumerate(found.rigs, start=1):
        typer.echo(f"{number:3d}. fit {one.fit * 100:.0f} %, {one.price_text}")
        for part in one.parts:
            typer.echo(f"       {part.place}: {part.shown}, {part.price_text}")
        for said in one.gives_up:
            typer.echo(f"       - {said.words}")
    for note in (*found.notes, *([found.liking] if found.liking else [])):
        typer.echo(f"     {note.words}")
    if card:
        typer.echo(f"     Kept as card {card['card']}")


def _kept(workspace: Workspace, name: str | None, asked: CardIn) -> dict[str, int]:
    """The number of the card that was kept; nothing where none is wanted."""
    if name is None:
        return {}
    return {"card": keep_card(workspace, asked.model_copy(update={"name": name})).id}


@app.command("card")
def card_command(
    choice: Annotated[int, typer.Argument(help="Number of the card.", min=1)],
    out: Annotated[Path, typer.Argument(help="The file to write: .html, or .json for the data.")],
    data_dir: DataDir = None,
) -> None:
    """A kept decision card as a file of its own, and what would be said otherwise today."""
    with opened(data_dir) as workspace:
        kept = get_card(workspace, choice)
        text = kept.card.model_dump_json(indent=2) if out.suffix == ".json" else card_html(workspace, choice)
        put_bytes(text.encode(), out)
        today = changes_of(workspace, choice)
    typer.echo(f"{kept.name}: {kept.card.sentence}")
    for one in [today.gone] if today.gone is not None else today.changes:
        typer.echo(f"     Today: {one.words}")


def _item(workspace: Workspace, name: str) -> int:
    """The item of a name. Invalid where there is none, or more than one."""
    found = [one for one in names(workspace) if one.name.casefold() == name.strip().casefold()]
    if len(found) != 1:
        raise Invalid(f"{'several items are' if found else 'no item of the shelf is'} called {name!r}", "no_item")
    return found[0].id
