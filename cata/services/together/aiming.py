"""A sound that somebody is after, held against the takes of a test: how far each is from it, and who is nearest."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.match.gains import CEILING_DBTP
from cata.core.peaks import outline
from cata.core.together.aim import comparable, told
from cata.core.together.same_tone import told as told_tone
from cata.core.together.same_tone import told_beside
from cata.errors import NotFound
from cata.media.decode import Limits, decode
from cata.said import Said
from cata.services.flights.showing import LETTERS
from cata.services.flights.table import COLOURS
from cata.services.listen.tray import get_tray
from cata.services.listen.views import PouredView, TrayView
from cata.services.takes.rows import readings_of
from cata.services.together.beds import BedView, bed_copy, common_lufs, copies_of, view_of_bed
from cata.services.together.takes import ToneMove, takes_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Bed
from cata.tasks.aiming import AIM, Held, ToAim
from cata.tasks.beds import MOST_S

BESIDE = ("drive_density", "level_spread_db", "sustain.db_per_s")


class AimedView(BaseModel):
    """A contender against a target: dB apart before and after an equaliser, by region, what to turn, and in words."""

    contender_id: int
    name: str
    apart_db: float
    remains_db: float
    regions_db: dict[str, float]
    moves: list[ToneMove]
    said: list[Said]


class AimView(BaseModel):
    """The contenders of a test against a target, the nearest first; none where it plays something else."""

    target: BedView
    said: Said
    contenders: list[AimedView]


def hold_against(ws: Workspace, flight_id: int, test_id: int, bed_id: int) -> AimView:
    """How far the contenders of a test are from a target. NotFound where that is none."""
    bed, held = target_of(ws, bed_id), held_of(ws, flight_id, test_id, bed_id)
    takes = takes_of(ws, flight_id, test_id)
    aimed = dict(zip(takes, held.aimed, strict=True))
    names = {ident: name for ident, (_, name) in takes.items()}
    with ws.reading() as session:
        readings = readings_of(session, [take.id or 0 for take, _ in takes.values()])
    rows = [
        AimedView(
            contender_id=ident, name=names[ident], apart_db=one.remains.apart_db, remains_db=one.remains.remains_db,
            regions_db=one.regions, moves=[ToneMove(hz=move.hz, db=move.db) for move in one.remains.moves],
            said=[*told_tone(one.remains, names[ident], bed.name),
                  *told_beside(readings[takes[ident][0].id or 0], held.target, BESIDE,
                                anew=one.remains.anew)],
        )
        for ident, one in aimed.items() if comparable(aimed)
    ]  # fmt: skip
    rows.sort(key=lambda one: one.apart_db)
    return AimView(target=view_of_bed(bed), said=told(aimed, names, bed.name), contenders=rows)


def target_of(ws: Workspace, bed_id: int) -> Bed:
    """A target; NotFound where it is another recording."""
    with ws.reading() as session:
        bed = require(session, Bed, bed_id, "target")
    if bed.kind != "target":
        raise NotFound("target", bed_id)
    return bed


def held_of(ws: Workspace, flight_id: int, test_id: int, bed_id: int) -> Held:
    """The takes of a test against a target, in the order of the contenders."""
    digest, file = target_of(ws, bed_id).digest, ws.inside(bed_copy(ws, bed_id))
    digests = [take.digest for take, _ in takes_of(ws, flight_id, test_id).values()]
    wish = ToAim(tuple(ws.inside(ws.vault.copy_path(one)) for one in digests), file)
    return ws.answers.remember(("aim", digest, *digests), lambda: ws.ask(AIM, wish, AIM.limit_s))


def tray_with(ws: Workspace, flight_id: int, test_id: int, target_id: int) -> TrayView:
    """The tray of a test with a target as one more voice, equally loud, and lined up where both play one phrase."""
    tray, bed = get_tray(ws, flight_id, test_id, "equal"), target_of(ws, target_id)
    held, mine = held_of(ws, flight_id, test_id, target_id), view_of_bed(bed)
    with ws.reading() as session:
        common = common_lufs(tray, copies_of(session, tray))
    clip = decode(bed_copy(ws, target_id), Limits(max_duration_s=MOST_S)).clip
    gain_db = common - (mine.loudness_lufs or common)
    # It must not be cut either: then all are lowered together.
    over = max(0.0, gain_db + (held.target.number("true_peak_dbtp") or 0.0) - CEILING_DBTP)
    lags = [(one.lag_s, take.lag_s) for one, take in zip(held.aimed, tray.takes, strict=True)]
    lag = next((its + own for its, own in lags if its is not None), None)
    for one in tray.takes:
        one.gain_db = round(one.gain_db - over, 3)
    next_number = max((one.number for one in tray.takes), default=0) + 1
    tray.takes.append(PouredView(
        key=f"target-{target_id}", letter=LETTERS[len(tray.takes) % len(LETTERS)], number=next_number, name=mine.name,
        colour=min(range(COLOURS), key=[one.colour for one in tray.takes].count), is_bypass=False, url=mine.url,
        gain_db=round(gain_db + bed.copy_gain_db - over, 3), lag_s=lag or 0.0, lined_up=lag is not None,
        duration_s=mine.duration_s, outline=outline(clip), problem="", loudness_lufs=mine.loudness_lufs,
    ))  # fmt: skip
    tray.target, tray.lowered_db = target_id, round(tray.lowered_db + over, 2)
    return tray
