"""What Cata knows about a reading: its key, name, unit, plain words, what it needs, and how it is computed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

Family = Literal["level", "tone", "drive", "dynamics", "noise", "pitch"]
Shape = Literal["number", "parts"]

PART_DECIMALS = {"ms": 0, "cents": 0, "dB": 1}

# Raise a reading's ``version`` when its method changes: stored values of older versions are stale.


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What Cata knows about one reading.

    ``less`` and ``more`` are the plain words for a lower and a higher value; ``jnd`` the just-noticeable difference in
    the unit of the reading (None where hearing does not apply); ``decimals`` how many are worth showing;
    ``needs`` what a take must offer; ``source`` the standard or the work it follows (docs/bibliography.md);
    ``compute`` is module:function below cata.core.measure; ``parts`` names the parts of a reading
    that is not one number, with their plain names, ``words`` those of them that hold none;
    ``asked`` says that a brief may ask for it; ``scatter`` is what the same thing played again differs by, as a
    standard deviation (None: not known), ``phrase_sd`` what one device differs by between phrases (None: the reading
    carries over, or says nothing of the device), ``transfer_sd`` what its difference from another device moves by
    between rigs (None: not measured), ``transfer_parts`` and ``scatter_parts`` that of parts which differ.
    ``own_words`` are parts with a unit and words of their own: part, unit, word for less, word for more.
    """

    key: str
    name: str
    unit: str
    family: Family
    about: str
    less: str
    more: str
    jnd: float | None
    needs: str
    source: str
    compute: str
    decimals: int = 1
    version: int = 1
    parts: tuple[tuple[str, str], ...] = ()
    jnd_relative: bool = False
    difference_unit: str = ""
    words: tuple[str, ...] = ()
    asked: bool = True
    scatter: float | None = None
    phrase_sd: float | None = None
    transfer_sd: float | None = None
    transfer_parts: tuple[tuple[str, float], ...] = ()
    scatter_parts: tuple[tuple[str, float], ...] = ()
    own_words: tuple[tuple[str, str, str, str], ...] = ()

    def transfer(self, part: str) -> float | None:
        """What the difference of a part from another device's moves by between rigs; None where nobody measured it."""
        return dict(self.transfer_parts).get(part, self.transfer_sd)

    def scatter_of(self, part: str) -> float | None:
        """What a part differs by when the same thing is played again."""
        return dict(self.scatter_parts).get(part, self.scatter)

    def of_part(self, part: str) -> Reading:
        """The reading as it is told of one part: with that part's unit and words where it has its own."""
        for key, unit, less, more in self.own_words:
            if key == part:
                return replace(
                    self, unit=unit, difference_unit="", less=less, more=more, decimals=PART_DECIMALS.get(unit, 2)
                )
        return self

    @property
    def step_unit(self) -> str:
        """Unit of a difference: two levels in LUFS differ by LU, two in dBFS by dB."""
        return self.difference_unit or self.unit


def jnd_of(reading: Reading, value: float) -> float | None:
    """Just-noticeable difference at ``value``, in the reading's unit; None where hearing does not apply."""
    if reading.jnd is None:
        return None
    return abs(value) * reading.jnd if reading.jnd_relative else reading.jnd
