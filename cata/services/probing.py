"""Probes: recordings of the test file through an item, and what they say of it together."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.bench.names import knobs_of, stand_in
from cata.core.evidence.played import played_drive
from cata.core.evidence.probe import Probe as Known
from cata.core.evidence.probe import figure
from cata.core.gear import Control, read_position, show_position
from cata.core.match.gains import Level, School, listening_gains
from cata.core.measure.device.readings import BY_KEY, DEVICE_READINGS, METHOD
from cata.errors import Conflict, Invalid, NotFound
from cata.services import work
from cata.services.takes import clean_name
from cata.services.tray import SCHOOL_TEXTS
from cata.services.views import PouredView, TrayView
from cata.services.views.flights import TestView
from cata.services.views.probes import (
    ComparisonView,
    EvidenceView,
    FigureView,
    PrintView,
    ProbeView,
    RefusalView,
)
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Gear, Probe, Probed, Reading, Take
from cata.store.vault import Kept

PartName = Literal["all", "tones", "sweep", "ladder", "chords", "bursts"]
Rate = Literal[44100, 48000, 96000]
SHOWN_PARTS = {"breakup_dbfs": ("1", "3", "10"), "played_breakup_dbfs": ("3", "10")}
NOT_FIGURES = ("thd_percent", "response_db", "harmonics_db", "chords_db")


class ProbeIn(BaseModel):
    """How a probe was made: knob positions as written, the loop-back of its interface, the player's own level."""

    settings: dict[str, str] = Field(default_factory=dict, max_length=40)
    loop_id: int | None = Field(default=None, ge=1, le=2**53)
    nominal_dbfs: float | None = Field(default=None, ge=-80, le=0)
    channel: int | None = Field(default=None, ge=0, le=1)


def written_file(ws: Workspace, part: PartName, rate: Rate, as_float: bool) -> Path:
    """The test file as WAV, made once."""
    folder = ws.data_dir / "testfiles"
    folder.mkdir(exist_ok=True)
    path = folder / f"{part}-{rate}-{'float' if as_float else '24'}.wav"
    if not path.exists():
        ws.pool.ask(work.write_test_file, part, rate, as_float, str(path))
    return path


def _controls(gear: Gear) -> list[Control]:
    return [Control.model_validate(row) for row in gear.controls]


def _positions(gear: Gear, given: dict[str, str]) -> dict[str, float]:
    """Every knob's position: as written, else where it starts. Invalid for a knob that the item has not."""
    controls = {control.key: control for control in _controls(gear)}
    for key in given:
        if key not in controls:
            raise Invalid(f"{gear.name} has no control {key!r}")
    return {
        key: read_position(control, given[key]) if key in given else control.default
        for key, control in controls.items()
    }


def check_settings(ws: Workspace, gear_id: int, given: dict[str, str]) -> None:
    """Raise NotFound or Invalid before a recording is taken in for nothing."""
    with ws.reading() as session:
        _positions(require(session, Gear, gear_id), given)


def setting_text(controls: list[Control], settings: dict[str, float]) -> str:
    """A setting in words: every knob in its own scale."""
    parts = [f"{c.name} {show_position(c, settings[c.key])}" for c in controls if c.key in settings]
    return ", ".join(parts) or "as it is"


def add_probe(ws: Workspace, gear_id: int | None, filename: str, kept: Kept, data: ProbeIn) -> int:
    """Note a recording of the test file that is safe in the vault; it is due for reading. Its id.

    Without an item it is a loop-back.
    """
    name = clean_name(filename)
    with ws.acting(f"Measure with {name}" if gear_id else f"Loop-back {name}") as session:
        settings: dict[str, float] = {}
        if gear_id is not None:
            settings = _positions(require(session, Gear, gear_id), data.settings)
        loop_id = data.loop_id if data.loop_id is not None or gear_id is None else _latest_loop(session)
        _check_loop(session, loop_id)
        probe = Probe(
            gear_id=gear_id, loop_id=loop_id, digest=kept.digest, size_bytes=kept.size_bytes, filename=name,
            settings=settings, nominal_dbfs=data.nominal_dbfs, channel=data.channel, added_at=ws.now(),
        )  # fmt: skip
        session.add(probe)
        session.flush()
    return probe.id or 0


