"""How well a flight repeats: from anchors and cells that were played again, for every reading."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field

from sqlmodel import Session, col, select

from cata.core.match.repeat import Drift, Repeatability, drift, moved_beyond, repeatability, without_drift
from cata.core.measure.registry import ALL_READINGS, Reading, jnd_of
from cata.said import Said, said
from cata.services.match.worst import to_be_left_out
from cata.services.takes.rows import readings_of
from cata.store.tables import Analysed, Planned, Take

Cell = tuple[int, int]
# Of many readings some always move; a drift is looked for where the trade would look.
DRIFT_KEYS = ("loudness_lufs", "centroid_hz", "tilt_db_per_oct", "drive_density", "tuning_cents", "noise_floor_dbfs")


@dataclass(frozen=True)
class Moved:
    """A reading that drifted over the session: which take shows it, and by how much."""

    key: str
    reading: Reading
    take_id: int
    drift: Drift


@dataclass(frozen=True)
class FlightRepeats:
    """The flight's own noise by reading ("key" or "key.part"), from how many takes of how many cells; and drifts."""

    bands: dict[str, Repeatability] = field(default_factory=dict)
    takes: int = 0
    cells: int = 0
    moved: tuple[Moved, ...] = ()

    @property
    def said(self) -> Said:
        """What is known of it."""
        if not self.takes:
            return Said(
                "not_measured",
                "No take was repeated, so nothing here is more than likely. "
                "Record one cell three times (the order's anchors do) to be sure.",
            )
        cells = "one cell" if self.cells == 1 else "{cells} cells"
        few = self.takes - self.cells < 4
        rough = " Few repeats: the band itself is rough." if few else ""
        words = (
            f"From {{takes}} takes of {cells}: a difference counts from twice what repeats of the same cell "
            f"differ by, and from what hearing can just notice.{rough}"
        )
        return said("few_repeats" if few else "measured", words, takes=self.takes, cells=self.cells)


def flight_repeats(session: Session, flight_id: int, keys: Iterable[str] = ()) -> FlightRepeats:
    """The repeatability of a flight, computed from its repeated cells as they stand; of some readings only, or all."""
    groups = _groups(session, flight_id)
    if not groups:
        return FlightRepeats()
    idents = [take.id or 0 for takes in groups.values() for take, _ in takes]
    values = {take: results.numbers() for take, results in readings_of(session, idents, keys).items()}
    bands: dict[str, Repeatability] = {}
    moved: list[Moved] = []
    for reading in ALL_READINGS:
        for key in [f"{reading.key}.{part}" for part, _ in reading.parts] or [reading.key]:
            rows = [
                [(take, place, values[take.id or 0][key]) for take, place in takes if key in values[take.id or 0]]
                for takes in groups.values()
            ]
            lines = [drift([v for _, _, v in row], [p for _, p, _ in row]) for row in rows]
            still = [
                without_drift([v for _, _, v in row], [p for _, p, _ in row], line)
                for row, line in zip(rows, lines, strict=True)
            ]
            band = repeatability(still)
            if band is not None:
                bands[key] = band
            moved += _drifts(key, reading, rows, lines)
    takes = sum(len(group) for group in groups.values())
    return FlightRepeats(bands, takes, len(groups), tuple(moved))


def _groups(session: Session, flight_id: int) -> dict[Cell, list[tuple[Take, float]]]:
    """Cells with more than one usable take, each take with its place in the order."""
    statement = (
        select(Take)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(Take.flight_id == flight_id, col(Take.test_id).is_not(None), Analysed.refusal == "")
        .order_by(col(Take.repeat), col(Take.id))
    )
    places = {
        (row.contender_id, row.test_id, max(0, row.anchor - 1)): row.position
        for row in session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    }
    found: dict[Cell, list[tuple[Take, float]]] = defaultdict(list)
    left_out = to_be_left_out(session, flight_id)
    for take in session.exec(statement).all():
        if take.id in left_out:
            continue
        cell = (take.contender_id or 0, take.test_id or 0)
        found[cell].append((take, float(places.get((*cell, take.repeat), take.repeat))))
    return {cell: takes for cell, takes in found.items() if len(takes) > 1}


def _drifts(
    key: str, reading: Reading, rows: list[list[tuple[Take, float, float]]], lines: list[Drift | None]
) -> list[Moved]:
    found = []
    for row, line in zip(rows, lines, strict=True):
        # The band that a drift must exceed is what is left over around its own line.
        jnd = jnd_of(reading, row[0][2]) if row and reading.key in DRIFT_KEYS else None
        if line is not None and jnd is not None and moved_beyond(line, [value for _, _, value in row], jnd):
            found.append(Moved(key, reading, row[-1][0].id or 0, line))
    return found
