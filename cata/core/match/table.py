"""The table of a flight, contenders by tests: what a cell shows that neither its contender nor its test explains.

With one signal path a contender differs from the others alike in every test, and a test from the others alike through
every contender. What is left is the playing's own scatter, what a device makes of one phrase and not of another, and
whatever was changed for one take. Nothing of a cell goes into what it is held against.
"""

from __future__ import annotations

import warnings
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.match.size import Key

Floats = npt.NDArray[np.float64]
TO_SD = 1.4826
"""From the median of absolute values to a standard deviation, for a normal distribution."""


@dataclass(frozen=True)
class Left:
    """What is left of each cell, shape (contenders, tests, values): nan where nothing can be said."""

    left: Floats
    expected: Floats

    def spread(self, but: Key) -> Floats:
        """How far the other cells lie off, as a standard deviation per value, shape (values,)."""
        others = self.left.copy()
        others[but] = np.nan
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", "All-NaN slice", RuntimeWarning)
            return np.asarray(TO_SD * np.nanmedian(np.abs(others), axis=(0, 1)))


def table_of(values: Mapping[Key, npt.ArrayLike]) -> Floats:
    """A table from its cells, shape (contenders, tests, values); nan where there is none."""
    rows, columns = 1 + max(row for row, _ in values), 1 + max(column for _, column in values)
    width = len(np.atleast_1d(np.asarray(next(iter(values.values())), dtype=np.float64)))
    table = np.full((rows, columns, width), np.nan)
    for key, value in values.items():
        table[key] = value
    return table


def left_out(table: Floats, least: int = 1, *, shapes: bool = False, follow: float = 1.0) -> Left:
    """Each cell against its contender and its test without it.

    Every other contender and every other test give one answer, its own contender in that test + the other contender in
    its own test - the other in the other; the median of all of them is what the cell should be. One odd cell elsewhere
    spoils few of them. A value that its contender has in fewer than ``least`` other tests, or its test through fewer
    than ``least`` other contenders, is left unsaid: with one, nobody could tell which of the two is the odd one. With
    ``shapes`` the values are a curve, and how high it lies as a whole counts for nothing, in any of the answers.
    ``follow``: how much of what tells two tests apart a contender passes on: a fuzz that saturates next to nothing.
    Source: the two-by-two contrasts of an additive table (Tukey 1977, chapter 11).
    """
    rows, columns, width = table.shape
    expected = np.full_like(table, np.nan)
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", "All-NaN slice", RuntimeWarning)
        for row in range(rows):
            for column in range(columns):
                others = [index for index in range(rows) if index != row]
                tests = [index for index in range(columns) if index != column]
                if not others or not tests:
                    continue
                own = table[row, tests][None, :, :].copy()
                own[:, :, np.sum(~np.isnan(own[0]), axis=0) < least] = np.nan
                answers = own + follow * (table[others, column][:, None, :] - table[np.ix_(others, tests)])
                # Of two contenders in a test, too, nobody could tell which is the odd one.
                answers[:, :, np.sum(~np.isnan(answers).all(axis=1), axis=0) < least] = np.nan
                off = table[row, column] - answers.reshape(-1, width)
                if shapes:
                    off -= np.nanmedian(off, axis=1, keepdims=True)
                expected[row, column] = table[row, column] - np.nanmedian(off, axis=0)
    return Left(table - expected, expected)


def beside(table: Floats) -> Left:
    """Each cell against the others of its test, by their median: all that a flight of one test allows."""
    expected = np.full_like(table, np.nan)
    for row in range(table.shape[0]):
        others = np.delete(table, row, axis=0)
        if len(others):
            with warnings.catch_warnings():
                warnings.filterwarnings("ignore", "All-NaN slice", RuntimeWarning)
                expected[row] = np.nanmedian(others, axis=0)
    return Left(table - expected, expected)
