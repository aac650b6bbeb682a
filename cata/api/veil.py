"""Routes whose answers let hear or read the takes of a flight: while it is tasted blind they ask first.

A router names what its route shows: ``dependencies=[OF_FLIGHT]``.
"""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Depends, Query

from cata.api.deps import WS, Id
from cata.services.tasting.veil import check_veil
from cata.store.tables import Recording, Take


def of_flight(ws: WS, flight_id: Id) -> None:
    """It shows takes of the flight in its address."""
    with ws.reading() as session:
        check_veil(session, flight_id)


def of_take(ws: WS, take_id: Id) -> None:
    """It shows a take."""
    with ws.reading() as session:
        row = session.get(Take, take_id)
        if row is not None:
            check_veil(session, row.flight_id)


def of_recording(ws: WS, recording_id: Id) -> None:
    """It shows a long recording."""
    with ws.reading() as session:
        row = session.get(Recording, recording_id)
        if row is not None:
            check_veil(session, row.flight_id)


def of_all(ws: WS) -> None:
    """It shows what the takes of any flight came to."""
    with ws.reading() as session:
        check_veil(session, None)


def of_scope(ws: WS, flight: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None) -> None:
    """It shows what the takes of one flight came to, or those of any."""
    with ws.reading() as session:
        check_veil(session, flight)


OF_FLIGHT: Any = Depends(of_flight)
OF_TAKE: Any = Depends(of_take)
OF_RECORDING: Any = Depends(of_recording)
OF_ALL: Any = Depends(of_all)
OF_SCOPE: Any = Depends(of_scope)
VEILS = (of_flight, of_take, of_recording, of_all, of_scope)
