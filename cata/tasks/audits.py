"""Audits: the takes of a test against each other, and the tone of a whole flight."""

from __future__ import annotations

from contextlib import ExitStack, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from cata.core.match.audit import TestAudit, audit_test
from cata.core.match.cells import cell_of
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.features import Features, features_of, read_features
from cata.core.match.finding import Finding
from cata.core.match.rules.flight import audit_table
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.media.cuts import cut_of
from cata.media.decode import Limits, decode
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.tasks.takes import keep_features


@dataclass(frozen=True)
class ToCompare:
    """A take as the audit wants it: how a person calls it, where it came from, its files, and what was read from it."""

    name: str
    source: Source
    file: str
    copy: str
    features: str
    results: Results


@dataclass(frozen=True)
class TestToAudit:
    """The takes of a test; ``prefer`` is the index of the one to match the others to."""

    takes: tuple[ToCompare, ...]
    prefer: int | None


def audit(test: TestToAudit, desk: Desk) -> TestAudit:
    """Findings of a test, its reference, and every take against it; takes by index."""
    evidence = []
    with ExitStack() as copies:
        for index, take in enumerate(test.takes):
            copy = copies.enter_context(desk.reading(take.copy))
            features = features_at(take, copy, desk)
            evidence.append(TakeEvidence(index, take.name, features, take.results, take.source))
            desk.tell((index + 1) / (len(test.takes) + 1))
        return audit_test(evidence, test.prefer)


def features_at(take: ToCompare, copy: Path, desk: Desk) -> Features:
    """What was kept of a take when it was read; taken again where an older version kept it, or nobody did."""
    known = _kept(take, desk)
    if known is None:
        with desk.reading(take.file) as path:
            recording = decode(path, Limits(max_duration_s=float("inf")))
        keep_features(features_of(Material(recording.clip, lossy=recording.lossy)), take.features, desk)
        known = _kept(take, desk) or {}
    return Features(**known, cut=cut_of(copy, known["mix"]))


def _kept(take: ToCompare, desk: Desk) -> dict[str, Any] | None:
    with suppress(FileNotFoundError), desk.reading(take.features) as path, path.open("rb") as file:
        return read_features(file)
    return None


@dataclass(frozen=True)
class Placed:
    """A take at its place in the table: row, column, and how a person calls contender and test."""

    row: int
    column: int
    contender: str
    test: str
    take: ToCompare


def audit_flight(placed: tuple[Placed, ...], desk: Desk) -> list[Finding]:
    """Findings that need the whole flight; ``take`` is the index of the cell."""
    cells = []
    with ExitStack() as copies:
        for index, one in enumerate(placed):
            features = features_at(one.take, copies.enter_context(desk.reading(one.take.copy)), desk)
            cells.append(cell_of(index, one.row, one.column, one.contender, one.test, features, one.take.results))
            desk.tell((index + 1) / (len(placed) + 1))
    return audit_table([cell for cell in cells if cell is not None])


AUDIT_TEST = Task("audit of a test", audit, limit_s=1800)
AUDIT_FLIGHT = Task("audit of a flight", audit_flight, limit_s=900)
