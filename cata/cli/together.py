"""Takes together: blend two, bring one to another's tone, hear one through a bed."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from cata.cli.common import AsJson, app
from cata.services.together.files import blend_files, cut_through_of_files, remains_of_files


def _tell(found: dict[str, Any], as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps(found, indent=2))
    else:
        typer.echo("\n".join(found.get("sentences") or [found["sentence"]]))


@app.command()
def blend(
    first: Annotated[Path, typer.Argument(help="A recording.")],
    second: Annotated[Path, typer.Argument(help="The same performance through another amplifier or microphone.")],
    target: Annotated[
        Path | None, typer.Option(help="What the sum shall sound like: a recording, or a curve as CSV (hz, dB).")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Blend two sources: lag, polarity, comb, and the level of the second that comes nearest to a target."""
    _tell(blend_files(first, second, target), as_json)


@app.command()
def remains(
    take: Annotated[Path, typer.Argument(help="A recording.")],
    reference: Annotated[Path, typer.Argument(help="What it shall sound like.")],
    as_json: AsJson = False,
) -> None:
    """How much of the way to a reference an equaliser goes, and what remains."""
    _tell(remains_of_files(take, reference), as_json)


@app.command(name="cut-through")
def cut_through(
    take: Annotated[Path, typer.Argument(help="A recording.")],
    bed: Annotated[Path, typer.Argument(help="What plays beside it.")],
    relation: Annotated[float | None, typer.Option(help="Put the take so many LU above the bed first.")] = None,
    as_json: AsJson = False,
) -> None:
    """How well a take is heard through a bed, and where it is covered."""
    _tell(cut_through_of_files(take, bed, relation), as_json)
