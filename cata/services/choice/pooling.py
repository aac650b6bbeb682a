"""Everything that flights and measurements say of the items of one kind, as pooling wants it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from math import hypot

from sqlmodel import Session, col, select

from cata.core.brief import Need, Target
from cata.core.choose.evidence import Asked, Evidence, asked_of
from cata.core.choose.takes import BAND_SDS, HEARD_SHARE, Scatter, jnd_at, key_of
from cata.core.comparison import usual_sd
from cata.core.gear import Control
from cata.core.measure.of_flights import STROKES
from cata.core.measure.results import Results
from cata.core.names import nearest
from cata.core.plan.condition import Condition, turned
from cata.core.pool.seen import NOTHING, Node, Seen
from cata.services.choice.measured import MEASURED_KINDS, Measured, measured_of
from cata.services.choice.nodes import Playing, at_all, node_of
from cata.services.match.counted import counted
from cata.services.match.repeating import flight_repeats
from cata.services.plan.one_more import minutes_for
from cata.store.database import moved
from cata.store.tables import Analysed, Contender, Flight, Gear, Take, Test


@dataclass
class Gathered:
    """The evidence of one kind of gear, and where it comes from.

    ``takes``, ``flights`` and settings ``measured`` with the test file by item; ``heard``: what there is to hear of a
    node, a take or a measurement; ``settings`` of every node, as control key to position; ``tests`` by their name
    in a cell; ``sounds``, ``flight_of``, ``minutes`` for one take and ``counts`` of takes by test; ``rows`` are names
    of contenders that are no items, by their negative number; ``unnamed`` are tests that stand for no sound, by flight;
    ``assumed`` those whose name spoke for one. ``state``: of what is written down, see :func:`moved`.
    """

    evidence: Evidence
    state: int | None
    takes: dict[int, int] = field(default_factory=dict)
    flights: dict[int, set[int]] = field(default_factory=dict)
    measured: Counter[int] = field(default_factory=Counter)
    heard: dict[Node, Playing] = field(default_factory=dict)
    grades: dict[int, set[str]] = field(default_factory=dict)
    settings: dict[Node, dict[str, float]] = field(default_factory=dict)
    names: dict[int, str] = field(default_factory=dict)
    tests: dict[str, str] = field(default_factory=dict)
    rows: dict[int, str] = field(default_factory=dict)
    sounds: dict[int, str] = field(default_factory=dict)
    minutes: dict[int, float] = field(default_factory=dict)
    flight_of: dict[int, int] = field(default_factory=dict)
    counts: Counter[int] = field(default_factory=Counter)
    unnamed: dict[int, list[str]] = field(default_factory=dict)
    assumed: dict[int, list[str]] = field(default_factory=dict)


def gather(session: Session, kind: str, need: Need, *, every_test: bool = False) -> Gathered:
    """All usable takes of flights in which this kind of gear was compared, by what the sounds of a need ask for.

    ``every_test``: every test stands for the first sound.
    """
    flights = {row.id or 0: row for row in session.exec(select(Flight).where(Flight.link == kind)).all()}
    tests = list(session.exec(select(Test).where(col(Test.flight_id).in_(flights))).all())
    state = moved(session, "evidence")
    found = Gathered(Evidence({}, {}), state, names={ident: flight.name for ident, flight in flights.items()})
    sounds = {test.id or 0: need.sounds[0].key for test in tests} if every_test else _sounds_of(tests, need, found)
    found.sounds = sounds
    found.flight_of = {test.id or 0: test.flight_id for test in tests}
    found.minutes = {test.id or 0: minutes_for(kind, test) for test in tests if test.id in sounds}
    statement = (
        select(Take, Contender)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(col(Take.test_id).in_(sounds), Analysed.refusal == "")
        .order_by(col(Take.id))
    )
    keys = {target.reading for sound in need.sounds for target in sound.targets}
    takes = counted(session, session.exec(statement).all(), {*keys, STROKES.key} if keys else keys)
    cells = Counter((take.flight_id, take.contender_id, take.test_id) for take, _, _ in takes)
    again = {flight for (flight, _, _), count in cells.items() if count > 1}
    scatters = {flight: _scatters(session, flight, keys) for flight in again}
    items = session.exec(select(Gear.id, Gear.controls).where(Gear.kind == kind)).all()
    controls = {ident or 0: [Control.model_validate(one) for one in raw] for ident, raw in items}
    asked_for = {test.id or 0: Condition.model_validate(test.condition or {}) for test in tests}
    seen: dict[Asked, list[Seen]] = defaultdict(list)
    nodes: dict[int, dict[Node, None]] = defaultdict(dict)
    for take, contender, results in takes:
        positions = _positions(contender, controls.get(contender.gear_id or 0, ()), asked_for[take.test_id or 0])
        node, family = _node(contender, positions), str(contender.gear_id or -(contender.id or 0))
        found.counts[take.test_id or 0] += 1
        found.settings.setdefault(node, positions)
        found.heard.setdefault(node, Playing(take.flight_id, take.test_id or 0, contender.id or 0))
        if contender.gear_id is None and not contender.is_bypass:
            nodes[-(contender.id or 0)][node] = None
            found.rows[-(contender.id or 0)] = contender.name
        elif contender.gear_id is not None and not contender.is_bypass:
            nodes[contender.gear_id][node] = None
            found.takes[contender.gear_id] = found.takes.get(contender.gear_id, 0) + 1
            found.flights.setdefault(contender.gear_id, set()).add(take.flight_id)
            found.grades.setdefault(contender.gear_id, set()).add(take.evidence)
        for sound in need.sounds:
            if sound.key == sounds[take.test_id or 0]:
                for target in sound.targets:
                    one = _seen(node, family, take, target, results, scatters.get(take.flight_id, {}))
                    if one is not None:
                        seen[asked_of(sound, target)].append(one)
    measured = measured_of(session, controls, need) if kind in MEASURED_KINDS else Measured()
    for asked, more in measured.seen.items():
        seen[asked] += more
    for node, positions in measured.settings.items():
        found.settings.setdefault(node, positions)
        found.heard.setdefault(node, measured.heard[node])
    for ident, mine in measured.nodes.items():
        nodes[ident] |= dict.fromkeys(mine)
        found.measured[ident] = len(mine)
    travels = measured.travels
    found.evidence = Evidence(dict(seen), {ident: list(mine) for ident, mine in nodes.items()}, travels)
    return found


def _positions(contender: Contender, controls: Sequence[Control], condition: Condition) -> dict[str, float]:
    """How the knobs of a row stand in a test, which may ask for some of them."""
    return turned(at_all(controls, contender.settings), controls, condition)


def _sounds_of(tests: Iterable[Test], need: Need, found: Gathered) -> dict[int, str]:
    """The sound that each test stands for: the one it was given, else the one its name speaks for."""
    keys = {sound.key for sound in need.sounds}
    names = [sound.name for sound in need.sounds]
    by_test: dict[int, str] = {}
    for test in tests:
        found.tests[str(test.id)] = test.name
        if test.sound:
            if test.sound in keys:
                by_test[test.id or 0] = test.sound
            continue
        meant = nearest(test.name, names)
        if meant is None:
            found.unnamed.setdefault(test.flight_id, []).append(test.name)
        else:
            by_test[test.id or 0] = need.sounds[meant].key
            found.assumed.setdefault(test.flight_id, []).append(test.name)
    return by_test


def _node(contender: Contender, positions: Mapping[str, float]) -> Node:
    """What stands in a row: the same item at the same setting is the same in every flight."""
    if contender.is_bypass:
        return NOTHING
    if contender.gear_id is None:
        return f"row {contender.id}"
    return node_of(contender.gear_id, positions, contender.changes)


def _scatters(session: Session, flight_id: int, keys: Iterable[str]) -> dict[str, Scatter]:
    repeats = flight_repeats(session, flight_id, keys).bands
    return {key: Scatter(one.sd, one.freedom) for key, one in repeats.items()}


def _seen(
    node: Node, family: str, take: Take, target: Target, results: Results, scatters: Mapping[str, Scatter]
) -> Seen | None:
    key = key_of(target)
    value = results.number(key)
    if value is None:
        return None
    jnd = jnd_at(target, value)
    # One dry take through all of them: nothing was played anew.
    reamped = take.evidence != "played"
    scatter = Scatter(0.0) if reamped else scatters.get(key) or Scatter(usual_sd(key, [results]) or jnd)
    sd = max(hypot(scatter.sd, (results.bands.get(target.reading) or 0.0) / BAND_SDS), HEARD_SHARE * jnd)
    bound = results[target.reading].bound
    return Seen(node, str(take.flight_id), str(take.test_id), value, sd, scatter.freedom, bound, family)
