"""The command line: serve, demo, measure, match, import, backup, restore."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from cata.errors import CataError
from cata.settings import LOOPBACK, Settings

if TYPE_CHECKING:
    from cata.services.workspace import Workspace

app = typer.Typer(
    help="Compare pickups, pedals and amplifiers through matched demo recordings.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)

Port = Annotated[int | None, typer.Option(help="Port on 127.0.0.1 (default 8765, or CATA_PORT).", min=1, max=65535)]
DataDir = Annotated[Path | None, typer.Option(help="Folder for database and recordings (or CATA_DATA_DIR).")]
AsJson = Annotated[bool, typer.Option("--json", help="Machine-readable output.")]

EXIT_REFUSED = 2


def _settings(port: int | None = None, data_dir: Path | None = None) -> Settings:
    given = {"port": port, "data_dir": data_dir}
    return Settings(**{key: value for key, value in given.items() if value is not None})  # type: ignore[arg-type]


def _open(settings: Settings) -> Workspace:
    from cata.services.workspace import open_workspace

    workspace = open_workspace(settings.data_dir.expanduser(), max_upload_mb=settings.max_upload_mb)
    workspace.max_duration_s = settings.max_minutes * 60
    return workspace


def _fail(error: CataError) -> typer.Exit:
    typer.echo(f"cata: {error.message}", err=True)
    return typer.Exit(EXIT_REFUSED)


def _run_server(workspace: Workspace, port: int) -> None:
    import uvicorn

    from cata.api.app import create_app

    application = create_app(workspace)

    class Server(uvicorn.Server):
        def handle_exit(self, sig: int, frame: Any) -> None:
            # Open event streams end first, or the server would wait for them. The signal is not raised again
            # afterwards, as the parent would: being asked to stop is no failure.
            application.state.stopping.set()
            self.force_exit = self.should_exit
            self.should_exit = True

    config = uvicorn.Config(
        application, host=LOOPBACK, port=port, log_level="warning", timeout_graceful_shutdown=5, access_log=False
    )
    server = Server(config)
    typer.echo(f"Cata: http://{LOOPBACK}:{port}  (data in {workspace.data_dir}; Ctrl+C stops)")
    server.run()
    if not server.started:
        raise typer.Exit(1)


@app.command()
def serve(port: Port = None, data_dir: DataDir = None) -> None:
    """Serve the application on 127.0.0.1."""
    settings = _settings(port, data_dir)
    _run_server(_open(settings), settings.port)


@app.command()
def demo(port: Port = None, data_dir: DataDir = None) -> None:
    """Serve the application with the demo; a fresh data directory is filled first."""
    from cata.demo.seed import is_seeded, seed

    settings = _settings(port, data_dir)
    workspace = _open(settings)
    if not is_seeded(workspace):
        from cata.services.analyst import Analyst

        def tell(done: int, total: int) -> None:
            typer.echo(f"\rPlaying the demo takes: {done} of {total}", nl=done == total)

        seed(workspace, tell)
        typer.echo("Reading the takes ...")
        Analyst(workspace).run_until_idle()
    _run_server(workspace, settings.port)


@app.command()
def measure(
    files: Annotated[list[Path], typer.Argument(help="Recordings.")],
    as_json: AsJson = False,
    lead_in: Annotated[float, typer.Option(help="Declared silence before the playing, in seconds.", min=0)] = 0.0,
) -> None:
    """Measure recordings. Exit status 2 if any file was refused."""
    from cata.services.measuring import measure_file

    results = [measure_file(path, lead_in) for path in files]
    if as_json:
        typer.echo(json.dumps(results if len(results) > 1 else results[0], indent=2))
    else:
        from cata.services.measuring import as_text

        typer.echo("\n\n".join(as_text(result) for result in results))
    if any(result["refused"] is not None for result in results):
        raise typer.Exit(EXIT_REFUSED)


@app.command()
def match(
    files: Annotated[list[Path], typer.Argument(help="Recordings; each is compared with the first.")],
    as_json: AsJson = False,
) -> None:
    """Compare recordings with the first one: lag, polarity, tempo, tuning, phrase, level."""
    from cata.services.measuring import match_as_text, match_files

    if len(files) < 2:
        typer.echo("cata: match needs two files or more", err=True)
        raise typer.Exit(EXIT_REFUSED)
    try:
        results = match_files(files)
    except CataError as error:
        raise _fail(error) from error
    if as_json:
        typer.echo(json.dumps(results if len(results) > 1 else results[0], indent=2))
    else:
        typer.echo("\n\n".join(match_as_text(result) for result in results))
    if any(result.get("refused") for result in results):
        raise typer.Exit(EXIT_REFUSED)


@app.command("import")
def import_folder(
    folder: Annotated[Path, typer.Argument(help="Folder of recordings.")],
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be made.")] = False,
    data_dir: DataDir = None,
) -> None:
    """Make a flight from a folder: contenders and tests from the names."""
    from cata.services.importing import plan_import, run_import

    try:
        plan = plan_import(folder)
        typer.echo(f"Flight: {plan.name}\nContenders: {', '.join(plan.contenders)}\nTests: {', '.join(plan.tests)}")
        for path, contender, test in plan.cells:
            typer.echo(f"  {path.relative_to(folder)}  ->  {contender} / {test}")
        if dry_run:
            return
        workspace = _open(_settings(None, data_dir))
        result = run_import(workspace, folder, lambda path, text: typer.echo(f"  {path.name}: {text}"))
    except CataError as error:
        raise _fail(error) from error
    from cata.services.analyst import Analyst

    typer.echo(f"{result.taken} taken, {len(result.refused)} refused. Reading the takes ...")
    Analyst(workspace).run_until_idle()
    workspace.pool.close()
    typer.echo(f"Done: flight {result.flight_id}. Start `cata serve` to see it.")
    if result.refused:
        raise typer.Exit(EXIT_REFUSED)


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="Zip file to write.")], data_dir: DataDir = None) -> None:
    """Write database and recordings into one file; a running server may go on."""
    from cata.services.upkeep import backup as write_backup

    workspace = _open(_settings(None, data_dir))
    try:
        manifest = write_backup(workspace, file)
    except CataError as error:
        raise _fail(error) from error
    typer.echo(f"{file}: {len(manifest['files'])} files, {file.stat().st_size / 1e6:.1f} MB")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="Backup to unpack.")],
    data_dir: DataDir = None,
    replace: Annotated[bool, typer.Option("--replace", help="Put it in place of the data that is there.")] = False,
) -> None:
    """Unpack a backup. What was there before is kept beside it."""
    from cata.services.upkeep import restore as unpack

    settings = _settings(None, data_dir)
    try:
        manifest = unpack(file, settings.data_dir.expanduser(), replace=replace)
    except CataError as error:
        raise _fail(error) from error
    typer.echo(f"{settings.data_dir}: {len(manifest['files'])} files of {manifest['at']}")


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description, from which the front end's client is made."""
    import tempfile

    from cata.api.app import create_app
    from cata.services.workspace import open_workspace

    with tempfile.TemporaryDirectory() as folder:
        schema = create_app(open_workspace(Path(folder))).openapi()
    json.dump(schema, sys.stdout, indent=1, sort_keys=True)


if __name__ == "__main__":
    app()
