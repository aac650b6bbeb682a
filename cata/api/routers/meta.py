"""What the program knows: readings, sounds, rules, what can be chosen; the example, and what is found by words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Annotated, Any, get_args

from fastapi import APIRouter, Query
from pydantic import BaseModel

from cata import __version__
from cata.api.deps import WS
from cata.core.brief import (
    AMP_ROLES,
    BOARD_LIMITS_MM,
    CARRY_LIMITS_KG,
    LOUDNESS_LIMITS_DBA,
    MAX_STYLE,
    ROOMS,
    PickupType,
    Sound,
    targets_of,
)
from cata.core.effects import EFFECTS
from cata.core.evidence.pickups import POSITIONS
from cata.core.gear import MAX_KNOB_NAME, PRICE_NAMES, SCALE_NAMES, GearKind
from cata.core.match.finding import RULES
from cata.core.measure.reading import Reading
from cata.core.measure.registry import ALL_READINGS
from cata.core.plan.blocks import MAX_POSITIONS, SWEPT
from cata.core.plan.chain import CHAIN_ORDER, COMPARED, PLACE_WORDS, Picking, Pickup
from cata.core.plan.condition import Role
from cata.core.schools import QUESTIONS
from cata.core.sounds import SOUNDS, STYLES
from cata.core.spec_fields import FIELDS
from cata.core.taste.identify import HEARD, told_of_power
from cata.demo.example import Example, bring_in, get_example, take_out
from cata.demo.seed import is_seeded
from cata.said import Said
from cata.services.capture.rehearsing import PLAYERS
from cata.services.flights.table import MAX_FLIGHT_NAME, MAX_NAME
from cata.services.shelf.listing import SORTS
from cata.services.upkeep import finding

router = APIRouter(prefix="/api", tags=["meta"])


class PartInfo(BaseModel):
    """A part of a reading that is not one number."""

    key: str
    name: str


class ReadingInfo(BaseModel):
    """A reading as the registry describes it; ``targets`` are what of it a brief may ask for, by part ("" for all)."""

    key: str
    name: str
    unit: str
    family: str
    about: str
    needs: str
    source: str
    parts: list[PartInfo]
    targets: list[PartInfo]


class Choice(BaseModel):
    """One of several things to choose from: what is sent, and what a person reads."""

    key: str
    name: str


class Heard(BaseModel):
    """How clear a difference is that a tasting is to find, and how many trials that takes."""

    heard: float
    name: str
    power: Said


class Choices(BaseModel):
    """What can be chosen, wherever it is asked for.

    ``gear_kinds`` in the order of a chain; ``compared`` the links that a flight may vary; ``swept`` the knobs that a
    sweep of tests may turn; ``places`` where a pedal may stand; ``amp_roles`` what an amplifier is for in a brief,
    ``effects`` what a pedal may do;
    ``rooms`` where it is played, ``pickup_types`` what may be wanted of a pickup;
    ``scales`` how a knob is written down; ``positions`` of a pickup on a guitar; ``players`` who plays a rehearsal;
    ``heard`` how clear a difference is to be told blind.
    """

    gear_kinds: list[GearKind]
    compared: list[GearKind]
    swept: list[Role]
    sweep_positions: int
    places: list[Choice]
    pickups: list[Pickup]
    picking: list[Picking]
    amp_roles: list[Choice]
    effects: list[Choice]
    rooms: list[Choice]
    pickup_types: list[str]
    scales: list[Choice]
    price_kinds: list[Choice]
    positions: list[str]
    shelf_orders: list[Choice]
    players: list[Choice]
    heard: list[Heard]


class Range(BaseModel):
    """From where to where a number may go."""

    low: float
    high: float


class SpecInfo(BaseModel):
    """A field of a specification, and the kinds of gear that have it."""

    key: str
    name: str
    type: str
    unit: str
    kinds: list[str]


class Limits(BaseModel):
    """How long texts may be, and how far numbers go."""

    name: int
    flight_name: int
    style: int
    knob_name: int
    loudness_dba: Range
    carry_kg: Range
    board_mm: Range


class SoundInfo(BaseModel):
    """A ready sound for a brief."""

    about: str
    sound: Sound


class StyleInfo(BaseModel):
    """A way of playing: the sounds it begins with."""

    key: str
    name: str
    sounds: list[Sound]


class SchoolInfo(BaseModel):
    """One answer to a question on which good people differ."""

    key: str
    name: str
    good_for: str
    costs: str


class QuestionInfo(BaseModel):
    """Such a question with its schools, Cata's own first."""

    key: str
    name: str
    schools: list[SchoolInfo]


