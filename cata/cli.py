"""The command line: serve, demo, measure, match, import, backup, restore."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from cata.errors import CataError, Refused
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


gear_app = typer.Typer(help="The shelf in and out as a file.", no_args_is_help=True)
flight_app = typer.Typer(help="Flights from the command line.", no_args_is_help=True)
app.add_typer(gear_app, name="gear")
app.add_typer(flight_app, name="flight")


@gear_app.command("import")
def gear_import(
    file: Annotated[Path, typer.Argument(help="CSV or JSON file.")],
    kind: Annotated[str | None, typer.Option(help="Kind of gear where a row does not say.")] = None,
    currency: Annotated[str, typer.Option(help="ISO 4217 code where a price does not say.")] = "EUR",
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be done.")] = False,
    data_dir: DataDir = None,
) -> None:
    """Put gear and prices onto the shelf; known items are brought up to date. Exit status 2 if a row was left out."""
    from cata.core.shelf.items import read_kind
    from cata.services.shelf_file import import_shelf

    try:
        data = file.read_bytes()
    except OSError as error:
        typer.echo(f"cata: {file}: {error.strerror}", err=True)
        raise typer.Exit(EXIT_REFUSED) from error
    try:
        workspace = _open(_settings(None, data_dir))
        default = read_kind(kind) if kind else None
        done = import_shelf(workspace, data, kind=default, currency=currency.upper(), dry_run=dry_run)
    except CataError as error:
        raise _fail(error) from error
    typer.echo(f"{done.new} new, {done.changed} changed, {done.same} as they were, {done.left_out} left out")
    for problem in done.problems:
        typer.echo(f"  row {problem.row}, {problem.column}: {problem.text}", err=True)
    if done.more_problems:
        typer.echo(f"  and {done.more_problems} more", err=True)
    if done.left_out:
        raise typer.Exit(EXIT_REFUSED)


@gear_app.command("export")
def gear_export(
    file: Annotated[Path, typer.Argument(help="File to write; its ending chooses CSV or JSON.")],
    data_dir: DataDir = None,
) -> None:
    """Write the whole shelf as CSV (for spreadsheets) or JSON (with all prices)."""
    from cata.services.shelf_file import export_csv, export_json

    workspace = _open(_settings(None, data_dir))
    content = export_json(workspace) if file.suffix.lower() == ".json" else export_csv(workspace)
    file.write_bytes(content)
    typer.echo(f"{file}: {len(content):,} bytes")


@flight_app.command("order")
def flight_order(
    flight: Annotated[int, typer.Argument(help="Number of the flight.")],
    as_json: AsJson = False,
    anchors: Annotated[bool, typer.Option(help="Play one take again in the middle and at the end.")] = True,
    session_minutes: Annotated[float | None, typer.Option(help="Split the work into sessions of this length.")] = None,
    data_dir: DataDir = None,
) -> None:
    """Order the takes of a flight for the least change-over time, and keep that order."""
    from cata.services.ordering import OrderIn, make_order

    workspace = _open(_settings(None, data_dir))
    try:
        order = make_order(workspace, flight, OrderIn(anchors=anchors, session_limit_min=session_minutes))
    except (CataError, ValueError) as error:
        raise _fail(error if isinstance(error, CataError) else Refused(str(error))) from error
    finally:
        workspace.pool.close()
    if as_json:
        typer.echo(order.model_dump_json(indent=2))
        return
    for step in order.steps:
        anchor = f" [anchor {step.anchor}]" if step.anchor else ""
        typer.echo(f"{step.number:3d}  {step.contender} / {step.test}{anchor}")
        for change in step.changes if step is not order.steps[0] else []:
            typer.echo(f"       {change}")
    best = "the least possible" if order.best else f"at most {order.gap_percent} % over the least possible"
    typer.echo(f"Change-overs {order.change_s / 60:.0f} min ({best}); all together {order.total_s / 60:.0f} min")


@app.command()
def slate(
    out: Annotated[Path, typer.Argument(help="WAV file to write.")],
    take: Annotated[int, typer.Option(help="Number of the take, 1 to 999.")],
    rate: Annotated[int, typer.Option(help="Sampling rate in Hz.", min=8000, max=192000)] = 48000,
    end: Annotated[bool, typer.Option("--end", help="The slate that closes the take.")] = False,
) -> None:
    """Write the slate tone of one take: play it, then play the take."""
    from cata.core.signals.slate import SlateMark
    from cata.core.signals.slate import slate as make
    from cata.media.encode import write_wav

    try:
        clip = make(SlateMark(take, end), rate)
    except CataError as error:
        raise _fail(error) from error
    try:
        write_wav(clip, out)
    except (OSError, RuntimeError) as error:
        typer.echo(f"cata: {out} cannot be written: {error}", err=True)
        raise typer.Exit(EXIT_REFUSED) from error
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
    from cata.services.cutting import cut_recording, write_piece

    lengths = dict.fromkeys(range(1, takes + 1), length) if length is not None else None
    found = cut_recording(str(recording), takes, by_slates=slates, lengths_s=lengths)
    if "refused" in found:
        typer.echo(f"cata: {recording.name}: {found['refused']}", err=True)
        raise typer.Exit(EXIT_REFUSED)
    if out is not None:
        out.mkdir(parents=True, exist_ok=True)
        for piece in found["pieces"]:
            path = out / f"{recording.stem} - take {piece['take']:03d}.flac"
            write_piece(str(recording), piece["start_s"], piece["end_s"], str(path))
    if as_json:
        typer.echo(json.dumps(found["pieces"], indent=2))
        return
    for piece in found["pieces"]:
        flag = f"  ({piece['flag']})" if piece["flag"] else ""
        typer.echo(
            f"take {piece['take']:3d}  {piece['start_s']:10.3f} s to {piece['end_s']:10.3f} s"
            f"  confidence {piece['confidence']:.2f}{flag}"
        )
    missing = takes - len(found["pieces"])
    if missing:
        typer.echo(f"{missing} of {takes} takes were not found", err=True)


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
