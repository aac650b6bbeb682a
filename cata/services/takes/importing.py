"""Importing a folder of recordings as a flight: contenders and tests from the names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from cata.core.names import find_grid
from cata.errors import BadAudio, CataError, Refused
from cata.services.flights.table import FlightIn, add_flight
from cata.services.takes.placing import lay_out
from cata.services.takes.receiving import add_take, check_incoming
from cata.services.workspace import Workspace
from cata.store.vault import Kept
from cata.tasks.takes import Facts

# The endings that are tried; anything else in a folder (pictures, notes) is passed over without a word.
SUFFIXES = (".wav", ".wave", ".flac", ".ogg", ".oga", ".opus", ".mp3", ".aif", ".aiff", ".aifc")


@dataclass(frozen=True)
class ImportPlan:
    """What an import would make; ``cells`` is (file, contender, test), both empty where the name says neither."""

    name: str
    cells: tuple[tuple[Path, str, str], ...]
    contenders: tuple[str, ...]
    tests: tuple[str, ...]


@dataclass
class ImportResult:
    """What it made: the flight's id, how many were taken, the refused files with their reasons, those in no cell."""

    flight_id: int
    taken: int = 0
    refused: list[tuple[Path, str]] = field(default_factory=list)
    unplaced: list[Path] = field(default_factory=list)


def plan_import(folder: Path) -> ImportPlan:
    """Read the names in a folder. Refused where there is no folder, or no recording in it."""
    if not folder.is_dir():
        raise Refused(f"{folder} is not a folder", "no_folder")
    files = sorted(p for p in folder.rglob("*") if p.suffix.lower() in SUFFIXES and p.is_file())
    if not files:
        raise Refused(f"there is no WAV, FLAC, OGG, MP3 or AIFF file in {folder}", "no_sound_files")
    grid = find_grid([path.relative_to(folder).as_posix() for path in files])
    cells = tuple(
        (f, grid.contenders[cell[0]], grid.tests[cell[1]]) if cell is not None else (f, "", "")
        for f, cell in zip(files, grid.cells, strict=True)
    )
    return ImportPlan(folder.resolve().name, cells, grid.contenders, grid.tests)


def run_import(
    ws: Workspace, folder: Path, tell: Callable[[Path, str], None] = lambda path, text: None
) -> ImportResult:
    """Import a folder as :func:`plan_import` shows it; a bad file is refused with its reason and the rest goes on."""
    plan = plan_import(folder)
    result = ImportResult(flight_id=add_flight(ws, FlightIn(name=plan.name[:160], link="gear")))
    cells: dict[int, tuple[str, str]] = {}
    for path, contender, test in plan.cells:
        name = path.relative_to(folder).as_posix()
        try:
            kept, facts = _receive(ws, path)
            take_id = add_take(ws, result.flight_id, name, kept, facts)
        except (CataError, OSError) as error:
            reason = error.message if isinstance(error, CataError) else str(error)
            result.refused.append((path, reason))
            tell(path, f"refused: {reason}")
        else:
            result.taken += 1
            if test:
                cells[take_id] = (contender, test)
            else:
                result.unplaced.append(path)
            tell(path, "taken" if test else "taken, in no cell")
    lay_out(ws, result.flight_id, cells)
    return result


def _receive(ws: Workspace, path: Path) -> tuple[Kept, Facts]:
    with ws.vault.receive(path.suffix) as incoming:
        with path.open("rb") as file:
            for chunk in iter(lambda: file.read(1 << 20), b""):
                incoming.write(chunk)
        if incoming.size_bytes == 0:
            raise BadAudio("empty", "the file is empty (0 bytes)")
        facts = check_incoming(ws, incoming)
        return ws.vault.keep(incoming), facts
