"""The rules that need a whole flight, in order: what one of them explains no other one names.

Each rule says what it would see without a fault, from flights of known truth (docs/measures.md), and calls "record it
again" only beyond that. A table that cannot tell which of its cells is the odd one gives nothing worse than a check.
"""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.match.cells import Cell
from cata.core.match.finding import Finding
from cata.core.match.rules.held import Table
from cata.core.match.rules.rests import level, rest, room
from cata.core.match.rules.tone import exchanged, tone_moved


def audit_table(cells: Sequence[Cell]) -> list[Finding]:
    """Findings of a whole flight; what is to be recorded again for one reason is not looked at for another."""
    if len({cell.row for cell in cells}) < 2:
        return []
    rules = (rest, room, exchanged, tone_moved, level) if Table(cells).tests > 1 else (rest, room)
    found: list[Finding] = []
    for rule in rules:
        spoilt = {one.take for one in found if one.severity == "fault" or one.rule == "exchanged"}
        found += rule(Table([cell for cell in cells if cell.index not in spoilt]))
    again = {one.take for one in found if one.severity == "fault"}
    return [one for one in found if one.severity == "fault" or one.take not in again]
