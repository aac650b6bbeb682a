"""Cutting by slates: a take begins where its slate ends.

It ends at its closing slate, else after its planned length, else where the next slate begins. A take that was
slated twice was redone: the last one counts.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.capture.pieces import Piece
from cata.core.capture.slates import FoundSlate
from cata.said import Said

MIN_TAKE_S = 0.5
NOTHING_FOLLOWS = Said("nothing_follows", "nothing follows this slate")
SLATED_AGAIN = Said("slated_again", "slated again: the last one counts")
SHORTER = Said("shorter_than_planned", "shorter than planned")
END_NOT_KNOWN = Said("end_not_known", "end not known: no closing slate and no planned length, so look where it stops")
UNSURE = 0.5


def cut_by_slates(
    slates: Sequence[FoundSlate],
    duration_s: float,
    takes: int,
    lengths_s: Mapping[int, float] | None = None,
) -> list[Piece]:
    """Pieces for takes 1 to ``takes`` in order of number; a take without a slate is absent.

    ``lengths_s`` are planned lengths by take number; a piece never reaches into the next slate.
    """
    lengths = lengths_s or {}
    pieces: dict[int, Piece] = {}
    for index, found in enumerate(slates):
        if found.mark.closes or found.mark.take > takes:
            continue
        following = slates[index + 1] if index + 1 < len(slates) else None
        limit = following.start_s if following is not None else duration_s
        closed = following is not None and following.mark.closes and following.mark.take == found.mark.take
        planned = lengths.get(found.mark.take)
        end = limit if closed or planned is None else min(limit, found.end_s + planned)
        flag = None
        if end - found.end_s < MIN_TAKE_S:
            flag = NOTHING_FOLLOWS
        elif found.mark.take in pieces:
            flag = SLATED_AGAIN
        elif planned is not None and not closed and limit - found.end_s < planned - MIN_TAKE_S:
            flag = SHORTER
        confidence = found.confidence if flag in (None, SLATED_AGAIN) else 0.3
        if flag is None and planned is None and not closed:
            # Talk may follow inside it.
            flag, confidence = END_NOT_KNOWN, min(confidence, UNSURE)
        pieces[found.mark.take] = Piece(found.mark.take, found.end_s, end, confidence, flag)
    return [pieces[number] for number in sorted(pieces)]
