"""Audits: the takes of a test against each other, and the tone of a whole flight."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from cata.core.match.audit import TestAudit, audit_test
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.finding import Finding
from cata.core.match.rules.flight import tone_moved
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.media.decode import Limits, decode, header
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class ToCompare:
    """A take as the audit wants it: how a person calls it, its file, and what was read from it."""

    name: str
    file: str
    lead_in_s: float
    analysis: Results


@dataclass(frozen=True)
class TestToAudit:
    """The takes of a test; ``prefer`` is the index of the one to match the others to."""

    takes: tuple[ToCompare, ...]
    prefer: int | None


AUDIT_SAMPLES, LEAST_S = 80_000_000, 20.0
"""All takes of a test are held at once: of very long ones the beginning is compared, so that 1 GB is enough."""


def _first_s(path: Path, takes: int) -> float:
    rate_hz, channels = header(path)
    return max(LEAST_S, AUDIT_SAMPLES / takes / channels / rate_hz)


def audit(test: TestToAudit, desk: Desk) -> TestAudit:
    """Findings of a test, its reference, and every take against it; takes by index."""
    evidence = []
    for index, take in enumerate(test.takes):
        with desk.reading(take.file) as path:
            recording = decode(path, Limits(max_duration_s=float("inf"), first_s=_first_s(path, len(test.takes))))
        clip = recording.clip
        material = Material(clip, lead_in_s=take.lead_in_s, lossy=recording.lossy)
        source = Source(recording.codec, recording.lossy, clip.rate_hz, clip.channels)
        evidence.append(TakeEvidence(index, take.name, material, take.analysis, source))
        desk.tell((index + 1) / (len(test.takes) + 1))
    return audit_test(evidence, test.prefer)


@dataclass(frozen=True)
class Cell:
    """A cell of the table whose tone can be compared: row, column, how a person calls it, its third octaves in dB."""

    row: int
    column: int
    name: str
    bands: Mapping[str, float]


def audit_tone(cells: tuple[Cell, ...], _desk: Desk) -> list[Finding]:
    """Findings that need the whole flight; ``take`` is the index of the cell."""
    at = {(cell.row, cell.column): index for index, cell in enumerate(cells)}
    spectra = {key: dict(cells[index].bands) for key, index in at.items()}
    names = {key: cells[index].name for key, index in at.items()}
    return tone_moved(spectra, names, at)


AUDIT_TEST = Task("audit of a test", audit, limit_s=1800)
AUDIT_FLIGHT = Task("audit of a flight", audit_tone, limit_s=300)
