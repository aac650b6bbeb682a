"""What the commands share: the application, options, and how they open data and fail."""

from __future__ import annotations

import io
import os
import secrets
import sqlite3
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any

import typer
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError
from typer.core import TyperGroup

from cata.core.clip import Clip
from cata.disk import FULL, is_of_full
from cata.errors import CataError, Invalid, Refused
from cata.media.encode import write_wav
from cata.services.workspace import Workspace, open_workspace
from cata.settings import Settings


class Plainly(TyperGroup):
    """Commands whose failures are told in a sentence, with an exit status of 2."""

    def invoke(self, ctx: Any) -> Any:
        """Run a command."""
        # Names of files may hold what a terminal cannot show.
        for stream in (sys.stdout, sys.stderr):
            if isinstance(stream, io.TextIOWrapper):
                stream.reconfigure(errors="backslashreplace")
        try:
            return super().invoke(ctx)
        except CataError as error:
            raise failed(error) from error
        except (OSError, DBAPIError, sqlite3.Error) as error:
            raise failed(_why(error)) from error


def _why(error: OSError | DBAPIError | sqlite3.Error) -> Refused:
    if is_of_full(error):
        return Refused("the disk is full: make room and try again", FULL)
    if isinstance(error, OSError):
        return Refused(f"{error.filename}: {error.strerror}" if error.filename else str(error))
    if isinstance(error, DBAPIError):
        return Refused(f"the data cannot be used: {error.orig}", "no_data")
    return Refused(f"this could not be written: {error}", "not_written")


app = typer.Typer(
    cls=Plainly,
    help="Compare pickups, pedals and amplifiers through matched demo recordings.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)

Port = Annotated[int | None, typer.Option(help="Port on 127.0.0.1 (default 8765, or CATA_PORT).", min=1, max=65535)]
DataDir = Annotated[Path | None, typer.Option(help="Folder for database and recordings (or CATA_DATA_DIR).")]
AsJson = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]

EXIT_REFUSED = 2


def settings_from(port: int | None = None, data_dir: Path | None = None) -> Settings:
    """The settings with what was given on the command line over them."""
    given = {"port": port, "data_dir": data_dir}
    try:
        return Settings(**{key: value for key, value in given.items() if value is not None})  # type: ignore[arg-type]
    except ValidationError as error:
        wrong = [f"CATA_{str(one['loc'][0]).upper()}: {one['msg']}, got {one['input']!r}" for one in error.errors()]
        raise Invalid("; ".join(wrong), "bad_setting") from error


def open_data(settings: Settings) -> Workspace:
    """The data directory of some settings, opened."""
    workspace = open_workspace(
        settings.data_dir.expanduser(),
        max_upload_mb=settings.max_upload_mb,
        cluster=settings.cluster,
        seen_as=settings.cluster_data_dir,
    )
    workspace.max_duration_s = settings.max_minutes * 60
    return workspace


@contextmanager
def opened(data_dir: Path | None) -> Iterator[Workspace]:
    """The data directory of a command, open while it runs."""
    workspace = open_data(settings_from(None, data_dir))
    try:
        yield workspace
    finally:
        workspace.close()


def bytes_of(path: Path) -> bytes:
    """What a file holds; Refused where it is none (a pipe would be waited for without an end)."""
    if path.exists() and not path.is_file():
        raise Refused(f"{path} is not a file", "not_a_file")
    return path.read_bytes()


def put_bytes(content: bytes, out: Path) -> None:
    """Write a file whole or not at all: on a full disk what was there stays."""
    partial = out.with_name(f".{out.name}-{secrets.token_hex(6)}")
    try:
        with partial.open("xb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(out)
    finally:
        partial.unlink(missing_ok=True)


def written(clip: Clip, out: Path, subtype: str = "PCM_24") -> None:
    """Write a WAV file; Refused with the reason where it cannot be written."""
    try:
        write_wav(clip, out, subtype)
    except (OSError, RuntimeError) as error:
        reason = "there is no such folder" if not out.parent.is_dir() else str(error)
        raise Refused(f"{out} cannot be written: {reason}", "not_written") from error


def failed(error: CataError) -> typer.Exit:
    """An error told, and the exit that stands for it."""
    typer.echo(f"cata: {error.message}", err=True)
    return typer.Exit(EXIT_REFUSED)