def _latest_loop(session: Session) -> int | None:
    rows = session.exec(select(Probe).where(col(Probe.gear_id).is_(None)).order_by(col(Probe.id).desc())).all()
    for row in rows:
        read = session.get(Probed, row.id)
        if read is not None and not read.result.get("refused"):
            return row.id
    return None


def _check_loop(session: Session, loop_id: int | None) -> None:
    if loop_id is not None and require(session, Probe, loop_id, "loop-back").gear_id is not None:
        raise Invalid("that is the recording of a device, not a loop-back")


def change_probe(ws: Workspace, probe_id: int, data: ProbeIn) -> None:
    """Change how a probe was made; it is read again where that matters."""
    with ws.acting("Change a measurement") as session:
        probe = require(session, Probe, probe_id, "measurement")
        given = data.model_dump(exclude_unset=True)
        if "settings" in given and probe.gear_id is not None:
            gear = session.get_one(Gear, probe.gear_id)
            known = {c.key: show_position(c, probe.settings.get(c.key, c.default)) for c in _controls(gear)}
            probe.settings = _positions(gear, known | data.settings)
        if "loop_id" in given:
            _check_loop(session, data.loop_id)
            probe.loop_id = data.loop_id
        for key in ("nominal_dbfs", "channel"):
            if key in given:
                setattr(probe, key, given[key])
        session.add(probe)


def remove_probe(ws: Workspace, probe_id: int) -> None:
    """Take a measurement away; an undo brings it back."""
    with ws.acting("Remove a measurement") as session:
        session.delete(require(session, Probe, probe_id, "measurement"))


# --- reading them in the background


def state_of(session: Session, probe: Probe) -> str:
    """What a probe's readings depend on."""
    loop = session.get(Probe, probe.loop_id) if probe.loop_id else None
    return json.dumps([METHOD, probe.digest, loop.digest if loop else None, probe.nominal_dbfs, probe.channel])


def due_probes(session: Session) -> list[tuple[str, int, str]]:
    """("bench" or "probe", id, state) of those to be played by the bench or to be read, oldest first."""
    statement = (
        select(Probe, Probed.state).join(Probed, col(Probed.probe_id) == Probe.id, isouter=True).order_by(col(Probe.id))
    )
    found = []
    for probe, state in session.exec(statement).all():
        wanted = state_of(session, probe)
        if state != wanted:
            found.append(("probe" if probe.digest else "bench", probe.id or 0, wanted))
    return found


def reading_task(ws: Workspace, session: Session, probe_id: int) -> tuple[Any, ...]:
    """The arguments of :func:`work.read_probe`."""
    probe = session.get_one(Probe, probe_id)
    loop = session.get(Probe, probe.loop_id) if probe.loop_id else None
    return (
        str(ws.vault.path(probe.digest)),
        str(playing_path(ws, probe.digest)),
        str(_progress_path(ws, probe_id)),
        str(ws.vault.path(loop.digest)) if loop else None,
        probe.nominal_dbfs,
        probe.channel,
    )


def store_probe(session: Session, probe_id: int, state: str, result: dict[str, Any]) -> None:
    """Keep what was read."""
    if session.get(Probe, probe_id) is not None:
        session.merge(Probed(probe_id=probe_id, state=state, result=result))


def playing_path(ws: Workspace, digest: str) -> Path:
    """Where the playing of a recording lies for listening."""
    return ws.data_dir / "playing" / f"{digest}.flac"


