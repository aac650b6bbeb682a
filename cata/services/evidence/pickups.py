"""Pickups heard by their open strings: recordings taken in or played by the bench, and what they say together."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.evidence.pickups import Strung, advice, against, bridge_to_neck, heights
from cata.core.measure.results import from_kept
from cata.errors import Conflict, Invalid, Refused
from cata.said import Said, said
from cata.services.evidence.pickup_views import HeightPointView, HeightsView, PickupView, StringsView
from cata.services.evidence.probing import STRINGS, sent_through, state_of
from cata.services.takes.receiving import clean_name
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear, Probe, Probed
from cata.store.vault import Kept
from cata.tasks.strings import RESONANCE, Pair

Position = Literal["bridge", "middle", "neck"]


class StringsIn(BaseModel):
    """How a pickup stood: its position, the distance of the outer strings from their poles, what calibrates it.

    ``tone_mv`` and ``tone_dbfs``: a tone of so many mV (RMS) was recorded at so many dBFS (RMS) at this input gain.
    ``flat``: a pickup without resonance under 10 kHz (low impedance, buffered), against which others can be read.
    """

    position: Position | Literal[""] = ""
    bass_mm: float | None = Field(default=None, ge=0.5, le=12)
    treble_mm: float | None = Field(default=None, ge=0.5, le=12)
    tone_mv: float | None = Field(default=None, gt=0, le=10_000)
    tone_dbfs: float | None = Field(default=None, ge=-90, le=0)
    flat: bool = False


def _made(gear: Gear, data: StringsIn) -> dict[str, Any]:
    if gear.kind != "pickup":
        raise Invalid(f"{gear.name} is no pickup: play the test file through it", "no_pickup")
    if (data.tone_mv is None) != (data.tone_dbfs is None):
        raise Invalid("a calibrating tone needs both: its mV and the level it was recorded at", "half_calibrated")
    made = data.model_dump(exclude_none=True)
    made["position"] = data.position or str(gear.specs.get("position") or "")
    return made


def add_strings(ws: Workspace, gear_id: int, filename: str, kept: Kept, data: StringsIn) -> int:
    """Note a recording of six open strings that is safe in the vault; it is due for reading. Its id."""
    name = clean_name(filename)
    with ws.acting(f"Strings from {name}") as session:
        gear = require(session, Gear, gear_id)
        probe = Probe(gear_id=gear_id, digest=kept.digest, size_bytes=kept.size_bytes, filename=name, kind=STRINGS,
                      settings={}, made=_made(gear, data), added_at=ws.now())  # fmt: skip
        session.add(probe)
        session.flush()
    return probe.id or 0


def check_pickup(ws: Workspace, gear_id: int, data: StringsIn) -> None:
    """Raise NotFound or Invalid before a recording is taken in for nothing."""
    with ws.reading() as session:
        _made(require(session, Gear, gear_id), data)


def strings_on_bench(ws: Workspace, gear_id: int, data: StringsIn) -> int:
    """Have the bench play a pickup's strings; it is played and read in the background. Its id."""
    with ws.acting("Strings on the bench") as session:
        gear = require(session, Gear, gear_id)
        probe = bench_strings(session, gear, data, ws.now())
        session.flush()
    return probe.id or 0


def bench_strings(session: Session, gear: Gear, data: StringsIn, at: str) -> Probe:
    """Note a recording that the bench is to make, inside a transaction; Conflict where it knows too little."""
    made = _made(gear, data)
    if not {"inductance_h", "dc_resistance_kohm"} & set(gear.specs):
        raise Conflict("the bench needs the coil's inductance or resistance: note them with the pickup", "no_coil")
    name = clean_name(f"{gear.name} - {made['position'] or 'open'} strings (bench).wav")
    probe = Probe(gear_id=gear.id, digest="", size_bytes=0, filename=name, kind=STRINGS, settings={}, made=made,
                  bench="pickup", added_at=at)  # fmt: skip
    session.add(probe)
    return probe


