"""All readings of one take."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cache
from importlib import import_module

from cata.core.clip import Clip
from cata.core.measure.material import Material
from cata.core.measure.outcome import Outcome
from cata.core.measure.reading import Reading
from cata.core.measure.registry import BY_KEY, READINGS
from cata.core.measure.results import Result, Results


@cache
def function_of(compute: str) -> Callable[[Material], Outcome]:
    """The function that a registry entry names as module:function."""
    module, name = compute.split(":")
    found: Callable[[Material], Outcome] = getattr(import_module(f"cata.core.measure.{module}"), name)
    return found


def _result(reading: Reading, outcome: Outcome) -> Result:
    return Result(
        value=outcome.value, flag=outcome.flag, refusal=outcome.refusal, bound=outcome.bound,
        band=outcome.band, unit=reading.unit, version=reading.version,
    )  # fmt: skip


def analyse_material(material: Material, keys: Iterable[str] | None = None) -> Results:
    """The registered readings of a take; ``keys`` where not all are wanted."""
    wanted = READINGS if keys is None else [BY_KEY[key] for key in keys]
    return Results({one.key: _result(one, material.shared(function_of(one.compute))) for one in wanted})


def analyse(clip: Clip, *, lead_in_s: float = 0.0, dual_mono: bool = False, lossy: bool = False) -> Results:
    """All registered readings of a clip; the options are those of :class:`Material`."""
    return analyse_material(Material(clip, lead_in_s=lead_in_s, dual_mono=dual_mono, lossy=lossy))
