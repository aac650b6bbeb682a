"""What the player needs."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel


class PouredView(BaseModel):
    """A take as the player needs it: gain in dB (copy scaling included), lag in seconds, outline every 10 ms.

    ``key`` is whose voice it is: the same contender has the same key in every test. ``loudness_phon`` is how loud the
    ear finds it at equal LUFS; None until that is known. ``number`` is the key that pours it. ``by_hand``: lined up by
    a person; ``reference``: the others are lined up with it.
    """

    key: str
    take_id: int | None = None
    contender_id: int | None = None
    letter: str
    number: int
    name: str
    colour: int
    is_bypass: bool
    url: str
    gain_db: float
    lag_s: float
    lined_up: bool
    by_hand: bool = False
    reference: bool = False
    duration_s: float
    outline: list[float]
    problem: str
    gear_id: int | None = None
    loudness_lufs: float | None = None
    loudness_phon: float | None = None


class PourView(BaseModel):
    """What can be poured: a test of a flight, a question about an item, the strings of a pickup."""

    key: str
    name: str
    about: str = ""


class TrayView(BaseModel):
    """The takes of one test, ready to be heard against each other; ``of`` a flight, or the measurements of an item.

    ``tone_of``: the contender to whose tone all were brought; None as they were recorded. ``target``: the sound that
    somebody is after and that is poured with them.
    """

    of: Literal["flight", "gear"] = "flight"
    owner_id: int
    owner: str
    poured: PourView
    others: list[PourView]
    school: str
    school_text: str
    lowered_db: float
    takes: list[PouredView]
    waiting: int
    tone_of: int | None = None
    target: int | None = None
