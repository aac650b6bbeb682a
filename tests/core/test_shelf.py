"""Shelf files: whatever a spreadsheet writes is read, nothing is lost without a word, nothing is ever calculated."""

from __future__ import annotations

import csv
import io
import tracemalloc

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cata.core.gear import Control
from cata.core.money import read_price, show_price
from cata.core.shelf.controls import read_controls, show_controls
from cata.core.shelf.headings import LEAVE, SPEC, propose_mapping, read_kind
from cata.core.shelf.items import read_items
from cata.core.shelf.table import MAX_ROWS, read_table, safe, write_table
from cata.core.spec_fields import FIELDS
from cata.core.specs import field_named, read_specs, read_value, show_value, shown
from cata.errors import Invalid, Refused
from cata.services.shelf.prices import read_amount
from cata.services.shelf.rates import RateIn, set_rate
from cata.services.workspace import Workspace
from tests.conftest import declines

ROWS = 'kind{s}name{s}price\npedal{s}"Flüstertal, grün"{s}"89{d}50"\npedal{s}Zweites{s}"1.200{d}00"\n'


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize(("separator", "decimal"), [(",", "."), (";", ","), ("\t", ","), ("|", ".")])
def test_every_spreadsheets_csv_is_read(encoding: str, separator: str, decimal: str) -> None:
    text = ROWS.format(s=separator, d=decimal).replace("1.200.00", "1200.00")
    table = read_table(text.replace("\n", "\r\n").encode(encoding))
    reading = read_items(table, propose_mapping(table.headers), kind=None, currency="EUR")
    assert [item.name for _, item in reading.items] == ["Flüstertal, grün", "Zweites"]
    assert [item.offers[0].price_minor for _, item in reading.items] == [8950, 120000]
    assert reading.problems == ()


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "empty"),
        (b"  \n \n", "empty"),
        (b"kind,name\n", "no_rows"),
        (b"PK\x03\x04\x00\x00zip of a workbook", "no_text"),
        (b"\xff\xfe\x00\xd8\x00", "bad_encoding"),
        (b"name\n" + b"x\n" * (MAX_ROWS + 1), "too_many"),
        ((",".join(f"c{i}" for i in range(300)) + "\n" + "," * 299 + "1\n").encode(), "too_many"),
    ],
)
def test_what_is_no_table_is_refused_with_its_reason(data: bytes, code: str) -> None:
    with declines(Refused, code):
        read_table(data)


def test_a_hundred_thousand_rows_are_refused_and_twenty_thousand_are_read() -> None:
    with declines(Refused, "too_many"):
        read_table(b"kind,name\n" + b"pedal,x\n" * 100_000)
    assert len(read_table(b"kind,name\n" + b"pedal,x\n" * MAX_ROWS).rows) == MAX_ROWS


def items(text: str, **options: str) -> tuple[list, list]:
    table = read_table(text.encode())
    given = {"kind": None, "currency": "EUR"} | options
    reading = read_items(table, propose_mapping(table.headers), **given)  # type: ignore[arg-type]
    return [item for _, item in reading.items], list(reading.problems)


def test_a_bad_row_is_named_and_the_rest_is_taken() -> None:
    found, problems = items(
        "kind,name,price,currency,DC resistance\n"
        "pickup,Good,79,EUR,8.2k\n"
        ",Nameless kind,1,EUR,\n"
        "pickup,,1,EUR,\n"
        "spaceship,Odd,1,EUR,\n"
        "pickup,Wrong currency,79,XQX,\n"
        "pickup,Wrong price,about fifty,EUR,\n"
        "pickup,Wrong spec,79,EUR,plenty\n"
        "pickup,good,85,EUR,\n"
    )
    assert [item.name for item in found] == ["Good", "Wrong currency", "Wrong price", "Wrong spec", "good"]
    assert [(p.row, p.lost) for p in problems] == [
        (3, True), (4, True), (5, True), (6, True), (7, True), (8, False), (9, False),
    ]  # fmt: skip
    assert problems[3].said.code == "no_currency"
    assert found[3].specs == {"DC resistance": "plenty"}
    assert (problems[6].said.code, problems[6].said.numbers) == ("same_item", {"row": 2})


def test_columns_without_a_place_become_specifications_and_can_be_left_out() -> None:
    table = read_table(b"kind,name,Colour,Current draw,\npedal,Alder,green,6 mA,x\n")
    assert propose_mapping(table.headers) == ["kind", "name", SPEC, SPEC, LEAVE]
    reading = read_items(table, ["kind", "name", LEAVE, SPEC, LEAVE], kind=None, currency="EUR")
    assert reading.items[0][1].specs == {"draw_ma": 6.0}


