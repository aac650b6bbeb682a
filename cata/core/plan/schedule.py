"""The schedule: takes in order with their change-overs, anchors, the clock, and sessions of an afternoon."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.plan.setup import CHANGE_S, SWAPPED_WITH, WARM_UP_S, Change, PartKind, Setup, change_seconds, changes
from cata.errors import Invalid

WRITE_DOWN_S = 12
COUNT_IN_BEATS = 4
REDO_SHARE = 0.15
"""Of ten takes one or two are played again."""
MIN_SESSION_S = 600


@dataclass(frozen=True)
class Cell:
    """A take to record: its setup, how long it plays, its tempo, and the valve amplifier that must be warm."""

    setup: Setup
    play_s: float
    bpm: float = 104.0
    warm: str = ""

    @property
    def take_s(self) -> float:
        """Count-in, playing, and writing down."""
        return COUNT_IN_BEATS * 60 / self.bpm + self.play_s + WRITE_DOWN_S


@dataclass(frozen=True)
class Step:
    """One take in its place: ``anchor`` is 0 or the number of the anchor (1 start, 2 middle, 3 end)."""

    cell: int
    anchor: int
    changes: tuple[Change, ...]
    change_s: float
    take_s: float
    begins_s: float
    session: int


@dataclass(frozen=True)
class Schedule:
    """Steps in order with their times; ``total_s`` includes an allowance for takes played again."""

    steps: tuple[Step, ...]
    change_s: float
    play_s: float
    warm_s: float
    redo_s: float
    sessions: int

    @property
    def total_s(self) -> float:
        """All of it."""
        return self.change_s + self.play_s + self.warm_s + self.redo_s


def _sessions(
    cells: Sequence[Cell],
    sequence: Sequence[int],
    seconds: Mapping[PartKind, int] | None,
    limit_s: float | None,
    anchor: int | None,
) -> tuple[list[int], list[int]]:
    """The sequence broken so that no session exceeds the limit, each further one opened by the anchor; the sessions.

    The limit holds for all that a person spends: change-overs, valves that settle, playing, and takes played again.
    """
    if limit_s is None:
        return list(sequence), [0] * len(sequence)
    if limit_s < MIN_SESSION_S:
        raise Invalid(f"a session lasts at least {MIN_SESSION_S // 60} minutes, got {limit_s / 60:g}", "short_session")
    longer: list[int] = []
    numbers: list[int] = []
    spent, session = 0.0, 0
    warm: set[str] = set()

    def cost(index: int) -> float:
        cell = cells[index]
        change_s = change_seconds(cells[longer[-1]].setup, cell.setup, seconds) if longer else 0.0
        settle_s = WARM_UP_S if cell.warm and cell.warm not in warm else 0.0
        return change_s + settle_s + (1 + REDO_SHARE) * cell.take_s

    def play(index: int) -> None:
        nonlocal spent
        spent += cost(index)
        warm.add(cells[index].warm)
        longer.append(index)
        numbers.append(session)

    for index in sequence:
        if spent and spent + cost(index) > limit_s:
            session, spent = session + 1, 0.0
            warm.clear()
            if anchor not in (None, index):
                play(anchor)
        play(index)
    return longer, numbers


def schedule(
    cells: Sequence[Cell],
    sequence: Sequence[int],
    *,
    seconds: Mapping[PartKind, int] | None = None,
    session_limit_s: float | None = None,
    anchor: int | None = None,
    given: Sequence[int] | None = None,
) -> Schedule:
    """The steps of a sequence of cells (an anchor comes more than once).

    Work that is split into sessions opens each of them with the anchor, so that a day differs from the day before by
    what the anchor tells. ``given`` are session numbers that were settled before. Raises Invalid for a session limit
    that is too short.
    """
    if given is None:
        sequence, given = _sessions(cells, sequence, seconds, session_limit_s, anchor)
    rows, warm_s = _rows(cells, sequence, given, seconds)
    return _clocked(rows, given, warm_s)


_Row = tuple[int, int, tuple[Change, ...], float, float]


def _rows(
    cells: Sequence[Cell], sequence: Sequence[int], sessions: Sequence[int], seconds: Mapping[PartKind, int] | None
) -> tuple[list[_Row], float]:
    """(cell, anchor, changes, change-over, take) of each step, and the time valves take to settle, in each session."""
    repeated = {cell for cell in sequence if sequence.count(cell) > 1}
    rows: list[_Row] = []
    before: Setup | None = None
    warm: set[tuple[int, str]] = set()
    warm_s = 0.0
    heard: dict[int, int] = {}
    for index, session in zip(sequence, sessions, strict=True):
        cell = cells[index]
        todo = tuple(changes(before, cell.setup, seconds))
        # The first take finds the room set up: its changes are listed, but are no change-over.
        change_s = float(sum(change.seconds for change in todo)) if before is not None else 0.0
        if cell.warm and (session, cell.warm) not in warm:
            warm.add((session, cell.warm))
            warm_s += WARM_UP_S
        heard[index] = heard.get(index, 0) + 1
        rows.append((index, heard[index] if index in repeated else 0, todo, change_s, cell.take_s))
        before = cell.setup
    return rows, warm_s


def _clocked(rows: Sequence[_Row], numbers: Sequence[int], warm_s: float) -> Schedule:
    steps, clock = [], 0.0
    for (index, anchor, todo, change_s, take_s), session in zip(rows, numbers, strict=True):
        steps.append(Step(index, anchor, todo, change_s, take_s, clock + change_s, session))
        clock += change_s + take_s
    play_s = sum(step.take_s for step in steps)
    return Schedule(
        tuple(steps),
        sum(step.change_s for step in steps),
        play_s,
        warm_s,
        REDO_SHARE * play_s,
        (numbers[-1] + 1) if numbers else 0,
    )


def cost_table(cells: Sequence[Cell], seconds: Mapping[PartKind, int] | None = None) -> npt.NDArray[np.int64]:
    """Change-over seconds between every two cells, shape (cells, cells): :func:`change_seconds` of all pairs."""
    cost = CHANGE_S | dict(seconds or {})
    keys = sorted({key for cell in cells for key in cell.setup})
    differs: dict[str, npt.NDArray[np.bool_]] = {}
    for key in keys:
        values = [part.value if (part := cell.setup.get(key)) is not None else None for cell in cells]
        codes = {value: code for code, value in enumerate(dict.fromkeys(values))}
        code = np.array([codes[value] for value in values])
        differs[key] = code[:, None] != code[None, :]
    table = np.zeros((len(cells), len(cells)), dtype=np.int64)
    for key in keys:
        parts = [cell.setup.get(key) for cell in cells]
        one = next(part for part in parts if part is not None)
        counts = differs[key]
        if one.kind in SWAPPED_WITH and one.device in differs:
            counts = counts & ~differs[one.device]
        # A part that is a switch on one device and a knob on another costs the slower of the two, either way round.
        each = np.array([cost[part.kind] if part is not None else 0 for part in parts])
        table += counts * np.maximum(each[:, None], each[None, :])
    return table
