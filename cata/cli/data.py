"""Data in and out: a folder of recordings, backups, the shelf."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from cata.cli.common import EXIT_REFUSED, DataDir, app, bytes_of, opened, put_bytes, settings_from
from cata.core.dates import read_day
from cata.core.shelf.headings import read_kind
from cata.services.background import runner_for
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.shelf.exporting import export_csv, export_json
from cata.services.shelf.importing import import_shelf
from cata.services.takes.importing import plan_import, run_import
from cata.services.upkeep import backup as backups
from cata.services.upkeep.export import export_all

gear_app = typer.Typer(help="The shelf in and out as a file.", no_args_is_help=True)
app.add_typer(gear_app, name="gear")
bundle_app = typer.Typer(help="Bundles of open formats, out and in.", no_args_is_help=True)
app.add_typer(bundle_app, name="bundle")


@app.command("import")
def import_folder(
    folder: Annotated[Path, typer.Argument(help="Folder of recordings.")],
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be made.")] = False,
    data_dir: DataDir = None,
) -> None:
    """Make a flight from a folder: contenders and tests from the names."""
    plan = plan_import(folder)
    typer.echo(f"Flight: {plan.name}\nContenders: {', '.join(plan.contenders)}\nTests: {', '.join(plan.tests)}")
    for path, contender, test in plan.cells:
        where = f"{contender} / {test}" if test else "no cell: its name speaks for none, or for one that is taken"
        typer.echo(f"  {path.relative_to(folder)}  ->  {where}")
    if dry_run:
        return
    with opened(data_dir) as workspace:
        result = run_import(workspace, folder, lambda path, text: typer.echo(f"  {path.name}: {text}"))
        counts = f"{result.taken} taken, {len(result.refused)} refused, {len(result.unplaced)} in no cell"
        typer.echo(f"{counts}. Reading the takes ...")
        runner_for(workspace).run_until_idle(lasting=False)
    typer.echo(f"Done: flight {result.flight_id}. Start `cata serve` to see it.")
    if result.refused or result.unplaced:
        raise typer.Exit(EXIT_REFUSED)


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="Zip file to write.")], data_dir: DataDir = None) -> None:
    """Write database and recordings into one file; a running server may go on."""
    with opened(data_dir) as workspace:
        manifest = backups.backup(workspace, file)
    typer.echo(f"{file}: {len(manifest.files)} files, {file.stat().st_size / 1e6:.1f} MB")


@app.command("export")
def export_data(
    file: Annotated[Path, typer.Argument(help="JSON file to write.")],
    data_dir: DataDir = None,
) -> None:
    """Write everything you entered as one JSON file (recordings are named by their SHA-256, see `cata backup`)."""
    with opened(data_dir) as workspace:
        content = export_all(workspace)
    put_bytes(content, file)
    typer.echo(f"{file}: {len(content):,} bytes")


@bundle_app.command("export")
def bundle_export(
    file: Annotated[Path, typer.Argument(help="Zip file to write.")],
    flight: Annotated[int | None, typer.Option(help="Only this flight with its gear.")] = None,
    brief: Annotated[int | None, typer.Option(help="Only this brief.")] = None,
    card: Annotated[int | None, typer.Option(help="Only this decision card.")] = None,
    data_dir: DataDir = None,
) -> None:
    """Write a flight, a brief, a card or everything as open formats (CSV, JSON, recordings) in one file."""
    with opened(data_dir) as workspace:
        recordings = export_bundle(workspace, file, flight=flight, brief=brief, card=card)
    typer.echo(f"{file}: {recordings} recordings, {file.stat().st_size / 1e6:.1f} MB")


@bundle_app.command("import")
def bundle_import(
    file: Annotated[Path, typer.Argument(help="Bundle to bring in.")],
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be done.")] = False,
    data_dir: DataDir = None,
) -> None:
    """Bring a bundle in: what is there already is not doubled, and nothing is overwritten."""
    with opened(data_dir) as workspace:
        done = import_bundle(workspace, file, dry_run=dry_run)
        if not dry_run:
            runner_for(workspace).run_until_idle(lasting=False)
    added = ", ".join(f"{count} {table}" for table, count in done.added.items()) or "nothing"
    typer.echo(f"{done.title}: {added} added, {done.same} there already, {done.recordings} recordings")
    for name in done.kept:
        typer.echo(f"  kept as it is here: {name}")
    if done.missing:
        typer.echo(f"  {done.missing} recordings are in neither", err=True)


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="Backup to unpack.")],
    data_dir: DataDir = None,
    replace: Annotated[bool, typer.Option("--replace", help="Put it in place of the data that is there.")] = False,
) -> None:
    """Unpack a backup. What was there before is kept beside it."""
    target = settings_from(None, data_dir).data_dir.expanduser()
    manifest = backups.restore(file, target, replace=replace)
    typer.echo(f"{target}: {len(manifest.files)} files of {manifest.at}")


@gear_app.command("import")
def gear_import(
    file: Annotated[Path, typer.Argument(help="CSV or JSON file.")],
    kind: Annotated[str | None, typer.Option(help="Kind of gear where a row does not say.")] = None,
    currency: Annotated[str, typer.Option(help="ISO 4217 code where a price does not say.")] = "EUR",
    on_date: Annotated[str, typer.Option("--date", help="Day of prices without one; today if not given.")] = "",
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only show what would be done.")] = False,
    data_dir: DataDir = None,
) -> None:
    """Put gear and prices onto the shelf; known items are brought up to date. Exit status 2 if a row was left out."""
    data = bytes_of(file)
    default = read_kind(kind) if kind else None
    with opened(data_dir) as workspace:
        day = read_day(on_date) if on_date else ""
        done = import_shelf(workspace, data, kind=default, currency=currency.upper(), on_date=day, dry_run=dry_run)
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
    with opened(data_dir) as workspace:
        content = export_json(workspace) if file.suffix.lower() == ".json" else export_csv(workspace)
    put_bytes(content, file)
    typer.echo(f"{file}: {len(content):,} bytes")
