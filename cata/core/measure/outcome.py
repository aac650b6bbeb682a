"""What a measurement answers: a value, a value with a doubt, or a refusal with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from cata.said import Said, said

Number = float | int
Value = Number | dict[str, Number | str | None]
Bound = Literal["at_most", "at_least"]
BOUND_SIGNS: dict[Bound | None, str] = {"at_most": "≤ ", "at_least": "≥ ", None: ""}
Evidence = Literal["played", "re-amped", "test signal"]
"""How strong: takes that a hand played, a dry guitar sent through the device, or the test file itself."""


@dataclass(frozen=True)
class Outcome:
    """Exactly one of ``value`` and ``refusal`` is given; ``flag`` states a bound or doubt of the value.

    ``bound`` says that the truth is at most, or at least, the value. A ``band`` is what two measurements of the same
    thing differ by less than, 19 times in 20; None where not known.
    """

    value: Value | None = None
    flag: Said | None = None
    refusal: Said | None = None
    bound: Bound | None = None
    band: float | None = None


def measured(
    value: Value, flag: Said | None = None, bound: Bound | None = None, *, band: float | None = None
) -> Outcome:
    """A value, with an optional doubt; ``bound`` where it is none but a bound of it."""
    return Outcome(value=value, flag=flag, bound=bound, band=band)


def refused(why: Said) -> Outcome:
    """No value, and why."""
    return Outcome(refusal=why)


SILENT = said("silent", "silent")


def too_short(least_s: float, so: str = "") -> Said:
    """The take is shorter than a reading needs; ``so`` says what follows from it."""
    return said("too_short", "shorter than {least_s:g} s" + so.replace("{", "{{"), least_s=least_s)


def low_rate(rate_hz: int, so: str) -> Said:
    """The take was sampled too slowly; ``so`` says what was not recorded."""
    return said("low_rate", "sampled at {rate_hz} Hz: " + so, rate_hz=rate_hz)
