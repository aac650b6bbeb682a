"""What a take shows where nobody plays: a room or a delay that hangs on, hum and noise."""

from __future__ import annotations

import numpy as np

from cata.core.match.cells import Cell, seconds
from cata.core.match.finding import Finding, Picture, Series
from cata.core.match.room import STOPS_DB, falls_of, still_sounds
from cata.core.match.rules.held import Limit, Table
from cata.core.match.rules.take import HUM_SHARE
from cata.core.match.table import left_out, table_of

# Set on flights of known truth, so that none without a fault reached "record it again": docs/measures.md.
ROOM = Limit(8.0, 3.0, 12.0, 4.0)
REST = Limit(9.0, 4.0, 12.0, 6.0)
DRY_DB, FAR_DB = 30.0, 20.0
LEVEL = Limit(9.0, 4.0, np.inf, np.inf)


def room(table: Table) -> list[Finding]:
    """Takes that hang on where the playing stops, though they should fall by 20 dB at once."""
    falls: dict[int, list[float]] = {}
    for cell in table.cells:
        if not np.isnan(cell.fall_db):
            falls.setdefault(cell.column, []).append(cell.fall_db)
    # A test that stops short does so through all contenders but the odd one.
    stops = {column for column, several in falls.items() if len(several) > 1 and sorted(several)[1] >= STOPS_DB}
    table = Table([cell for cell in table.cells if cell.column in stops and not np.isnan(cell.fall_db)])
    if not table.cells:
        return []
    found = []
    for cell, more, usual, spread in table.one_sided(lambda cell: -cell.fall_db, ROOM):
        expected = -usual
        if cell.fall_db >= STOPS_DB and more < ROOM.fault_db:
            continue
        severity = ROOM.severity(more, spread, sure=table.sure(2) and (cell.fall_db < STOPS_DB or more >= FAR_DB))
        if severity is None or expected < STOPS_DB or cell.fall_db >= DRY_DB or not _seen(cell, table):
            continue
        found.append(
            Finding(
                rule="wet_tail",
                severity=severity,
                text=(
                    f"{cell.name} falls by {cell.fall_db:.0f} dB where the playing stops; the other takes "
                    f"would have it fall by {expected:.0f} dB."
                ),
                advice="Reverb, delay or another room on one take only: set it alike for all, then record it again.",
                take=cell.index,
                picture=_fall(cell, table),
                numbers={"db": more, "expected_db": expected},
            )
        )
    return found


def _seen(cell: Cell, table: Table) -> bool:
    """Whether a take still sounds where the others of its test stop: a string that has died away hides the stop."""
    others = [one.stop_s for one in table.cells if one.column == cell.column and one.fall_db >= STOPS_DB]
    return bool(others) and still_sounds(cell.levels_db, cell.last_s + float(np.median(others)))


def _fall(cell: Cell, table: Table) -> Picture:
    """The level of a take around its last stop, and of one of the same test that stops as it should."""
    usual = max((one for one in table.cells if one.column == cell.column), key=lambda one: one.fall_db)
    curves = []
    for one in (cell, usual):
        falls = falls_of(one.levels_db, np.zeros(0))
        at = int(np.nanargmax(falls)) if not np.isnan(falls).all() else 0
        curves.append(Series(one.contender, [round(float(v), 1) for v in one.levels_db[max(0, at - 10) : at + 60]]))
    count = min(len(curve.y) for curve in curves)
    return Picture(
        x=seconds(count), series=[Series(one.name, one.y[:count]) for one in curves], x_label="seconds", y_label="dB"
    )


def rest(table: Table) -> list[Finding]:
    """Takes whose quietest moments are louder than their contender and their test explain: hum, above all."""
    found = []
    for cell, more, _, spread in table.one_sided(lambda cell: cell.rest_db, REST):
        hums = cell.hum_share >= HUM_SHARE
        if not hums and table.tests < 2:
            continue  # of one test it may be the contender's own hiss
        # A take that was trimmed has no quiet moment at all: only lines of the mains are sure to be noise.
        severity = REST.severity(more, spread, sure=table.sure(2) and hums)
        if severity is None:
            continue
        what = "hum of the mains" if hums else "noise, or no rest in it"
        found.append(
            Finding(
                rule="hum" if hums else "noise",
                severity=severity,
                text=f"The quiet moments of {cell.name} are {more:.0f} dB louder than the other takes explain: {what}.",
                advice="Look for what changed: a cable, a lamp, a socket, where the guitar points. Record it again."
                if hums
                else "Listen to its quiet moments; a take that was trimmed has none.",
                take=cell.index,
                numbers={"db": more, "hum_share": cell.hum_share},
            )
        )
    return found


def level(table: Table) -> list[Finding]:
    """Takes far louder or softer than their contender and their test explain: a knob, or the guitar's volume."""
    known = [cell for cell in table.cells if cell.loudness_lufs is not None]
    if Table(known).tests < 2:
        return []
    left = left_out(table_of({cell.key: cell.loudness_lufs or 0.0 for cell in known}))
    found = []
    for cell in known:
        off, spread = float(left.left[cell.key][0]), float(left.spread(cell.key)[0])
        severity = LEVEL.severity(abs(off), spread, sure=False)
        if severity is None:
            continue
        more = f"{abs(off):.0f} LU {'louder' if off > 0 else 'softer'}"
        found.append(
            Finding(
                rule="loudness_gap",
                severity=severity,
                text=f"{cell.name} is {more} than its contender and its test explain.",
                advice="Look for what changed: the input's gain, a volume knob, the guitar's own volume.",
                take=cell.index,
                numbers={"lu": off},
            )
        )
    return found
