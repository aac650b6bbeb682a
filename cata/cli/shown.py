"""What is shown to others: reels, listening pages, what tastings came to."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from cata.cli.common import AsJson, DataDir, app, opened
from cata.services.background import runner_for
from cata.services.shown.page import write_page
from cata.services.shown.reel import write_reel
from cata.services.tasting.revealing import get_revealed
from cata.services.tasting.tastings import list_tastings

Flight = Annotated[int, typer.Argument(help="Number of the flight.")]


@app.command()
def reel(
    flight: Flight,
    out: Annotated[Path, typer.Argument(help="File to write, .wav or .flac; chapters come beside it.")],
    data_dir: DataDir = None,
) -> None:
    """A flight as a reel: every take after the other at one level, with chapters."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        for path in write_reel(workspace, flight, out):
            typer.echo(str(path))


@app.command()
def page(
    flight: Flight,
    out: Annotated[Path, typer.Argument(help="ZIP to write.")],
    blind: Annotated[bool, typer.Option("--blind", help="Hide the names until somebody reveals them.")] = False,
    prices: Annotated[bool, typer.Option(help="Show what each costs.")] = True,
    data_dir: DataDir = None,
) -> None:
    """A flight as a page to listen to, from a disk or any host."""
    with opened(data_dir) as workspace:
        runner_for(workspace).run_until_idle(lasting=False)
        size = write_page(workspace, flight, out, blind=blind, prices=prices)
    typer.echo(f"{out}: {size / 1e6:.1f} MB")


@app.command()
def tasting(flight: Flight, as_json: AsJson = False, data_dir: DataDir = None) -> None:
    """What the revealed tastings of a flight came to."""
    with opened(data_dir) as workspace:
        known = list_tastings(workspace, flight)
        told = [get_revealed(workspace, one.id) for one in known if one.revealed_at]
    hidden = len(known) - len(told)
    if as_json:
        whole = {"revealed": [one.model_dump() for one in told], "not_yet_revealed": hidden}
        typer.echo(json.dumps(whole, indent=2))
        return
    for one in told:
        typer.echo(one.tasting.name)
        for came in one.rounds:
            typer.echo("\n".join(f"  {line.words}" for line in (came.said, *came.more)))
    if hidden or not told:
        typer.echo(f"{hidden} not revealed yet." if hidden else "No tasting of this flight.")
