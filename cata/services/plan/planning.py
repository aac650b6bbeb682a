"""Planning a flight: its chain, its house rules, its tests from building blocks."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from cata.core.chain import (
    PLACE_WORDS,
    Chain,
    Link,
    chain_problems,
    in_signal_order,
    in_words,
    missing_settings,
    setup_of,
)
from cata.core.chain import differences as chain_differences
from cata.core.gear import Control, read_position, show_position
from cata.core.plan.blocks import BLOCK, BLOCKS, SET, SETS, Options, PlannedTest, set_tests
from cata.core.plan.condition import Condition, Role, unanswered
from cata.core.schools import QUESTION, QUESTIONS, chosen
from cata.errors import Invalid, NotFound
from cata.services.flights.table import TestIn, new_test
from cata.services.plan.setups import Changes, Setups, condition_of, load_setups, starting_chain
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
from cata.store.tables import Contender, Flight, Gear, Test

TRAY_SCHOOLS = ("equal", "as_set")


class BlockIn(BaseModel):
    """A building block to add, with its options."""

    block: str = Field(max_length=40)
    role: Role = "gain"
    positions: int = Field(default=5, ge=2, le=9)
    phrase: str = Field(default="soft-to-hard", min_length=1, max_length=120)


class RuleIn(BaseModel):
    """A house rule: the school that answers a question."""

    question: str = Field(max_length=40)
    school: str = Field(max_length=40)


class KnobsIn(BaseModel):
    """Positions by control key, as a person writes them."""

    settings: dict[str, str] = Field(max_length=40)


class RowChanges(BaseModel):
    """What differs for one contender besides the compared link, and which of that is meant."""

    model_config = ConfigDict(extra="forbid")
    links: dict[str, Link] = Field(default_factory=dict, max_length=24)
    conditions: dict[str, str | float] = Field(default_factory=dict, max_length=12)
    wanted: list[str] = Field(default_factory=list, max_length=100)


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
            rules=_rules(flight),
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


def _rules(flight: Flight) -> list[RuleView]:
    return [
        RuleView(
            key=question.key,
            name=question.name,
            chosen=chosen(flight.rules, question.key).key,
            is_default=chosen(flight.rules, question.key) is question.default,
            schools=[SchoolView(**school.__dict__) for school in question.schools],
        )
        for question in QUESTIONS
    ]


def change_chain(ws: Workspace, flight_id: int, chain: Chain) -> PlanView:
    """Say what the flight is played through; settings are positions of each link's own controls."""
    with ws.acting("Change the chain") as session:
        flight = require(session, Flight, flight_id)
        keys = [link.key for link in chain.links]
        if len(set(keys)) < len(keys):
            raise Invalid("two links of the chain have the same key")
        for link in chain.links:
            _check_link(session, link)
        flight.chain = chain.model_dump(mode="json")
        session.add(flight)
    return get_plan(ws, flight_id)


def turn_knobs(ws: Workspace, flight_id: int, key: str, data: KnobsIn) -> PlanView:
    """Set knobs of one link of the chain; texts are read in the scale of their control."""
    with ws.acting("Turn a knob of the chain") as session:
        flight = require(session, Flight, flight_id)
        chain = Chain.model_validate(flight.chain) if flight.chain else starting_chain(flight.link)
        link = chain.link(key)
        if link is None:
            raise NotFound("link of the chain", key)
        flight.chain = chain.with_link(_turned(session, link, data.settings)).model_dump(mode="json")
        session.add(flight)
    return get_plan(ws, flight_id)


def _turned(session: Session, link: Link, texts: dict[str, str]) -> Link:
    gear = require(session, Gear, link.gear_id or 0, "item of gear")
    controls = {c["key"]: Control.model_validate(c) for c in gear.controls}
    if unknown := set(texts) - set(controls):
        raise Invalid(f"{gear.name} has no control {', '.join(sorted(unknown))}")
    read = {name: read_position(controls[name], text) for name, text in texts.items()}
    return link.model_copy(update={"settings": link.settings | read})


