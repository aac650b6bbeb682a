"""The tray: the takes of a test as the player needs them. Gains and lags are decided here, never in the browser."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from sqlmodel import col, select

from cata.core.hearing.by_ear import NOTE_PHON, Curves, gains_by_ear, phon, phon_apart
from cata.core.match.gains import Level, School, listening_gains
from cata.core.words import plural
from cata.errors import Conflict, NotFound
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.listen.hearing import curves_of
from cata.services.listen.views import PouredView, PourView, TrayView
from cata.services.match.lags import LinedUp, lags_of
from cata.services.match.worst import worst_findings
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Analysed, Flight, Take, Test

SCHOOL_TEXTS: dict[str, str] = {
    "equal": "equal loudness: louder is taken for better, so it is taken away",
    "by_ear": "equal to the ear: perceived loudness (N5, ISO 532-1) over what is looped",
    "as_set": "as set: output is part of the gear",
}
SCHOOL_OF: dict[str, School] = {"as_set": "as_set", "by_ear": "by_ear"}
OPEN = LinedUp(None)
MONO_ON_TWO_SPEAKERS_LU = 3.0103


def get_tray(
    ws: Workspace,
    flight_id: int,
    test_id: int,
    school: School | None = None,
    from_s: float | None = None,
    to_s: float | None = None,
) -> TrayView:
    """The takes of a test with gains of the school (the flight's own where none is given).

    ``from_s`` and ``to_s`` are the loop over which takes are to be equal to the ear, in seconds of the reference.
    """
    with ws.reading() as session:
        flight, test = require(session, Flight, flight_id), require(session, Test, test_id)
        if test.flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        chosen: School = school or SCHOOL_OF.get(flight.school, "equal")
        contenders = {c.id: c for c in contender_views(session, flight_id)}
        takes = [take for take, _ in placed_takes(session, test_id)]
        idents = [take.id or 0 for take in takes]
        readings = readings_of(session, idents, ("loudness_lufs", "true_peak_dbtp"))
        known = [
            Level(readings[ident].number("loudness_lufs"), readings[ident].number("true_peak_dbtp")) for ident in idents
        ]
        levels = on_two_speakers(known, [take.channels for take in takes])
        worst = worst_findings(session, flight_id)
        drawn = select(Analysed.take_id, Analysed.copy_gain_db, Analysed.outline).where(
            col(Analysed.take_id).in_(idents)
        )
        copies = {take_id: (gain_db, outline) for take_id, gain_db, outline in session.exec(drawn).all()}
        lined_up = lags_of(session, idents)
        lags = {ident: one.lag_s for ident, one in lined_up.items()}
        curves = curves_of(session, idents)
        n5 = {ident: _n5(curves[ident], lags.get(ident) or 0.0, from_s, to_s) for ident in idents if ident in curves}
        all_heard = len(n5) == len(idents) and bool(n5)
        by_ear = gains_by_ear([n5[ident] for ident in idents]) if all_heard else []
        gains = listening_gains(levels, chosen, by_ear)
        poured = [
            _poured(
                take,
                contenders[take.contender_id or 0],
                gain_db + copies[ident][0],
                list(copies[ident][1]),
                lined_up.get(ident, OPEN),
                worst.get(ident, ""),
                level.loudness_lufs,
                phon(n5[ident][1]) if ident in n5 else None,
            )
            for ident, take, level, gain_db in zip(idents, takes, levels, gains.gains_db, strict=True)
        ]
        placed = session.exec(select(Take.id).where(Take.test_id == test_id)).all()
        return TrayView(
            owner_id=flight_id,
            owner=flight.name,
            poured=_pour(test),
            others=[_pour(one) for one in tests_of(session, flight_id)],
            school=chosen,
            school_text=_school_text(chosen, list(n5.values()), len(idents) - len(n5)),
            lowered_db=round(gains.lowered_db, 2),
            takes=poured,
            waiting=len(placed) - len(takes),
        )


def _n5(curves: Curves, lag_s: float, from_s: float | None, to_s: float | None) -> tuple[float, ...]:
    """What is exceeded in 5 % of the loop in a take's own time, at each level."""
    if from_s is None or to_s is None:
        return curves.n5()
    return curves.n5(from_s + lag_s, to_s + lag_s)


def _school_text(school: School, n5: list[tuple[float, ...]], unheard: int) -> str:
    text = SCHOOL_TEXTS[school]
    if school == "by_ear" and unheard:
        return f"equal loudness for now: {plural(unheard, 'take')} still to be listened to by the model of the ear"
    apart = phon_apart(n5) if n5 and not unheard else 0.0
    if school == "equal" and apart > NOTE_PHON:
        return f"{text}; to the ear they still lie {apart:.0f} phon apart"
    return text


def _pour(test: Test) -> PourView:
    return PourView(key=str(test.id), name=test.name, about=test.about)


def on_two_speakers(levels: Sequence[Level], channels: Sequence[int]) -> list[Level]:
    """Levels as they are heard: where takes of one and of two channels meet, one channel comes from both speakers."""
    mixed = len(set(channels)) > 1
    more = [MONO_ON_TWO_SPEAKERS_LU if mixed and count == 1 else 0.0 for count in channels]
    return [
        Level(None if one.loudness_lufs is None else one.loudness_lufs + lu, one.true_peak_dbtp)
        for one, lu in zip(levels, more, strict=True)
    ]


def _poured(
    take: Take,
    contender: ContenderView,
    gain_db: float,
    outline: list[float],
    lined: LinedUp,
    worst: str,
    loudness_lufs: float | None,
    loudness_phon: float | None,
) -> PouredView:
    ident = take.id or 0
    problem = {"fault": "to redo", "check": "look at it"}.get(worst, "")
    return PouredView(
        key=f"contender-{contender.id}",
        take_id=ident,
        contender_id=contender.id,
        letter=contender.letter,
        number=contender.number,
        name=contender.name,
        colour=contender.colour,
        is_bypass=contender.is_bypass,
        url=f"/api/takes/{ident}/audio?v={take.digest[:12]}",
        gain_db=round(gain_db, 3),
        lag_s=lined.lag_s or 0.0,
        lined_up=lined.lag_s is not None,
        by_hand=lined.by_hand,
        reference=lined.reference,
        duration_s=take.duration_s,
        outline=outline,
        problem=problem,
        gear_id=contender.gear_id,
        loudness_lufs=loudness_lufs,
        loudness_phon=loudness_phon,
    )


def listening_copy(ws: Workspace, take_id: int) -> Path:
    """The file that browsers play; Conflict while it is still being made."""
    with ws.reading() as session:
        take = require(session, Take, take_id)
    path = ws.vault.copy_path(take.digest)
    if not path.exists():
        raise Conflict("this take is still being read; it can be heard in a moment", "being_read")
    return path