@pytest.mark.parametrize(
    ("mapping", "code"),
    [
        (["kind"], "bad_mapping"),
        (["kind", "kind"], "bad_mapping"),
        (["kind", "price new"], "no_name"),
        (["name", "nonsense"], "bad_mapping"),
    ],
)
def test_a_mapping_that_does_not_fit_is_refused(mapping: list[str], code: str) -> None:
    with declines(Invalid, code):
        read_items(read_table(b"kind,name\npedal,x\n"), mapping, kind=None, currency="EUR")


FORMULAS = [
    '=HYPERLINK("http://evil","x")',
    "+1+cmd|' /C calc'!A0",
    "-2+3",
    "@SUM(A1)",
    "\t=1",
    "=1",
    "'=1",
    "''+drive",
    "'-5",
]
PLAIN = ["Two\twords", "'quoted'", "-5", "it's", "'"]


@pytest.mark.parametrize("formula", FORMULAS)
def test_no_cell_that_is_written_is_a_formula_and_it_comes_back_as_it_was(formula: str) -> None:
    data = write_table(["name", "about"], [[formula, "plain"]])
    (cell, _) = list(csv.reader(io.StringIO(data.decode("utf-8-sig"))))[1]
    assert cell[0] == "'"
    assert read_table(data).rows[0][0] == formula.strip()


@pytest.mark.parametrize("text", PLAIN)
def test_any_other_cell_comes_back_as_it_was(text: str) -> None:
    assert read_table(write_table(["name", "about"], [[text, "plain"]])).rows[0][0] == text


def test_rows_are_counted_before_they_are_kept() -> None:
    tracemalloc.start()
    with declines(Refused, "too_many"):
        read_table(b"name\n" + b"a\n" * (15 << 20))
    assert tracemalloc.get_traced_memory()[1] < 150 << 20
    tracemalloc.stop()


@given(st.lists(st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=20), min_size=2, max_size=2))
def test_what_is_written_is_read_back(cells: list[str]) -> None:
    table = read_table(write_table(["a", "b"], [cells, ["x", "y"]]))
    wanted = [" ".join(c.split()) if not c.strip() else c.strip() for c in cells]
    if any(wanted):
        printable = ["".join(c for c in cell if c.isprintable()) for cell in wanted]
        assert [cell.lstrip("'") for cell in table.rows[0]] == [cell.lstrip("'") for cell in printable]


def test_numbers_stay_numbers_in_a_spreadsheet() -> None:
    assert [safe(cell) for cell in ("-5", "+3.5", "89.00")] == ["-5", "+3.5", "89.00"]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("89", (8900, "EUR")), ("1.299,00 €", (129900, "EUR")), ("1,299.00", (129900, "EUR")),
        ("USD 450", (45000, "USD")), ("12 500 JPY", (12500, "JPY")), ("1.299", (129900, "EUR")), ("0.5", (50, "EUR")),
        ("3.250 KWD", (3250, "KWD")), ("1,203.250 KWD", (1203250, "KWD")),
    ],
)  # fmt: skip
def test_prices_are_read_as_people_write_them(text: str, wanted: tuple[int, str]) -> None:
    assert read_price(text) == wanted


AMOUNTS = {5: ("5",), 89: ("89", "89.0", "89,00"), 150: ("150", "150.00", "150,00", "150,-", "150.--", " 150 "),
           1150: ("1150", "1,150", "1.150", "1 150", "1'150", "1,150.00", "1.150,00", "1 150,00", "1\u00a0150.00"),
           12500: ("12500", "12,500", "12.500", "12 500", "12,500.00", "12.500,00", "12'500.00",
                   "12\u202f500,00")}  # fmt: skip
WRITTEN = {
    "EUR": ("{}", "{} EUR", "EUR {}", "EUR{}", "{}€", "€{}", "€ {}", "{} euro", "{} Euros", "{} eur"),
    "USD": ("${}", "$ {}", "{} USD", "usd {}", "{} dollars", "{}$"),
    "GBP": ("£{}", "{} GBP", "{} pounds"),
}


def test_hundreds_of_amounts_are_read_as_they_are_meant() -> None:
    wrong = [
        (text, read)
        for currency, forms in WRITTEN.items()
        for form in forms
        for amount, ways in AMOUNTS.items()
        for way in ways
        if (read := read_price(text := form.format(way))) != (100 * amount, currency)
    ]
    assert sum(len(forms) for forms in WRITTEN.values()) * sum(len(ways) for ways in AMOUNTS.values()) > 500
    assert wrong == []


@pytest.mark.parametrize(
    "text",
    ["", "cheap", "1.2.3.4", "-5", "−5 EUR", "12 XQX", "1.999 USD 3", "1e9", "1e12", "about 100 to 150", "100-150",
     "100 or best offer", "ca. 150", "150 VB", "1,5,0", "12.34.56", "1.5k", "10000000000000", "0x10", "½",
     "NaN", "∞", "--", "150 EUR 20 USD", "150 +5"],
)  # fmt: skip
def test_what_is_no_price_is_refused(text: str) -> None:
    with pytest.raises(Invalid):
        read_price(text)


