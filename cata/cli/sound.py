"""Sound files: measure, match, slate, cut."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from cata.cli.common import EXIT_REFUSED, AsJson, app, written
from cata.core.signals.slate import SlateMark
from cata.core.signals.slate import slate as make
from cata.services.evidence.files import as_text, match_as_text, match_files, measure_file
from cata.tasks.cuts import Span, ToCut, cut_out, find
from cata.tasks.desk import Desk


@app.command()
def measure(
    files: Annotated[list[Path], typer.Argument(help="Recordings.")],
    as_json: AsJson = False,
    lead_in: Annotated[float, typer.Option(help="Declared silence before the playing, in seconds.", min=0)] = 0.0,
) -> None:
    """Measure recordings. Exit status 2 if any file was refused."""
    results = [measure_file(path, lead_in) for path in files]
    if as_json:
        typer.echo(json.dumps(results if len(results) > 1 else results[0], indent=2))
    else:
        typer.echo("\n\n".join(as_text(result) for result in results))
    if any(result["refused"] is not None for result in results):
        raise typer.Exit(EXIT_REFUSED)


@app.command()
def match(
    files: Annotated[list[Path], typer.Argument(help="Recordings; each is compared with the first.")],
    as_json: AsJson = False,
) -> None:
    """Compare recordings with the first one: lag, polarity, tempo, tuning, phrase, level."""
    if len(files) < 2:
        typer.echo("cata: match needs two files or more", err=True)
        raise typer.Exit(EXIT_REFUSED)
    results = match_files(files)
    if as_json:
        typer.echo(json.dumps(results if len(results) > 1 else results[0], indent=2))
    else:
        typer.echo("\n\n".join(match_as_text(result) for result in results))
    if any(result.get("refused") for result in results):
        raise typer.Exit(EXIT_REFUSED)


@app.command()
def slate(
    out: Annotated[Path, typer.Argument(help="WAV file to write.")],
    take: Annotated[int, typer.Option(help="Number of the take, 1 to 999.")],
    rate: Annotated[int, typer.Option(help="Sampling rate in Hz.", min=8000, max=192000)] = 48000,
    end: Annotated[bool, typer.Option("--end", help="The slate that closes the take.")] = False,
) -> None:
    """Write the slate tone of one take: play it, then play the take."""
    clip = make(SlateMark(take, end), rate)
    written(clip, out)
    typer.echo(f"{out}: slate of take {take}, {clip.duration_s:.2f} s")


@app.command()
def cut(
    recording: Annotated[Path, typer.Argument(help="One long recording.")],
    takes: Annotated[int, typer.Option(help="How many takes it holds.", min=1, max=999)],
    slates: Annotated[bool, typer.Option("--slates", help="Slate tones were played before the takes.")] = False,
    length: Annotated[float | None, typer.Option(help="Planned length of a take in seconds.", min=0.5)] = None,
    as_json: AsJson = False,
    out: Annotated[Path | None, typer.Option(help="Folder for the pieces, as FLAC.")] = None,
) -> None:
    """Find the takes in one long recording. Exit status 2 if it was refused."""
    lengths = dict.fromkeys(range(1, takes + 1), length) if length is not None else {}
    # Absolute names: the files lie where the person says.
    desk, file = Desk("/"), str(recording.absolute())
    pieces = find(ToCut(file, takes, slates, lengths), desk).pieces
    for piece in pieces if out is not None else ():
        target = (out or Path()).absolute() / f"{recording.stem} - take {piece.take:03d}.flac"
        cut_out(Span(file, piece.start_s, piece.end_s, str(target)), desk)
    if as_json:
        typer.echo(json.dumps([piece.as_json() for piece in pieces], indent=2))
        return
    for piece in pieces:
        flag = f"  ({piece.flag})" if piece.flag else ""
        typer.echo(
            f"take {piece.take:3d}  {piece.start_s:10.3f} s to {piece.end_s:10.3f} s"
            f"  confidence {piece.confidence:.2f}{flag}"
        )
    missing = takes - len(pieces)
    if missing:
        typer.echo(f"{missing} of {takes} takes were not found", err=True)
