"""What the commands share: the application, options, and how they open data and fail."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from cata.errors import CataError
from cata.services.workspace import Workspace, open_workspace
from cata.settings import Settings

app = typer.Typer(
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
    return Settings(**{key: value for key, value in given.items() if value is not None})  # type: ignore[arg-type]


def open_data(settings: Settings) -> Workspace:
    """The data directory of some settings, opened."""
    workspace = open_workspace(
        settings.data_dir.expanduser(), max_upload_mb=settings.max_upload_mb, cluster=settings.cluster,
        seen_as=settings.cluster_data_dir,
    )  # fmt: skip
    workspace.max_duration_s = settings.max_minutes * 60
    return workspace


def failed(error: CataError) -> typer.Exit:
    """An error told, and the exit that stands for it."""
    typer.echo(f"cata: {error.message}", err=True)
    return typer.Exit(EXIT_REFUSED)