def change_strings(ws: Workspace, probe_id: int, data: StringsIn) -> None:
    """Note otherwise how a pickup stood."""
    with ws.acting("Change a pickup's notes") as session:
        probe = require(session, Probe, probe_id, "measurement")
        if probe.kind != STRINGS:
            raise Invalid("that is a recording of the test file", "other_kind")
        probe.made = probe.made | data.model_dump(exclude_unset=True)
        session.add(probe)


# --- what they say


def _strung(session: Session, probe: Probe, gear: Gear) -> tuple[Strung, dict[str, Any]] | None:
    read = session.get(Probed, probe.id)
    if read is None or read.state != state_of(session, probe) or read.result.get("refused"):
        return None
    results, made = from_kept(read.result["results"]), probe.made
    bands = results.bands
    tone = made.get("tone_dbfs"), made.get("tone_mv")
    return Strung(
        ident=probe.id or 0, gear_id=gear.id or 0, name=gear.name, heard_lufs=results.number("heard_lufs") or 0.0,
        rms_dbfs=results.number("rms_dbfs") or 0.0, balance_db=results.parts("string_balance_db"),
        position=str(made.get("position", "")),
        bass_mm=made.get("bass_mm"), treble_mm=made.get("treble_mm"),
        calibrated=None if tone[0] is None or tone[1] is None else (tone[0], tone[1]),
        output_band_db=bands.get("heard_lufs"), balance_band_db=bands.get("string_balance_db"),
        waver=results.parts("waver") or None,
        decay_db_per_s=results.parts("decay_db_per_s"),
    ), read.result  # fmt: skip


def get_pickup(ws: Workspace, gear_id: int, reference_id: int | None = None) -> PickupView:
    """A pickup's recordings and those of all others, against one of them (the first read, unless said)."""
    with ws.reading() as session:
        require(session, Gear, gear_id)
        statement = (
            select(Probe, Gear).join(Gear, col(Gear.id) == Probe.gear_id).where(Probe.kind == STRINGS)
            .order_by(col(Probe.id))
        )  # fmt: skip
        rows = [(probe, gear, _strung(session, probe, gear)) for probe, gear in session.exec(statement).all()]
        rows.sort(key=lambda row: row[1].id != gear_id)  # its own first
        known = {strung.ident: (strung, result) for _, _, found in rows if found for strung, result in [found]}
        if reference_id is not None and reference_id not in known:
            reference_id = None
        reference = reference_id or min(known, default=None)
        coil = _known_resonance(session, known[reference][0].gear_id) if reference else None
        flat = reference is not None and bool(session.get_one(Probe, reference).made.get("flat"))
        digests = {probe.id or 0: probe.digest for probe, _, _ in rows}
        states = {probe.id: _state(session, probe) for probe, _, _ in rows}
    own = [strung for strung, _ in known.values() if strung.gear_id == gear_id]
    by_position = {place: [s for s in own if s.position == place] for place in dict.fromkeys(s.position for s in own)}
    raised = {place: answer for place, several in by_position.items() if (answer := heights(several))}
    views = []
    for probe, gear, found in rows:
        view = _blank(probe, gear, *states[probe.id])
        if found and reference is not None:
            slope = raised[found[0].position].db_per_mm if found[0].position in raised else None
            _fill(view, found[0], known[reference][0], slope)
            if gear.id == gear_id:
                used = None if flat else coil
                pair = probe.digest, digests[reference]
                _put_resonance(ws, view, found[1], known[reference], used, pair, flat=flat)
            view.rounds = int(found[1]["rounds"])
            view.url = f"/api/probes/{probe.id}/playing?v={probe.digest[:12]}"
        views.append(view)
    others = [strung for strung, _ in known.values() if strung.gear_id != gear_id]
    return PickupView(
        reference_id=reference, rows=views, bridge_to_neck=bridge_to_neck(own, others),
        heights=[
            HeightsView(
                position=place, db_per_mm=answer.db_per_mm, sentence=answer.sentence, told=answer.told,
                points=[HeightPointView(**vars(point)) for point in answer.points],
            )
            for place, answer in raised.items()
        ],
    )  # fmt: skip


