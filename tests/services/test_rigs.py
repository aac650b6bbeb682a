"""The rig within a budget, from a shelf and a brief as a person has them."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from cata.cli import app
from cata.core.brief import Need, Sound, Target
from cata.core.gear import GearKind
from cata.errors import CataError, Invalid, NotFound
from cata.services.brief.briefs import BriefIn, add_brief
from cata.services.choice.rigs import find_rigs
from cata.services.choice.views import RigsView
from cata.services.shelf import gear
from cata.services.shelf.deals import DealIn, add_deal, list_deals, remove_deal
from cata.services.shelf.gear import GearIn
from cata.services.shelf.prices import PriceIn, add_price, remove_price
from cata.services.shelf.rates import RateIn, set_rate
from cata.services.workspace import Workspace
from tests.conftest import declines
from tests.services.test_choosing_shelf import flight

SMOOTH = Sound(key="smooth", name="Smooth", targets=[
    Target(reading="harshness_db", low=-8, high=-3, against="reference"),
])  # fmt: skip
LEAD = Sound(key="lead", name="Lead", targets=[Target(reading="equivalent_drive", part="percent", low=10)])
NEED = Need(sounds=[SMOOTH, LEAD], budget_minor=100_000, reserve_minor=10_000, must_haves="effects loop",
            carry_limit_kg=18)  # fmt: skip


def item(ws: Workspace, kind: GearKind, name: str, price: str, **specs: float | bool | str) -> int:
    ident = gear.add_gear(ws, GearIn(kind=kind, name=name, specs=specs)).id
    add_price(ws, ident, PriceIn(text=price))
    return ident


def shelf(ws: Workspace) -> dict[str, int]:
    """Two drives that were compared, amplifiers of three kinds, a guitar, supplies of both polarities."""
    plug = "centre negative"
    made = {
        "alder": item(ws, "pedal", "Alder", "200", draw_ma=20, polarity=plug),
        "birk": item(ws, "pedal", "Birk", "80", draw_ma=20, polarity=plug),
        "clean": item(ws, "amplifier", "Clean", "500", effects_loop=True, weight_kg=15, speaker_count=1),
        "heavy": item(ws, "amplifier", "Heavy", "300", effects_loop=True, weight_kg=31, speaker_count=1),
        "plain": item(ws, "amplifier", "Plain", "200", effects_loop=False, weight_kg=9, speaker_count=1),
        "guitar": item(ws, "guitar", "Plank", "400"),
        "wrong": item(ws, "power supply", "Odd Plug", "10", outputs=4, current_ma=100, polarity="centre positive"),
        "supply": item(ws, "power supply", "Six", "60", outputs=6, current_ma=100, polarity=plug),
    }
    flight(ws, "Drives", {made["alder"]: 1.0, made["birk"]: 9.0}, bypass=6.0)
    return made


def test_a_rig_holds_to_budget_wishes_power_and_plugs(ws: Workspace) -> None:
    made = shelf(ws)
    own = NEED.model_copy(update={"own_items": [made["guitar"]]})
    first, *others = find_rigs(ws, need=own).rigs
    names = {part.place: part.name for part in first.parts}
    assert names == {"guitar": "Plank", "amplifier": "Clean", "pedals": "Alder", "power supply": "Six"}
    assert (first.price_minor, first.left_minor) == (76_000, 14_000)
    assert {part.name: part.price_text for part in first.parts}["Plank"] == "owned"
    assert [rig.price_minor < first.price_minor for rig in others] == [True] * len(others)
    assert all("Odd Plug" not in [part.name for part in rig.parts] for rig in (first, *others))
    assert sum(rig.chance for rig in (first, *others)) == pytest.approx(1)
    locked = find_rigs(ws, need=own, locked=[made["birk"]]).rigs[0]
    assert "Birk" in [part.name for part in locked.parts]
    assert locked.fit <= first.fit
    steps = find_rigs(ws, need=own).curve
    fits = [step.fit for step in steps if step.fit is not None]
    assert fits == sorted(fits)
    assert steps[0].fit is None


def test_what_is_sold_together_counts_where_all_of_it_is_bought(ws: Workspace) -> None:
    made = shelf(ws)
    own = NEED.model_copy(update={"own_items": [made["guitar"]]})
    before = find_rigs(ws, need=own).rigs[0]
    add_deal(ws, DealIn(items=[made["alder"], made["clean"]], text="120 EUR"))
    (first, *_) = find_rigs(ws, need=own).rigs
    assert first.price_minor == before.price_minor - 12_000
    assert [one.words for one in first.deals] == ["120.00 EUR less for Alder and Clean together"]
    assert list_deals(ws)[0].names == ["Alder", "Clean"]
    # What is owned already is not bought together with anything; an amount in another money waits for a rate.
    add_deal(ws, DealIn(items=[made["guitar"], made["clean"]], text="90"))
    add_deal(ws, DealIn(items=[made["supply"], made["clean"]], text="50", currency="USD"))
    assert find_rigs(ws, need=own).rigs[0].price_minor == first.price_minor
    set_rate(ws, RateIn(base="USD", quote="EUR", text="0.5"))
    assert find_rigs(ws, need=own).rigs[0].price_minor == first.price_minor - 2_500
    for deal in list_deals(ws):
        remove_deal(ws, deal.id)
    assert find_rigs(ws, need=own).rigs[0].price_minor == before.price_minor


@pytest.mark.parametrize(
    ("items", "text", "kind", "code"),
    [
        ([1, 1], "20", Invalid, "one_item"),
        ([1, 2], "0", Invalid, "no_discount"),
        ([1, 99], "20", NotFound, "not_found"),
    ],
)
def test_what_is_no_deal_is_refused(
    ws: Workspace, items: list[int], text: str, kind: type[CataError], code: str
) -> None:
    shelf(ws)
    with declines(kind, code):
        add_deal(ws, DealIn(items=items, text=text))
    assert list_deals(ws) == []


def test_what_is_sold_new_comes_twice_where_one_is_not_enough(ws: Workspace) -> None:
    made = shelf(ws)
    gear.remove_gear(ws, made["supply"])
    one = item(ws, "power supply", "One Plug", "25", outputs=1, current_ma=100, polarity="centre negative")
    both = NEED.model_copy(update={"own_items": [made["guitar"]], "budget_minor": 130_000})
    first = find_rigs(ws, need=both, locked=[made["alder"], made["birk"]]).rigs[0]
    supply = next(part for part in first.parts if part.place == "power supply")
    assert (supply.shown, supply.price_minor, supply.price_text) == ("2 × One Plug", 5_000, "2 × 25.00 EUR")
    assert first.price_minor == 20_000 + 8_000 + 50_000 + 5_000
    # Of what somebody sells used there is one, and of what is owned too.
    for price in gear.get_gear(ws, one).prices:
        remove_price(ws, price.id)
    add_price(ws, one, PriceIn(kind="used", text="10"))
    found = find_rigs(ws, need=both, locked=[made["alder"], made["birk"]])
    assert (found.rigs, found.verdict.code) == ([], "nothing")


def test_feel_and_what_would_be_nice_count_beside_the_fit(ws: Workspace) -> None:
    made = shelf(ws)
    other = item(ws, "guitar", "Beam", "400")
    light = item(ws, "amplifier", "Light", "500", effects_loop=True, weight_kg=15, speaker_count=1, standby_switch=True)
    need = NEED.model_copy(update={"budget_minor": 200_000})

    def first(**wishes: object) -> tuple[dict[str, str], RigsView]:
        found = find_rigs(ws, need=Need.model_validate(need.model_dump() | wishes))
        return {part.place: part.name for part in found.rigs[0].parts}, found

    for liked, other_one in ((made["guitar"], other), (other, made["guitar"])):
        feel = {liked: {"neck": 9}, other_one: {"neck": 2, "weight": 4}}
        names, found = first(feel=feel)
        assert names["guitar"] == gear.get_gear(ws, liked).name
        guitar = next(part for part in found.rigs[0].parts if part.place == "guitar")
        assert [one.words for one in guitar.liked] == ["feels 9.0 of 10 by your own scores"]
        # Two of the seven that fit counts.
        assert found.rigs[0].liked == pytest.approx(2 / 7 * 0.9)
        assert found.liking is not None
        assert found.bound == pytest.approx(found.rigs[0].fit + found.rigs[0].liked, abs=1e-6)
        assert [part.place for part in found.rigs[0].parts if part.held] == ["guitar", "amplifier"]
    # Nothing is bought for a feel that nobody knows; what is owned is no worse for not being scored.
    assert first(feel={made["guitar"]: {"neck": 2}})[0]["guitar"] == "Plank"
    assert first(feel={other: {"neck": 4}}, own_items=[made["guitar"]])[0]["guitar"] == "Plank"
    names, found = first(nice_to_haves="standby switch", feel={})
    assert names["amplifier"] == "Light"
    assert next(part.liked for part in found.rigs[0].parts if part.gear_id == light)[0].words == (
        "would be nice: standby switch: yes"
    )
    assert first()[1].liking is None


def test_a_board_holds_what_is_as_wide_as_it_is(ws: Workspace) -> None:
    made = shelf(ws)
    own = NEED.model_copy(update={"own_items": [made["guitar"]]})
    for board, there in ((60.0, False), (75.0, True)):
        rig = find_rigs(ws, need=own.model_copy(update={"board_mm": board})).rigs[0]
        assert any(part.place == "pedals" for part in rig.parts) is there


def test_where_nothing_fits_the_nearest_rig_and_what_it_takes_are_said(ws: Workspace) -> None:
    made = shelf(ws)
    found = find_rigs(ws, need=NEED.model_copy(update={"budget_minor": 60_000}))
    assert (found.verdict.code, found.rigs) == ("nearest", [])
    assert "Nothing fits" in found.verdict.words
    light = NEED.model_copy(update={"carry_limit_kg": 5, "own_items": [made["guitar"]]})
    assert "without “no piece over 5 kg”" in find_rigs(ws, need=light).verdict.words
    assert find_rigs(ws, need=Need()).verdict.code == "no_sounds"
    with declines(NotFound, "not_found"):
        find_rigs(ws, need=NEED, locked=[999])


def test_an_empty_shelf_has_no_rig(ws: Workspace) -> None:
    assert find_rigs(ws, need=NEED).verdict.code == "nothing_recorded"


def test_the_rig_over_http_and_from_the_command_line(client: TestClient, ws: Workspace) -> None:
    shelf(ws)
    add_brief(ws, BriefIn(name="B", need=NEED))
    answer = client.post("/api/rig", json={"budget_minor": 200_000, "curve": False}).json()
    assert (answer["proven"], answer["curve"]) == (True, [])
    assert client.post("/api/rig", json={"locked": [77]}).status_code == 404
    where = ["--data-dir", str(ws.data_dir)]
    told = CliRunner().invoke(app, ["rig", "--budget", "2000", "--lock", "birk", "--json", *where])
    assert told.exit_code == 0, told.output
    assert '"proven": true' in told.output
    assert CliRunner().invoke(app, ["rig", "--lock", "nothing", *where]).exit_code == 2
    chosen = CliRunner().invoke(app, ["choose", "--kind", "pedal", *where])
    assert "Alder comes first of 2" in chosen.output
