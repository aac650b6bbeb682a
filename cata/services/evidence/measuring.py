"""Measurements at work: the bench plays those that it was asked for, and all are read."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, select

from cata.core.bench.names import knobs_of
from cata.errors import CataError
from cata.services.evidence.probing import STRINGS, TEST_FILE, controls_of, playing_path, read_from, state_of
from cata.services.workspace import Workspace
from cata.store.tables import Gear, Probe, Probed, ProbedPlaying
from cata.tasks import bench, devices, strings
from cata.tasks.shape import Due, Duty

READ, READ_STRINGS, PLAYED, PLUCKED_BY = "probe", "strings", "bench", "plucked"


def _due(session: Session, duty: str, kind: str, *, recorded: bool) -> list[Due]:
    statement = (
        select(Probe, Probed.state)
        .join(Probed, col(Probed.probe_id) == Probe.id, isouter=True)
        .where(Probe.kind == kind, (Probe.digest != "") if recorded else (Probe.digest == ""))
        .order_by(col(Probe.id))
    )
    found = []
    for probe, state in session.exec(statement).all():
        wanted = state_of(session, probe)
        if state != wanted:
            found.append(Due(duty, probe.id or 0, 0, wanted))
    return found


def due_readings(session: Session) -> list[Due]:
    """Recordings of the test file that are to be read."""
    return _due(session, READ, TEST_FILE, recorded=True)


def due_strings(session: Session) -> list[Due]:
    """Recordings of strings that are to be read."""
    return _due(session, READ_STRINGS, STRINGS, recorded=True)


def due_bench(session: Session) -> list[Due]:
    """Measurements that the bench is to play."""
    return _due(session, PLAYED, TEST_FILE, recorded=False)


def due_plucked(session: Session) -> list[Due]:
    """Strings that the bench is to pluck."""
    return _due(session, PLUCKED_BY, STRINGS, recorded=False)


def _known(session: Session, due: Due) -> dict[str, Any] | None:
    """What was read of the same recording by methods some of which have changed since; None where nothing was."""
    read = session.get(Probed, due.ident)
    same = read is not None and not read.result.get("refused") and read_from(read.state) == read_from(due.state)
    return read.result if read is not None and same else None


def _to_read(ws: Workspace, session: Session, due: Due) -> devices.ProbeToRead:
    probe = session.get_one(Probe, due.ident)
    gear = session.get(Gear, probe.gear_id) if probe.gear_id is not None else None
    loop = session.get(Probe, probe.loop_id) if probe.loop_id else None
    return devices.ProbeToRead(
        file=ws.inside(ws.vault.path(probe.digest)),
        playing=ws.inside(playing_path(ws, probe.digest)),
        loopback=ws.inside(ws.vault.path(loop.digest)) if loop else None,
        nominal_dbfs=probe.nominal_dbfs,
        channel=probe.channel,
        speaker=gear is not None and gear.kind != "pedal",
        known=_known(session, due),
    )


def _strings_to_read(ws: Workspace, session: Session, due: Due) -> strings.StringsToRead:
    probe = session.get_one(Probe, due.ident)
    file, playing = ws.inside(ws.vault.path(probe.digest)), ws.inside(playing_path(ws, probe.digest))
    return strings.StringsToRead(file, playing, probe.channel)


def _keep(ws: Workspace, due: Due, result: dict[str, Any]) -> None:
    with ws.writing() as session:
        probe = session.get(Probe, due.ident)
        if probe is not None and state_of(session, probe) == due.state:
            playing = result.pop("as_take", None)
            session.merge(Probed(probe_id=due.ident, state=due.state, result=result))
            if playing is not None:
                session.merge(ProbedPlaying(probe_id=due.ident, **playing))
            elif (before := session.get(ProbedPlaying, due.ident)) is not None:
                session.delete(before)


def _refuse(ws: Workspace, due: Due, error: CataError) -> None:
    _keep(ws, due, {"refused": error.message, "code": error.code})


def _out(due: Due) -> str:
    return f"vault/incoming/{due.name}.wav"


def _to_play(_ws: Workspace, session: Session, due: Due) -> bench.ToMeasure:
    probe = session.get_one(Probe, due.ident)
    knobs = knobs_of(probe.bench, controls_of(session.get_one(Gear, probe.gear_id)), probe.settings)
    return bench.ToMeasure(probe.bench, knobs, "all", _out(due), due.ident)


def _to_pluck(_ws: Workspace, session: Session, due: Due) -> bench.ToPluck:
    probe = session.get_one(Probe, due.ident)
    return bench.ToPluck(session.get_one(Gear, probe.gear_id).specs, probe.made, _out(due), due.ident)


def _keep_recording(ws: Workspace, due: Due, name: str) -> None:
    """Keep what the bench recorded; it is due for reading now."""
    with ws.vault.adopting(ws.data_dir / name) as kept, ws.writing() as session:
        probe = session.get(Probe, due.ident)
        if probe is not None and not probe.digest:
            probe.digest, probe.size_bytes = kept.digest, kept.size_bytes
            session.add(probe)


PROBES = Duty(READ, devices.READ_PROBE, due_readings, _to_read, _keep, _refuse, lasting=True)
PICKUPS = Duty(READ_STRINGS, strings.READ_STRINGS, due_strings, _strings_to_read, _keep, _refuse, lasting=True)
BENCH = Duty(PLAYED, bench.MEASURE, due_bench, _to_play, _keep_recording, lasting=True)
PLUCKED = Duty(PLUCKED_BY, bench.PLUCK, due_plucked, _to_pluck, _keep_recording, lasting=True)
