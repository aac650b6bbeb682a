"""The whole shelf as one question: pooled over flights, with prices of every kind and currency."""

from __future__ import annotations

import os
import signal

import pytest
from fastapi.testclient import TestClient
from sqlmodel import select

from cata.core.brief import Need, Sound, Target
from cata.core.choose.certainty import Draws
from cata.core.gear import PriceKind
from cata.core.measure.registry import BY_KEY, METHOD
from cata.errors import Invalid, NotFound
from cata.services.brief.briefs import BriefIn, add_brief
from cata.services.choice import counting
from cata.services.choice.choosing import choose
from cata.services.choice.counting import begin_beside
from cata.services.choice.rigs import find_rigs
from cata.services.choice.views import ChoiceView
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.plan.one_more import OneMoreIn, one_more
from cata.services.shelf import gear
from cata.services.shelf.gear import GearIn
from cata.services.shelf.prices import PriceIn, add_price
from cata.services.shelf.rates import RateIn, list_rates, remove_rate, set_rate
from cata.services.standing.orders import order_of
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Contender, Reading, Take
from tests.conftest import declines

SMOOTH = Sound(key="smooth", name="Smooth", targets=[
    Target(reading="harshness_db", low=-2, high=2, against="reference"),
    Target(reading="crest_db", low=10, high=14),
])  # fmt: skip
NEED = Need(sounds=[SMOOTH], budget_minor=30_000)


def drive(ws: Workspace, name: str, *prices: tuple[PriceKind, str]) -> int:
    """A pedal on the shelf with prices."""
    ident = gear.add_gear(ws, GearIn(kind="pedal", name=name)).id
    for kind, text in prices:
        add_price(ws, ident, PriceIn(kind=kind, text=text))
    return ident


def flight(ws: Workspace, name: str, rows: dict[int | None, float], bypass: float | None = 0.0) -> int:
    """A flight whose contenders are items of the shelf, each with one read take of this harshness."""
    ident = table.add_flight(ws, FlightIn(name=name, link="pedal"))
    test = table.add_test(ws, ident, TestIn(name="Smooth chords", sound="smooth"))
    played = {table.add_contender(ws, ident, ContenderIn(gear_id=item)): value for item, value in rows.items()}
    if bypass is not None:
        played[table.add_contender(ws, ident, ContenderIn(name="No pedal", is_bypass=True))] = bypass
    with ws.writing() as session:
        for row, value in played.items():
            take = Take(
                flight_id=ident, contender_id=row, test_id=test, digest=f"{row}", filename="x.wav", size_bytes=1
            )
            session.add(take)
            session.flush()
            session.add(Analysed(take_id=take.id or 0, method=METHOD, spectrum=[0.0], outline=[0.5]))
            for key, number in (("harshness_db", value), ("crest_db", 12.0)):
                session.add(
                    Reading(take_id=take.id or 0, key=key, version=BY_KEY[key].version, result={"value": number})
                )
    return ident


def test_items_of_two_flights_are_ranked_together_over_the_bypass(ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "120"), ("used", "80"))
    corm, dapp = drive(ws, "Corm", ("new", "90")), drive(ws, "Dapp", ("new", "50"))
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    # Everything is 20 dB harsher with the other guitar: only what is left against the bypass counts.
    flight(ws, "Two", {corm: 20.5, dapp: 34.0}, bypass=20.0)
    found = choose(ws, "pedal", need=NEED)
    assert [one.name for one in found.ranked][:1] == ["Corm"]
    assert {one.name: round(one.fit, 1) for one in found.ranked} == {
        "Alder": 1.0,
        "Corm": 1.0,
        "Birk": 0.6,
        "Dapp": 0.6,
    }
    assert found.front == [dapp, birk, corm]
    saving, smaller = found.savings
    assert (saving.dearer, saving.cheaper, saving.saved_minor, saving.said.code) == (corm, birk, 1_000, "costs")
    assert (smaller.dearer, smaller.cheaper) == (birk, dapp)
    assert saving.steps > 1
    assert "harsher" in saving.said.words
    by_name = {one.name: one for one in found.ranked}
    assert by_name["Birk"].price_text == "80.00 EUR used"
    assert {offer.kind for offer in by_name["Birk"].offers} == {"new", "used"}
    assert choose(ws, "pedal", need=NEED.model_copy(update={"buys": ["new"]})).ranked[-1].price_minor == 12_000
    assert by_name["Alder"].grounds is not None
    assert by_name["Alder"].grounds.numbers == {"takes": 1, "flights": 1, "links": 1, "measured": 0}