def turn_for_row(ws: Workspace, contender_id: int, key: str, data: KnobsIn) -> PlanView:
    """Set knobs of a link that is not compared differently for one contender; what is as for all is no difference."""
    with ws.acting("Set a knob differently") as session:
        contender = require(session, Contender, contender_id)
        setups = load_setups(session, session.get_one(Flight, contender.flight_id))
        link = setups.chain_of(contender).link(key)
        if link is None or key == setups.compared.key:
            raise NotFound("link of the chain besides the compared one", key)
        changes = Changes.model_validate(contender.changes)
        links = changes.links | {key: _turned(session, link, data.settings)}
        contender.changes = changes.model_copy(update={"links": links}).model_dump(mode="json")
        session.add(contender)
    return get_plan(ws, contender.flight_id)


def _check_link(session: Session, link: Link) -> None:
    if link.gear_id is None:
        return
    gear = require(session, Gear, link.gear_id, "item of gear")
    known = {control["key"] for control in gear.controls}
    if unknown := set(link.settings) - known:
        raise Invalid(f"{gear.name} has no control {', '.join(sorted(unknown))}")
    if any(not 0 <= position <= 1 for position in link.settings.values()):
        raise Invalid(f"{gear.name}: a position lies between 0 and 1")


def change_row(ws: Workspace, contender_id: int, data: RowChanges) -> PlanView:
    """Say what differs for one contender besides the compared link, and which differences are meant."""
    with ws.acting("Change what differs") as session:
        contender = require(session, Contender, contender_id)
        for link in data.links.values():
            _check_link(session, link)
        changes = Changes(links=data.links, conditions=data.conditions)
        if data.conditions:
            # Checked as conditions, so that a wrong word is refused here and not when it is played.
            Chain().conditions.model_validate(data.conditions)
        contender.changes = changes.model_dump(mode="json")
        contender.wanted = data.wanted
        session.add(contender)
    return get_plan(ws, contender.flight_id)


def set_rule(ws: Workspace, flight_id: int, rule: RuleIn) -> PlanView:
    """Choose a school."""
    question = QUESTION.get(rule.question)
    if question is None:
        raise NotFound("house rule", rule.question)
    if rule.school not in {school.key for school in question.schools}:
        raise Invalid(f"{question.name} has no school {rule.school!r}")
    with ws.acting(f"House rule: {question.name}") as session:
        flight = require(session, Flight, flight_id)
        flight.rules = flight.rules | {rule.question: rule.school}
        if rule.question == "level" and rule.school in TRAY_SCHOOLS:
            flight.school = rule.school
        session.add(flight)
    return get_plan(ws, flight_id)


def set_condition(ws: Workspace, test_id: int, condition: Condition) -> PlanView:
    """Say what a test asks for."""
    with ws.acting("Change what a test asks for") as session:
        test = require(session, Test, test_id)
        test.condition = condition.model_dump(mode="json")
        session.add(test)
    return get_plan(ws, test.flight_id)


def add_block(ws: Workspace, flight_id: int, data: BlockIn) -> PlanView:
    """Add the tests of a building block."""
    block = BLOCK.get(data.block)
    if block is None:
        raise NotFound("building block", data.block)
    options = Options(role=data.role, positions=data.positions, phrase=data.phrase)
    return _add(ws, flight_id, block.name, block.make(options))


def add_set(ws: Workspace, flight_id: int, key: str) -> PlanView:
    """Add the tests of a ready set."""
    if key not in SET:
        raise NotFound("ready set", key)
    return _add(ws, flight_id, SET[key].name, set_tests(SET[key]))


def _add(ws: Workspace, flight_id: int, label: str, planned: list[PlannedTest]) -> PlanView:
    with ws.acting(f"Add {label}") as session:
        flight = require(session, Flight, flight_id)
        if not flight.chain:
            flight.chain = starting_chain(flight.link).model_dump(mode="json")
            session.add(flight)
        there = {test.name.casefold() for test in load_setups(session, flight).tests}
        for one in planned:
            if one.name.casefold() in there:
                continue
            test = new_test(session, flight_id, TestIn(name=one.name, about=one.about))
            test.condition = one.condition.model_dump(mode="json")
            session.add(test)
    return get_plan(ws, flight_id)
