"""Measurements as they come back, made up from plain values."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from cata.core.evidence.probe import Probe
from cata.core.measure.results import Result, Results
from cata.said import Said, Telling

NONE: Mapping[str, Any] = {}


def results(
    readings: Mapping[str, Any], refusals: Mapping[str, str] = NONE, bands: Mapping[str, float] = NONE
) -> Results:
    """Results of values by key, codes of refusals, and bands by "key" or "key.part"."""
    found = {key: Result(value=value, evidence="test signal") for key, value in readings.items()}
    found |= {key: Result(refusal=Said(code, code)) for key, code in refusals.items()}
    for key, band in bands.items():
        name, _, part = key.partition(".")
        value = readings[name][part] if part else readings[name]
        found[key] = Result(value=value, band=band, evidence="test signal")
    return Results(found)


def probe(ident: int, name: str, settings: Mapping[str, float], readings: Mapping[str, Any], **more: Any) -> Probe:
    """A probe of such results; ``more`` holds refusals, bands and pictures."""
    pictures = more.pop("pictures", {})
    return Probe(ident, name, settings, results(readings, **more), pictures)


def codes(telling: Telling) -> list[str]:
    """What is told, by its codes."""
    return [one.code for one in telling.told]