def test_what_nothing_links_is_not_ranked_and_says_which_take_would(ws: Workspace) -> None:
    alder, birk, corm = drive(ws, "Alder"), drive(ws, "Birk"), drive(ws, "Corm")
    lone = flight(ws, "Two", {corm: 20.5}, bypass=None)
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    found = choose(ws, "pedal", need=NEED)
    assert {one.name for one in found.ranked} == {"Alder", "Birk"}
    (apart,) = found.apart
    assert (apart.name, apart.said.code, apart.flight_id) == ("Corm", "not_comparable", lone)
    assert "without anything" in apart.said.words
    assert choose(ws, "amplifier", need=NEED).code == "nothing_there"
    assert choose(ws, "pedal", need=Need()).code == "no_sounds"


def test_a_price_in_another_currency_counts_by_a_rate_that_is_kept(ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200 EUR")), drive(ws, "Birk", ("new", "100 USD"))
    flight(ws, "One", {alder: 1.0, birk: 1.0})
    before = choose(ws, "pedal", need=NEED)
    assert [one.name for one in before.ranked] == ["Alder", "Birk"]
    assert (before.no_rate, before.ranked[1].fine, before.ranked[1].price_minor) == (["USD"], False, None)
    set_rate(ws, RateIn(base="EUR", quote="USD", text="1,25", on_date="2026-01-01"))
    set_rate(ws, RateIn(base="USD", quote="EUR", text="0.9", on_date="2026-03-01"))
    after = choose(ws, "pedal", need=NEED)
    assert [(one.name, one.price_minor) for one in after.ranked] == [("Birk", 9_000), ("Alder", 20_000)]
    assert after.no_rate == []
    assert "1 USD = 0.9 EUR of 2026-03-01" in after.ranked[0].price_about
    remove_rate(ws, list_rates(ws)[0].id)
    assert choose(ws, "pedal", need=NEED).ranked[0].price_minor == 8_000


def test_what_is_known_at_once_says_that_the_newest_takes_are_not_counted_in(ws: Workspace, client: TestClient) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "100"))
    flight(ws, "One", {alder: 1.0, birk: 1.0})
    url, need = "/api/choice?kind=pedal&at_once=true", NEED.model_dump(mode="json")

    def told(url: str = url) -> tuple[list[str], bool]:
        found = client.post(url, json=need).json()
        return [one["name"] for one in found["ranked"]], found["of_before"]

    # Nothing is known of before: it is worked out.
    assert told() == (["Birk", "Alder"], False)
    flight(ws, "Two", {birk: 25.0, drive(ws, "Corm"): 1.0})
    assert told() == (["Birk", "Alder"], True)
    # Prices count at once, and so do other weights.
    add_price(ws, birk, PriceIn(kind="new", text="900", on_date="2030-01-01"))
    need["fit_weight"] = 1.5
    assert told() == (["Alder", "Birk"], True)
    assert told("/api/choice?kind=pedal") == (["Alder", "Corm", "Birk"], False)
    assert told() == (["Alder", "Corm", "Birk"], False)


def test_the_rigs_of_before_are_there_at_once(ws: Workspace) -> None:
    alder = drive(ws, "Alder", ("new", "200"))
    flight(ws, "One", {alder: 1.0})
    assert not find_rigs(ws, need=NEED, at_once=True).of_before
    drive(ws, "Birk", ("new", "100"))
    before, now = find_rigs(ws, need=NEED, at_once=True), find_rigs(ws, need=NEED)
    assert (before.of_before, now.of_before) == (True, False)
    assert find_rigs(ws, need=NEED, at_once=True) == now


