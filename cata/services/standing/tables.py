"""What pages show, as plain tables to take out: takes, findings, readings, measurements, a brief."""

from __future__ import annotations

from cata.core.brief import AMP_ROLES, ROOMS
from cata.core.measure.registry import BY_KEY
from cata.core.money import show_price
from cata.core.shelf.table import write_table
from cata.services.brief.briefs import get_brief
from cata.services.evidence.items import get_evidence
from cata.services.evidence.readings import get_readings
from cata.services.match.findings import told_findings
from cata.services.standing.flight import get_flight
from cata.services.tasting.revealing import rows_of
from cata.services.workspace import Workspace


def takes_csv(ws: Workspace, flight_id: int) -> bytes:
    """Every recording of a flight with its cell and its state."""
    flight = get_flight(ws, flight_id)
    rows = {one.id: one for one in flight.contenders}
    columns = {one.id: one.name for one in flight.tests}
    heads = ["contender", "setting", "test", "played again", "file", "seconds", "rate Hz", "channels", "codec", "state",
             "audit"]  # fmt: skip
    lines = []
    for take in sorted(flight.takes, key=lambda one: (one.contender_id or 0, one.test_id or 0, one.repeat)):
        row = rows.get(take.contender_id or 0)
        setting = ", ".join(f"{one.name} {one.text}" for one in row.settings) if row else ""
        state = "set aside" if take.aside else "not placed" if row is None else take.state
        lines.append([
            row.name if row else "", setting, columns.get(take.test_id or 0, ""), str(take.repeat or ""),
            take.filename, f"{take.duration_s:.3f}", str(take.rate_hz), str(take.channels), take.codec, state,
            {"fault": "record again", "check": "look at it"}.get(take.worst, ""),
        ])  # fmt: skip
    return write_table(heads, lines)


def match_csv(ws: Workspace, flight_id: int) -> bytes:
    """What Match found, worst first."""
    heads = ["finding", "severity", "contender", "test", "what", "what to do", "sure", "why", "kept"]
    lines = [
        [one.rule, one.severity, one.contender, one.test, one.text, one.advice, one.sure, one.why,
         "yes" if one.accepted else ""]
        for one in told_findings(ws, flight_id)
    ]  # fmt: skip
    return write_table(heads, lines)


def readings_csv(ws: Workspace, flight_id: int, test_id: int, against: int | None) -> bytes:
    """All readings of a test: a row each reading and contender, refusals with their reason."""
    names = {one.id: one.name for one in get_flight(ws, flight_id).contenders}
    found = get_readings(ws, flight_id, test_id, against)
    heads = ["reading", "part", "unit", "contender", "value", "bound", "as text", "doubt or refusal", "difference",
             "trust", "evidence", "version"]  # fmt: skip
    lines = [
        [row.name, row.part, row.unit, names.get(cell.contender_id, ""), _number(cell.value), cell.bound or "",
         cell.text, str(cell.refusal or cell.flag or ""), _number(cell.difference), cell.trust, cell.evidence,
         str(cell.version)]
        for row in found.rows for cell in row.cells
    ]  # fmt: skip
    return write_table(heads, lines)


def evidence_csv(ws: Workspace, gear_id: int) -> bytes:
    """What was measured of an item, setting by setting."""
    heads = ["setting", "figure", "value", "unit", "bound", "as text", "may be off by", "doubt", "evidence", "file"]
    lines = []
    found = get_evidence(ws, gear_id)
    for probe in found.probes:
        for one in probe.figures:
            lines.append([
                probe.setting, one.name, _number(one.value), one.unit, one.bound or "", one.text, one.band or "",
                one.doubt, one.grade, probe.filename,
            ])  # fmt: skip
        lines += [
            [probe.setting, one.name, "", "", "", "", "", one.why.words, "", probe.filename] for one in probe.refusals
        ]
    return write_table(heads, lines)


def brief_csv(ws: Workspace, brief_id: int) -> bytes:
    """A brief: its frame, then the targets of every sound."""
    brief = get_brief(ws, brief_id)
    need = brief.need

    def money(minor: int | None) -> str:
        return "" if minor is None else show_price(minor, need.currency)

    frame = {
        "style": need.style, "role of the amplifier": AMP_ROLES[need.role], "budget": money(need.budget_minor),
        "reserve": money(need.reserve_minor), "loudness limit dB(A)": _number(need.loudness_limit_dba),
        "heaviest piece kg": _number(need.carry_limit_kg), "own rig": need.own_rig, "must have": need.must_haves,
        "would be nice": need.nice_to_haves, "pickup": need.pickup, "tuning": need.tuning, "string gauge": need.gauge,
        "played": ROOMS[need.room].name if need.room else "",
        "fit counts": _number(need.fit_weight), "low price counts": _number(need.price_weight),
    }  # fmt: skip
    heads = ["sound", "counts", "must be there", "reading", "part", "from", "to", "held against", "reading counts"]
    lines = [["", "", "", key, value, "", "", "", ""] for key, value in frame.items() if value]
    for sound in need.sounds:
        about = [sound.name, _number(sound.weight), "yes" if sound.must else ""]
        lines += [
            [*about, BY_KEY[one.reading].name, one.part, _number(one.low), _number(one.high), one.against,
             _number(one.weight)]
            for one in sound.targets
        ] or [[*about, "", "", "", "", "", ""]]  # fmt: skip
    return write_table(heads, lines)


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:.10g}"


def tasting_csv(ws: Workspace, tasting_id: int) -> bytes:
    """Every answer of a revealed tasting with its time."""
    heads = ["taster", "round", "kind", "trial", "asked", "answer", "at"]
    rows = [[one.taster, str(one.round), one.kind, str(one.trial), one.asked, one.answer, one.at]
            for one in rows_of(ws, tasting_id)]  # fmt: skip
    return write_table(heads, rows)
