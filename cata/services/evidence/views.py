"""What services answer about devices measured with the test file."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from cata.core.measure.outcome import Bound, Evidence
from cata.said import Said


class ProbeView(BaseModel):
    """One recording of the test file; ``state`` waiting, refused or read; ``share`` how far the reading is."""

    id: int
    gear_id: int | None
    filename: str
    setting: str
    settings: dict[str, float]
    texts: dict[str, str]
    state: str
    share: float
    what: str
    refused: str
    code: str
    part: str
    loop_id: int | None
    nominal_dbfs: float | None
    full_scale_dbu: float | None = None
    bench: str
    added_at: str
    figures: list[FigureView]
    refusals: list[RefusalView]
    notes: list[str]
    url: str


class FigureView(BaseModel):
    """A number with what it means; ``bound`` where the truth is at most or at least that, ``flag`` its doubt."""

    key: str
    name: str
    text: str
    band: str | None
    doubt: str
    about: str
    value: float | None = None
    unit: str = ""
    bound: Bound | None = None
    flag: Said | None = None
    grade: Evidence = "test signal"


class RefusalView(BaseModel):
    """A reading that was refused, and why."""

    key: str
    name: str
    why: Said


class CurveView(BaseModel):
    """A curve of a picture."""

    name: str
    probe: int
    points: list[list[float]]


class PictureView(BaseModel):
    """A picture: curves over one axis, the other spanning ``least`` at least."""

    title: str
    x: str
    y: str
    log_x: bool
    least: float
    curves: list[CurveView]


class AnswerView(BaseModel):
    """One of the four questions answered; ``proof`` the probes to hear."""

    key: str
    title: str
    sentence: str
    figures: list[FigureView]
    picture: PictureView | None
    proof: list[int]
    missing: str
    told: list[Said]
    lacking: Said | None


class KnobPowerView(BaseModel):
    """What one knob does."""

    key: str
    name: str
    moves: str
    span: float
    unit: str
    sentence: str
    useful: list[float] | None
    reverses: bool
    left_out: float | None
    curve: list[list[float]] | None
    points: list[list[float]] | None
    missing: str
    told: list[Said]
    lacking: Said | None
    refusal: Said | None
    stands: Said | None
    map: KnobMapView | None


class KnobMapView(BaseModel):
    """A reading over two knobs: (knob, other, value) measured, and drawn between on a grid."""

    knob: str
    other: str
    other_name: str
    moves: str
    points: list[list[float]]
    grid: list[list[float]]


class ForetoldView(BaseModel):
    """A reading at a position, measured there or drawn between measured ones."""

    name: str
    text: str
    measured: bool
    doubt: str


class KnobAtView(BaseModel):
    """A position as it was read, and what the knob gives there as far as it is known."""

    position: float
    text: str
    readings: list[ForetoldView]


class RayView(BaseModel):
    """One ray of a fingerprint."""

    model_config = ConfigDict(from_attributes=True)

    key: str
    name: str
    place: float | None
    text: str
    said: Said


class EvidenceView(BaseModel):
    """All that is known of an item from its probes."""

    gear_id: int
    name: str
    probes: list[ProbeView]
    loops: list[ProbeView]
    questions: list[AnswerView]
    knobs: list[KnobPowerView]
    fingerprint: list[RayView]
    stand_in: str
    played: str
    played_figures: list[FigureView]


class DifferenceView(BaseModel):
    """One difference between two items."""

    key: str
    name: str
    first: str
    second: str
    said: Said
    steps: float
    sure: bool
    audible: bool


class ComparisonView(BaseModel):
    """Two items against each other."""

    first: str
    second: str
    at: list[str]
    probes: list[int]
    differences: list[DifferenceView]
    fingerprints: list[list[RayView]]


class PrintView(BaseModel):
    """The fingerprint of an item by its id."""

    gear_id: int
    rays: list[RayView]


ProbeView.model_rebuild()
KnobPowerView.model_rebuild()
