"""The plan of a flight as pages show it."""

from __future__ import annotations

from collections.abc import Mapping

from cata.core.gear import Control, show_position
from cata.core.plan.blocks import BLOCKS, SETS, Options, set_tests
from cata.core.plan.chain import (
    PLACE_WORDS,
    Chain,
    chain_problems,
    in_signal_order,
    in_words,
    missing_settings,
    setup_of,
)
from cata.core.plan.chain import differences as chain_differences
from cata.core.plan.condition import Condition, unanswered
from cata.core.schools import QUESTIONS, chosen
from cata.services.flights.rows import rules_of
from cata.services.plan.setups import Setups, condition_of, load_setups, starting_chain
from cata.services.plan.views import (
    ChoiceOf,
    DifferenceView,
    LinkView,
    PlanView,
    RowPlan,
    RuleView,
    SchoolView,
    TestPlan,
)
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Test


def get_plan(ws: Workspace, flight_id: int) -> PlanView:
    """The plan of a flight."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        setups = load_setups(session, flight)
        shown = setups.base if flight.chain else starting_chain(flight.link)
        compared = shown.compared(flight.link)
        controls = setups.controls_of(shown)
        kind = setups.compared.kind
        return PlanView(
            flight_id=flight_id,
            compared_key=compared.key if compared else setups.compared.key,
            chain=shown,
            links=_links(shown, controls, compared.key if compared else ""),
            problems=chain_problems(shown) if flight.chain else [],
            missing=missing_of(setups) if flight.chain else [],
            rows=[_row(setups, contender) for contender in setups.contenders],
            tests=[_test(setups, test) for test in setups.tests],
            rules=_rules(rules_of(session, flight)),
            blocks=[
                ChoiceOf(key=b.key, name=b.name, about=b.about, tests=len(b.make(Options())))
                for b in BLOCKS
                if kind in b.kinds
            ],
            sets=[
                ChoiceOf(key=s.key, name=s.name, about=f"{s.about} {s.advice}", tests=len(set_tests(s)))
                for s in sorted(SETS, key=lambda s: s.kind != kind)
            ],
        )


def _links(chain: Chain, controls: dict[str, list[Control]], compared: str) -> list[LinkView]:
    views = []
    for link in in_signal_order(chain.links):
        mine = controls.get(link.key, [])
        positions = [link.settings.get(control.key, control.default) for control in mine]
        views.append(
            LinkView(
                key=link.key,
                kind=link.kind,
                gear_id=link.gear_id,
                name=link.name,
                place=link.place,
                place_text=PLACE_WORDS[link.place] if link.kind == "pedal" else "",
                on=link.on,
                compared=link.key == compared,
                controls=mine,
                positions=positions,
                texts=[show_position(control, at) for control, at in zip(mine, positions, strict=True)],
            )
        )
    return views


def missing_of(setups: Setups) -> list[str]:
    """What is held constant but was not written down, in words."""
    held = Chain(
        links=tuple(link for link in setups.base.links if link.key != setups.compared.key),
        conditions=setups.base.conditions,
    )
    return missing_settings(held, setups.controls_of(held))


def declared_differences(setups: Setups, contender: Contender) -> list[DifferenceView]:
    """What differs from the base chain besides the compared link and what sits on it."""
    chain = setups.chain_of(contender)
    base = setups.base.with_link(chain.link(setups.compared.key) or setups.compared)
    found = chain_differences(setup_of(base, setups.controls_of(base)), setup_of(chain, setups.controls_of(chain)))
    return [DifferenceView(key=c.key, text=in_words(c), wanted=c.key in contender.wanted) for c in found]


def _row(setups: Setups, contender: Contender) -> RowPlan:
    chain = setups.chain_of(contender)
    return RowPlan(
        contender_id=contender.id or 0,
        differences=declared_differences(setups, contender),
        links=_links(chain, setups.controls_of(chain), setups.compared.key),
    )


def _test(setups: Setups, test: Test) -> TestPlan:
    condition = condition_of(test)
    mute = [
        contender.name
        for contender in setups.contenders
        if not contender.is_bypass
        and (gear := setups.gear.get(contender.gear_id or 0)) is not None
        and unanswered(condition, [Control.model_validate(c) for c in gear.controls])
    ]
    return TestPlan(test_id=test.id or 0, condition=condition, text=condition_text(condition), no_answer=mute)


def condition_text(condition: Condition) -> str:
    """A test's demands in words."""
    words = [condition.playing, f"{condition.pickup} pickup" if condition.pickup else ""]
    words += [f"{role} at {position * 10:.3g}" for role, position in condition.knobs.items()]
    if condition.guitar_volume is not None:
        words.append(f"guitar volume {condition.guitar_volume * 10:.3g}")
    if condition.guitar_tone is not None:
        words.append(f"guitar tone {condition.guitar_tone * 10:.3g}")
    stages = {"as is": "", "off": "stage off", "alone": "this stage alone", "stacked": "all stages on"}
    words.append(stages[condition.stage])
    words += [f"power {condition.power}" if condition.power else "", "in the mix" if condition.in_the_mix else "",
              condition.space]  # fmt: skip
    return ", ".join(word for word in words if word)


def _rules(rules: Mapping[str, str]) -> list[RuleView]:
    return [
        RuleView(
            key=question.key,
            name=question.name,
            chosen=chosen(rules, question.key).key,
            is_default=chosen(rules, question.key) is question.default,
            schools=[SchoolView(**school.__dict__) for school in question.schools],
        )
        for question in QUESTIONS
    ]
