"""What was seen of things in the cells of flights: the ground that pooling stands on. Imports no numpy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from cata.core.measure.outcome import Bound

Node = str
"""An item at one setting of its knobs."""
NOTHING: Node = ""
"""The bypass, or a loop-back: nothing in the place of what is compared. It is the same in every flight."""
TEST_FILE = "test file"
"""Stands for a flight: everything in it heard one and the same playing."""


@dataclass(frozen=True)
class Seen:
    """One value of a reading: of what, in which flight and cell of it, with its standard deviation.

    ``cell`` is what was played (a test of the flight): everything in it was recorded alike, so what all of a cell share
    cancels. ``freedom`` is what the deviation is known from; of a ``bound`` the truth lies beyond the value.
    An item at several settings is one ``family``: what a rig makes of it is alike at all of them. ``transfer_sd`` is
    what its difference moves by on the way to other rigs where that is more than usual, ``setting_sd`` what each
    setting's moves by besides.
    """

    node: Node
    flight: str
    cell: str
    value: float
    sd: float
    freedom: float = inf
    bound: Bound | None = None
    family: str = ""
    transfer_sd: float = 0.0
    setting_sd: float = 0.0


@dataclass(frozen=True)
class Trait:
    """How a reading carries from one flight to another.

    ``transfer_sd``: what one thing's difference from another moves by between rigs and players; ``cell_sd``: what all
    of a cell move together by (another guitar, another phrase), None where only differences within a cell mean
    anything.
    """

    transfer_sd: float
    cell_sd: float | None = None

    @property
    def relative(self) -> bool:
        """True where values of two cells cannot be compared by themselves."""
        return self.cell_sd is None


def values_of(seen: Sequence[Seen]) -> list[Seen]:
    """Those that are values, not bounds."""
    return [one for one in seen if one.bound is None]
