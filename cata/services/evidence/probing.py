"""Probes: recordings of the test file through an item: taken in, made by the bench, changed, heard."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select
from sqlmodel.sql.expression import SelectOfScalar

from cata.core.bench.names import stand_in
from cata.core.gear import Control, read_position, show_position
from cata.core.measure.device.readings import METHOD
from cata.core.measure.device.volts import read_full_scale
from cata.core.measure.strings import METHOD as STRINGS_METHOD
from cata.core.signals.testfile.layout import PartName
from cata.errors import Conflict, Invalid
from cata.services.takes.receiving import clean_name
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Gear, Probe, Probed
from cata.store.vault import Kept
from cata.tasks.bench import WRITE_TEST_FILE, ToWrite
from cata.tasks.devices import NOMINAL_LEVEL
from cata.tasks.strings import TONE_LEVEL

Rate = Literal[44100, 48000, 96000]
TEST_FILE, STRINGS = "testfile", "strings"
"""What a probe holds."""


class ProbeIn(BaseModel):
    """How a probe was made: knob positions as written, the loop-back of its interface, the player's own level.

    ``full_scale``: what the interface sends at 0 dBFS, as written ("+18 dBu", "2.1 V"); empty for not known.
    """

    settings: dict[str, str] = Field(default_factory=dict, max_length=40)
    loop_id: int | None = Field(default=None, ge=1, le=2**53)
    nominal_dbfs: float | None = Field(default=None, ge=-80, le=0)
    channel: int | None = Field(default=None, ge=0, le=1)
    full_scale: str | None = Field(default=None, max_length=40)

    @property
    def full_scale_dbu(self) -> float | None:
        """The same in dBu; Invalid where it cannot be read."""
        return read_full_scale(self.full_scale) if self.full_scale and self.full_scale.strip() else None


def written_file(ws: Workspace, part: PartName, rate: Rate, as_float: bool) -> Path:
    """The test file as WAV, made once."""
    folder = ws.data_dir / "testfiles"
    path = folder / f"{part}-{rate}-{'float' if as_float else '24'}.wav"
    if not path.exists():
        ws.ask(WRITE_TEST_FILE, ToWrite(part, rate, as_float, ws.inside(path)))
    return path


def controls_of(gear: Gear) -> list[Control]:
    """An item's knobs."""
    return [Control.model_validate(row) for row in gear.controls]


def _positions(gear: Gear, given: dict[str, str]) -> dict[str, float]:
    """Every knob's position: as written, else where it starts. Invalid for a knob that the item has not."""
    controls = {control.key: control for control in controls_of(gear)}
    for key in given:
        if key not in controls:
            raise Invalid(f"{gear.name} has no control {key!r}", "no_control")
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


def differing_texts(controls: list[Control], settings: list[dict[str, float]]) -> list[str]:
    """Settings by the knobs in which they differ; in full where they do not."""
    moved = [c for c in controls if len({one.get(c.key) for one in settings}) > 1]
    return [setting_text(moved or controls, one) for one in settings]


def check_level(data: ProbeIn) -> None:
    """Invalid where what the interface sends cannot be read, before a recording is taken in."""
    _ = data.full_scale_dbu


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
            full_scale_dbu=data.full_scale_dbu,
        )  # fmt: skip
        session.add(probe)
        session.flush()
    return probe.id or 0


def sent_through(gear_id: int) -> SelectOfScalar[Probe]:
    """The recordings of the test file through an item, oldest first."""
    return select(Probe).where(Probe.gear_id == gear_id, Probe.kind == TEST_FILE).order_by(col(Probe.id))


def loopbacks() -> SelectOfScalar[Probe]:
    """The recordings of a cable in a device's place."""
    return select(Probe).where(col(Probe.gear_id).is_(None))


def _latest_loop(session: Session) -> int | None:
    rows = session.exec(loopbacks().order_by(col(Probe.id).desc())).all()
    for row in rows:
        read = session.get(Probed, row.id)
        if read is not None and not read.result.get("refused"):
            return row.id
    return None


