"""What an answer about an item is made of: what is told, its numbers, its picture, and what lets it be heard."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from cata.core.evidence.probe import Probe, figure
from cata.core.gear import Control, show_position
from cata.said import Telling


@dataclass
class Answer(Telling):
    """One answer: what is told, figures, a picture, the two probes that let it be heard, and what is lacking."""

    key: str
    title: str
    figures: list[dict[str, Any]] = field(default_factory=list)
    picture: dict[str, Any] | None = None
    proof: tuple[int, ...] = ()

    def show(self, probe: Probe, *keys: str) -> None:
        """Add the figures of a probe, those that it has."""
        self.figures += [shown for key in keys if (shown := figure(probe, key)) is not None]


def told_apart(probes: Sequence[Probe], controls: Sequence[Control]) -> list[Probe]:
    """The probes named by those knobs only that do not stand alike in all of them; as they are where all do."""
    differing = [
        control for control in controls if len({round(p.settings.get(control.key, -1.0), 2) for p in probes}) > 1
    ]
    if not differing:
        return list(probes)
    return [
        replace(
            probe,
            name=", ".join(
                f"{control.name} {show_position(control, probe.settings[control.key])}"
                for control in differing
                if control.key in probe.settings
            )
            or probe.name,
        )
        for probe in probes
    ]


LEAST_DB = 6.0
"""Less is drawn as the little that it is."""


def picture_of(
    title: str, x: str, y: str, probes: Sequence[Probe], name: str, *, log_x: bool = False, least: float = LEAST_DB
) -> dict[str, Any]:
    """The curves that some probes hold under a name, with titles for the axes, which span ``least`` at least."""
    curves = [
        {"name": probe.name, "probe": probe.ident, "points": [list(point) for point in probe.pictures[name]]}
        for probe in probes
        if probe.pictures.get(name)
    ]
    return {"title": title, "x": x, "y": y, "log_x": log_x, "least": least, "curves": curves}


def distinct(*probes: Probe | None) -> list[Probe]:
    """The probes without those that are none, and each once."""
    seen: dict[int, Probe] = {}
    for probe in probes:
        if probe is not None:
            seen.setdefault(probe.ident, probe)
    return list(seen.values())
