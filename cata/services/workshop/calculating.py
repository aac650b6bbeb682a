"""Calculators with what the shelf knows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.gear import GearKind
from cata.core.specs import Value, show_value
from cata.core.workshop.calculator import Calculator, Question, calculators, work_out
from cata.errors import NotFound
from cata.services.workshop.views import CalculatorView, QuestionView, UsedView, WorkedAnswer, WorkedView
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear


def list_calculators(kind: str = "") -> list[CalculatorView]:
    """All calculators, or those that an item of a kind has answers for: of what it is first asked."""
    found = calculators().values()
    return [_view(one) for one in found if not kind or one.kinds[:1] == [kind]]


def calculate(ws: Workspace, key: str, typed: Mapping[str, Value | None], gear_ids: Sequence[int]) -> WorkedView:
    """What a calculator answers to what was typed and to the specifications of items."""
    calculator = calculators().get(key)
    if calculator is None:
        raise NotFound("calculator", key)
    with ws.reading() as session:
        items = [_item(require(session, Gear, gear_id)) for gear_id in gear_ids]
    worked = work_out(calculator, typed, items)
    used = [
        UsedView(
            key=one.field.key, text=_shown(one, worked.used[one.field.key]), value=worked.used[one.field.key],
            source=worked.sources[one.field.key],
        )
        for one in calculator.questions
    ]  # fmt: skip
    answer = None if worked.answer is None else WorkedAnswer.model_validate(worked.answer)
    return WorkedView(used=used, lacking=list(worked.lacking), answer=answer)


def _item(gear: Gear) -> tuple[GearKind, str, Mapping[str, Value]]:
    return gear.kind, gear.name, gear.specs  # type: ignore[return-value]


def _shown(question: Question, value: Value | None) -> str:
    return "" if value is None else show_value(question.field, value)


def _view(calculator: Calculator) -> CalculatorView:
    return CalculatorView(
        key=calculator.key, name=calculator.name, about=calculator.about, kinds=calculator.kinds,
        questions=[
            QuestionView(
                key=one.field.key, name=one.field.name, type=one.field.type, unit=one.field.unit,
                choices=list(one.field.choices), low=one.field.low, high=one.field.high, usual=_shown(one, one.usual),
                optional=one.optional, slide=one.slide,
            )
            for one in calculator.questions
        ],
    )  # fmt: skip
