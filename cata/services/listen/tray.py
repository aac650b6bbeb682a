"""The tray: the takes of a test as the player needs them. Gains and lags are decided here, never in the browser."""

from __future__ import annotations

from pathlib import Path

from sqlmodel import col, select

from cata.core.match.gains import Level, School, listening_gains
from cata.core.measure.results import Results
from cata.errors import Conflict, NotFound
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.listen.views import PouredView, PourView, TrayView
from cata.services.match.worst import worst_findings
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Alignment, Analysed, Flight, Take, Test

SCHOOL_TEXTS: dict[str, str] = {
    "equal": "equal loudness: louder is taken for better, so it is taken away",
    "as_set": "as set: output is part of the gear",
}
MONO_ON_TWO_SPEAKERS_LU = 3.0103


def get_tray(ws: Workspace, flight_id: int, test_id: int, school: School | None = None) -> TrayView:
    """The takes of a test with gains of the school (the flight's own where none is given)."""
    with ws.reading() as session:
        flight, test = require(session, Flight, flight_id), require(session, Test, test_id)
        if test.flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        chosen: School = school or ("as_set" if flight.school == "as_set" else "equal")
        contenders = {c.id: c for c in contender_views(session, flight_id)}
        takes = [take for take, _ in placed_takes(session, test_id)]
        mixed = len({take.channels for take in takes}) > 1
        idents = [take.id or 0 for take in takes]
        readings = readings_of(session, idents, ("loudness_lufs", "true_peak_dbtp"))
        levels = [_level(take, readings[take.id or 0], mixed) for take in takes]
        gains = listening_gains(levels, chosen)
        worst = worst_findings(session, flight_id)
        drawn = select(Analysed.take_id, Analysed.copy_gain_db, Analysed.outline).where(
            col(Analysed.take_id).in_(idents)
        )
        copies = {take_id: (gain_db, outline) for take_id, gain_db, outline in session.exec(drawn).all()}
        lined_up = session.exec(select(Alignment).where(col(Alignment.take_id).in_(idents))).all()
        lags = {row.take_id: row.lag_s for row in lined_up}
        poured = [
            _poured(
                take,
                contenders[take.contender_id or 0],
                gain_db + copies[ident][0],
                list(copies[ident][1]),
                lags.get(ident),
                worst.get(ident, ""),
            )
            for ident, take, gain_db in zip(idents, takes, gains.gains_db, strict=True)
        ]
        placed = session.exec(select(Take.id).where(Take.test_id == test_id)).all()
        return TrayView(
            owner_id=flight_id,
            owner=flight.name,
            poured=_pour(test),
            others=[_pour(one) for one in tests_of(session, flight_id)],
            school=chosen,
            school_text=SCHOOL_TEXTS[chosen],
            lowered_db=round(gains.lowered_db, 2),
            takes=poured,
            waiting=len(placed) - len(takes),
        )


def _pour(test: Test) -> PourView:
    return PourView(key=str(test.id), name=test.name, about=test.about)


def _level(take: Take, readings: Results, mixed: bool) -> Level:
    loudness = readings.number("loudness_lufs")
    if loudness is not None and mixed and take.channels == 1:
        loudness += MONO_ON_TWO_SPEAKERS_LU
    return Level(loudness, readings.number("true_peak_dbtp"))


def _poured(
    take: Take, contender: ContenderView, gain_db: float, outline: list[float], lag: float | None, worst: str
) -> PouredView:
    ident = take.id or 0
    problem = {"fault": "to redo", "check": "look at it"}.get(worst, "")
    return PouredView(
        key=f"contender-{contender.id}",
        take_id=ident,
        contender_id=contender.id,
        letter=contender.letter,
        name=contender.name,
        colour=contender.colour,
        is_bypass=contender.is_bypass,
        url=f"/api/takes/{ident}/audio?v={take.digest[:12]}",
        gain_db=round(gain_db, 3),
        lag_s=lag or 0.0,
        lined_up=lag is not None,
        duration_s=take.duration_s,
        outline=outline,
        problem=problem,
        gear_id=contender.gear_id,
    )


def listening_copy(ws: Workspace, take_id: int) -> Path:
    """The file that browsers play; Conflict while it is still being made."""
    with ws.reading() as session:
        take = require(session, Take, take_id)
    path = ws.vault.copy_path(take.digest)
    if not path.exists():
        raise Conflict("this take is still being read; it can be heard in a moment", "being_read")
    return path
