"""Seeding: the shelf and the brief as rows, the takes rendered by the bench in the workers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from sqlmodel import Session

from cata.core.bench.bed import TEMPO_BPM
from cata.core.bench.chain import LEAD_IN_S, ChainSettings
from cata.core.plan.chain import Chain
from cata.core.plan.condition import Condition
from cata.core.specs import read_specs
from cata.demo.scenario import DRIVES, FLIGHTS, MEASURED, STRUMMED_DBFS, STRUNG, DemoFlight, base_chain, ferry_brief
from cata.demo.shelf import ITEM, SHELF, Item
from cata.demo.tasting import taste
from cata.services.brief.needs import put_need
from cata.services.evidence.pickups import StringsIn, bench_strings
from cata.services.evidence.probing import bench_probe
from cata.services.flights.table import ContenderIn, TestIn, new_contender, new_test
from cata.services.plan.cells import OrderIn
from cata.services.plan.ordering import make_order
from cata.services.takes.receiving import new_take
from cata.services.together.beds import new_bed
from cata.services.workspace import Workspace
from cata.store.tables import Brief, Flight, Gear, Price, Setting
from cata.store.vault import Kept
from cata.tasks.bench import PLAY, PLAY_BED, ToPlay
from cata.tasks.takes import Facts
from cata.tasks.workers import each

MARK = "demo"
VERSION = "8"
CURRENCY = "EUR"
SOURCE = "Brackwater Exchange"
BED = "Lounge trio without guitar.wav"


def is_seeded(ws: Workspace) -> bool:
    """True where the demo was put into this data directory before (even if it was removed by hand since)."""
    with ws.reading() as session:
        return session.get(Setting, MARK) is not None


def seed(ws: Workspace, tell: Callable[[int, int], None] = lambda done, total: None) -> None:
    """Render and store the whole demo in one transaction: it is there whole or not at all."""
    jobs = [
        (flight, row, test)
        for flight in FLIGHTS
        for row, _, _ in flight.contenders
        for test in flight.tests
        if is_recorded(flight, row)
    ]
    payloads = [
        ToPlay(chain_of(flight, row, test.name), f"vault/incoming/demo-{number:02d}.wav")
        for number, (flight, row, test) in enumerate(jobs)
    ]
    kept: dict[tuple[str, str, str], tuple[Kept, Facts]] = {}
    for done, facts in enumerate(each(ws.workers, PLAY, payloads, ws.desk())):
        flight, row, test = jobs[done]
        with ws.vault.adopting(ws.data_dir / payloads[done].out) as file:
            kept[(flight.name, row, test.name)] = (file, facts)
        tell(done + 1, len(jobs))
    out = "vault/incoming/demo-bed.wav"
    bed_facts = ws.ask(PLAY_BED, out)
    with ws.vault.adopting(ws.data_dir / out) as file:
        bed = new_bed(ws, BED, file, bed_facts)
    bed.tempo_bpm = TEMPO_BPM
    with ws.writing() as session:
        session.add(bed)
        gear = on_the_shelf(session, ws.now())
        need = ferry_brief().model_copy(update={"own_items": [gear["guitar"]]})
        brief = Brief(name="The ferry lounge", created_at=ws.now())
        put_need(session, brief, need)
        ordered = []
        for flight in FLIGHTS:
            ident = lay_out(session, flight, gear, brief.id or 0, kept, ws.now())
            ordered += [ident] * flight.ordered
            if flight is DRIVES:
                taste(session, ident, ws.now())
        for measured, settings in MEASURED:
            item = session.get_one(Gear, gear[measured])
            bench_probe(session, item, start_settings(measured) | settings, ws.now()).nominal_dbfs = STRUMMED_DBFS
        for strung, position, bass_mm, treble_mm in STRUNG:
            stood = StringsIn(position=position, bass_mm=bass_mm, treble_mm=treble_mm)
            bench_strings(session, session.get_one(Gear, gear[strung]), stood, ws.now())
        session.add(Setting(key=MARK, value=VERSION))
    for ident in ordered:
        make_order(ws, ident, OrderIn())
    ws.changed("demo")


def is_recorded(flight: DemoFlight, row: str) -> bool:
    """True for the rows that have takes."""
    return flight.recorded is None or row in flight.recorded


def chain_of(flight: DemoFlight, row: str, test_name: str) -> ChainSettings:
    """The bench chain of one cell, its deliberate fault included."""
    test = next(test for test in flight.tests if test.name == test_name)
    chain: dict[str, Any] = {"phrase": test.phrase} | test.chain
    if flight.link == "pedal":
        chain |= {"pedal": row, "pedal_settings": start_settings(row)}
    elif flight.link == "amplifier":
        chain |= {"amplifier_settings": start_settings(row)}
    else:
        chain |= {"pickup": row}
    return ChainSettings(**chain | flight.faults.get((row, test_name), {}))


def start_settings(key: str) -> dict[str, float]:
    """Positions of a pedal or amplifier of the shelf: those its item starts with."""
    item = ITEM.get(key)
    return {control.key: control.default for control in item.controls} if item else {}


def on_the_shelf(session: Session, now: str, items: Sequence[Item] = SHELF) -> dict[str, int]:
    """Put items on the shelf inside a transaction; their ids by key."""
    idents: dict[str, int] = {}
    for item in items:
        gear = Gear(
            kind=item.kind,
            name=item.name,
            about=item.about,
            structure=item.structure,
            controls=[control.model_dump(mode="json") for control in item.controls],
            specs=read_specs(item.kind, item.specs)[0],  # type: ignore[arg-type]
            created_at=now,
        )
        session.add(gear)
        session.flush()
        idents[item.key] = gear.id or 0
        for kind, amount in (("new", item.new_minor), ("used", item.used_minor)):
            if amount is not None:
                session.add(
                    Price(
                        gear_id=gear.id or 0,
                        kind=kind,
                        price_minor=amount,
                        currency=CURRENCY,
                        on_date=now[:10],
                        source=SOURCE,
                    )
                )
    return idents


def lay_out(
    session: Session,
    plan: DemoFlight,
    gear: dict[str, int],
    brief_id: int,
    kept: dict[tuple[str, str, str], tuple[Kept, Facts]],
    now: str,
) -> int:
    """Make a flight inside a transaction, with those of its takes that are recorded; its id."""
    flight = Flight(
        name=plan.name,
        question=plan.question,
        link=plan.link,
        held=plan.held,
        brief_id=brief_id,
        created_at=now,
        chain=Chain.model_validate(base_chain(plan.link, gear)).model_dump(mode="json"),
    )
    session.add(flight)
    session.flush()
    ident = flight.id or 0
    tests = {t.name: new_test(session, ident, TestIn(name=t.name, sound=t.sound, about=t.about)) for t in plan.tests}
    for demo in plan.tests:
        volume = demo.chain.get("guitar_volume")
        condition = Condition(phrase=demo.phrase, guitar_volume=volume)
        tests[demo.name].condition = condition.model_dump(mode="json")
    for row, label, is_bypass in plan.contenders:
        data = ContenderIn(name=label, gear_id=gear.get(row), is_bypass=is_bypass)
        contender = new_contender(session, ident, data)
        if is_bypass:
            contender.price_minor, contender.currency = 0, CURRENCY
        for name, test in tests.items() if is_recorded(plan, row) else ():
            file, facts = kept[(plan.name, row, name)]
            filename = f"{contender.name} - {name}.wav"
            take = new_take(session, ident, filename, file, facts, lead_in_s=LEAD_IN_S, at=now)
            take.contender_id, take.test_id = contender.id, test.id
            session.add(take)
    session.flush()
    return ident