def test_takes_are_counted_in_beside_the_server_with_the_same_answer(
    ws: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "100"))
    flight(ws, "One", {alder: 1.0, birk: 4.0})
    here, rigs = choose(ws, "pedal", need=NEED), find_rigs(ws, need=NEED)
    begin_beside(ws)

    def told() -> ChoiceView:
        ws.answers.forget()
        return choose(ws, "pedal", need=NEED)

    # The process beside has its own: here nothing is to be gathered or drawn from now on.
    with monkeypatch.context() as patch:
        patch.setattr(counting, "gather", None)
        patch.setattr(Draws, "_drawn", None)
        assert told() == here
        for pid in ws.beside.pids():
            os.kill(pid, signal.SIGKILL)
        assert told() == here
    assert find_rigs(ws, need=NEED) == rigs
    flight(ws, "Two", {birk: 25.0})
    assert choose(ws, "pedal", need=NEED, at_once=True).of_before
    assert choose(ws, "pedal", need=NEED).ranked != here.ranked


@pytest.mark.parametrize("text", ["", "nothing", "-1", "0", "1e9", "nan"])
def test_what_is_no_rate_is_refused(ws: Workspace, text: str) -> None:
    with declines(Invalid, "no_rate"):
        set_rate(ws, RateIn.model_construct(base="USD", quote="EUR", text=text, on_date="", source=""))


def test_absurd_wishes_have_a_plain_answer(ws: Workspace) -> None:
    alder = drive(ws, "Alder", ("new", "0"), ("used", "9999999"))
    flight(ws, "One", {alder: 1.0})
    free = choose(ws, "pedal", need=NEED.model_copy(update={"budget_minor": 0}))
    assert (free.code, free.ranked[0].over_minor) == ("ranked", 0)
    dear = choose(ws, "pedal", need=NEED.model_copy(update={"budget_minor": 0, "buys": ["used"]}))
    assert dear.code == "all_over_budget"
    with ws.writing() as session:
        for reading in session.exec(select(Reading)).all():
            session.delete(reading)
    assert choose(ws, "pedal", need=NEED).code == "no_readings"
    with declines(NotFound, "not_found"):
        choose(ws, "pedal", 99)


def test_the_shelf_is_asked_over_http(client: TestClient) -> None:
    assert client.get("/api/choice").json()["code"] == "nothing_there"
    assert client.get("/api/choice", params={"kind": "banjo"}).status_code == 422
    assert client.get("/api/choice", params={"brief": 7}).status_code == 404
    answer = client.put("/api/rates", json={"base": "USD", "quote": "EUR", "text": "0.9"})
    assert [one["text"] for one in answer.json()] == ["1 USD = 0.9 EUR"]
    assert client.put("/api/rates", json={"base": "USD", "quote": "USD", "text": "1"}).status_code == 422
    assert client.delete(f"/api/rates/{answer.json()[0]['id']}").json() == []


ABSURD: dict[str, dict[str, object]] = {
    "budget zero": {"budget_minor": 0},
    "a budget beyond all": {"budget_minor": 10**12},
    "contradictory": {"must_haves": "effects loop; no effects loop; under 1 g", "carry_limit_kg": 0},
    "nothing counts": {"fit_weight": 0, "price_weight": 0},
    "a currency that nothing is priced in": {"currency": "JPY"},
    "only offers": {"buys": ["offer"]},
    "a sound of nothing": {"sounds": [Sound(key="x", name="X")]},
    "as nice as can be": {"nice_to_haves": "gold; " * 300, "nice_weight": 10, "feel_weight": 10},
}


@pytest.mark.parametrize("case", ABSURD)
def test_an_absurd_wish_has_a_plain_answer(ws: Workspace, case: str) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200 EUR")), drive(ws, "Birk", ("new", "999999999.99 USD"))
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    need = Need.model_validate(NEED.model_dump() | ABSURD[case])
    found = choose(ws, "pedal", need=need)
    assert found.sentence.endswith(".")
    assert all(0 <= one.score <= 1 and 0 <= one.fit <= one.fit_best <= 1 for one in found.ranked)
    assert find_rigs(ws, need=need).verdict.words.endswith(".")