def _state(session: Session, probe: Probe) -> tuple[str, str, str]:
    read = session.get(Probed, probe.id)
    if read is None or read.state != state_of(session, probe):
        return "waiting", "", ""
    refused = str(read.result.get("refused") or "")
    return ("refused" if refused else "read"), refused, str(read.result.get("code") or "")


def _blank(probe: Probe, gear: Gear, state: str, refused: str, code: str) -> StringsView:
    made = probe.made
    return StringsView(
        id=probe.id or 0, gear_id=gear.id or 0, gear=gear.name, filename=probe.filename, state=state, refused=refused,
        code=code,
        bench=probe.bench, position=str(made.get("position", "")), bass_mm=made.get("bass_mm"),
        treble_mm=made.get("treble_mm"), output_db=None, output=None, basis=None, band_db=None, output_mv=None,
        balance_db=[], balance_band_db=None, strings_db=[], waver="", decay_db_per_s=[], rounds=0, advice=[],
        resonance="", resonance_missing=None, url="", added_at=probe.added_at,
    )  # fmt: skip


def _fill(view: StringsView, strung: Strung, reference: Strung, slope: float | None) -> None:
    """Put what a recording says into its view."""
    view.output_mv = strung.output_mv
    view.balance_db = list(strung.balance_db.values())
    view.balance_band_db = strung.balance_band_db
    view.decay_db_per_s = list(strung.decay_db_per_s.values())
    view.advice = advice(strung, slope)
    if strung.waver is not None and strung.wavers:
        view.waver = f"string {7 - int(strung.waver['string'])}: {strung.waver['pitch_cents']:.1f} cents"
    if strung.ident != reference.ident:
        found = against(strung, reference)
        view.output_db, view.output = round(found.output_db, 2), found.said
        view.basis, view.band_db = found.basis, found.band_db
        view.strings_db = [round(value, 2) for value in found.strings_db.values()]


def _known_resonance(session: Session, gear_id: int) -> tuple[float, float] | None:
    """f0 and Q of a pickup measured with the sweep coil, the latest first."""
    for probe in reversed(session.exec(sent_through(gear_id)).all()):
        read = session.get(Probed, probe.id)
        found = from_kept(read.result.get("results", {})).parts("resonance") if read is not None else {}
        if found:
            return found["resonance_hz"], found["q"]
    return None


def _put_resonance(
    ws: Workspace,
    view: StringsView,
    result: dict[str, Any],
    reference: tuple[Strung, dict[str, Any]],
    coil: tuple[float, float] | None,
    digests: tuple[str, str],
    *,
    flat: bool,
) -> None:
    """The resonance by playing, against a reference that is flat or known."""
    if reference[0].ident == view.id:
        return
    if coil is None and not flat:
        words = "{reference}, the reference, is neither flat nor measured with the sweep coil"
        view.resonance_missing = said("reference_unknown", words, reference=reference[0].name)
        return
    if reference[0].position != view.position:
        view.resonance_missing = Said("reference_elsewhere", "the reference was in another position of the guitar")
        return
    pair = Pair(result, reference[1], coil)
    try:
        values = ws.answers.remember(("resonance", digests, coil), lambda: ws.ask(RESONANCE, pair))
    except Refused as error:
        view.resonance_missing = error.said
        return
    view.resonance = (
        f"{values['resonance_hz']:.0f} Hz ± {values['resonance_band_hz']:.0f}, Q {values['q']:.1f} "
        f"± {values['q_band']:.1f}, from playing"
    )
