"""What the measurements of an item say together, as pages and the tray need it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from contextlib import suppress
from typing import Any

from sqlmodel import Session, col, select

from cata.core.bench.names import stand_in
from cata.core.evidence.fingerprint import fingerprint, headroom_of
from cata.core.evidence.probe import Probe as Known
from cata.core.evidence.probe import figure
from cata.core.gear import Control, read_position, show_position
from cata.core.measure.device.readings import BY_KEY, COMPRESSION, DEVICE_READINGS, NOMINAL_DBFS
from cata.core.measure.results import as_kept, from_kept
from cata.errors import NotFound
from cata.services.evidence.measuring import PLAYED, READ
from cata.services.evidence.played import place_by_playing, played_figures
from cata.services.evidence.probing import (
    TEST_FILE,
    controls_of,
    loopbacks,
    sent_through,
    setting_text,
    state_of,
)
from cata.services.evidence.views import (
    ComparisonView,
    EvidenceView,
    FigureView,
    ForetoldView,
    KnobAtView,
    PrintView,
    ProbeView,
    RayView,
    RefusalView,
)
from cata.services.workspace import Workspace, require
from cata.store.tables import Failure, Gear, Probe, Probed
from cata.tasks.desk import PROGRESS
from cata.tasks.knowing import COMPARISON, EVIDENCE, KNOB_AT, Turned, Two
from cata.tasks.knowing import Known as Item
from cata.tasks.shape import Due

SHOWN_PARTS = {"breakup_dbfs": ("1", "3", "10"), "played_breakup_dbfs": ("3", "10")}
PAIRED = ("low_end_loss_db", "noise_below_db")
"""Readings that pairing asks for, beside headroom and mids."""
NOT_FIGURES = ("thd_percent", "response_db", "harmonics_db", "chords_db")


def _probe_view(
    ws: Workspace, session: Session, probe: Probe, controls: list[Control], *, coil: bool = False
) -> ProbeView:
    read = session.get(Probed, probe.id)
    current = read is not None and read.state == state_of(session, probe)
    result = read.result if read is not None and current else {}
    waiting = "waiting its turn" if probe.digest else "the bench is playing"
    progress: dict[str, Any] = {"share": 0.0, "what": waiting}
    failure = None
    if not current:
        duty = READ if probe.digest else PLAYED
        failure = session.exec(select(Failure).where(Failure.duty == duty, Failure.ident == probe.id)).first()
        with suppress(OSError, ValueError):
            path = ws.data_dir / PROGRESS / f"{Due(duty, probe.id or 0).name}.json"
            progress = json.loads(path.read_text())
    refused = failure.text if failure is not None else str(result.get("refused") or "")
    known = _known(probe, controls, result)
    # Only a coil is asked for its resonance; of the rest nobody wants to read that it has none.
    told = BY_KEY if coil else {key: reading for key, reading in BY_KEY.items() if key != "resonance"}
    return ProbeView(
        id=probe.id or 0, gear_id=probe.gear_id, filename=probe.filename, settings=probe.settings,
        setting=known.name,
        texts={c.key: show_position(c, probe.settings[c.key]) for c in controls if c.key in probe.settings},
        state="failed" if failure is not None else "waiting" if not current else "refused" if refused else "read",
        share=float(progress["share"]) if not current else 1.0, what=str(progress["what"]) if not current else "",
        refused=refused, code=failure.code if failure is not None else str(result.get("code") or ""),
        part=str(result.get("part", "")), loop_id=probe.loop_id, nominal_dbfs=probe.nominal_dbfs,
        full_scale_dbu=probe.full_scale_dbu, bench=probe.bench, added_at=probe.added_at, figures=_figures(known),
        refusals=[
            RefusalView(key=key, name=BY_KEY[key].name, why=why)
            for key, why in known.results.refusals.items()
            if key in told
        ],
        notes=list(result.get("notes", [])),
        url=f"/api/probes/{probe.id}/playing?v={probe.digest[:12]}" if "playing" in result else "",
    )  # fmt: skip


def _figures(known: Known) -> list[FigureView]:
    found = []
    for reading in (*DEVICE_READINGS, *COMPRESSION):
        if reading.key in NOT_FIGURES:
            continue
        for key in [f"{reading.key}.{part}" for part in SHOWN_PARTS.get(reading.key, ())] or [reading.key]:
            shown = figure(known, key)
            if shown is not None:
                found.append(FigureView.model_validate(shown))
    for whole, parts in (("resonance", RESONANCE_PARTS), ("tail", TAIL_PARTS)):
        values = known.results.readings.get(whole)
        if not isinstance(values, dict):
            continue
        for key, (name, unit) in parts.items():
            if key in values:
                text = f"{values[key]:.1f} {unit}".replace("-", "−").strip()
                about = BY_KEY[whole].about
                found.append(FigureView(key=whole, name=name, text=text, band=None, doubt="", about=about))
    return found


TAIL_PARTS = {
    "t60_s": ("Reverb's tail, to −60 dB", "s"),
    "level_db": ("Reverb against the direct sound", "dB"),
}
RESONANCE_PARTS = {
    "resonance_hz": ("Resonance", "Hz"), "q": ("Resonance, Q", ""), "peak_hz": ("Peak", "Hz"),
    "peak_db": ("Peak, height", "dB"),
}  # fmt: skip


def _known(probe: Probe, controls: list[Control], result: dict[str, Any]) -> Known:
    setting = setting_text(controls, probe.settings)
    results, pictures = from_kept(result.get("results") or {}), result.get("pictures") or {}
    nominal = NOMINAL_DBFS if probe.nominal_dbfs is None else probe.nominal_dbfs
    return Known(probe.id or 0, setting, probe.settings, results, pictures, nominal, probe.full_scale_dbu)


def _read_probes(session: Session, gear: Gear) -> list[Known]:
    """The probes of an item that were read."""
    controls = controls_of(gear)
    rows = session.exec(
        select(Probe, Probed).join(Probed, col(Probed.probe_id) == Probe.id)
        .where(Probe.gear_id == gear.id, Probe.kind == TEST_FILE)
        .order_by(col(Probe.id))
    ).all()  # fmt: skip
    return [
        _known(probe, controls, read.result) for probe, read in rows if not read.result.get("refused")
    ]  # fmt: skip


def usual_figures(session: Session, items: Iterable[Gear]) -> dict[int, dict[str, float]]:
    """What was measured of items with their knobs nearest to where they usually stand, reading to value."""
    found: dict[int, dict[str, float]] = {}
    measured = set(session.exec(select(Probe.gear_id).where(Probe.kind == TEST_FILE).distinct()).all())
    for item in items:
        probes = _read_probes(session, item) if item.id in measured else []
        if not probes:
            continue
        usual = {control.key: control.default for control in controls_of(item)}
        nearest = min(probes, key=lambda one: sum(abs(one.settings.get(k, at) - at) for k, at in usual.items()))
        values = {key: nearest.number(key) for key in PAIRED} | {
            # What never distorts has at least the room up to the highest level that was sent.
            "headroom_db": headroom_of(nearest)[0], "region.mids": nearest.region_db("mids"),
        }  # fmt: skip
        found[item.id or 0] = {key: value for key, value in values.items() if value is not None}
    return found


def get_evidence(ws: Workspace, gear_id: int) -> EvidenceView:
    """All that is known of an item from its probes."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
        controls = controls_of(gear)
        probes = session.exec(sent_through(gear_id)).all()
        loops = session.exec(loopbacks().order_by(col(Probe.id))).all()
        views = [_probe_view(ws, session, probe, controls, coil=gear.kind == "pickup") for probe in probes]
        loop_views = [_probe_view(ws, session, probe, []) for probe in loops]
        rows = _read_probes(session, gear)
    kept = [
        [row.ident, row.name, row.settings, as_kept(row.results), row.pictures, row.nominal_dbfs, row.full_scale_dbu]
        for row in rows
    ]
    known = [kept, [control.model_dump(mode="json") for control in controls]]
    asked = hashlib.sha256(json.dumps(known).encode()).hexdigest()
    found = ws.answers.remember(("evidence", asked), lambda: ws.ask(EVIDENCE, Item(rows, controls)))
    device = stand_in(gear.kind, gear.name, gear.about, gear.structure)
    with ws.reading() as session:
        drives = gear.kind in ("pedal", "amplifier")
        place = place_by_playing(session, gear_id) if drives and not rows else ""
        played = [] if rows else played_figures(session, gear_id)
    return EvidenceView(
        gear_id=gear_id, name=gear.name, probes=views, loops=loop_views, stand_in=device, played=place,
        played_figures=played, **found,
    )  # fmt: skip


