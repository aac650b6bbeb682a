"""How a flight stands, what is next, and what a difference is called: rules in words."""

from __future__ import annotations

import pytest

from cata.core.brief import Need
from cata.core.choose.takes import Scatter
from cata.core.comparison import doubt_of
from cata.core.measure.registry import BY_KEY, READINGS, jnd_of
from cata.core.measure.results import Result, Results
from cata.core.money import show_price
from cata.core.sounds import SOUND_BY_KEY
from cata.core.words import plural
from cata.errors import Invalid, NotFound
from cata.services.brief import briefs
from cata.services.brief.briefs import BriefIn, BriefPatch
from cata.services.choice import choosing
from cata.services.evidence.readings import compare, text_of
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, ContenderPatch, FlightIn, FlightPatch, TestIn, TestPatch
from cata.services.match import findings as match_findings
from cata.services.match.views import FindingView
from cata.services.shelf import gear, listing, prices
from cata.services.shelf.gear import GearIn, GearPatch
from cata.services.shelf.listing import Wanted
from cata.services.shelf.prices import PriceIn
from cata.services.standing.flight import get_flight
from cata.services.standing.steps import Standing, next_thing, steps_of
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Reading, Take
from tests.conftest import declines

FULL = Standing(contenders=3, tests=2, filled=6, loose=0, waiting=0, faults=0, checks=0, auditing=False)


def standing(**changes: object) -> Standing:
    return Standing(**{**FULL.__dict__, **changes})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("changes", "code", "step"),
    [
        ({}, "listen", "listen"),
        ({"contenders": 0, "tests": 0, "filled": 0}, "begin", "takes"),
        ({"loose": 1}, "place", "takes"),
        ({"contenders": 1, "filled": 2}, "second_contender", "plan"),
        ({"tests": 0, "filled": 0}, "first_test", "plan"),
        ({"filled": 3}, "record", "takes"),
        ({"waiting": 2}, "being_read", "match"),
        ({"auditing": True}, "being_read", "match"),
        ({"faults": 1}, "redo", "match"),
        ({"checks": 2}, "look_at", "match"),
    ],
)
def test_the_next_useful_thing_is_said(changes: dict[str, object], code: str, step: str) -> None:
    todo, where = next_thing(standing(**changes))
    assert (todo.code, where) == (code, step)
    counted = {"place": 1, "record": 3, "redo": 1, "look_at": 2}
    assert todo.numbers.get("count") == counted.get(code)


@pytest.mark.parametrize(
    ("changes", "states"),
    [
        ({}, ["done"] * 6),
        ({"contenders": 1, "filled": 0}, ["open", *["todo"] * 5]),
        ({"filled": 5}, ["done", "open", *["done"] * 4]),
        ({"faults": 1}, ["done", "done", "open", *["done"] * 3]),
        ({"waiting": 1}, ["done", "done", *["todo"] * 4]),
    ],
)
def test_every_step_shows_its_state(changes: dict[str, object], states: list[str]) -> None:
    assert [step.state for step in steps_of(standing(**changes))] == states


def test_counts_agree_with_their_nouns() -> None:
    assert plural(1, "take") == "1 take"
    assert plural(0, "take") == "0 takes"


@pytest.mark.parametrize(
    ("key", "value", "base", "trust", "words"),
    [
        ("loudness_lufs", -20.0, -20.5, "unsure", "+0.5 LU"),
        ("loudness_lufs", -20.0, -22.0, "unsure", "+2.0 LU: no difference you can trust"),
        ("loudness_lufs", -20.0, -23.0, "heard", "+3.0 LU: louder"),
        ("centroid_hz", 1040.0, 1000.0, "unsure", "+40 Hz"),
        ("centroid_hz", 600.0, 1000.0, "heard", "-400 Hz: darker"),
        ("drive_density", 0.78, 0.70, "heard", "+0.080: more driven"),
        ("true_peak_dbtp", -1.0, -5.0, "unknown", "+4.0 dB"),
    ],
)
def test_a_difference_is_named_only_where_it_can_be_heard(
    key: str, value: float, base: float, trust: str, words: str
) -> None:
    reading = BY_KEY[key]
    _, text, found = compare(reading, value, base, doubt_of(reading.scatter or 0.0, None))
    assert found == trust
    assert text.startswith(words)


def test_repeats_of_the_flight_and_a_takes_own_band_count_in_a_difference() -> None:
    spread = BY_KEY["level_spread_db"]
    close, wide = doubt_of(0.3, Scatter(0.3, 12)), doubt_of(2.0, Scatter(2.0, 12))
    assert [compare(spread, 12.0, 9.0, one)[2] for one in (close, wide)] == ["heard", "unsure"]
    assert compare(spread, 12.0, 9.0, close, (3.0, 3.0))[2] == "unsure"


