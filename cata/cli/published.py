"""What the command line gives as JSON: one schema a command, with a version that changes when a key does."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

import typer
from pydantic import BaseModel, ConfigDict, TypeAdapter

from cata.cli.common import app
from cata.core.measure.outcome import Bound, Evidence
from cata.errors import Invalid
from cata.services.match.views import ToldFinding
from cata.services.plan.views import OrderView
from cata.services.tasting.views import Revealed as RevealedView
from cata.services.verdict.views import VerdictView

DIALECT = "https://json-schema.org/draft/2020-12/schema"


class Strict(BaseModel):
    """An object with these keys and no others."""

    model_config = ConfigDict(extra="forbid")


class Told(Strict):
    """A code to rely on, the words for people, and the numbers in them."""

    code: str
    words: str
    numbers: dict[str, str | int | float | bool | None]


class Read(Strict):
    """A reading: its value, or why there is none; keys that would be empty are left out."""

    value: float | str | dict[str, Any] | list[Any] | None = None
    flag: Told | None = None
    refusal: Told | None = None
    bound: Bound | None = None
    band: float | None = None
    unit: str = ""
    evidence: Evidence = "played"
    version: int = 1


class Measured(Strict):
    """A measured file; ``refused`` says why it could not be."""

    file: str
    rate_hz: int | None
    channels: int | None
    duration_s: float | None
    refused: str | None
    code: str | None
    results: dict[str, Read]
    notes: list[str]


class Found(Strict):
    """A finding of the audit."""

    rule: str
    severity: Literal["fault", "check", "note"]
    text: str


class Matched(Strict):
    """A file against the first."""

    a: str
    b: str
    lag_ms: float | None
    polarity: str
    tempo_ratio: float | None
    tuning_difference_cents: float | None
    same_phrase: str
    loudness_difference_lu: float | None
    findings: list[Found]
    refusals: dict[str, Told]


class NotMatched(Strict):
    """A file that could not be compared."""

    a: str
    b: str
    refused: str


class Device(Strict):
    """A device, read from the recording of the test file."""

    file: str
    rate_hz: int | None
    channels: int | None
    duration_s: float | None
    refused: str | None
    code: str | None = None
    part: str | None = None
    results: dict[str, Read]
    notes: list[str]
    pictures: dict[str, Any]


class Piece(Strict):
    """A take in a long recording."""

    take: int
    start_s: float
    end_s: float
    confidence: float
    flag: str | None


class Blended(Strict):
    """Two sources of one performance, and the sum that comes nearest to a target."""

    lag_ms: float
    polarity: str
    level_db: float
    first_notch_hz: float | None
    notch_depth_db: float | None
    best_gain_db: float | None
    best_polarity: str | None
    best_lined_up: bool | None
    residual_rms_db: float | None
    sentences: list[str]


class Move(Strict):
    """A band of an equaliser."""

    hz: float
    db: float


class Remains(Strict):
    """How far an equaliser goes from a take to a reference."""

    explained_percent: float | None
    moves: list[Move]
    apart_db: float
    remains_db: float
    one_performance: bool
    equaliser_db: dict[str, float]
    sentences: list[str]


class CutThrough(Strict):
    """How well a take is heard through a bed."""

    cut_through: float
    masked: dict[str, float]
    take_gain_db: float
    sentence: str


class Entry(Strict):
    """An item of a ranking; ``fit`` is low, middle, high."""

    name: str
    place: int
    fit: tuple[float, float, float]
    price_minor: int | None
    chance_first: float
    strengths: list[str]
    shortfalls: list[str]
    not_known: list[str]


class Chosen(Strict):
    """A ranking, and how sure its first place is."""

    sentence: str
    certainty: str
    ranked: list[Entry]
    not_yet_played: list[str]
    not_comparable: list[str]
    card: int | None = None


class Rig(Strict):
    """A rig within the budget."""

    gear: list[str]
    price_minor: int | None
    left_minor: int | None
    fit: float
    chance: float
    gives_up: list[str]


class Rigs(Strict):
    """Rigs that are really different, the best first."""

    verdict: str
    rigs: list[Rig]
    bound: float
    proven: bool
    card: int | None = None


class Revealed(Strict):
    """What the tastings of a flight came to."""

    revealed: list[RevealedView]
    not_yet_revealed: int


PUBLISHED: dict[str, tuple[int, Any]] = {
    "measure": (1, Measured | list[Measured]),
    "match": (1, Matched | NotMatched | list[Matched | NotMatched]),
    "device": (1, Device),
    "cut": (1, list[Piece]),
    "blend": (1, Blended),
    "remains": (1, Remains),
    "cut-through": (1, CutThrough),
    "choose": (1, Chosen),
    "rig": (1, Rigs),
    "flight verdict": (1, VerdictView),
    "flight audit": (1, list[ToldFinding]),
    "flight order": (1, OrderView),
    "tasting": (1, Revealed),
}
"""By command: the version of what ``--json`` gives, and its shape. A key that goes or changes raises the version."""


def schema_of(command: str) -> dict[str, Any]:
    """The JSON schema (2020-12) of what a command gives; Invalid for one that gives none."""
    if command not in PUBLISHED:
        raise Invalid(f"{command!r} gives no JSON; these do: {', '.join(PUBLISHED)}", "no_schema")
    version, shape = PUBLISHED[command]
    found = TypeAdapter(shape).json_schema(mode="serialization")
    return {"$schema": DIALECT, "$id": f"cata-{command.replace(' ', '-')}-{version}", **found}


@app.command("schema")
def schema(command: Annotated[list[str], typer.Argument(help="A command: measure, flight verdict ...")]) -> None:
    """The JSON schema of what a command gives with --json."""

    typer.echo(json.dumps(schema_of(" ".join(command)), indent=2))