def test_an_item_whose_readings_are_all_gone_is_no_longer_ranked(ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "100"))
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    with ws.writing() as session:
        row = session.exec(select(Contender).where(Contender.gear_id == alder)).one()
        take = session.exec(select(Take).where(Take.contender_id == row.id)).one()
        for reading in session.exec(select(Reading).where(Reading.take_id == take.id)).all():
            session.delete(reading)
    found = choose(ws, "pedal", need=NEED)
    assert [one.name for one in found.ranked] == ["Birk"]
    assert [one.name for one in found.not_played] == ["Alder"]


def test_the_take_that_would_tell_most_is_put_into_the_order(ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "100")), drive(ws, "Birk", ("new", "100"))
    corm = drive(ws, "Corm", ("new", "100"))
    others = {drive(ws, f"Other {n}", ("new", "100")): value for n, value in enumerate((14.0, -9.0, 22.0, -15.0))}
    ident = flight(ws, "One", {alder: 4.5, birk: 5.5, **others})
    found = choose(ws, "pedal", need=NEED)
    next_take = found.next_take
    assert next_take is not None
    assert (next_take.flight_id, next_take.again) == (ident, True)
    assert 0.03 < next_take.chance < 0.6
    assert 0.5 < next_take.minutes < 5
    wish = OneMoreIn(gear_id=next_take.gear_id, test_id=next_take.test_id)
    first = one_more(ws, ident, wish)
    assert one_more(ws, ident, wish).planned_id == first.planned_id
    fresh = one_more(ws, ident, OneMoreIn(gear_id=corm, test_id=next_take.test_id))
    steps = order_of(ws, ident).steps
    assert [(step.planned_id, step.state) for step in steps] == [
        (fresh.planned_id, "todo"), (first.planned_id, "todo")
    ]  # fmt: skip
    # Before it was played it changes nothing; what plays it again is a repeat of its cell.
    assert [step.anchor for step in steps] == [0, 2]
    with declines(Invalid, "other_flight"):
        one_more(ws, flight(ws, "Two", {alder: 1.0}), wish)


def test_substitutes_are_found_over_flights_and_under_a_price(client: TestClient, ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "120"))
    lone = drive(ws, "Lone", ("new", "10"))
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    assert client.get(f"/api/gear/{lone}/substitutes").json()["lacking"]["code"] == "not_played"
    # Without third octaves nothing is compared.
    assert client.get(f"/api/gear/{alder}/substitutes").json()["lacking"]["code"] == "nothing_near"
    bands = [part for part, _ in BY_KEY["third_octaves_db"].parts]
    with ws.writing() as session:
        for number, take in enumerate(session.exec(select(Take).order_by(Take.id)).all()):  # type: ignore[arg-type]
            value = {band: -20.0 - 0.2 * number * at for at, band in enumerate(bands)}
            version = BY_KEY["third_octaves_db"].version
            session.add(Reading(take_id=take.id or 0, key="third_octaves_db", version=version, result={"value": value}))
    (found,) = client.get(f"/api/gear/{alder}/substitutes").json()["found"]
    assert (found["name"], found["price_text"]) == ("Birk", "120.00 EUR")
    assert found["explained"] > 0.9
    assert client.get(f"/api/gear/{alder}/substitutes", params={"most_minor": 11_000}).json()["found"] == []
    assert client.get("/api/gear/99/substitutes").status_code == 404


