"""What lets an answer about an item be heard: the playing of its measurements, ready for the tray."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import col, select

from cata.core.match.gains import Level, School, listening_gains
from cata.errors import NotFound
from cata.services.evidence.items import get_evidence
from cata.services.evidence.probing import STRINGS, controls_of, differing_texts
from cata.services.listen.tray import SCHOOL_TEXTS
from cata.services.listen.views import PouredView, PourView, TrayView
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear, Probe, Probed

SHORT = {
    "most": "most distortion", "pleasant": "pleasantness", "clean": "cleanest", "controls": "tone controls",
    "squeeze": "squeeze", "speed": "attack and release", "kept": "dynamics kept",
}  # fmt: skip
MOST_POURED = 8
SETTING = "setting-"


def get_proof(ws: Workspace, gear_id: int, key: str, school: School | None = None) -> TrayView:
    """The playing that lets an answer be heard; of a pickup its strings beside those of others. NotFound otherwise."""
    if key == STRINGS:
        return _strings(ws, gear_id, school or "equal")
    if key.startswith(SETTING):
        return _settings(ws, gear_id, key, school or "equal")
    found = get_evidence(ws, gear_id)
    keys = [answer.key for answer in found.questions]
    if key not in keys:
        raise NotFound("question", key)
    answer = found.questions[keys.index(key)]
    with ws.reading() as session:
        controls = controls_of(require(session, Gear, gear_id))
        rows = [(session.get_one(Probe, ident), session.get_one(Probed, ident)) for ident in answer.proof]
    played = [(probe, read.result["playing"]) for probe, read in rows if "playing" in read.result]
    names = differing_texts(controls, [probe.settings for probe, _ in played])
    heard = [(probe, playing, name) for (probe, playing), name in zip(played, names, strict=True)]
    pours = [PourView(key=one.key, name=SHORT[one.key], about=one.title) for one in found.questions]
    return _tray(gear_id, found.name, heard, pours[keys.index(key)], pours, school or "equal")


def _settings(ws: Workspace, gear_id: int, key: str, school: School) -> TrayView:
    """One measured setting of an item, then its others."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
        controls = controls_of(gear)
        statement = (
            select(Probe, Probed).join(Probed, col(Probed.probe_id) == Probe.id)
            .where(Probe.gear_id == gear_id, Probe.kind != STRINGS).order_by(col(Probe.id).desc())
        )  # fmt: skip
        rows = [row for row in session.exec(statement).all() if "playing" in row[1].result]
    wanted = key.removeprefix(SETTING)
    if wanted not in {str(probe.id) for probe, _ in rows}:
        raise NotFound("measured setting", wanted)
    rows.sort(key=lambda row: str(row[0].id) != wanted)
    names = differing_texts(controls, [probe.settings for probe, _ in rows])
    heard = [(probe, read.result["playing"], name) for (probe, read), name in zip(rows, names, strict=True)]
    pour = PourView(key=key, name="settings", about="The same playing at measured settings")
    return _tray(gear_id, gear.name, heard[:MOST_POURED], pour, [pour], school)


def _strings(ws: Workspace, gear_id: int, school: School) -> TrayView:
    """The open strings of a pickup, its latest recordings first, then the latest of others."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
        statement = (
            select(Probe, Probed, Gear).join(Probed, col(Probed.probe_id) == Probe.id)
            .join(Gear, col(Gear.id) == Probe.gear_id).where(Probe.kind == STRINGS).order_by(col(Probe.id).desc())
        )  # fmt: skip
        rows = [row for row in session.exec(statement).all() if "playing" in row[1].result]
    rows.sort(key=lambda row: row[2].id != gear_id)
    heard = [(probe, read.result["playing"], _stood(probe, owner)) for probe, read, owner in rows[:MOST_POURED]]
    pour = PourView(key=STRINGS, name="open strings", about="Six open strings, low to high")
    return _tray(gear_id, gear.name, heard, pour, [pour], school)


def _stood(probe: Probe, gear: Gear) -> str:
    """A recording of strings in words: pickup, position, heights."""
    sides = [f"{probe.made[side]:g}" for side in ("bass_mm", "treble_mm") if side in probe.made]
    parts = [gear.name, str(probe.made.get("position", "")), f"{'/'.join(sides)} mm" if sides else ""]
    return ", ".join(part for part in parts if part)


def _tray(
    gear_id: int,
    name: str,
    heard: Sequence[tuple[Probe, dict[str, Any], str]],
    poured: PourView,
    others: list[PourView],
    school: School,
) -> TrayView:
    gains = listening_gains([Level(p["loudness_lufs"], p["true_peak_dbtp"]) for _, p, _ in heard], school)
    takes = [
        PouredView(
            key=f"probe-{probe.id}", letter="ABCDEFGH"[index], number=index + 1, colour=index, name=label,
            is_bypass=False, url=f"/api/probes/{probe.id}/playing?v={probe.digest[:12]}",
            gain_db=round(gain + playing["copy_gain_db"], 3), lag_s=playing.get("first_s", 0.0), lined_up=True,
            duration_s=playing["duration_s"], outline=playing["outline"], problem="",
        )
        for index, ((probe, playing, label), gain) in enumerate(zip(heard, gains.gains_db, strict=True))
    ]  # fmt: skip
    return TrayView(
        of="gear", owner_id=gear_id, owner=name, poured=poured, others=others, school=school,
        school_text=SCHOOL_TEXTS[school], lowered_db=round(gains.lowered_db, 2), takes=takes, waiting=0,
    )  # fmt: skip
