"""All readings of one take."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from importlib import import_module

from cata.core.clip import Clip
from cata.core.measure.material import Material
from cata.core.measure.outcome import Outcome, Value
from cata.core.measure.registry import READINGS


@dataclass(frozen=True)
class Analysis:
    """Readings by key, with the doubts (``flags``) of some and the reasons of those refused."""

    readings: dict[str, Value] = field(default_factory=dict)
    flags: dict[str, str] = field(default_factory=dict)
    refusals: dict[str, str] = field(default_factory=dict)


@cache
def function_of(compute: str) -> Callable[[Material], Outcome]:
    """The function that a registry entry names as module:function."""
    module, name = compute.split(":")
    found: Callable[[Material], Outcome] = getattr(import_module(f"cata.core.measure.{module}"), name)
    return found


def analyse_material(material: Material) -> Analysis:
    """All registered readings of a take."""
    analysis = Analysis()
    for reading in READINGS:
        outcome = material.shared(function_of(reading.compute))
        if outcome.value is None:
            analysis.refusals[reading.key] = outcome.refusal or "not measured"
            continue
        analysis.readings[reading.key] = outcome.value
        if outcome.flag:
            analysis.flags[reading.key] = outcome.flag
    return analysis


def analyse(clip: Clip, *, lead_in_s: float = 0.0, dual_mono: bool = False, lossy: bool = False) -> Analysis:
    """All registered readings of a clip; the options are those of :class:`Material`."""
    return analyse_material(Material(clip, lead_in_s=lead_in_s, dual_mono=dual_mono, lossy=lossy))
