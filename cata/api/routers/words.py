"""Words that players use."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from cata.api.deps import WS
from cata.api.veil import OF_ALL
from cata.services.vocabulary import teaching, words
from cata.services.vocabulary.teaching import MOST_WHO, PointIn
from cata.services.vocabulary.views import ByWord, WantedView, WordView

router = APIRouter(prefix="/api/words", tags=["words"])
Key = Annotated[str, Path(max_length=40)]
Number = Annotated[int, Query(ge=1, le=2**53)]
Ears = Annotated[
    str | None,
    Query(max_length=MOST_WHO, description='Whose use of it: "" as it usually stands, "everybody", or a name.'),
]


@router.get("")
def list_words(ws: WS) -> list[WordView]:
    """The vocabulary, and of how many takes each word was said."""
    return words.list_words(ws)


class SoundIn(BaseModel):
    """A sound in words."""

    text: str = Field(min_length=1, max_length=200)


@router.post("/sound", dependencies=[OF_ALL])
def want(data: SoundIn) -> WantedView:
    """The ranges that a sound in words asks for."""
    return words.want(data.text)


@router.get("/{word}", dependencies=[OF_ALL])
def by_word(ws: WS, word: Key, flight: Number, test: Number, ears: Ears = None) -> ByWord:
    """The contenders of a test by how much of a word is in their takes."""
    return words.by_word(ws, flight, test, word, ears)


@router.put("/{word}/said", status_code=204)
def point(ws: WS, word: Key, data: PointIn) -> None:
    """Say of a take that it is what a word says, or not: so Cata learns how the word is used here."""
    teaching.point(ws, word, data)
