"""Items at a setting, as pooling tells them apart, and what there is to hear of them."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from cata.core.gear import Control
from cata.core.pool.seen import Node


@dataclass(frozen=True)
class Playing:
    """Something to hear: a take in its flight, or the playing of a measurement."""

    flight_id: int = 0
    test_id: int = 0
    contender_id: int = 0
    probe_id: int = 0


def at_all(controls: Iterable[Control], settings: Mapping[str, float]) -> dict[str, float]:
    """Positions of all knobs: what nobody noted stands where it starts."""
    return {control.key: control.default for control in controls} | dict(settings)


def node_of(gear_id: int, positions: Mapping[str, float], changes: Mapping[str, Any]) -> Node:
    """An item at a setting, in a chain that differs by some changes."""
    return json.dumps([gear_id, {key: round(at, 2) for key, at in sorted(positions.items())}, changes], sort_keys=True)
