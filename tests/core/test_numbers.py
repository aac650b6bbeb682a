"""Numbers and amounts as people of several countries write them, and the demo's chains that rest on them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cata.core.money import exponent, show_price
from cata.core.plan.chain import Chain, chain_problems, missing_settings
from cata.core.specs import read_number, read_specs
from cata.demo.scenario import FLIGHTS, base_chain
from cata.demo.shelf import ITEM, SHELF
from cata.errors import Invalid
from tests.conftest import declines


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("8.2", 8.2), ("8,2", 8.2), ("8,200", 8200.0), ("1.234.567", 1234567.0), ("1.234,5", 1234.5),
        ("12 500", 12500.0), ("12'500.5", 12500.5), ("-3", -3.0), ("+0,5", 0.5),
    ],
)  # fmt: skip
def test_a_number_is_read_in_every_countrys_way(text: str, wanted: float) -> None:
    assert read_number(text) == pytest.approx(wanted)


@pytest.mark.parametrize("text", ["", "ten", "1.2.3", "1,2,3", "--1", "1e5", "0x10"])
def test_what_is_no_number_is_refused(text: str) -> None:
    with declines(Invalid, "no_number"):
        read_number(text)


@given(st.floats(-1e6, 1e6).map(lambda number: round(number, 3)))
def test_a_plain_number_is_read_back(number: float) -> None:
    assert read_number(f"{number:f}") == pytest.approx(number)


@pytest.mark.parametrize(
    ("currency", "decimals", "text"), [("EUR", 2, "12.34"), ("JPY", 0, "1,234"), ("KWD", 3, "1.234")]
)
def test_amounts_have_the_decimals_of_their_currency(currency: str, decimals: int, text: str) -> None:
    assert exponent(currency) == decimals
    assert show_price(1234, currency) == f"{text} {currency}"


@pytest.mark.parametrize("flight", FLIGHTS, ids=lambda flight: flight.name)
def test_the_demos_chains_are_written_down_whole(flight: object) -> None:
    gear = {item.key: number for number, item in enumerate(SHELF, start=1)}
    chain = Chain.model_validate(base_chain(flight.link, gear))  # type: ignore[attr-defined]
    controls = {ITEM[key].kind: list(ITEM[key].controls) for key in ("guitar", "clean", "twelve", "near")}
    assert chain.compared(flight.link) is not None  # type: ignore[attr-defined]
    assert chain_problems(chain) == []
    assert missing_settings(chain, controls) == []


@pytest.mark.parametrize("item", SHELF, ids=lambda item: item.key)
def test_every_specification_of_the_demo_fits_its_field(item: object) -> None:
    specs, problems = read_specs(item.kind, item.specs)  # type: ignore[attr-defined]
    assert problems == {}
    assert len(specs) == len(item.specs)  # type: ignore[attr-defined]


def test_every_name_of_the_demo_is_used_once_and_every_price_is_one() -> None:
    assert len({item.name for item in SHELF}) == len(SHELF)
    for item in SHELF:
        assert item.new_minor > 0
        assert item.used_minor is None or 0 < item.used_minor < item.new_minor
        assert item.about.endswith(".")
        assert len({control.key for control in item.controls}) == len(item.controls)
