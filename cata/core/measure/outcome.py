"""What a measurement answers: a value, a value with a doubt, or a refusal with its reason."""

from __future__ import annotations

from dataclasses import dataclass

Number = float | int
Value = Number | dict[str, Number | str | None]


@dataclass(frozen=True)
class Outcome:
    """Exactly one of ``value`` and ``refusal`` is given; ``flag`` states a bound or doubt of the value."""

    value: Value | None = None
    flag: str | None = None
    refusal: str | None = None


def measured(value: Value, flag: str | None = None) -> Outcome:
    """A value, with an optional doubt in plain words."""
    return Outcome(value=value, flag=flag)


def refused(reason: str) -> Outcome:
    """No value: the reason in plain words."""
    return Outcome(refusal=reason)
