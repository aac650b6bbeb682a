"""Devices: the test file, and what a device made of it."""

from __future__ import annotations

import json
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from cata.cli.common import EXIT_REFUSED, AsJson, app, written
from cata.core.measure.device.volts import in_volts, read_full_scale
from cata.core.measure.results import from_kept
from cata.core.signals.testfile.waves import sent_file
from cata.tasks.devices import as_text, device_file


class Part(StrEnum):
    """Parts of the test file."""

    ALL = "all"
    TONES = "tones"
    SWEEP = "sweep"
    LADDER = "ladder"
    CHORDS = "chords"
    BURSTS = "bursts"


@app.command("testfile")
def write_up(
    out: Annotated[Path, typer.Argument(help="WAV file to write.")],
    rate: Annotated[int, typer.Option(help="Sampling rate in Hz: 44100, 48000 or 96000.")] = 48000,
    part: Annotated[Part, typer.Option(help="The whole file, or one part of it.")] = Part.ALL,
    as_float: Annotated[bool, typer.Option("--float", help="32-bit float instead of 24-bit.")] = False,
) -> None:
    """Write the test file: play it through a device, record what comes back, read both with `cata device`."""
    clip = sent_file(part.value, rate)
    written(clip, out, "FLOAT" if as_float else "PCM_24")
    typer.echo(f"{out}: test file, part {part.value}, {clip.duration_s:.1f} s at {rate} Hz, peaks at 0 dBFS")


@app.command()
def device(
    sent: Annotated[Path, typer.Option(help="The test file as it was played.")],
    returned: Annotated[Path, typer.Option(help="The recording of what came back.")],
    loopback: Annotated[
        Path | None, typer.Option(help="The recording with a cable in the device's place: takes the interface out.")
    ] = None,
    nominal_dbfs: Annotated[
        float | None, typer.Option(help="Level of your everyday playing, peak of a sine as loud. Default: -20 dBFS.")
    ] = None,
    full_scale: Annotated[
        str | None, typer.Option(help="What the interface sends at 0 dBFS (+18 dBu, 2.1 V): breakup in volts.")
    ] = None,
    channel: Annotated[int | None, typer.Option(help="Which channel carries the device, 1 or 2.", min=1, max=2)] = None,
    as_json: AsJson = False,
) -> None:
    """Read a device from the recording of the test file. Exit status 2 if it was refused."""
    # Read first: a level that is none is told before the minutes of measuring.
    level = None if full_scale is None else read_full_scale(full_scale)
    result = device_file(
        sent,
        returned,
        loopback=loopback,
        nominal_dbfs=nominal_dbfs,
        channel=None if channel is None else channel - 1,
    )
    breakup = from_kept(result["results"]).number("breakup_dbfs.3")
    if breakup is not None and level is not None:
        result["notes"].append(f"3 % distortion from {in_volts(breakup, level)} at its input.")
    typer.echo(json.dumps(result, indent=2) if as_json else as_text(result))
    if result["refused"]:
        raise typer.Exit(EXIT_REFUSED)
