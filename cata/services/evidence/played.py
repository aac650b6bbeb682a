"""What the takes of flights say of an item nobody played a test file through: the weaker grade of evidence."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.core.evidence.played import played_drive, played_range
from cata.core.measure.registry import BY_KEY
from cata.services.evidence.views import FigureView
from cata.services.takes.rows import readings_of
from cata.store.tables import Contender, Flight, Take

TOLD = (
    ("harshness_db", ""), ("level_spread_db", ""), ("low_tightness_ms", ""), ("chord_dirt_db", ""),
    ("sustain", "db_per_s"), ("noise_floor_dbfs", ""),
)  # fmt: skip
"""Readings of a take that say something of the gear, with the part of those that have parts."""
PART_NAMES = {"db_per_s": (", fall of a held note", "dB/s")}

ORDINALS = ("", "second", "third", *(f"{n}th" for n in range(4, 41)))


def place_by_playing(session: Session, gear_id: int) -> str:
    """Where an item stands among the contenders of a flight by playing alone; empty where it was not compared."""
    mine = session.exec(select(Contender).where(Contender.gear_id == gear_id)).first()
    if mine is None:
        return ""
    by_name: dict[str, list[float]] = {}
    statement = (
        select(Take, Contender).join(Contender, col(Contender.id) == Take.contender_id)
        .where(Take.flight_id == mine.flight_id, Take.repeat == 0)
    )  # fmt: skip
    takes = session.exec(statement).all()
    readings = readings_of(session, [take.id or 0 for take, _ in takes])
    for take, contender in takes:
        drive = played_drive(readings[take.id or 0].readings)
        if drive is not None:
            by_name.setdefault(contender.name, []).append(drive)
    order = sorted(by_name, key=lambda name: sum(by_name[name]) / len(by_name[name]))
    if mine.name not in order or len(order) < 2:
        return ""
    place = order.index(mine.name) + 1
    flight = session.get_one(Flight, mine.flight_id)
    return f"From playing alone, in “{flight.name}”: {_place(place, len(order))}."


def _place(place: int, of: int) -> str:
    """A place among contenders, told from the nearer end."""
    if place in (1, of):
        return f"the {'cleanest' if place == 1 else 'most driven'} of {of}"
    from_end = of + 1 - place
    nearer, name = (place, "cleanest") if place <= from_end else (from_end, "most driven")
    return f"the {ORDINALS[nearer - 1]} {name} of {of}"


def played_figures(session: Session, gear_id: int) -> list[FigureView]:
    """Readings of all takes of an item, as the range they span: its settings and what was played are in it."""
    mine = select(Take.id).join(Contender, col(Contender.id) == Take.contender_id).where(Contender.gear_id == gear_id)
    takes = [ident or 0 for ident in session.exec(mine).all()]
    values: dict[str, list[object]] = {}
    for results in readings_of(session, takes, [key for key, _ in TOLD]).values():
        for key, value in results.readings.items():
            values.setdefault(key, []).append(value)
    found = []
    for key, part in TOLD:
        reading = BY_KEY[key]
        more, unit = PART_NAMES.get(part, ("", reading.unit))
        text, count = played_range(values.get(key, []), part, reading.decimals)
        if count:
            doubt = f"played, {count} take{'s' if count > 1 else ''}: settings and playing are in it"
            found.append(FigureView(key=key, name=reading.name + more, text=f"{text} {unit}", band=None, doubt=doubt,
                                    about=reading.about, grade="played"))  # fmt: skip
    return found