def _check_loop(session: Session, loop_id: int | None) -> None:
    if loop_id is not None and require(session, Probe, loop_id, "loop-back").gear_id is not None:
        raise Invalid("that is the recording of a device, not a loop-back", "no_loopback")


def change_probe(ws: Workspace, probe_id: int, data: ProbeIn) -> None:
    """Change how a probe was made; it is read again where that matters."""
    with ws.acting("Change a measurement") as session:
        probe = require(session, Probe, probe_id, "measurement")
        given = data.model_dump(exclude_unset=True)
        if "settings" in given and probe.gear_id is not None:
            gear = session.get_one(Gear, probe.gear_id)
            known = {c.key: show_position(c, probe.settings.get(c.key, c.default)) for c in controls_of(gear)}
            probe.settings = _positions(gear, known | data.settings)
        if "loop_id" in given:
            _check_loop(session, data.loop_id)
            probe.loop_id = data.loop_id
        for key in ("nominal_dbfs", "channel"):
            if key in given:
                setattr(probe, key, given[key])
        if "full_scale" in given:
            probe.full_scale_dbu = data.full_scale_dbu
        session.add(probe)


def remove_probe(ws: Workspace, probe_id: int) -> None:
    """Take a measurement away; an undo brings it back."""
    with ws.acting("Remove a measurement") as session:
        remove(session, require(session, Probe, probe_id, "measurement"))


def state_of(session: Session, probe: Probe) -> str:
    """What a probe's readings depend on."""
    loop = session.get(Probe, probe.loop_id) if probe.loop_id else None
    method = STRINGS_METHOD if probe.kind == STRINGS else METHOD
    return json.dumps([method, probe.digest, loop.digest if loop else None, probe.nominal_dbfs, probe.channel])


def read_from(state: str) -> str:
    """A state without its methods: what was read, whatever with."""
    return json.dumps(json.loads(state)[1:])


def playing_path(ws: Workspace, digest: str) -> Path:
    """Where the playing of a recording lies for listening."""
    return ws.data_dir / "playing" / f"{digest}.flac"


def probe_on_bench(ws: Workspace, gear_id: int, data: ProbeIn) -> int:
    """Measure the bench device that stands in for an item; Conflict where the bench has nothing like it.

    It is played and read in the background.
    """
    with ws.acting("Measure on the bench") as session:
        gear = require(session, Gear, gear_id)
        probe = bench_probe(session, gear, _positions(gear, data.settings), ws.now())
        probe.nominal_dbfs = data.nominal_dbfs
        probe.full_scale_dbu = data.full_scale_dbu
        _check_loop(session, data.loop_id)
        session.flush()
    return probe.id or 0


def bench_probe(session: Session, gear: Gear, positions: dict[str, float], at: str) -> Probe:
    """Note a measurement that the bench is to make, inside a transaction."""
    device = stand_in(gear.kind, gear.name, gear.about, gear.structure)
    if not device:
        raise Conflict("the bench has nothing like it: record the real one", "no_stand_in")
    name = clean_name(f"{gear.name} - {setting_text(controls_of(gear), positions)} (bench).wav")
    probe = Probe(
        gear_id=gear.id, digest="", size_bytes=0, filename=name, settings=positions, bench=device, added_at=at
    )
    session.add(probe)
    return probe


# --- listening


def playing(ws: Workspace, probe_id: int) -> Path:
    """The file to listen to; Conflict where the recording holds no playing."""
    with ws.reading() as session:
        probe = require(session, Probe, probe_id, "measurement")
    path = playing_path(ws, probe.digest)
    if not path.exists():
        raise Conflict("this recording holds no playing, or is still being read", "no_playing")
    return path


def nominal(ws: Workspace, path: Path) -> float:
    """The level of somebody's own strumming; Refused with the reason where the recording has none."""
    return ws.ask(NOMINAL_LEVEL, ws.inside(path))


def tone_level(ws: Workspace, path: Path) -> float:
    """RMS in dBFS of a steady tone; Refused with the reason where the recording holds none."""
    return ws.ask(TONE_LEVEL, ws.inside(path))
