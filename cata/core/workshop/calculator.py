"""What a calculator is: what it asks for, what the shelf knows of that, and what it answers.

A calculator is one file of this room with a ``CALCULATOR``; ``calculators()`` finds it, and with it the API and the
pages do. What it asks for are fields of specifications, so that a typed "8.2k" is read as it is on the shelf.
"""

from __future__ import annotations

import dataclasses
import importlib
import pkgutil
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache

from cata.core.gear import GearKind
from cata.core.spec_fields import Field
from cata.core.specs import Value, fields_of, read_value
from cata.errors import Invalid

Given = Mapping[str, Value | None]
Curve = Sequence[tuple[float, float]]


@dataclass(frozen=True, kw_only=True)
class Question:
    """One thing a calculator asks for.

    ``usual`` is taken where nobody says otherwise; with None it must be said, unless it is ``optional``. ``specs``
    names the field of an item that answers it, by kind of item. ``slide`` is the step of a slider, 0 for none.
    """

    field: Field
    usual: Value | None = None
    optional: bool = False
    specs: Mapping[GearKind, str] = dataclasses.field(default_factory=dict)
    slide: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Line:
    """One line of an answer: ``text`` as a person reads it, with the number and unit behind it where there is one."""

    name: str
    text: str
    value: float | None = None
    unit: str = ""
    words: str = ""


@dataclass(frozen=True, kw_only=True)
class Answer:
    """A sentence first, then the lines; ``curves`` are (Hz, dB) by name; ``caution`` is said beside, never left out."""

    sentence: str
    lines: Sequence[Line] = ()
    curves: Mapping[str, Curve] = dataclasses.field(default_factory=dict)
    caution: str = ""
    basis: str = ""


@dataclass(frozen=True, kw_only=True)
class Calculator:
    """``answer`` is given a value for every question, None only for optional ones. It raises Invalid for nonsense."""

    key: str
    name: str
    about: str
    questions: Sequence[Question]
    answer: Callable[[Given], Answer]

    @property
    def kinds(self) -> list[GearKind]:
        """The kinds of item that can answer one of its questions, in the order they are asked."""
        return list(dict.fromkeys(kind for question in self.questions for kind in question.specs))


@dataclass(frozen=True, kw_only=True)
class Worked:
    """What was worked out: the values used and where each is from, what is lacking, and the answer where nothing is.

    ``sources`` are "typed", "usual" or the name of an item.
    """

    used: Given
    sources: Mapping[str, str]
    lacking: Sequence[str]
    answer: Answer | None


def spec(
    kind: GearKind, key: str, *, usual: Value | None = None, optional: bool = False, low: float | None = None
) -> Question:
    """A question that is a field of an item of the shelf; ``low`` where less is no answer."""
    known = {one.key: one for one in fields_of(kind)}[key]
    asked = known if low is None else replace(known, low=low)
    return Question(field=asked, specs={kind: key}, usual=usual, optional=optional)


def line(name: str, value: float, unit: str, decimals: int = 0, words: str = "") -> Line:
    """A line whose text is its number with its unit."""
    text = f"{value:.{decimals}f} {unit}".strip().replace("-", "\N{MINUS SIGN}")
    return Line(name=name, text=text, value=value, unit=unit, words=words)


@cache
def calculators() -> Mapping[str, Calculator]:
    """All calculators of this room by key, by name in order."""
    room = importlib.import_module(__package__)
    names = [module.name for module in pkgutil.iter_modules(room.__path__)]
    files = [importlib.import_module(f"{__package__}.{name}") for name in names]
    found: list[Calculator] = [file.CALCULATOR for file in files if hasattr(file, "CALCULATOR")]
    return {one.key: one for one in sorted(found, key=lambda one: one.name)}


def _noted(question: Question, kind: GearKind, specs: Mapping[str, Value]) -> Value | None:
    """What an item says to a question; None where it says nothing that serves (0 W stands for "not known")."""
    noted = specs.get(question.specs.get(kind, ""))
    try:
        return None if noted is None else read_value(question.field, noted)
    except Invalid:
        return None


def work_out(
    calculator: Calculator, typed: Mapping[str, object], items: Sequence[tuple[GearKind, str, Mapping[str, Value]]] = ()
) -> Worked:
    """What a calculator answers to what was typed (by key, "" for "there is none"), items of the shelf and the usual.

    ``items`` are kind, name and specifications. Raises Invalid where something typed cannot be read.
    """
    used: dict[str, Value | None] = {}
    sources: dict[str, str] = {}
    for question in calculator.questions:
        key = question.field.key
        used[key], sources[key] = question.usual, "usual"
        for kind, name, specs in items:
            noted = _noted(question, kind, specs)
            if noted is not None:
                used[key], sources[key] = noted, name
        if key in typed:
            blank = typed[key] is None or not str(typed[key]).strip()
            used[key], sources[key] = None if blank else read_value(question.field, typed[key]), "typed"
    lacking = [one.field.name for one in calculator.questions if used[one.field.key] is None and not one.optional]
    return Worked(used=used, sources=sources, lacking=lacking, answer=None if lacking else calculator.answer(used))