class RuleInfo(BaseModel):
    """A rule of the audit."""

    key: str
    name: str
    about: str


class Meta(BaseModel):
    """What the program knows; ``demo`` where the data is the demo's, ``library`` which one this is."""

    version: str
    library: str
    demo: bool
    readings: list[ReadingInfo]
    sounds: list[SoundInfo]
    styles: list[StyleInfo]
    questions: list[QuestionInfo]
    rules: list[RuleInfo]
    choices: Choices
    limits: Limits
    specs: list[SpecInfo]


def _choices(named: Mapping[Any, str]) -> list[Choice]:
    return [Choice(key=key, name=name) for key, name in named.items()]


CHOICES = Choices(
    gear_kinds=list(CHAIN_ORDER),
    compared=list(COMPARED),
    swept=list(SWEPT),
    sweep_positions=MAX_POSITIONS,
    places=_choices(PLACE_WORDS),
    pickups=list(get_args(Pickup)),
    picking=list(get_args(Picking)),
    amp_roles=_choices(AMP_ROLES),
    effects=_choices(EFFECTS),
    rooms=_choices({key: room.name for key, room in ROOMS.items()}),
    pickup_types=[one for one in get_args(PickupType) if one],
    scales=_choices(SCALE_NAMES),
    price_kinds=_choices(PRICE_NAMES),
    positions=list(POSITIONS),
    shelf_orders=_choices(SORTS),
    players=_choices({f"{player:g}": name for player, name in PLAYERS.items()}),
    heard=[Heard(heard=heard, name=name, power=told_of_power(heard)) for heard, name in HEARD.items()],
)
LIMITS = Limits(
    name=MAX_NAME,
    flight_name=MAX_FLIGHT_NAME,
    style=MAX_STYLE,
    knob_name=MAX_KNOB_NAME,
    loudness_dba=Range(low=LOUDNESS_LIMITS_DBA[0], high=LOUDNESS_LIMITS_DBA[1]),
    carry_kg=Range(low=CARRY_LIMITS_KG[0], high=CARRY_LIMITS_KG[1]),
    board_mm=Range(low=BOARD_LIMITS_MM[0], high=BOARD_LIMITS_MM[1]),
)


def _specs() -> list[SpecInfo]:
    found: dict[str, SpecInfo] = {}
    for kind, fields in FIELDS.items():
        for one in fields:
            info = found.setdefault(
                one.key, SpecInfo(key=one.key, name=one.name, type=one.type, unit=one.unit, kinds=[])
            )
            info.kinds.append(kind)
    return sorted(found.values(), key=lambda info: info.name)


SPECS = _specs()


def _reading(reading: Reading) -> ReadingInfo:
    return ReadingInfo(
        key=reading.key, name=reading.name, unit=reading.unit, family=reading.family, about=reading.about,
        needs=reading.needs, source=reading.source,
        parts=[PartInfo(key=key, name=name) for key, name in reading.parts],
        targets=[PartInfo(key=key, name=name) for key, name in targets_of(reading)],
    )  # fmt: skip


@router.get("/meta")
def meta(ws: WS) -> Meta:
    """Readings, sounds and rules, and what can be chosen."""
    return Meta(
        version=__version__,
        library=ws.library,
        demo=is_seeded(ws),
        readings=[_reading(reading) for reading in ALL_READINGS],
        sounds=[SoundInfo(about=s.about, sound=s.as_sound()) for s in SOUNDS],
        styles=[StyleInfo(key=s.key, name=s.name, sounds=list(s.as_sounds())) for s in STYLES],
        questions=[
            QuestionInfo(key=q.key, name=q.name, schools=[SchoolInfo(**asdict(one)) for one in q.schools])
            for q in QUESTIONS
        ],
        rules=[RuleInfo(key=r.key, name=r.name, about=r.about) for r in RULES],
        choices=CHOICES,
        limits=LIMITS,
        specs=SPECS,
    )


@router.get("/example")
def example(ws: WS) -> Example:
    """The flight to look at, where it was brought in."""
    return get_example(ws)


@router.post("/example", status_code=201)
def bring_in_example(ws: WS) -> Example:
    """Bring in a finished flight to look at; the bench plays it in the background."""
    return bring_in(ws)


@router.delete("/example", status_code=204)
def take_out_example(ws: WS) -> None:
    """Take it out again, with all that it brought."""
    take_out(ws)


@router.get("/find")
def find(ws: WS, q: Annotated[str, Query(max_length=200)] = "") -> list[finding.Found]:
    """What holds these words: gear, flights, contenders, tests, takes, briefs."""
    return finding.find(ws, q)
