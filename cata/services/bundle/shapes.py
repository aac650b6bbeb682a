"""What a row of each table may hold: the same bounds as where a person types it, inside JSON too."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, create_model

from cata.core.brief import Feel, Need
from cata.core.card.card import Card
from cata.core.dates import read_day
from cata.core.gear import Control, GearKind, PriceKind
from cata.core.match.gains import School
from cata.core.measure.outcome import Evidence
from cata.core.money import exponent
from cata.core.plan.chain import Chain
from cata.core.plan.condition import Condition
from cata.core.rates import read_rate
from cata.core.schools import QUESTION
from cata.core.taste.rounds import Round
from cata.services.capture.views import PieceView
from cata.services.card.views import CardIn
from cata.services.evidence.pickups import StringsIn
from cata.services.flights.table import COLOURS
from cata.services.plan.cells import OrderKept
from cata.services.plan.setups import Changes

MOST_ID = 2**53
MOST_TEXT = 20_000
MOST_MINOR = 10**12
HOUR_S, MOST_HOURS = 3600, 24
MOST_RATE_HZ, MOST_CHANNELS, MOST_BYTES = 1_000_000, 64, 2**43


def _text(text: str) -> str:
    if "\x00" in text or any("\ud800" <= letter <= "\udfff" for letter in text):
        raise ValueError("this is no text")
    return text


def _moment(text: str) -> str:
    if text:
        datetime.fromisoformat(text)
    return text


def _day(text: str) -> str:
    if text and read_day(text) != text:
        raise ValueError("a day is written 2026-03-31")
    return text


def _currency(code: str) -> str:
    exponent(code)
    return code


def _rate(text: str) -> str:
    read_rate(text)
    return text


def _rules(rules: dict[str, str]) -> dict[str, str]:
    for question, school in rules.items():
        if question not in QUESTION or school not in {one.key for one in QUESTION[question].schools}:
            raise ValueError(f"there is no school {school!r} in the question {question!r}")
    return rules


def _empty_or(model: type[BaseModel]) -> Any:
    """A model as JSON, or nothing."""

    def check(found: dict[str, Any]) -> dict[str, Any]:
        if found:
            model.model_validate(found)
        return found

    return Annotated[dict[str, Any], AfterValidator(check)]


def _each(model: type[BaseModel], most: int) -> Any:
    def check(found: list[dict[str, Any]]) -> list[dict[str, Any]]:
        for one in found:
            model.model_validate(one)
        return found

    return Annotated[list[dict[str, Any]], Field(max_length=most), AfterValidator(check)]


def _specs(specs: dict[str, Any]) -> dict[str, Any]:
    SPECS.validate_python(specs)
    return specs


Whole = Annotated[int, Field(strict=True, ge=0, le=2**31)]
Ident = Annotated[int, Field(strict=True, ge=1, le=MOST_ID)]
Minor = Annotated[int, Field(strict=True, ge=0, le=MOST_MINOR)]
Yes = Annotated[bool, Field(strict=True)]
Text = Annotated[str, Field(strict=True, max_length=MOST_TEXT), AfterValidator(_text)]
Line = Annotated[str, Field(strict=True, max_length=1000), AfterValidator(_text)]
Name = Annotated[str, Field(strict=True, min_length=1, max_length=400), AfterValidator(_text)]
Digest = Annotated[str, Field(strict=True, pattern="^[0-9a-f]{64}$")]
Uid = Annotated[str, Field(strict=True, pattern="^[0-9a-f]{32}$")]
Moment = Annotated[str, Field(strict=True, max_length=40), AfterValidator(_moment)]
Day = Annotated[str, Field(strict=True, max_length=10), AfterValidator(_day)]
Currency = Annotated[str, Field(strict=True, pattern="^[A-Z]{3}$"), AfterValidator(_currency)]
Seconds = Annotated[float, Field(ge=0, le=HOUR_S * MOST_HOURS, allow_inf_nan=False)]
ByHand = Annotated[float, Field(ge=-HOUR_S * MOST_HOURS, le=HOUR_S * MOST_HOURS, allow_inf_nan=False)]
Decibels = Annotated[float, Field(ge=-400, le=400, allow_inf_nan=False)]
Positions = Annotated[dict[Line, Annotated[float, Field(ge=0, le=1)]], Field(max_length=60)]
Texts = Annotated[dict[Line, Text], Field(max_length=400)]
Bytes = Annotated[int, Field(strict=True, ge=0, le=MOST_BYTES)]
RateHz = Annotated[int, Field(strict=True, ge=0, le=MOST_RATE_HZ)]
Channels = Annotated[int, Field(strict=True, ge=0, le=MOST_CHANNELS)]

SPECS: TypeAdapter[dict[str, Any]] = TypeAdapter(dict[str, float | bool | Line])
SHAPES: Mapping[str, Mapping[str, Any]] = {
    "gear": {
        "kind": GearKind, "name": Name, "about": Text, "structure": Line, "controls": _each(Control, 40),
        "specs": Annotated[dict[Line, Any], Field(max_length=60), AfterValidator(_specs)], "created_at": Moment,
    },
    "price": {
        "gear_id": Ident, "kind": PriceKind, "price_minor": Minor, "currency": Currency, "on_date": Day, "source": Line,
    },
    "rate": {
        "base": Currency, "quote": Currency, "rate": Annotated[Line, AfterValidator(_rate)], "on_date": Day,
        "source": Line,
    },
    "deal": {
        "name": Line, "off_minor": Annotated[Minor, Field(ge=1)], "currency": Currency, "on_date": Day, "source": Line,
    },
    "deal_item": {"deal_id": Ident, "gear_id": Ident | None, "name": Line},
    "brief": {"name": Name, "need": _empty_or(Need), "created_at": Moment},
    "brief_item": {
        "brief_id": Ident, "gear_id": Ident | None, "name": Line, "own": Yes, "feel": _empty_or(Feel) | None,
    },
    "brief_test": {
        "brief_id": Ident, "test_id": Ident,
        "sounds": Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=12)],
    },
    "flight": {
        "name": Name, "question": Line, "link": Annotated[Line, Field(max_length=40)], "held": Text,
        "school": Annotated[Line, Field(max_length=40)], "brief_id": Ident | None, "created_at": Moment,
        "chain": _empty_or(Chain), "rules": Annotated[dict[str, str], AfterValidator(_rules)],
        "order": _empty_or(OrderKept),
    },
    "contender": {
        "flight_id": Ident, "gear_id": Ident | None, "name": Name, "position": Whole,
        "colour": Annotated[Whole, Field(lt=COLOURS)], "is_bypass": Yes, "price_minor": Minor | None,
        "currency": Currency, "settings": Positions, "changes": _empty_or(Changes),
        "wanted": Annotated[list[Line], Field(max_length=200)],
    },
    "test": {
        "flight_id": Ident, "name": Name, "position": Whole, "sound": Annotated[Line, Field(max_length=40)],
        "about": Line, "condition": _empty_or(Condition) | None,
    },
    "take": {
        "flight_id": Ident, "contender_id": Ident | None, "test_id": Ident | None, "digest": Digest, "filename": Line,
        "size_bytes": Bytes, "container": Line, "codec": Line, "lossy": Yes, "rate_hz": RateHz, "channels": Channels,
        "duration_s": Seconds, "notes": Annotated[list[Line], Field(max_length=100)], "lead_in_s": Seconds,
        "evidence": Evidence, "added_at": Moment, "repeat": Whole, "used": Texts, "aside": Yes,
        "hand_s": ByHand | None, "hand_to": Digest | Literal[""],
    },
    "planned": {
        "flight_id": Ident, "number": Annotated[Whole, Field(ge=1, le=100_000)], "contender_id": Ident,
        "test_id": Ident, "anchor": Whole, "position": Whole, "session": Whole,
        "state": Literal["todo", "done", "redo"],
    },
    "recording": {
        "flight_id": Ident, "digest": Digest, "filename": Line, "size_bytes": Bytes, "duration_s": Seconds,
        "rate_hz": RateHz, "by_slates": Yes, "evidence": Evidence, "pieces": _each(PieceView, 2000), "slates": Whole,
        "added_at": Moment, "takes": Whole, "found": Yes, "refusal": Line,
    },
    "probe": {
        "gear_id": Ident | None, "loop_id": Ident | None, "digest": Digest | Literal[""], "filename": Line,
        "size_bytes": Bytes, "settings": Positions, "nominal_dbfs": Decibels | None,
        "full_scale_dbu": Decibels | None,
        "channel": Annotated[Channels, Field(ge=1)] | None, "bench": Line, "added_at": Moment,
        "kind": Literal["testfile", "strings"], "made": _empty_or(StringsIn),
    },
    "accepted": {"take_id": Ident, "rule": Line, "reason": Text},
    "habit": {"contender_id": Ident, "rule": Line, "reason": Text},
    "choice": {
        "name": Name, "made_at": Moment, "asked": _empty_or(CardIn), "need": _empty_or(Need), "card": _empty_or(Card),
    },
    "tasting": {
        "flight_id": Ident, "test_id": Ident | None, "test": Line, "name": Name, "rounds": _each(Round, 6),
        "school": School, "seed": Name, "set_by": Line, "looked": Texts, "created_at": Moment,
        # Who has the bundle has the seed: nothing that is still open may come from one.
        "revealed_at": Annotated[Moment, Field(min_length=1)],
    },
    "glass": {
        "tasting_id": Ident, "place": Annotated[Whole, Field(le=7)], "contender_id": Ident | None,
        "gear_id": Ident | None, "name": Line, "letter": Annotated[Line, Field(max_length=4)],
        "colour": Annotated[Whole, Field(lt=COLOURS)], "price_minor": Minor | None, "currency": Currency,
        "digest": Digest, "lag_s": Annotated[float, Field(ge=-HOUR_S, le=HOUR_S)], "gain_db": Decibels,
        "duration_s": Seconds,
        "measured": Annotated[dict[Line, Annotated[float, Field(allow_inf_nan=False)]], Field(max_length=200)] | None,
    },
    "taster": {"tasting_id": Ident, "number": Annotated[Whole, Field(lt=100_000)], "name": Name, "created_at": Moment},
    "answer": {"taster_id": Ident, "round": Whole, "trial": Whole, "what": dict[str, Any], "at": Moment},
    "bed": {
        "name": Name, "digest": Digest, "filename": Line, "size_bytes": Bytes, "duration_s": Seconds, "rate_hz": RateHz,
        "channels": Channels, "tempo_bpm": Annotated[float, Field(ge=20, le=400)] | None,
        "loudness_lufs": Decibels | None, "copy_gain_db": Decibels, "added_at": Moment,
        "kind": Literal["bed", "target"], "mix": Annotated[str, Field(strict=True, pattern="^([0-9a-f]{64})?$")],
    },
    "stem": {
        "bed_id": Ident, "name": Line, "digest": Digest, "filename": Line, "size_bytes": Bytes, "gain_db": Decibels,
        "side": Annotated[float, Field(ge=-1, le=1)], "added_at": Moment,
    },
    "pointed": {"take_id": Ident, "word": Line, "who": Line, "said": Yes, "at": Moment},
}  # fmt: skip
"""By table and column; ``id`` and ``uid`` have every table."""

ROW: Mapping[str, type[BaseModel]] = {
    table: create_model(
        f"{table.title()}Row", __config__=ConfigDict(extra="forbid"),
        **{key: (kind, ...) for key, kind in {"id": Ident, "uid": Uid, **shape}.items()},
    )  # type: ignore[call-overload]
    for table, shape in SHAPES.items()
}  # fmt: skip
"""A model of a row of each table."""
