"""What services answer about choices."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.choose.showing import By
from cata.said import Said
from cata.services.flights.views import SettingView


class OfferView(BaseModel):
    """What an item can be had for, in the brief's currency; ``text`` as it was written, ``old``: only a hint."""

    kind: str
    price_minor: int
    text: str
    about: str
    old: bool


class ToHear(BaseModel):
    """Something to pour: a contender in a test of a flight, or a measurement of an item; ``text`` says how it stood."""

    flight_id: int | None = None
    test_id: int | None = None
    contender_id: int | None = None
    key: str = ""
    text: str


class SettingFor(BaseModel):
    """At which setting an item serves a sound best, where that is known from, and what is to be heard of it."""

    sound: str
    knobs: list[SettingView]
    said: Said
    hear: ToHear | None = None


class ChoiceItem(BaseModel):
    """An item of the shelf or a contender of a flight, with its place where it has one.

    ``ident`` names it in this ranking: the item, or the contender. ``fit`` counts what is not known as bad,
    ``fit_best`` as met; ``fit_low`` to ``fit_high``: nine in ten of what its fit may be. ``price_minor`` is the amount
    that counts, in the brief's currency, ``price_text`` as it is written. ``fine``: known to be within budget and
    demands; ``best_share`` of the draws it comes first, in ``ahead`` of them the first placed is before it.
    ``grounds``: what the place rests on; ``blind``: what ears found without knowing which it was.
    """

    ident: int
    gear_id: int | None
    contender_id: int | None = None
    letter: str = ""
    colour: int = 0
    name: str
    offers: list[OfferView]
    place: int | None = None
    score: float = 0.0
    fit: float = 0.0
    fit_best: float = 0.0
    fit_low: float | None = None
    fit_high: float | None = None
    coverage: float = 0.0
    price_score: float | None = None
    price_minor: int | None = None
    price_text: str = ""
    price_about: str = ""
    price_old: bool = False
    over_minor: int = 0
    left_text: str = ""
    fine: bool = False
    strengths: list[Said] = []
    shortfalls: list[Said] = []
    best_share: float = 0.0
    ahead: float = 0.0
    grounds: Said | None = None
    blind: list[Said] = []
    settings: list[SettingFor] = []


class ApartView(BaseModel):
    """Something that nothing links with the others yet, and the take that would."""

    ident: int
    name: str
    said: Said
    flight_id: int | None


class SavingView(BaseModel):
    """What the cheaper of two costs in sound; ``steps`` are just-noticeable differences as the brief weighs them."""

    dearer: int
    cheaper: int
    saved_minor: int
    steps: float
    per_step_text: str
    said: Said


class NextTake(BaseModel):
    """The take that would tell most: of which item or contender, where; ``chance`` that it changes the first place.

    ``minutes``: about how long it lasts with its change-over.
    """

    gear_id: int | None
    contender_id: int | None
    flight_id: int
    flight_name: str
    test_id: int
    test: str
    chance: float
    again: bool
    minutes: float


class TestShows(BaseModel):
    """Tests of one name, and which sounds of the brief they show; ``by``: who says so (core.choose.showing)."""

    name: str
    test_ids: list[int]
    flights: list[str]
    sounds: list[str]
    by: By


class SoundName(BaseModel):
    """A sound of the brief; ``open``: no test speaks for it."""

    key: str
    name: str
    open: bool