def test_a_field_of_one_currency_takes_no_amount_of_another(ws: Workspace) -> None:
    assert read_amount(ws, "1.150,00", "EUR").price_minor == 115_000
    with declines(Invalid, "other_currency"):
        read_amount(ws, "120,50 USD", "EUR")
    set_rate(ws, RateIn(base="USD", quote="EUR", text="0.9", on_date="2026-03-01"))
    with pytest.raises(Invalid, match=r"120\.50 USD is not in EUR: about 108\.45 EUR"):
        read_amount(ws, "120,50 USD", "EUR")


@given(st.integers(0, 10**9), st.sampled_from(["EUR", "USD", "JPY", "KWD"]))
def test_a_shown_price_is_read_back(minor: int, currency: str) -> None:
    assert read_price(show_price(minor, currency)) == (minor, currency)


def test_controls_come_and_go_as_one_line() -> None:
    line = (
        "Drive 0-10 = 4.5; Tone clock = 12:00; Mix percent = 30 %; Voice bright/very_dark = very dark; "
        "Low slider 0-10 = 2"
    )
    controls = read_controls(line)
    assert [(c.name, c.kind) for c in controls] == [
        ("Drive", "knob"), ("Tone", "knob"), ("Mix", "knob"), ("Voice", "switch"), ("Low", "slider"),
    ]  # fmt: skip
    assert [round(c.default, 3) for c in controls] == [0.45, 0.5, 0.3, 1.0, 0.2]
    assert read_controls(show_controls(controls)) == controls
    assert [c.key for c in read_controls("Gain; Gain")] == ["gain", "gain-2"]


@pytest.mark.parametrize("line", ["Drive 0-10 = 12", "Voice bright/ = bright", "= 4", "Tone clock = 6:00"])
def test_controls_that_cannot_be_are_refused_with_the_part(line: str) -> None:
    with pytest.raises(Invalid):
        read_controls(line)


def test_a_labelled_control_is_a_switch_or_a_selector() -> None:
    kinds = [
        Control(key="a", name="a", scale="labels", labels=labels).kind for labels in (("on", "off"), ("1", "2", "3"))
    ]
    assert kinds == ["switch", "selector"]
    with pytest.raises(ValidationError):
        Control.model_validate({"key": "a", "name": "a", "scale": "labels", "labels": False})


@pytest.mark.parametrize(
    ("kind", "label", "text", "wanted"),
    [
        ("pickup", "DC resistance", "8,200 ohm", 8.2), ("pickup", "dcr", "8.2k", 8.2), ("pickup", "coils", "2", 2.0),
        ("cable", "Capacitance", "0.39 nF", 390.0), ("amplifier", "weight", "33 lb", 14.968548),
        ("amplifier", "fx loop", "yes", True), ("pedal", "Current draw", "0.006 A", 6.0),
        ("speaker", "Impedance", "8 Ohms", 8.0), ("pedal", "polarity", "Centre-Negative", "centre negative"),
    ],
)  # fmt: skip
def test_specifications_are_read_with_their_units(kind: str, label: str, text: str, wanted: object) -> None:
    specs, problems = read_specs(kind, {label: text})  # type: ignore[arg-type]
    assert problems == {}
    assert list(specs.values()) == [pytest.approx(wanted) if isinstance(wanted, float) else wanted]


@pytest.mark.parametrize(
    ("key", "text", "code"),
    [
        ("dc_resistance_kohm", "8 V", "other_unit"), ("coils", "2.5", "no_whole_number"),
        ("coils", "9", "out_of_range"), ("magnet", "gold", "no_choice"), ("inductance_h", "much", "no_number"),
        ("coils", "2 H", "no_unit"),
    ],
)  # fmt: skip
def test_a_value_that_does_not_fit_says_what_would(key: str, text: str, code: str) -> None:
    field = field_named("pickup", key)
    assert field is not None
    with declines(Invalid, code):
        read_value(field, text)


def test_every_field_shows_what_it_reads_and_has_a_name_of_its_own() -> None:
    for kind, fields in FIELDS.items():
        assert len({field.name for field in fields}) == len(fields)
        for field in fields:
            assert field_named(kind, field.name) is field
            assert field_named(kind, f"{field.name} ({field.unit})") is field
            sample = {"number": (field.low + field.high) / 2, "whole": field.low, "flag": True}.get(field.type)
            value = sample if sample is not None else field.choices[0] if field.choices else "words"
            assert read_value(field, show_value(field, value)) == pytest.approx(value)
    assert field_named("speaker", "Größe") is field_named("speaker", "size_in")
    assert shown("cable", {"length_m": 4.0, "Colour": "green"}) == [("Length", "4 m"), ("Colour", "green")]


@pytest.mark.parametrize(
    ("word", "kind"), [("Amps", "amplifier"), ("PEDALS", "pedal"), ("Mic", "microphone"), ("cab", "speaker")]
)
def test_the_trades_words_name_a_kind(word: str, kind: str) -> None:
    assert read_kind(word) == kind
