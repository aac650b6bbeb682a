"""What a measurement answers: a value, a value with a doubt, or a refusal with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Number = float | int
Value = Number | dict[str, Number | str | None]
Bound = Literal["at_most", "at_least"]


@dataclass(frozen=True)
class Outcome:
    """Exactly one of ``value`` and ``refusal`` is given; ``flag`` states a bound or doubt of the value in words.

    ``bound`` says that the truth is at most, or at least, the value.
    """

    value: Value | None = None
    flag: str | None = None
    refusal: str | None = None
    bound: Bound | None = None


def measured(value: Value, flag: str | None = None, bound: Bound | None = None) -> Outcome:
    """A value, with an optional doubt in plain words; ``bound`` where it is none but a bound of it."""
    return Outcome(value=value, flag=flag, bound=bound)


def refused(reason: str) -> Outcome:
    """No value: the reason in plain words."""
    return Outcome(refusal=reason)