def test_what_is_missing_has_no_difference() -> None:
    assert compare(BY_KEY["crest_db"], None, 3.0, doubt_of(1.0, None)) == (None, "", "unknown")


def test_parts_and_words_are_read_from_a_reading() -> None:
    sustain = BY_KEY["sustain"]
    known = Result(value={"db_per_s": 8.25, "t20_s": None, "status": "ok"})
    found = Results({"sustain": known, "plr_db": Result(value=12)})
    assert found.number("sustain.db_per_s") == 8.25
    assert found.number("sustain.status") is None
    assert found.numbers() == {"sustain.db_per_s": 8.25, "plr_db": 12.0}
    assert text_of(sustain, known, "db_per_s") == "8.2 dB/s"
    assert text_of(sustain, known, "t20_s") == "–"
    assert text_of(sustain, known, "status") == "ok"
    assert text_of(BY_KEY["plr_db"], Result(value=12.0, bound="at_most")) == "≤ 12.0 dB"


def test_every_reading_has_words_units_and_a_difference() -> None:
    for reading in READINGS:
        assert reading.less != reading.more
        assert reading.about.endswith(".")
        assert (jnd_of(reading, 2.0) is None) == (reading.jnd is None)
    assert jnd_of(BY_KEY["centroid_hz"], 2000.0) == 100.0


def finding(severity: str, take: int, accepted: bool = False) -> FindingView:
    return FindingView(
        id=take,
        take_id=take,
        contender_id=1,
        test_id=1,
        rule="clipping",
        rule_name="Clipping",
        severity=severity,
        text="",
        advice="",
        picture=None,
        accepted=accepted,
    )


@pytest.mark.parametrize(
    ("findings", "pending", "takes", "code", "counts"),
    [
        ([], True, 4, "being_compared", None),
        ([], False, 0, "nothing_yet", None),
        ([], False, 4, "match", (0, 0)),
        ([finding("fault", 1), finding("fault", 1), finding("check", 2)], False, 4, "redo", (1, 1)),
        ([finding("fault", 1, accepted=True)], False, 4, "match", (0, 0)),
        ([finding("check", 1)], False, 4, "look_at", (0, 1)),
        ([finding("note", 1)], False, 4, "match", (0, 0)),
    ],
)
def test_the_match_is_summed_up_in_one_sentence(
    findings: list[FindingView], pending: bool, takes: int, code: str, counts: tuple[int, int] | None
) -> None:
    found = match_findings.summary(findings, pending, takes)
    assert found.code == code
    assert tuple(found.numbers.values()) == (counts or ())


LEAD = SOUND_BY_KEY["singing-lead"].as_sound()


def test_a_brief_starts_empty_and_says_itself_in_a_line(ws: Workspace) -> None:
    assert "no sounds chosen yet" in briefs.add_brief(ws, BriefIn(name="Empty")).line
    brief = briefs.add_brief(ws, BriefIn(name="Ferry", need=Need(sounds=[LEAD])))
    assert LEAD.name.lower() in brief.line.lower()
    changed = briefs.change_brief(ws, brief.id, BriefPatch(name="Lounge", need=Need(style="dance", budget_minor=10000)))
    assert changed.line.startswith("dance: ")
    assert show_price(10000, "EUR") in changed.line
    flight = table.add_flight(ws, FlightIn(name="F", brief_id=brief.id))
    briefs.remove_brief(ws, brief.id)
    assert get_flight(ws, flight).brief_id is None
    assert [one.name for one in briefs.list_briefs(ws)] == ["Empty"]
    with declines(NotFound, "not_found"):
        briefs.get_brief(ws, brief.id)


def test_a_flight_needs_a_brief_that_exists(ws: Workspace) -> None:
    with declines(NotFound, "not_found"):
        table.add_flight(ws, FlightIn(name="F", brief_id=99))


