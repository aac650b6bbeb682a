"""Takes whose tone departs from what contender and test explain, and takes that stand in each other's place."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from cata.core.match.cells import Cell
from cata.core.match.finding import Finding, Picture, Series, Severity
from cata.core.match.rules.held import Limit, Table
from cata.core.match.size import Key
from cata.core.match.table import Left
from cata.core.measure.regions import REGIONS, THIRD_OCTAVES_HZ

Floats = npt.NDArray[np.float64]

# Set on flights of known truth, so that none without a fault reached "record it again": docs/measures.md.
TONE_CLEAN = Limit(1.1, 3.5, 1.5, 6.5)
TONE_DRIVEN = Limit(2.3, 5.0, 4.5, 6.5)
TONE_ALONE = Limit(2.2, 1.65, np.inf, np.inf)
TONE_OF_TWO = Limit(2.0, 8.0, np.inf, np.inf)
HEARD_DB, SURE_DB = -22.0, -9.0
STEEP_DB = (8.0, 16.0)
FEW_BANDS = 2.0
MOST_MOVED = 4
FOLLOWS = (0.5, 0.0)
ROW_TIMES = 1.6
MIN_EXCHANGED_DB, LEFT_SHARE = 1.5, 0.5
HZ = np.array(THIRD_OCTAVES_HZ, dtype=np.float64)
WEAKER_DB = 6.0 * np.maximum(0.0, np.log2(HZ / 1000))


def _heard(cell: Cell) -> Floats:
    """The bands of a cell that are heard: what lies far under the strongest hangs on a few notes of the phrase.

    Less is asked of the highs, which are weaker in every guitar and heard all the same.
    """
    return np.where(cell.bands_db + WEAKER_DB > HEARD_DB, cell.bands_db, np.nan)


def _shape(cell: Cell, left: Left) -> Floats:
    """What is left of a cell in each region, its level aside, dB; bands count as they are heard."""
    off = np.nan_to_num(left.left[cell.key])
    level = (cell.bands_db + left.expected[cell.key]) / 2
    weights = np.nan_to_num(np.clip((level + WEAKER_DB - HEARD_DB) / (SURE_DB - HEARD_DB), 0.0, 1.0))
    # On a steep slope a band is what the strongest note at its edge makes of it.
    steep = np.nan_to_num(
        np.maximum(np.abs(np.diff(level, prepend=level[:1])), np.abs(np.diff(level, append=level[-1:])))
    )
    weights *= np.clip((STEEP_DB[1] - steep) / (STEEP_DB[1] - STEEP_DB[0]), 0.0, 1.0)
    if not weights.any():
        return np.zeros(len(REGIONS))
    order = np.argsort(off)
    share = np.cumsum(weights[order])
    off = off - off[order][int(np.searchsorted(share, share[-1] / 2))]
    found = []
    for region in REGIONS:
        inside = (region.low_hz <= HZ) & (region.high_hz > HZ)
        known = float(weights[inside].sum())
        mean = float((weights * off)[inside].sum()) / known if known else 0.0
        found.append(mean * min(1.0, known / FEW_BANDS))
    return np.array(found)


def _sizes(table: Table, tests: int = 1) -> tuple[dict[Key, Floats], dict[Key, float]]:
    """What is left of each cell by region, and its size: the root of the mean square over the regions, dB.

    ``tests`` are the other tests in which a contender's band must be heard.
    """
    left = table.shapes(_heard, least=tests)
    shapes = {cell.key: _shape(cell, left) for cell in table.cells}
    for row in {cell.row for cell in table.cells}:
        if not table.driven(row):
            continue
        # What clips passes on only part of what tells two phrases apart: it is explained where any part explains it.
        for follow in FOLLOWS:
            other = table.shapes(_heard, least=tests, follow=follow)
            for cell in table.cells:
                if cell.row == row:
                    shapes[cell.key] = min(shapes[cell.key], _shape(cell, other), key=_size)
    return shapes, {key: _size(shape) for key, shape in shapes.items()}


def _size(shape: Floats) -> float:
    return float(np.sqrt(np.mean(shape**2)))


def tone_moved(table: Table) -> list[Finding]:
    """Takes whose regions differ from what contender and test explain, the most striking first.

    What is told by bands that its contender has in one other test only is never sure: either may be the odd one.
    """
    found: list[Finding] = []
    while len(table.cells) > 1 and len(found) < MOST_MOVED:
        one = _most_moved(table)
        if one is None:
            break
        found.append(one)
        table = table.without(one.take)
    return found


def _most_moved(table: Table) -> Finding | None:
    """The take that is called most surely; bands heard in one other test only are asked last, and never sure."""
    for tests in (2, 1):
        shapes, sizes = _sizes(table, tests)
        for cell in sorted(table.cells, key=lambda one: -sizes[one.key]):
            driven = table.driven(cell.row)
            limit = TONE_DRIVEN if driven else TONE_CLEAN if tests == 2 else TONE_OF_TWO
            if sizes[cell.key] < limit.check_db:
                continue
            own = [sizes[one.key] for one in table.cells if one.row == cell.row and one is not cell]
            alone = tests == 2 and sizes[cell.key] >= ROW_TIMES * max(own, default=0.0)
            if driven and not alone:
                continue  # it answers every phrase in its own way
            # An odd take spoils its neighbours a little: what is typical is asked of the table without it.
            others = [size for size in _sizes(table.without(cell.index), tests)[1].values() if size > 0.0]
            typical = float(np.median(others)) if others else 0.0
            severity = limit.severity(sizes[cell.key], typical, sure=table.sure())
            if severity is None and alone and not driven:
                # A light drive answers phrases a little; one take that does so far more than its others stands out.
                severity = TONE_ALONE.severity(sizes[cell.key], typical, sure=False)
            if severity is not None:
                return _tone(cell, shapes[cell.key], severity, typical)
    return None


def _tone(cell: Cell, shape: Floats, severity: Severity, typical: float) -> Finding:
    top = int(np.argmax(np.abs(shape)))
    region, amount = REGIONS[top], float(shape[top])
    return Finding(
        rule="tone_moved",
        severity=severity,
        text=(
            f"{cell.name} has {abs(amount):.1f} dB {'more' if amount > 0 else 'less'} {region.word} than its contender "
            "and its test explain."
        ),
        advice="Something besides the contender changed: compare the amplifier's knobs and the microphone.",
        take=cell.index,
        picture=Picture(
            x=[round(float(np.sqrt(one.low_hz * one.high_hz)), 1) for one in REGIONS],
            series=[
                Series(cell.name, [round(float(v), 2) for v in shape]),
                Series("typical of the others", [round(typical, 2)] * len(REGIONS)),
            ],
            x_label="Hz",
            y_label="unexplained dB",
            marks=[(round(float(np.sqrt(region.low_hz * region.high_hz)), 1), f"{amount:+.1f} dB")],
            log_x=True,
        ),
        numbers={"db": amount, "typical_db": typical, "region": region.key},
    )


def exchanged(table: Table) -> list[Finding]:
    """Pairs of takes of one test that fit far better with their contenders exchanged."""
    _, sizes = _sizes(table)
    best: tuple[float, Cell, Cell] | None = None
    for one in table.cells:
        for other in table.cells:
            if other.column != one.column or other.row <= one.row:
                continue
            before = sizes[one.key] + sizes[other.key]
            if min(sizes[one.key], sizes[other.key]) < MIN_EXCHANGED_DB:
                continue
            after = _sizes(Table([_in_place(cell, one, other) for cell in table.cells]))[1]
            left = after[one.key] + after[other.key]
            if left < LEFT_SHARE * before and (best is None or before - left > best[0]):
                best = (before - left, one, other)
    if best is None:
        return []
    _, one, other = best
    return [
        Finding(
            rule="exchanged",
            severity="check",
            text=f"{cell.name} sounds like {twin.contender}, and the other way round: they fit better exchanged.",
            advice="Listen to both; if they are in each other's place, exchange them.",
            take=cell.index,
            numbers={"db": best[0], "other": twin.index},
        )
        for cell, twin in ((one, other), (other, one))
    ]


def _in_place(cell: Cell, one: Cell, other: Cell) -> Cell:
    """The take that would stand in the place of a cell if two were exchanged."""
    if cell is one or cell is other:
        return replace(other if cell is one else one, row=cell.row, contender=cell.contender)
    return cell
