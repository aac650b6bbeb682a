"""What services answer about words."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from cata.core.brief import Target
from cata.said import Said

AS_USUAL = ""


class WordView(BaseModel):
    """A word of the vocabulary; ``takes`` are those that it was said of or denied, here or in notes of tastings."""

    key: str
    about: str
    opposite: str
    near: list[str]
    takes: int = 0


class WantedView(BaseModel):
    """Ranges that a sound in words asks for, and what was understood."""

    targets: list[Target]
    said: Said


class WordScore(BaseModel):
    """How much of a word is in a contender's take, in steps that are just noticed; None where nothing tells.

    ``pointed``: what was said of the take by whose ears this is.
    """

    contender_id: int
    take_id: int
    name: str
    score: float | None
    pointed: Literal["yes", "no", ""] = ""


class WordPart(BaseModel):
    """A reading that a word leans on as it is used: which way, log odds of it per noticed step, and a doubt."""

    key: str
    name: str
    weight: float
    sd: float


class LearnedView(BaseModel):
    """A word as it is used: from how many takes that was learnt, and of how many of them the others foretell it."""

    takes: int
    agreeing: int | None
    parts: list[WordPart]
    said: Said


class ByWord(BaseModel):
    """The contenders of a test by a word.

    ``ears``: whose use of the word this is: "" as it usually stands, "everybody", or a name; ``all_ears`` those that
    there are.
    """

    word: str
    about: str
    said: Said
    contenders: list[WordScore]
    ears: str = AS_USUAL
    all_ears: list[str] = []
    learned: LearnedView | None = None