def test_every_brief_gets_its_own_first(client: TestClient, ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder", ("new", "200")), drive(ws, "Birk", ("new", "120"))
    flight(ws, "One", {alder: 1.0, birk: 9.0})
    harsh = SMOOTH.model_copy(update={"targets": [Target(reading="harshness_db", low=6, against="reference")]})
    for name, need in (("Smooth", NEED), ("Harsh", NEED.model_copy(update={"sounds": [harsh]})), ("None", Need())):
        add_brief(ws, BriefIn(name=name, need=need))
    found = client.get("/api/choice/briefs").json()
    assert [(one["brief_name"], one["first"] and one["first"]["name"]) for one in found][:2] == [
        ("Smooth", "Alder"), ("Harsh", "Birk")
    ]  # fmt: skip
    assert found[2]["sentence"].startswith("The brief names no sounds")


def test_only_so_many_come_with_reasons_and_offers(client: TestClient, ws: Workspace) -> None:
    names = ("Alder", "Birk", "Cask", "Dorn")
    flight(ws, "One", {drive(ws, name, ("new", f"{100 + at}")): 1.0 + 4 * at for at, name in enumerate(names)})
    add_brief(ws, BriefIn(name="Smooth", need=NEED))

    def told(**query: object) -> list[tuple[str, bool, bool]]:
        found = client.get("/api/choice", params={"kind": "pedal", **query}).json()["ranked"]  # type: ignore[dict-item]
        return [(one["name"], bool(one["grounds"]), bool(one["offers"])) for one in found]

    assert told() == [(name, True, True) for name in names]
    assert told(detailed=2) == [(name, at < 2, at < 2) for at, name in enumerate(names)]


def test_feel_and_what_would_be_nice_count_beside_fit_and_price(ws: Workspace) -> None:
    alder = gear.add_gear(ws, GearIn(kind="pedal", name="Alder", specs={"bypass": "buffered"})).id
    birk = gear.add_gear(ws, GearIn(kind="pedal", name="Birk", specs={"bypass": "true bypass"})).id
    for ident in (alder, birk):
        add_price(ws, ident, PriceIn(text="100"))
    flight(ws, "One", {alder: 1.0, birk: 1.0})

    def order(**more: object) -> list[str]:
        need = Need.model_validate(NEED.model_dump() | more)
        return [one.name for one in choose(ws, "pedal", need=need).ranked]

    assert order() == ["Alder", "Birk"]
    assert order(nice_to_haves="true bypass") == ["Birk", "Alder"]
    assert order(nice_to_haves="true bypass", nice_weight=0) == ["Alder", "Birk"]
    assert order(feel={birk: {"neck": 8, "weight": 6}}) == ["Birk", "Alder"]
    assert order(feel={birk: {"neck": 2}, alder: {"balance": 9}}) == ["Alder", "Birk"]
    told = choose(ws, "pedal", need=NEED.model_copy(update={"nice_to_haves": "true bypass"}))
    assert [one.words for one in told.ranked[0].strengths if one.code == "nice"] == ["would be nice: true bypass: yes"]


def test_what_is_looked_for_is_what_is_offered_first_and_what_moves_is_no_drive(ws: Workspace) -> None:
    alder, birk = drive(ws, "Alder Drive", ("new", "100")), drive(ws, "Birk Drive", ("new", "100"))
    flight(ws, "One", {alder: 0.0, birk: 1.0})
    for name in ("Two", "Three"):
        table.add_flight(ws, FlightIn(name=name, link="pickup"))
    assert choose(ws, need=NEED).kind == "pickup"
    assert choose(ws, need=NEED.model_copy(update={"wants": "pedal"})).kind == "pedal"
    with ws.writing() as session:
        row = session.exec(select(Contender).where(Contender.gear_id == alder)).one()
        take = session.exec(select(Take).where(Take.contender_id == row.id)).one()
        moving = {"value": {"word": "swings", "rate_hz": 5.5}}
        session.add(Reading(take_id=take.id or 0, key="motion", version=BY_KEY["motion"].version, result=moving))
    found = choose(ws, "pedal", need=NEED.model_copy(update={"effects": ["drive"]}))
    assert [(one.name, one.fine) for one in found.ranked] == [("Birk Drive", True), ("Alder Drive", False)]
    (told,) = [one for one in found.ranked[1].shortfalls if one.code == "effect"]
    assert told.numbers == {"does": "modulation", "wanted": "drive"}
