"""What a take shows where nobody plays: a room or a delay that hangs on, hum and noise."""

from __future__ import annotations

import numpy as np

from cata.core.match.cells import Cell, seconds
from cata.core.match.finding import Finding, Picture, Series
from cata.core.match.room import falls_of
from cata.core.match.rules.held import Limit, Table

# Set on flights of known truth, so that none without a fault reached "record it again": docs/measures.md.
ROOM = Limit(8.0, 3.0, 12.0, 4.0)
REST = Limit(9.0, 4.0, 12.0, 6.0)
STOPS_DB = 20.0
HUM_SHARE = 0.6


def room(table: Table) -> list[Finding]:
    """Takes that hang on where the playing stops, though they should fall by 20 dB at once."""
    falls: dict[int, list[float]] = {}
    for cell in table.cells:
        falls.setdefault(cell.column, []).append(cell.fall_db)
    # A test that stops short does so through all contenders but the odd one.
    stops = {column for column, several in falls.items() if len(several) > 1 and sorted(several)[1] >= STOPS_DB}
    table = Table([cell for cell in table.cells if cell.column in stops])
    if not table.cells:
        return []
    found = []
    for cell, more, usual, spread in table.one_sided(lambda cell: -cell.fall_db, ROOM):
        expected = -usual
        severity = ROOM.severity(more, spread, sure=table.sure(2))
        if severity is None or expected < STOPS_DB:
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
