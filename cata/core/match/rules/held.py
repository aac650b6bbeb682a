"""What the rules of a whole flight hold a take against, and from when on they call something."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.match.cells import Cell
from cata.core.match.finding import Severity
from cata.core.match.size import MIN_TESTS, big_enough
from cata.core.match.table import Left, beside, left_out, table_of

SQUEEZED_DB = 5.0


@dataclass(frozen=True)
class Limit:
    """From how many dB, and how many times what the other cells of this flight are off by, something is called."""

    check_db: float
    check_times: float
    fault_db: float
    fault_times: float

    def severity(self, value: float, spread: float, *, sure: bool) -> Severity | None:
        """What a value is worth; ``sure`` where the table can tell which cell is the odd one."""
        if sure and value >= max(self.fault_db, self.fault_times * spread):
            return "fault"
        return "check" if value >= max(self.check_db, self.check_times * spread) else None


@dataclass(frozen=True)
class Table:
    """The cells of a flight that can be compared, and which of their contenders distort."""

    cells: Sequence[Cell]

    def sure(self, tests: int = MIN_TESTS) -> bool:
        """True where it can tell which cell is the odd one; two tests do where a fault can go one way only."""
        return big_enough({cell.key for cell in self.cells}, tests)

    def shapes(self, curve: Callable[[Cell], npt.ArrayLike], least: int = 1, follow: float = 1.0) -> Left:
        """What contender and test leave of a curve of each cell, whatever its level; ``follow`` as of the table."""
        return left_out(table_of({cell.key: curve(cell) for cell in self.cells}), least, shapes=True, follow=follow)

    @property
    def tests(self) -> int:
        """How many tests it has."""
        return len({cell.column for cell in self.cells})

    def one_sided(self, value: Callable[[Cell], float], limit: Limit) -> list[tuple[Cell, float, float, float]]:
        """The cells whose value is more than is explained, with how much, what was expected, and the others' spread.

        For what a fault can only raise. In a flight of one test its contender explains nothing, and twice as much is
        asked for.
        """
        values = table_of({cell.key: value(cell) for cell in self.cells})
        left = left_out(values) if self.tests > 1 else beside(values)
        least = limit.check_db * (1 if self.tests > 1 else 2)
        found = []
        for cell in self.cells:
            more, expected = float(left.left[cell.key][0]), float(left.expected[cell.key][0])
            if more >= least:
                # Of one test the others only differ as contenders do.
                spread = float(left.spread(cell.key)[0]) if self.tests > 1 else 0.0
                found.append((cell, more, expected, spread))
        return found

    def without(self, index: int) -> Table:
        """The table without a take."""
        return Table([cell for cell in self.cells if cell.index != index])

    def driven(self, row: int) -> bool:
        """True where a contender squeezes the playing, in most of its tests, by much more than the least of them.

        What clips or compresses answers each phrase in its own way; an equaliser leaves peaks over loudness alone.
        """
        known = [(cell, cell.plr_db) for cell in self.cells if cell.plr_db is not None]
        most: dict[int, float] = {}
        for cell, plr in known:
            most[cell.column] = max(most.get(cell.column, 0.0), plr)
        below = [most[cell.column] - plr for cell, plr in known if cell.row == row]
        return bool(below) and float(np.median(below)) >= SQUEEZED_DB
