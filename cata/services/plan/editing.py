"""Planning a flight: its chain, its house rules, its tests from building blocks."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from cata.core.gear import Control, read_position
from cata.core.match.gains import SCHOOLS
from cata.core.plan.blocks import BLOCK, SET, Options, PlannedTest, set_tests
from cata.core.plan.chain import (
    Chain,
    Link,
)
from cata.core.plan.condition import USUAL_PHRASE, Condition, Role
from cata.core.schools import QUESTION
from cata.errors import Invalid, NotFound
from cata.services.flights.table import TestIn, new_test
from cata.services.plan.planning import get_plan
from cata.services.plan.setups import Changes, load_setups, starting_chain
from cata.services.plan.views import (
    PlanView,
)
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Gear, Test


class BlockIn(BaseModel):
    """A building block to add, with its options."""

    block: str = Field(max_length=40)
    role: Role = "gain"
    positions: int = Field(default=5, ge=2, le=9)
    phrase: str = Field(default=USUAL_PHRASE, min_length=1, max_length=120)


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


def change_chain(ws: Workspace, flight_id: int, chain: Chain) -> PlanView:
    """Say what the flight is played through; settings are positions of each link's own controls."""
    with ws.acting("Change the chain") as session:
        flight = require(session, Flight, flight_id)
        keys = [link.key for link in chain.links]
        if len(set(keys)) < len(keys):
            raise Invalid("two links of the chain have the same key", "same_key")
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
        raise Invalid(f"{gear.name} has no control {', '.join(sorted(unknown))}", "no_control")
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
        raise Invalid(f"{gear.name} has no control {', '.join(sorted(unknown))}", "no_control")
    if any(not 0 <= position <= 1 for position in link.settings.values()):
        raise Invalid(f"{gear.name}: a position lies between 0 and 1", "out_of_range")


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
        raise Invalid(f"{question.name} has no school {rule.school!r}", "no_school")
    with ws.acting(f"House rule: {question.name}") as session:
        flight = require(session, Flight, flight_id)
        flight.rules = flight.rules | {rule.question: rule.school}
        if rule.question == "level" and rule.school in SCHOOLS:
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