def _progress_path(ws: Workspace, probe_id: int) -> Path:
    for folder in ("playing", "progress"):
        (ws.data_dir / folder).mkdir(exist_ok=True)
    return ws.data_dir / "progress" / f"{probe_id}.json"


# --- views


def _probe_view(ws: Workspace, session: Session, probe: Probe, controls: list[Control]) -> ProbeView:
    read = session.get(Probed, probe.id)
    current = read is not None and read.state == state_of(session, probe)
    result = read.result if read is not None and current else {}
    waiting = "waiting its turn" if probe.digest else "the bench is playing"
    progress: dict[str, Any] = {"share": 0.0, "what": waiting}
    if not current:
        with suppress(OSError, ValueError):
            progress = json.loads(_progress_path(ws, probe.id or 0).read_text())
    refused = str(result.get("refused") or "")
    known = _known(probe, controls, result)
    refusals = result.get("refusals", {})
    return ProbeView(
        id=probe.id or 0, gear_id=probe.gear_id, filename=probe.filename, settings=probe.settings,
        setting=known.name,
        texts={c.key: show_position(c, probe.settings[c.key]) for c in controls if c.key in probe.settings},
        state="waiting" if not current else "refused" if refused else "read",
        share=float(progress["share"]) if not current else 1.0, what=str(progress["what"]) if not current else "",
        refused=refused, part=str(result.get("part", "")), loop_id=probe.loop_id, nominal_dbfs=probe.nominal_dbfs,
        bench=probe.bench, added_at=probe.added_at, figures=_figures(known),
        refusals=[RefusalView(name=BY_KEY[key].name, reason=text) for key, text in refusals.items() if key in BY_KEY],
        notes=list(result.get("notes", [])),
        url=f"/api/probes/{probe.id}/playing?v={probe.digest[:12]}" if "playing" in result else "",
    )  # fmt: skip


def _figures(known: Known) -> list[FigureView]:
    found = []
    for reading in DEVICE_READINGS:
        if reading.key in NOT_FIGURES:
            continue
        for key in [f"{reading.key}.{part}" for part in SHOWN_PARTS.get(reading.key, ())] or [reading.key]:
            shown = figure(known, key)
            if shown is not None:
                found.append(FigureView.model_validate(shown))
    compressor = known.readings.get("compressor")
    if isinstance(compressor, dict):
        for key, (name, unit) in COMPRESSOR_PARTS.items():
            if key in compressor:
                found.append(FigureView(key="compressor", name=name, text=f"{compressor[key]:.1f} {unit}".strip(),
                                        band=None, doubt="", about=BY_KEY["compressor"].about))  # fmt: skip
    return found


COMPRESSOR_PARTS = {
    "threshold_dbfs": ("Threshold", "dBFS"), "ratio": ("Ratio", ": 1"), "knee_db": ("Compressor's knee", "dB"),
    "attack_ms": ("Attack", "ms"), "release_ms": ("Release", "ms"), "dynamics_kept_percent": ("Dynamics kept", "%"),
}  # fmt: skip


def _known(probe: Probe, controls: list[Control], result: dict[str, Any]) -> Known:
    parts = {key: result.get(key) or {} for key in ("readings", "flags", "refusals", "bands", "pictures")}
    return Known(probe.id or 0, setting_text(controls, probe.settings), probe.settings, **parts)


def _read_probes(session: Session, gear: Gear) -> list[dict[str, Any]]:
    """The probes of an item that were read, as plain values for a worker."""
    controls = _controls(gear)
    rows = session.exec(
        select(Probe, Probed).join(Probed, col(Probed.probe_id) == Probe.id).where(Probe.gear_id == gear.id)
        .order_by(col(Probe.id))
    ).all()  # fmt: skip
    return [
        vars(_known(probe, controls, read.result)) for probe, read in rows if not read.result.get("refused")
    ]  # fmt: skip


