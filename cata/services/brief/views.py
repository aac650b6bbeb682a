"""What services answer about briefs."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.brief import Need


class BriefView(BaseModel):
    """A brief; ``line`` says it in one line, ``decimals`` are those of its currency, ``caution`` what it risks."""

    id: int
    name: str
    need: Need
    decimals: int
    line: str
    spendable_text: str
    caution: str
