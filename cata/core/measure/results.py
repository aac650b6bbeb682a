"""One result type for readings of takes, devices and strings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from cata.core.measure.outcome import Evidence, Outcome, Value
from cata.said import Said, said

NOT_MEASURED = said("not_measured", "not measured")


@dataclass(frozen=True, kw_only=True)
class Result(Outcome):
    """An outcome with what it takes to use it: ``unit``, ``evidence``, and the ``version`` of its method."""

    unit: str = ""
    evidence: Evidence = "played"
    version: int = 1


class Results(dict[str, Result]):
    """Results by key; what is known of one part of a reading lies beside it, under "key.part"."""

    @property
    def readings(self) -> dict[str, Value]:
        """Values of whole readings, by key."""
        return {key: one.value for key, one in self.items() if one.value is not None and "." not in key}

    @property
    def flags(self) -> dict[str, Said]:
        """Doubts, by key."""
        return {key: one.flag for key, one in self.items() if one.flag is not None}

    @property
    def refusals(self) -> dict[str, Said]:
        """Why there is no value, by key."""
        return {key: one.refusal for key, one in self.items() if one.refusal is not None}

    @property
    def bands(self) -> dict[str, float]:
        """Bands, by key."""
        return {key: one.band for key, one in self.items() if one.band is not None}

    def number(self, key: str) -> float | None:
        """A reading that is one number, or one part of one ("breakup_dbfs.3"); None where there is none."""
        name, _, part = key.partition(".")
        value = self[name].value if name in self else None
        if part:
            value = value.get(part) if isinstance(value, dict) else None  # type: ignore[assignment]
        return float(value) if isinstance(value, int | float) else None

    def parts(self, key: str) -> dict[str, float]:
        """The numbers of a reading of several parts; empty where there are none."""
        value = self[key].value if key in self else None
        parts = value.items() if isinstance(value, dict) else ()
        return {name: float(one) for name, one in parts if isinstance(one, int | float)}

    def numbers(self) -> dict[str, float]:
        """Every number among the values, by "key" or "key.part"."""
        found: dict[str, float] = {}
        for key, value in self.readings.items():
            parts = value.items() if isinstance(value, dict) else (("", value),)
            found |= {f"{key}.{part}" if part else key: float(v) for part, v in parts if isinstance(v, int | float)}
        return found

    def code(self, key: str) -> str:
        """The code of a refusal, empty where there is a value or nothing is known."""
        found = self[key].refusal if key in self else None
        return found.code if found else ""


def as_kept(results: Results) -> dict[str, dict[str, Any]]:
    """Results as plain values, what is usual left out."""
    return {key: _plain(one) for key, one in results.items()}


def _plain(one: Result) -> dict[str, Any]:
    found = {field.name: getattr(one, field.name) for field in fields(one) if getattr(one, field.name) != field.default}
    return {name: asdict(value) if isinstance(value, Said) else value for name, value in found.items()}


def from_kept(kept: Mapping[str, Mapping[str, Any]]) -> Results:
    """What :func:`as_kept` gave, as results again."""
    return Results({key: kept_result(one) for key, one in kept.items()})


def kept_result(plain: Mapping[str, Any]) -> Result:
    """One of them."""
    told = {name: Said(**plain[name]) for name in ("flag", "refusal") if plain.get(name)}
    return Result(**{**plain, **told})