def get_evidence(ws: Workspace, gear_id: int) -> EvidenceView:
    """All that is known of an item from its probes."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
        controls = _controls(gear)
        probes = session.exec(select(Probe).where(Probe.gear_id == gear_id).order_by(col(Probe.id))).all()
        loops = session.exec(select(Probe).where(col(Probe.gear_id).is_(None)).order_by(col(Probe.id))).all()
        views = [_probe_view(ws, session, probe, controls) for probe in probes]
        loop_views = [_probe_view(ws, session, probe, []) for probe in loops]
        rows = _read_probes(session, gear)
    found = ws.pool.ask(work.evidence_of, rows, [c.model_dump(mode="json") for c in controls])
    device = stand_in(gear.kind, gear.name, gear.about, gear.structure)
    with ws.reading() as session:
        played = "" if rows else _from_playing(session, gear_id)
    return EvidenceView(
        gear_id=gear_id, name=gear.name, probes=views, loops=loop_views, stand_in=device, played=played, **found
    )  # fmt: skip


def _from_playing(session: Session, gear_id: int) -> str:
    """Where an item stands among the contenders of a flight by playing alone; empty where it was not compared."""
    mine = session.exec(select(Contender).where(Contender.gear_id == gear_id)).first()
    if mine is None:
        return ""
    by_name: dict[str, list[float]] = {}
    statement = (
        select(Take, Contender).join(Contender, col(Contender.id) == Take.contender_id)
        .where(Take.flight_id == mine.flight_id, Take.repeat == 0)
    )  # fmt: skip
    for take, contender in session.exec(statement).all():
        readings = session.exec(select(Reading).where(Reading.take_id == take.id)).all()
        drive = played_drive({row.key: row.value for row in readings})
        if drive is not None:
            by_name.setdefault(contender.name, []).append(drive)
    order = sorted(by_name, key=lambda name: sum(by_name[name]) / len(by_name[name]))
    if mine.name not in order or len(order) < 2:
        return ""
    place = order.index(mine.name) + 1
    flight = session.get_one(Flight, mine.flight_id)
    return f"From playing alone, in “{flight.name}”: {place} of {len(order)} from the cleanest to the most driven."


def compare(ws: Workspace, first_id: int, second_id: int) -> ComparisonView:
    """Two items against each other."""
    with ws.reading() as session:
        items = [require(session, Gear, ident) for ident in (first_id, second_id)]
        rows = [_read_probes(session, item) for item in items]
    names = (items[0].name, items[1].name)
    found = ws.pool.ask(work.compare_items, rows[0], rows[1], names)
    return ComparisonView(first=names[0], second=names[1], **found)


def fingerprints(ws: Workspace) -> list[PrintView]:
    """The fingerprints of all items that were measured."""
    from cata.core.evidence.fingerprint import fingerprint

    with ws.reading() as session:
        measured = session.exec(select(Probe.gear_id).where(col(Probe.gear_id).is_not(None)).distinct()).all()
        found = []
        for ident in measured:
            rows = _read_probes(session, session.get_one(Gear, ident))
            rays = fingerprint([Known(**row) for row in rows])
            if rays:
                found.append(PrintView.model_validate({"gear_id": ident, "rays": [vars(ray) for ray in rays]}))
    return found


def probe_on_bench(ws: Workspace, gear_id: int, data: ProbeIn) -> int:
    """Measure the bench device that stands in for an item; Conflict where the bench has nothing like it.

    It is played and read in the background.
    """
    with ws.acting("Measure on the bench") as session:
        gear = require(session, Gear, gear_id)
        probe = bench_probe(session, gear, _positions(gear, data.settings), ws.now())
        _check_loop(session, data.loop_id)
        session.flush()
    return probe.id or 0


def bench_probe(session: Session, gear: Gear, positions: dict[str, float], at: str) -> Probe:
    """Note a measurement that the bench is to make, inside a transaction."""
    device = stand_in(gear.kind, gear.name, gear.about, gear.structure)
    if not device:
        raise Conflict("the bench has nothing like it: record the real one")
    name = clean_name(f"{gear.name} - {setting_text(_controls(gear), positions)} (bench).wav")
    probe = Probe(
        gear_id=gear.id, digest="", size_bytes=0, filename=name, settings=positions, bench=device, added_at=at
    )
    session.add(probe)
    return probe


def bench_task(ws: Workspace, session: Session, probe_id: int) -> tuple[Any, ...]:
    """The arguments of :func:`work.through_the_bench`."""
    probe = session.get_one(Probe, probe_id)
    gear = session.get_one(Gear, probe.gear_id)
    knobs = knobs_of(probe.bench, _controls(gear), probe.settings)
    path = ws.vault.root / "incoming" / f"probe-{probe_id}.wav"
    return probe.bench, knobs, "all", str(path), probe_id


def store_bench(ws: Workspace, session: Session, probe_id: int, path: str) -> None:
    """Keep what the bench recorded; it is due for reading now."""
    try:
        probe = session.get(Probe, probe_id)
        if probe is not None:
            kept = ws.vault.add(Path(path))
            probe.digest, probe.size_bytes = kept.digest, kept.size_bytes
            session.add(probe)
    finally:
        Path(path).unlink(missing_ok=True)


def get_proof(ws: Workspace, gear_id: int, key: str, school: School | None = None) -> TrayView:
    """The playing of the probes that prove an answer, ready for the tray."""
    found = get_evidence(ws, gear_id)
    keys = [answer.key for answer in found.questions]
    if key not in keys:
        raise NotFound("question", key)
    chosen: School = school or "equal"
    answer = found.questions[keys.index(key)]
    with ws.reading() as session:
        rows = [(session.get_one(Probe, ident), session.get_one(Probed, ident)) for ident in answer.proof]
    heard = [(probe, read.result["playing"]) for probe, read in rows if "playing" in read.result]
    gains = listening_gains([Level(p["loudness_lufs"], p["true_peak_dbtp"]) for _, p in heard], chosen)
    names = {view.id: view.setting for view in found.probes}
    poured = [
        PouredView(
            take_id=-(probe.id or 0), contender_id=-(probe.id or 0), letter="AB"[index % 2], colour=index,
            name=names[probe.id or 0], is_bypass=False, url=f"/api/probes/{probe.id}/playing?v={probe.digest[:12]}",
            gain_db=round(gain + playing["copy_gain_db"], 3), lag_s=0.0, lined_up=True,
            duration_s=playing["duration_s"], outline=playing["outline"], problem="",
        )
        for index, ((probe, playing), gain) in enumerate(zip(heard, gains.gains_db, strict=True))
    ]  # fmt: skip
    tests = [
        TestView(id=index + 1, name=SHORT[one.key], position=index, sound="", about=one.title)
        for index, one in enumerate(found.questions)
    ]
    return TrayView(
        of="gear", flight_id=gear_id, flight_name=found.name, test=tests[keys.index(key)], tests=tests, school=chosen,
        school_text=SCHOOL_TEXTS[chosen], lowered_db=round(gains.lowered_db, 2), takes=poured, waiting=0,
    )  # fmt: skip


SHORT = {"most": "most distortion", "pleasant": "pleasantness", "clean": "cleanest", "controls": "tone controls"}


def playing(ws: Workspace, probe_id: int) -> Path:
    """The file to listen to; Conflict where the recording holds no playing."""
    with ws.reading() as session:
        probe = require(session, Probe, probe_id, "measurement")
    path = playing_path(ws, probe.digest)
    if not path.exists():
        raise Conflict("this recording holds no playing, or is still being read")
    return path


def nominal(ws: Workspace, path: Path) -> float:
    """The level of somebody's own strumming; Invalid with the reason where the recording has none."""
    found = ws.pool.ask(work.nominal_of, str(path))
    if "refused" in found:
        raise Invalid(found["refused"])
    return float(found["nominal_dbfs"])