def compare(ws: Workspace, first_id: int, second_id: int) -> ComparisonView:
    """Two items against each other."""
    with ws.reading() as session:
        items = [require(session, Gear, ident) for ident in (first_id, second_id)]
        rows = [_read_probes(session, item) for item in items]
    names = (items[0].name, items[1].name)
    found = ws.ask(COMPARISON, Two(rows[0], rows[1], names))
    return ComparisonView(first=names[0], second=names[1], **found)


def knob_at(ws: Workspace, gear_id: int, key: str, written: str) -> KnobAtView:
    """A position of a knob as it is read, and what its measurements say of it; NotFound, or Invalid for no position."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
        control = next((one for one in controls_of(gear) if one.key == key), None)
        if control is None:
            raise NotFound("control", key)
        rows = _read_probes(session, gear)
    position = read_position(control, written)
    found = ws.ask(KNOB_AT, Turned(rows, control, position)) if rows else []
    return KnobAtView(
        position=position, text=show_position(control, position),
        readings=[ForetoldView.model_validate(one) for one in found],
    )  # fmt: skip


def fingerprints(ws: Workspace) -> list[PrintView]:
    """The fingerprints of all items that were measured."""
    with ws.reading() as session:
        measured = session.exec(select(Probe.gear_id).where(col(Probe.gear_id).is_not(None)).distinct()).all()
        found = []
        for ident in measured:
            rows = _read_probes(session, session.get_one(Gear, ident))
            rays = fingerprint(rows)
            if rays:
                found.append(PrintView(gear_id=ident or 0, rays=[RayView.model_validate(ray) for ray in rays]))
    return found