def test_the_shelf_keeps_prices_as_history_and_finds_words(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Aldermoor Hump", about="mid-hump drive"))
    gear.add_gear(ws, GearIn(kind="pedal", name="Cormorant Slab"))
    prices.add_price(ws, item.id, PriceIn(kind="new", price_minor=14900))
    prices.add_price(ws, item.id, PriceIn(kind="used", price_minor=9500))
    priced = gear.get_gear(ws, item.id)
    assert priced.price is not None
    # A used one is another thing: the new price counts where nobody asks for the used one.
    assert priced.price.text == show_price(14900, "EUR")
    assert [one.kind for one in priced.prices] == ["used", "new"]
    assert [one.name for one in listing.list_gear(ws, Wanted(query="drive alder"))[0]] == ["Aldermoor Hump"]
    assert listing.list_gear(ws, Wanted(kind="speaker"))[0] == []
    assert listing.list_gear(ws, limit=1, offset=1)[0][0].name == "Cormorant Slab"
    prices.remove_price(ws, priced.price.id)
    left = gear.get_gear(ws, item.id)
    assert len(left.prices) == 1
    assert gear.change_gear(ws, item.id, GearPatch(about="soft clip")).about == "soft clip"


def test_rows_take_names_knobs_and_colours_from_the_shelf(ws: Workspace) -> None:
    item = gear.add_gear(
        ws,
        GearIn(kind="pedal", name="Hump", controls=[{"key": "d", "name": "Drive", "default": 0.3}]),  # type: ignore[list-item]
    )
    flight = table.add_flight(ws, FlightIn(name="F"))
    first = table.add_contender(ws, flight, ContenderIn(gear_id=item.id))
    table.add_contender(ws, flight, ContenderIn(name="Other"))
    view = get_flight(ws, flight)
    assert [c.name for c in view.contenders] == ["Hump", "Other"]
    assert [c.letter for c in view.contenders] == ["A", "B"]
    assert len({c.colour for c in view.contenders}) == 2
    assert view.contenders[0].settings[0].text == "3"
    with declines(Invalid, "no_control"):
        table.change_contender(ws, first, ContenderPatch(settings={"treble": "5"}))
    with declines(Invalid, "no_name"):
        table.add_contender(ws, flight, ContenderIn())


def test_there_is_one_bypass_at_most(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="F"))
    a = table.add_contender(ws, flight, ContenderIn(name="A", is_bypass=True))
    b = table.add_contender(ws, flight, ContenderIn(name="B"))
    table.change_contender(ws, b, ContenderPatch(is_bypass=True))
    assert {c.id: c.is_bypass for c in get_flight(ws, flight).contenders} == {a: False, b: True}


def test_columns_are_renamed_moved_and_removed(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="F"))
    idents = [table.add_test(ws, flight, TestIn(name=name)) for name in ("one", "two", "three")]
    table.change_test(ws, idents[0], TestPatch(name="first", sound="crunch"))
    table.move_test(ws, idents[2], 0)
    assert [t.name for t in get_flight(ws, flight).tests] == ["three", "first", "two"]
    table.remove_test(ws, idents[2])
    assert [t.position for t in get_flight(ws, flight).tests] == [0, 1]
    table.change_flight(ws, flight, FlightPatch(question="Which?", school="as_set"))
    assert get_flight(ws, flight).school == "as_set"


def test_a_table_has_an_end(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="F"))
    with ws.acting("many") as session:
        for number in range(40):
            table.new_contender(session, flight, ContenderIn(name=str(number)))
    with declines(Invalid, "too_many"):
        table.add_contender(ws, flight, ContenderIn(name="one more"))


def test_a_choice_without_takes_or_contenders_says_so(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="F"))
    assert choosing.choose(ws, flight_id=flight).code == "nothing_there"
    table.add_contender(ws, flight, ContenderIn(name="A"))
    assert choosing.choose(ws, flight_id=flight, need=Need()).code == "no_sounds"
    briefs.add_brief(ws, BriefIn(name="B", need=Need(sounds=[LEAD])))
    assert choosing.choose(ws, flight_id=flight).code == "no_readings"
    dear = table.add_contender(ws, flight, ContenderIn(name="B"))
    table.change_contender(ws, dear, ContenderPatch(price_minor=50000))
    choice = choosing.choose(ws, flight_id=flight)
    assert ([one.name for one in choice.not_played], choice.ranked) == (["A", "B"], [])


def test_a_price_in_another_currency_counts_as_unknown(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="F"))
    ident = table.add_contender(ws, flight, ContenderIn(name="A"))
    table.change_contender(ws, ident, ContenderPatch(price_minor=50000, currency="SEK"))
    test = table.add_test(ws, flight, TestIn(name="T"))
    with ws.writing() as session:
        cell = {"flight_id": flight, "contender_id": ident, "test_id": test}
        session.add(Take(id=1, digest="a", filename="a.wav", size_bytes=1, **cell))
        session.flush()
        session.add(Analysed(take_id=1, method="", spectrum=[], outline=[]))
        session.add(Reading(take_id=1, key="crest_db", result={"value": 12.0}))
    (entry,) = choosing.choose(ws, flight_id=flight, need=Need(budget_minor=100)).ranked
    assert (entry.over_minor, entry.price_minor, entry.fine) == (0, None, False)
