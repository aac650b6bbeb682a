"""Which things can be compared at all: those that met in a cell, or met things that did. Imports no numpy."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from cata.core.pool.seen import NOTHING, TEST_FILE, Node, Seen


@dataclass(frozen=True)
class Link:
    """One take that would make things comparable: this node, played in that cell of that flight."""

    node: Node
    flight: str
    cell: str


def groups(seen: Sequence[Seen]) -> list[frozenset[Node]]:
    """Sets of nodes that hang together through shared cells, that of most items first; the bypass may be in one.

    Of two of as many that with the bypass comes first, then that which was seen more often.
    """
    cells: dict[str, set[Node]] = {}
    for one in seen:
        cells.setdefault(one.cell, set()).add(one.node)
    of_node: dict[Node, set[str]] = {}
    for cell, nodes in cells.items():
        for node in nodes:
            of_node.setdefault(node, set()).add(cell)
    found, left = [], set(of_node)
    while left:
        reached = _reached(next(iter(left)), cells, of_node)
        left -= reached
        found.append(frozenset(reached))
    counts = {node: len(mine) for node, mine in of_node.items()}
    item_of = {one.node: one.family or one.node for one in seen}
    items = {group: len({item_of[node] for node in group - {NOTHING}}) for group in found}
    return sorted(found, key=lambda one: (-items[one], NOTHING not in one, -sum(counts[n] for n in one), sorted(one)))


def _reached(start: Node, cells: Mapping[str, set[Node]], of_node: Mapping[Node, set[str]]) -> set[Node]:
    reached, queue = {start}, [start]
    while queue:
        for cell in of_node[queue.pop()]:
            fresh = cells[cell] - reached
            reached |= fresh
            queue.extend(fresh)
    return reached


def links_from(seen: Sequence[Seen], starts: Iterable[Node]) -> dict[Node, int]:
    """Over how many things each node is linked with some: 0 where they met in a flight; only what is linked at all."""
    flights: dict[str, set[Node]] = {}
    of_node: dict[Node, set[str]] = {}
    for one in seen:
        flights.setdefault(one.flight, set()).add(one.node)
        of_node.setdefault(one.node, set()).add(one.flight)
    found = {node: 0 for node in starts if node in of_node}
    queue = deque((node, 0) for node in found)
    passed: set[str] = set()
    while queue:
        node, steps = queue.popleft()
        for flight in of_node[node] - passed:
            passed.add(flight)
            for fresh in flights[flight] - found.keys():
                found[fresh] = steps
                queue.append((fresh, steps + 1))
    return found


def missing_link(seen: Sequence[Seen], group: frozenset[Node], main: frozenset[Node]) -> Link | None:
    """The one take that links a group to the main one: its best known node, played where most of the main one was.

    Where the bypass is in the main group and not in this one, it is the bypass in a cell of this group: nothing has to
    be fetched for that.
    """
    if NOTHING in main and (cell := _busiest(seen, group)) is not None:
        return Link(NOTHING, cell.flight, cell.cell)
    there = _busiest(seen, main)
    if there is None:
        return None
    counts = {node: sum(one.node == node for one in seen) for node in group}
    return Link(max(sorted(group), key=lambda node: counts[node]), there.flight, there.cell)


def _busiest(seen: Iterable[Seen], group: frozenset[Node]) -> Seen | None:
    """Something seen in the cell of a flight in which most of a group were."""
    cells: dict[str, dict[Node, Seen]] = {}
    for one in seen:
        if one.node in group and one.flight != TEST_FILE:
            cells.setdefault(one.cell, {})[one.node] = one
    if not cells:
        return None
    best = max(sorted(cells), key=lambda cell: len(cells[cell]))
    return next(iter(cells[best].values()))
