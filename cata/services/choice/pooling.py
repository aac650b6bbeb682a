"""Everything that flights and measurements say of the items of one kind, or of the contenders of one flight."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from math import hypot

from sqlmodel import Session, col, select

from cata.core.brief import Need, Target
from cata.core.choose.evidence import Asked, Evidence, asked_of
from cata.core.choose.showing import Column, Shows, shown_by
from cata.core.choose.takes import BAND_SDS, HEARD_SHARE, Scatter, jnd_at, key_of
from cata.core.comparison import usual_sd
from cata.core.gear import Control
from cata.core.measure.of_flights import MOTION, STROKES
from cata.core.measure.results import Results
from cata.core.motion.told import does
from cata.core.plan.condition import Condition, turned
from cata.core.pool.seen import NOTHING, Node, Seen
from cata.services.choice.measured import MEASURED_KINDS, Measured, measured_of
from cata.services.choice.nodes import Playing, at_all, node_of
from cata.services.match.counted import counted
from cata.services.match.repeating import flight_repeats
from cata.services.plan.one_more import minutes_for
from cata.store.database import moved
from cata.store.tables import Analysed, Contender, Flight, Gear, Take, Test


@dataclass(frozen=True)
class OfTest:
    """A test: its name, and the number of its flight."""

    name: str
    flight: int


@dataclass
class Gathered:
    """The evidence of one kind of gear or of one flight, and where it comes from.

    ``takes``, ``flights`` and settings ``measured`` with the test file by item, of one flight by contender; ``heard``:
    what there is to hear of a node, a take or a measurement; ``settings`` of every node, as control key to position,
    those of them that somebody ``noted``;
    ``tests`` by their number, ``shows`` which sounds each shows, ``minutes`` for one take and ``counts`` of takes by
    test; ``does``: by what takes of an item move, repeat or ring on; ``rows`` are names of contenders that are no
    items, by their negative number. ``state``: of what is written down, see :func:`moved`.
    """

    evidence: Evidence
    state: int | None
    takes: dict[int, int] = field(default_factory=dict)
    flights: dict[int, set[int]] = field(default_factory=dict)
    measured: Counter[int] = field(default_factory=Counter)
    heard: dict[Node, Playing] = field(default_factory=dict)
    grades: dict[int, set[str]] = field(default_factory=dict)
    settings: dict[Node, dict[str, float]] = field(default_factory=dict)
    noted: dict[Node, frozenset[str]] = field(default_factory=dict)
    names: dict[int, str] = field(default_factory=dict)
    tests: dict[int, OfTest] = field(default_factory=dict)
    shows: Mapping[int, Shows] = field(default_factory=dict)
    rows: dict[int, str] = field(default_factory=dict)
    does: dict[int, frozenset[str]] = field(default_factory=dict)
    minutes: dict[int, float] = field(default_factory=dict)
    counts: Counter[int] = field(default_factory=Counter)


def gather(
    session: Session, kind: str, need: Need, *, flight_id: int | None = None, every_test: bool = False
) -> Gathered:
    """All takes that count in flights in which this kind of gear was compared, by what the sounds of a need ask for.

    ``flight_id``: of this flight only, each contender by itself as it was set. ``every_test``: every test shows the
    first sound.
    """
    which = Flight.link == kind if flight_id is None else Flight.id == flight_id
    flights = {row.id or 0: row for row in session.exec(select(Flight).where(which)).all()}
    tests = list(session.exec(select(Test).where(col(Test.flight_id).in_(flights)).order_by(col(Test.id))).all())
    state = moved(session, "evidence")
    found = Gathered(Evidence({}, {}), state, names={ident: flight.name for ident, flight in flights.items()})
    found.tests = {test.id or 0: OfTest(test.name, test.flight_id) for test in tests}
    if every_test:
        found.shows = {test.id or 0: Shows((need.sounds[0].key,), "test") for test in tests}
    else:
        found.shows = shown_by([Column(test.id or 0, test.name, test.sound) for test in tests], need)
    shown = {ident: shows.sounds for ident, shows in found.shows.items() if shows.sounds}
    found.minutes = {test.id or 0: minutes_for(kind, test) for test in tests if test.id in shown}
    statement = (
        select(Take, Contender)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(col(Take.test_id).in_(shown), Analysed.refusal == "")
        .order_by(col(Take.id))
    )
    keys = {target.reading for sound in need.sounds for target in sound.targets}
    takes = counted(session, session.exec(statement).all(), {*keys, STROKES.key, MOTION.key} if keys else keys)
    cells = Counter((take.flight_id, take.contender_id, take.test_id) for take, _, _ in takes)
    again = {flight for (flight, _, _), count in cells.items() if count > 1}
    scatters = {flight: scatters_of(session, flight, keys) for flight in again}
    items = session.exec(select(Gear.id, Gear.controls).where(Gear.kind == kind)).all()
    controls = {ident or 0: [Control.model_validate(one) for one in raw] for ident, raw in items}
    asked_for = {test.id or 0: Condition.model_validate(test.condition or {}) for test in tests}
    seen: dict[Asked, list[Seen]] = defaultdict(list)
    nodes: dict[int, dict[Node, None]] = defaultdict(dict)
    for take, contender, results in takes:
        knobs, condition = controls.get(contender.gear_id or 0, ()), asked_for[take.test_id or 0]
        positions = turned(at_all(knobs, contender.settings), knobs, condition)
        ident, node = _who(contender, positions, alone=flight_id is not None)
        found.counts[take.test_id or 0] += 1
        found.settings.setdefault(node, positions)
        found.noted.setdefault(node, frozenset(turned(contender.settings, knobs, condition)))
        found.heard.setdefault(node, Playing(take.flight_id, take.test_id or 0, contender.id or 0))
        if not contender.is_bypass:
            nodes[ident][node] = None
            found.takes[ident] = found.takes.get(ident, 0) + 1
            found.does[ident] = found.does.get(ident, frozenset()) | does(results).keys()
            found.flights.setdefault(ident, set()).add(take.flight_id)
            found.grades.setdefault(ident, set()).add(take.evidence)
            if ident < 0:
                found.rows[ident] = contender.name
        for sound in need.sounds:
            if sound.key in shown[take.test_id or 0]:
                for target in sound.targets:
                    one = seen_of(node, str(ident), take, target, results, scatters.get(take.flight_id, {}))
                    if one is not None:
                        seen[asked_of(sound, target)].append(one)
    if flight_id is not None:
        found.evidence = Evidence(dict(seen), {ident: list(mine) for ident, mine in nodes.items()}, one_flight=True)
        return found
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


def _who(contender: Contender, positions: Mapping[str, float], *, alone: bool) -> tuple[int, Node]:
    """Whose a row is, and what stands in it: the same item at the same setting is the same in every flight.

    Of one flight (``alone``) every row is its own.
    """
    ident = contender.id or 0
    if contender.is_bypass:
        return -ident, NOTHING
    if alone:
        return ident, f"row {ident}"
    if contender.gear_id is None:
        return -ident, f"row {ident}"
    return contender.gear_id, node_of(contender.gear_id, positions, contender.changes)


def scatters_of(session: Session, flight_id: int, keys: Iterable[str]) -> dict[str, Scatter]:
    """What the repeats of a flight scatter by, by reading."""
    repeats = flight_repeats(session, flight_id, keys).bands
    return {key: Scatter(one.sd, one.freedom) for key, one in repeats.items()}


def seen_of(
    node: Node, family: str, take: Take, target: Target, results: Results, scatters: Mapping[str, Scatter]
) -> Seen | None:
    """What a take shows of a target, with its doubt; None where it shows nothing."""
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
