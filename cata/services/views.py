"""What services answer: plain models that the API sends as they are."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from cata.core.brief import Need
from cata.core.gear import Control

StepState = Literal["done", "open", "todo"]
TakeState = Literal["waiting", "ready", "refused"]
Trust = Literal["reference", "heard", "no difference you can trust", "unknown"]


class PriceView(BaseModel):
    """A price with its text."""

    id: int
    kind: str
    price_minor: int
    currency: str
    text: str
    on_date: str
    source: str


class GearView(BaseModel):
    """An item of the shelf; ``best_price`` is the lowest known."""

    id: int
    kind: str
    name: str
    about: str
    structure: str
    controls: list[Control]
    control_texts: list[str]
    specs: dict[str, str]
    prices: list[PriceView]
    best_price: PriceView | None
    flights: list[FlightRef] = []


class FlightRef(BaseModel):
    """A flight by name."""

    id: int
    name: str


class BriefView(BaseModel):
    """A brief; ``line`` says it in one line."""

    id: int
    name: str
    need: Need
    line: str
    spendable_text: str


class SettingView(BaseModel):
    """A knob of a contender at its position, as text in the control's own scale."""

    key: str
    name: str
    text: str
    position: float
    scale: str
    labels: tuple[str, ...]


class ContenderView(BaseModel):
    """A row of a flight; the price is its own or the best of its gear."""

    id: int
    name: str
    letter: str
    colour: int
    position: int
    is_bypass: bool
    gear_id: int | None
    price_minor: int | None
    own_price: bool
    currency: str
    price_text: str
    settings: list[SettingView]


class TestView(BaseModel):
    """A column of a flight."""

    id: int
    name: str
    position: int
    sound: str
    about: str


class TakeView(BaseModel):
    """A take with its state; ``worst`` is the severity of its worst finding that nobody accepted."""

    id: int
    contender_id: int | None
    test_id: int | None
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


class ProposalView(BaseModel):
    """The cell that Cata proposes for an unplaced take."""

    contender_id: int | None
    test_id: int | None
    confidence: float


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


class FlightSummary(BaseModel):
    """A flight in a list."""

    id: int
    name: str
    question: str
    link: str
    contenders: int
    tests: int
    takes: int
    cells: int
    faults: int
    next_text: str
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
    next_step: str
    progress: ProgressView


class FindingView(BaseModel):
    """A finding with its evidence picture."""

    id: int
    take_id: int
    contender_id: int | None
    test_id: int | None
    rule: str
    rule_name: str
    severity: str
    text: str
    advice: str
    picture: dict[str, Any] | None
    accepted: bool


class MatchView(BaseModel):
    """The match of a flight: findings worst first, and how every take lies against its reference."""

    findings: list[FindingView]
    alignments: list[AlignmentView]
    summary: str
    pending: bool


class AlignmentView(BaseModel):
    """A take against the reference of its test, as words."""

    take_id: int
    reference_id: int
    lag_text: str
    polarity: str
    tempo_text: str
    tuning_text: str
    same_phrase: str


class PouredView(BaseModel):
    """A take as the player needs it: gain in dB (copy scaling included), lag in seconds, outline every 10 ms."""

    take_id: int
    contender_id: int
    letter: str
    name: str
    colour: int
    is_bypass: bool
    url: str
    gain_db: float
    lag_s: float
    lined_up: bool
    duration_s: float
    outline: list[float]
    problem: str


class TrayView(BaseModel):
    """The takes of one test, ready to be heard against each other."""

    flight_id: int
    flight_name: str
    test: TestView
    tests: list[TestView]
    school: str
    school_text: str
    lowered_db: float
    takes: list[PouredView]
    waiting: int


class CellReading(BaseModel):
    """A reading of a take: value as number and text, doubt or reason, and the difference from the chosen contender."""

    take_id: int
    contender_id: int
    value: float | None
    text: str
    flag: str
    refusal: str
    difference: float | None
    difference_text: str
    trust: Trust


class ReadingRow(BaseModel):
    """One reading over the takes of a test."""

    key: str
    name: str
    part: str
    unit: str
    family: str
    about: str
    less: str
    more: str
    source: str
    evidence: str
    jnd_text: str
    spread: float | None
    cells: list[CellReading]


class SpectrumView(BaseModel):
    """A take's spectrum at equal loudness, dB at the shared frequencies."""

    take_id: int
    contender_id: int
    levels_db: list[float | None]


class RegionShare(BaseModel):
    """The six regions of a take, dB re its whole."""

    take_id: int
    contender_id: int
    values_db: list[float | None]


class ReadingsView(BaseModel):
    """Readings of one test, differences against one contender or none."""

    test_id: int
    against: int | None
    hz: list[float]
    spectra: list[SpectrumView]
    region_names: list[str]
    region_edges_hz: list[float]
    regions: list[RegionShare]
    rows: list[ReadingRow]
    repeatability: str


class RankedView(BaseModel):
    """A contender's place."""

    place: int
    contender_id: int
    name: str
    letter: str
    colour: int
    score: float | None
    fit: float | None
    coverage: float
    price_score: float | None
    price_text: str
    price_minor: int | None
    over_minor: int
    left_text: str
    strengths: list[str]
    shortfalls: list[str]
    best_share: float


class ChoiceView(BaseModel):
    """The ranking of a flight for a need."""

    flight_id: int
    flight_name: str
    ranked: list[RankedView]
    sentence: str
    certainty: str
    spendable_text: str


class UndoView(BaseModel):
    """What can be undone and redone now."""

    undo: str | None
    redo: str | None


for model in (GearView, TakeView, MatchView):
    model.model_rebuild()