class ChoiceView(BaseModel):
    """All items of a kind, or the contenders of one flight, ranked for a brief.

    ``front``: those that nobody undercuts at the same fit, the cheapest first. ``no_rate``: currencies that no rate
    leads from. ``tests``: which test shows which of the ``sounds``. ``kept``: what Match found and a person kept as it
    is; ``left_out``: takes that count nowhere until they are recorded again or kept. ``of_before``: the newest takes
    are not counted in; asked for without ``at_once`` they are.
    """

    kind: str
    kinds: list[str]
    flight_id: int | None
    flight_name: str
    brief_id: int | None
    brief_name: str
    spendable_text: str
    currency: str
    decimals: int
    spendable_minor: int | None
    sentence: str
    code: str
    certainty: str
    certainty_code: str
    decide: str
    ranked: list[ChoiceItem]
    apart: list[ApartView]
    not_played: list[ChoiceItem]
    next_take: NextTake | None = None
    savings: list[SavingView]
    front: list[int]
    no_rate: list[str]
    sounds: list[SoundName]
    tests: list[TestShows]
    kept: list[Said] = []
    left_out: list[Said] = []
    of_before: bool = False


class ForBrief(BaseModel):
    """What one brief should have of a kind; ``first`` None where nothing has a place."""

    brief_id: int
    brief_name: str
    sentence: str
    certainty: str
    certainty_code: str
    spendable_text: str
    first: ChoiceItem | None


def pieces(name: str, count: int) -> str:
    """A name or a price, with how many there are where it is more than one."""
    return f"{count} × {name}" if count > 1 else name


class RigPart(BaseModel):
    """A part of a rig. ``adds``: to the fit, against a middling one; ``serves``: the sounds for which it is on.
    ``why``: what it is there for, where that is no sound.

    ``price_minor`` is of all ``count`` pieces. ``liked``: how it feels by the person's own scores, and
    what would be nice of it. ``held``: it is in the player's hands, and its feel counts.
    """

    gear_id: int
    name: str
    place: str
    price_minor: int
    price_text: str
    price_about: str
    price_old: bool
    serves: list[str]
    why: Said | None = None
    adds: float | None = None
    adds_low: float | None = None
    adds_high: float | None = None
    cautions: list[Said] = []
    liked: list[Said] = []
    held: bool = False
    count: int = 1

    @property
    def shown(self) -> str:
        """Its name, with how many there are."""
        return pieces(self.name, self.count)


class RigView(BaseModel):
    """A rig; ``chance``: in which share of the draws it is the best of those shown.

    ``liked``: what its feel and what would be nice counts beside the fit, below 0 where it is disliked.

    ``deals``: what is taken off where some are bought together; ``pairings``: what its parts lose together, by the
    rules of pairing.
    """

    parts: list[RigPart]
    price_minor: int
    price_text: str
    left_minor: int | None
    left_text: str
    fit: float
    liked: float = 0.0
    by_sound: dict[str, float]
    chance: float
    deals: list[Said] = []
    gives_up: list[Said]
    pairings: list[Said] = []


class CurveStep(BaseModel):
    """What a budget buys: the fit of its best rig, and what none exceeds."""

    budget_minor: int
    budget_text: str
    fit: float | None
    price_minor: int | None
    bound: float


class RigsView(BaseModel):
    """The best rigs that are really different, and what each budget buys. ``bound``: what no rig exceeds, fit
    and liking together.

    ``decide``: which take would tell most, ``next_take`` where it would be played. ``of_before``: it was worked out
    before the latest takes, prices or wishes; asked for without ``at_once`` they are counted in. ``liking``: that rigs
    are put in order by more than their fit. ``least_text``: below this sum no rig can be made.
    """

    brief_id: int | None
    brief_name: str
    currency: str
    decimals: int
    spendable_minor: int | None
    verdict: Said
    rigs: list[RigView]
    bound: float
    proven: bool
    curve: list[CurveStep]
    least_text: str = ""
    notes: list[Said]
    liking: Said | None = None
    decide: str = ""
    next_take: NextTake | None = None
    of_before: bool = False


class PairingRule(BaseModel):
    """A rule of pairing: its school and its reason; ``safety``: it cannot be switched off.

    ``shown_by``: what it says of two items of the shelf.
    """

    key: str
    title: str
    school: str
    reason: str
    safety: bool
    shown_by: Said | None = None
