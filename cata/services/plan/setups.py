"""From rows to chains: what each contender's chain is, and what the room must look like for each cell."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.gear import Control
from cata.core.plan.cautions import Device
from cata.core.plan.chain import Chain, Conditions, Link, in_signal_order, new_key, setup_of
from cata.core.plan.condition import Condition, applied
from cata.core.plan.setup import Part
from cata.core.specs import read_specs
from cata.services.flights.rows import contenders_of, tests_of
from cata.store.tables import Contender, Flight, Gear, Test

Cell = tuple[int, int]
NO_PEDAL = "no pedal"
FEEDING = ("power supply", "accessory")


class Changes(BaseModel):
    """What differs from the base chain for one contender besides the compared link: whole links, and conditions."""

    links: dict[str, Link] = Field(default_factory=dict, max_length=24)
    conditions: dict[str, Any] = Field(default_factory=dict, max_length=12)


@dataclass
class Setups:
    """A flight's chains: the base, and each contender's, with the controls of every item that appears in them."""

    flight: Flight
    contenders: list[Contender]
    tests: list[Test]
    base: Chain
    compared: Link
    gear: Mapping[int, Gear]
    _controls: dict[int, list[Control]] = field(default_factory=dict)

    def controls_of(self, chain: Chain) -> dict[str, list[Control]]:
        """Controls by link key."""
        return {link.key: self._of(link.gear_id) for link in chain.links}

    def _of(self, gear_id: int | None) -> list[Control]:
        if gear_id is None or gear_id not in self.gear:
            return []
        if gear_id not in self._controls:
            self._controls[gear_id] = [Control.model_validate(c) for c in self.gear[gear_id].controls]
        return self._controls[gear_id]

    def chain_of(self, contender: Contender) -> Chain:
        """The base chain with this contender in the compared link, and with its own changes."""
        own = Changes.model_validate(contender.changes)
        chain = self.base
        for link in own.links.values():
            chain = chain.with_link(link)
        link = self.compared.model_copy(
            update={
                "gear_id": contender.gear_id,
                "name": contender.name,
                "settings": dict(contender.settings),
                "on": not contender.is_bypass,
            }
        )
        conditions = chain.conditions.model_copy(update=own.conditions) if own.conditions else chain.conditions
        return Chain(links=chain.with_link(link).links, conditions=conditions)

    def cell_chain(self, contender: Contender, test: Test) -> Chain:
        """A contender's chain as a test wants it."""
        chain = self.chain_of(contender)
        played = applied(condition_of(test), chain, self.compared.key, self.controls_of(chain))
        if contender.is_bypass:
            # Without the pedal there is nothing to switch on.
            link = played.link(self.compared.key)
            assert link is not None
            played = played.with_link(link.model_copy(update={"on": False}))
        return played

    def setup(self, contender: Contender, test: Test) -> dict[str, Part]:
        """What the room looks like for a cell: chain, phrase and playing."""
        chain = self.cell_chain(contender, test)
        parts = setup_of(chain, self.controls_of(chain))
        condition = condition_of(test)
        parts["test/phrase"] = Part("phrase", "phrase", condition.phrase.replace("-", " "))
        parts["test/playing"] = Part("playing", "playing", condition.playing or "as always")
        return parts

    def devices(self, chain: Chain) -> dict[str, Device]:
        """What the cautions need to know, by link key."""
        found = {}
        for link in chain.links:
            gear = self.gear.get(link.gear_id or 0)
            specs = read_specs(gear.kind, gear.specs)[0] if gear else {}  # type: ignore[arg-type]
            found[link.key] = Device(link.kind, link.name or (gear.name if gear else ""), specs)
        return found

    def warm(self, chain: Chain) -> str:
        """The valve amplifier of a chain, which must be warm; empty where there is none."""
        for key, device in self.devices(chain).items():
            link = chain.link(key)
            if device.has_valves and link is not None and link.gear_id is not None:
                return device.name
        return ""


def condition_of(test: Test) -> Condition:
    """What a test asks for."""
    return Condition.model_validate(test.condition) if test.condition else Condition(phrase=test.name[:120])


def turns_knobs(test: Test) -> bool:
    """True where a test sets the contenders themselves otherwise: each then changes its tone in its own way."""
    condition = condition_of(test)
    return bool(condition.knobs or condition.power) or condition.stage != "as is"


def load_setups(session: Session, flight: Flight) -> Setups:
    """All of a flight's chains, in a handful of queries."""
    contenders = contenders_of(session, flight.id or 0)
    base = Chain.model_validate(flight.chain) if flight.chain else Chain()
    compared = base.compared(flight.link)
    if compared is None:
        kind = flight.link if flight.link in _KINDS else "accessory"
        compared = Link(key=new_key(base, kind), kind=kind)  # type: ignore[arg-type]
    wanted = {link.gear_id for link in base.links} | {c.gear_id for c in contenders}
    for contender in contenders:
        wanted |= {link.gear_id for link in Changes.model_validate(contender.changes).links.values()}
    rows = session.exec(select(Gear).where(col(Gear.id).in_([ident for ident in wanted if ident]))).all()
    return Setups(
        flight=flight,
        contenders=contenders,
        tests=tests_of(session, flight.id or 0),
        base=base,
        compared=compared,
        gear={row.id or 0: row for row in rows},
    )


_KINDS = ("pickup", "guitar", "pedal", "amplifier", "speaker", "microphone", "direct box", "strings", "cable",
          "power supply", "accessory")  # fmt: skip


def starting_chain(kind: str) -> Chain:
    """A chain to begin with: a guitar, an amplifier with its speaker and a microphone, and a place for the compared."""
    links = [Link(key="guitar", kind="guitar"), Link(key="amplifier", kind="amplifier"),
             Link(key="speaker", kind="speaker"), Link(key="microphone", kind="microphone")]  # fmt: skip
    if kind not in {link.kind for link in links} and kind in _KINDS:
        links.append(Link(key=kind.replace(" ", "-"), kind=kind))
    return Chain(links=tuple(in_signal_order(links)), conditions=Conditions())


def chain_names(session: Session, flight: Flight) -> dict[int, list[str]]:
    """What each contender is played through, by name in the order of the signal; nothing that only feeds it."""
    setups = load_setups(session, flight)
    return {
        one.id or 0: [
            link.name
            for link in in_signal_order(setups.chain_of(one).links)
            if link.name and link.on and link.kind not in FEEDING
        ]
        for one in setups.contenders
    }
