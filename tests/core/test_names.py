"""Knobs, prices and names as people write them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cata.core.gear import Control, read_position, show_position
from cata.core.money import show_price
from cata.core.names import SURE, find_grid, place
from cata.errors import Invalid
from tests.conftest import declines

CLOCK = Control(key="k", name="Gain", scale="clock")
SWITCH = Control(key="s", name="Pickup", scale="labels", labels=("bridge", "both", "neck"))


@pytest.mark.parametrize(
    ("control", "text", "position"),
    [(CLOCK, "7:00", 0.0), (CLOCK, "12:00", 0.5), (CLOCK, "5:00", 1.0), (CLOCK, "2:30", 0.75), (CLOCK, "7", 0.7),
     (CLOCK, "35 %", 0.35), (CLOCK, "4,5", 0.45), (SWITCH, "Both", 0.5)],
)  # fmt: skip
def test_a_position_is_read_as_people_write_it(control: Control, text: str, position: float) -> None:
    assert read_position(control, text) == pytest.approx(position)


@pytest.mark.parametrize("text", ["6:00", "11", "120 %", "loud", "", "12:75", "-1"])
def test_a_position_that_the_knob_does_not_have_is_refused(text: str) -> None:
    with declines(Invalid, "bad_position"):
        read_position(CLOCK, text)


@given(st.integers(0, 120))
def test_a_clock_face_is_shown_as_it_was_typed(five_minutes: int) -> None:
    text = show_position(CLOCK, five_minutes / 120)
    assert read_position(CLOCK, text) == pytest.approx(five_minutes / 120)


def test_prices_and_percent_are_shown_with_their_units() -> None:
    assert show_price(115000, "EUR") == "1,150.00 EUR"
    assert show_position(Control(key="p", name="P", scale="percent"), 0.55) == "55 %"
    assert show_position(Control(key="p", name="P"), 0.45) == "4.5"


@pytest.mark.parametrize(
    ("names", "contenders", "tests"),
    [
        (["alder - soft chords.wav", "alder - riff.flac", "birk - soft chords.mp3", "birk - riff.wav"], 2, 2),
        (["Alder/riff.wav", "Alder/lead.wav", "Birk/riff.wav", "Birk/lead.wav"], 2, 2),
        (["2024_alder_riff_take1.wav", "2024_birk_riff_take2.wav", "2024_alder_lead_take3.wav"], 2, 2),
        (["alder.wav", "birk.wav"], 2, 1),
    ],
)
def test_rows_and_columns_are_found_in_names(names: list[str], contenders: int, tests: int) -> None:
    grid = find_grid(names)
    assert (len(grid.contenders), len(grid.tests)) == (contenders, tests)
    assert len(set(grid.cells) - {None}) == len(names)


def test_counters_and_the_names_of_cameras_are_no_rows_and_columns() -> None:
    grid = find_grid(
        ["IMG_0042.wav", "Tubey - Chords take2.wav", "CLEANBOOST_chords.flac", "tubey - chords take 3.wav"]
    )
    assert (grid.contenders, grid.tests) == (("Tubey", "CLEANBOOST"), ("Chords",))
    assert grid.cells == (None, (0, 0), (1, 0), None)


@given(st.lists(st.text(max_size=30), min_size=1, max_size=12))
def test_any_names_give_no_cell_twice(names: list[str]) -> None:
    cells = [cell for cell in find_grid(names).cells if cell is not None]
    assert len(set(cells)) == len(cells)


def test_a_file_goes_to_the_cell_its_name_speaks_for() -> None:
    found = place("Recordings/ALDER_softchords_03.wav", ["Alder", "Birk"], ["Soft chords", "Chords", "Riff"])
    assert (found.contender, found.test) == (0, 0)
    assert place("holiday.wav", ["Alder", "Birk"], ["Riff", "Lead"]).contender is None


ROWS = ["Tube-like drive", "Clean boost", "Alder fuzz", ("Bypass", "dry", "off")]
COLUMNS = ["Muted riff", "Full chords", "Soft chords", "Clean lead"]


@pytest.mark.parametrize(
    ("name", "row", "column"),
    [("CLEANBOOST_riff.flac", 1, 0), ("clean_riff.wav", 1, 0), ("tubey softchords.wav", 0, 2), ("dry riff.wav", 3, 0),
     ("alder muted take 3.wav", 2, 0), ("boost lead.wav", 1, 3), ("alderfuzzmutedriff.wav", 2, 0)],
)  # fmt: skip
def test_a_part_of_a_name_is_enough_where_it_can_mean_one_cell_only(name: str, row: int, column: int) -> None:
    found = place(name, ROWS, COLUMNS)
    assert (found.contender, found.test) == (row, column)
    assert found.confidence >= SURE


@pytest.mark.parametrize(
    ("name", "code"),
    [("tubey - Chords take2.wav", "either_test"), ("soft chords.wav", "no_contender"), ("IMG_42.wav", "nothing_named"),
     ("boost alder riff.wav", "either_contender")],
)  # fmt: skip
def test_what_may_mean_two_cells_is_not_placed_and_says_why(name: str, code: str) -> None:
    found = place(name, ROWS, COLUMNS)
    assert found.confidence < SURE
    assert found.why is not None
    assert found.why.code == code


CONTAINED = (
    ("Mark II", "Mark III"), ("Tweed", "Tweeds"), ("Bridge", "Bridges"), ("Hump", "Hump Deluxe"),
    ("Drive 1", "Drive 10"), ("Type 4", "Type 4b"),
    ("Clean", "Cleaner"), ("Slab", "Slab Mini", "Mini Slab Two"), ("Wool", "Woolly"), ("A", "A B"),
)  # fmt: skip


@pytest.mark.parametrize("contenders", CONTAINED, ids=lambda names: names[0])
@pytest.mark.parametrize("form", ["{c} - {t}.wav", "{t}_{c}.wav", "{c}/{t}.flac", "2026-03-01 {c} {t} take 2.wav"])
def test_a_name_that_lies_in_another_is_told_from_it(contenders: tuple[str, ...], form: str) -> None:
    tests = ("Riff", "Riffs slow", "Lead")
    for row, contender in enumerate(contenders):
        for column, test in enumerate(tests):
            name = form.format(c=contender, t=test)
            found = place(name, contenders, tests)
            assert (found.contender, found.test) == (row, column), name
            assert found.confidence >= SURE, name
