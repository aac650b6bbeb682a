"""What services answer about a flight: its table, its takes, its steps."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

StepState = Literal["done", "open", "todo"]
TakeState = Literal["waiting", "ready", "refused", "failed"]


class SettingView(BaseModel):
    """A knob of a contender at its position, as text in the control's own scale.

    Not ``noted``: nobody said where it stands, and it is taken to stand where it starts.
    """

    key: str
    name: str
    text: str
    position: float
    scale: str
    labels: tuple[str, ...]
    noted: bool = True


class ContenderView(BaseModel):
    """A row of a flight; the price is its own, or the one of its gear that counts: ``price_about`` says which it is.

    ``number`` is the key that pours it, 0 for the bypass. ``offer`` is an item of the shelf with a like name, where it
    is linked to none.
    """

    id: int
    name: str
    letter: str
    number: int
    colour: int
    position: int
    is_bypass: bool
    gear_id: int | None
    price_minor: int | None
    own_price: bool
    currency: str
    decimals: int
    price_text: str
    price_about: str
    offer_id: int | None = None
    offer: str = ""
    settings: list[SettingView]


class TestView(BaseModel):
    """A column of a flight."""

    id: int
    name: str
    position: int
    sound: str
    about: str


class ProposalView(BaseModel):
    """The cell that Cata proposes for an unplaced take, and why it was not put there, or why there is none.

    ``repeat`` above 0: as its cell played again; ``replaces`` is the take that would step aside.
    """

    take_id: int
    contender_id: int | None
    test_id: int | None
    repeat: int
    confidence: float
    why: str
    code: str
    replaces: int | None


class TakeView(BaseModel):
    """A take with its state; ``worst`` is the severity of its worst finding that nobody accepted.

    ``aside``: it has no cell and wants none.
    """

    id: int
    contender_id: int | None
    test_id: int | None
    repeat: int = 0
    aside: bool = False
    filename: str
    duration_s: float
    rate_hz: int
    channels: int
    codec: str
    lossy: bool
    notes: list[str]
    state: TakeState
    refusal: str
    worst: str
    proposal: ProposalView | None = None


class StepView(BaseModel):
    """One step of the way through a flight."""

    key: str
    label: str
    state: StepState
    text: str


class ProgressView(BaseModel):
    """How far the background work on a flight is."""

    done: int
    total: int
    paused: bool
    auditing: bool


class MakingView(BaseModel):
    """Takes that are being made (rehearsed, cut out of a long recording): how many are left of how many."""

    left: int
    total: int


class FailureView(BaseModel):
    """Background work that came to no result; it can be tried again."""

    duty: str
    ident: int
    code: str
    text: str


class FlightSummary(BaseModel):
    """A flight in a list."""

    id: int
    name: str
    question: str
    link: str
    brief_id: int | None
    contenders: int
    tests: int
    takes: int
    cells: int
    faults: int
    next_text: str
    next_code: str
    next_step: str
    steps: list[StepView]


class FlightView(BaseModel):
    """A whole flight."""

    id: int
    name: str
    question: str
    link: str
    held: str
    school: str
    brief_id: int | None
    contenders: list[ContenderView]
    tests: list[TestView]
    takes: list[TakeView]
    steps: list[StepView]
    next_text: str
    next_code: str
    next_step: str
    progress: ProgressView
    making: MakingView | None = None
    failures: list[FailureView] = []
