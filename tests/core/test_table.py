"""The table of a flight: what a cell is held against, and what is called of it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import pytest

from cata.core.match.cells import Cell
from cata.core.match.finding import Finding
from cata.core.match.room import fall_of
from cata.core.match.rules.flight import audit_table
from cata.core.match.table import beside, left_out, table_of
from cata.core.measure.regions import THIRD_OCTAVES_HZ

HZ = np.array(THIRD_OCTAVES_HZ, dtype=float)
TREBLE = np.where(HZ >= 2000, 6.0, 0.0)
STOPPING = np.concatenate((np.full(250, -10.0), np.full(250, -70.0)))
Key = tuple[int, int]


def cells(
    changes: Mapping[Key, Mapping[str, object]] | None = None,
    *,
    contenders: int = 4,
    tests: int = 3,
    tones: Mapping[Key, np.ndarray] | None = None,
) -> list[Cell]:
    """A flight that is contender + test + a little scatter, with changes to single cells."""
    rng = np.random.default_rng(5)
    tilt = np.log2(HZ / 1000) / 3
    rows = (3.0 * np.arange(contenders) - 4.0)[:, None] * tilt + rng.normal(0, 1, (contenders, len(HZ)))
    columns = rng.normal(0, 2, (tests, len(HZ)))
    found = []
    for row in range(contenders):
        for column in range(tests):
            bands = rows[row] + columns[column] + rng.normal(0, 0.2, len(HZ)) + (tones or {}).get((row, column), 0.0)
            given: dict[str, object] = {
                "index": len(found), "row": row, "column": column, "contender": f"C{row}", "test": f"T{column}",
                "bands_db": bands - bands.max(), "fall_db": 40.0 + 2 * row + rng.normal(0, 1),
                "rest_db": -50.0 + row + rng.normal(0, 1), "hum_share": 0.1, "plr_db": 14.0,
                "levels_db": STOPPING, "last_s": 2.0, "stop_s": 0.45, "loudness_lufs": -20.0 - row + column,
            }  # fmt: skip
            found.append(Cell(**(given | dict((changes or {}).get((row, column), {})))))  # type: ignore[arg-type]
    return found


def called(found: list[Finding]) -> list[tuple[str, str, int]]:
    return [(one.rule, one.severity, one.take) for one in found]


def test_what_a_cell_should_be_is_told_by_all_others() -> None:
    rng = np.random.default_rng(1)
    rows, columns = rng.normal(0, 5, 5), rng.normal(0, 5, 4)
    values = {(r, c): float(rows[r] + columns[c]) for r in range(5) for c in range(4)}
    values[2, 1] += 9.0
    left = left_out(table_of(values)).left[:, :, 0]
    assert left[2, 1] == pytest.approx(9.0)
    others = np.delete(left.ravel(), 2 * 4 + 1)
    # The odd one spoils few of the answers for the others.
    assert np.median(np.abs(others)) < 1e-9
    del values[2, 1]
    assert np.nanmax(np.abs(left_out(table_of(values)).left)) < 1e-9


def test_what_a_contender_has_in_one_other_test_only_is_left_unsaid() -> None:
    values = {(r, c): float(r + c) for r in range(3) for c in range(3)}
    values[0, 2] = np.nan
    table = table_of(values)
    assert np.isnan(left_out(table, least=2).left[0, 0, 0])
    assert left_out(table).left[0, 0, 0] == pytest.approx(0.0)
    lonely = table_of({key: value for key, value in values.items() if key not in {(1, 1), (2, 1)}})
    assert np.isnan(left_out(lonely, least=2).left[0, 1, 0])
    assert beside(table_of({(r, 0): v for r, v in enumerate((1.0, 2.0, 9.0))})).left[2, 0, 0] == pytest.approx(7.5)


@pytest.mark.parametrize("tests", [1, 2, 3, 5])
@pytest.mark.parametrize("contenders", [1, 2, 3, 6])
def test_a_flight_that_is_contender_and_test_has_nothing_to_tell(contenders: int, tests: int) -> None:
    assert audit_table(cells(contenders=contenders, tests=tests)) == []


def test_a_knob_moved_for_one_take_is_found_and_only_that() -> None:
    (found,) = audit_table(cells(tones={(2, 1): TREBLE}))
    assert called([found]) == [("tone_moved", "fault", 7)]
    assert found.numbers["db"] > 2.0  # type: ignore[operator]
    assert found.picture is not None
    assert found.picture.log_x


def test_level_alone_is_no_tone() -> None:
    assert audit_table(cells(tones={(1, 1): np.full(len(HZ), 7.0)})) == []


def test_a_missing_take_hides_nothing_and_warns_of_nothing() -> None:
    some = [cell for cell in cells(tones={(2, 1): TREBLE}) if cell.key != (0, 0)]
    assert called(audit_table(some)) == [("tone_moved", "fault", 7)]


def test_two_tests_cannot_tell_which_take_is_the_odd_one() -> None:
    found = audit_table(cells(tones={(2, 1): TREBLE}, tests=2))
    assert {one.severity for one in found} == {"check"}
    assert {one.take for one in found} <= {4, 5}


def test_a_contender_that_squeezes_answers_each_phrase_in_its_own_way() -> None:
    squeezed = {(2, column): {"plr_db": 6.0} for column in range(3)}
    found = audit_table(cells(squeezed, tones={(2, 1): TREBLE}))
    assert called(found) == [("tone_moved", "check", 7)]


def test_takes_in_each_others_place_are_told_as_such() -> None:
    honest = cells()
    there = {cell.key: cell for cell in honest}
    swap = {(1, 1): (3, 1), (3, 1): (1, 1)}
    mixed = [
        Cell(**{**vars(there[swap.get(cell.key, cell.key)]), "index": cell.index, "row": cell.row,
                "contender": cell.contender})
        for cell in honest
    ]  # fmt: skip
    found = audit_table(mixed)
    assert called(found) == [("exchanged", "check", 4), ("exchanged", "check", 10)]
    assert [one.numbers["other"] for one in found] == [10, 4]


@pytest.mark.parametrize(("tests", "severity"), [(3, "fault"), (2, "fault"), (1, "check")])
def test_what_hangs_on_in_one_take_only_is_a_room(tests: int, severity: str) -> None:
    found = audit_table(cells({(2, 0): {"fall_db": 18.0}}, tests=tests))
    assert called(found) == [("wet_tail", severity, 2 * tests)]


def test_a_string_that_has_died_away_or_a_take_that_is_dry_enough_shows_no_room() -> None:
    fading = np.concatenate((np.linspace(-10.0, -60.0, 250), np.full(250, -70.0)))
    assert audit_table(cells({(2, 0): {"fall_db": 6.0, "levels_db": fading}})) == []
    assert audit_table(cells({(2, 0): {"fall_db": np.nan}})) == []
    assert audit_table(cells({(row, column): {"fall_db": 36.0 if (row, column) == (2, 0) else 60.0}
                              for row in range(4) for column in range(3)})) == []  # fmt: skip


@pytest.mark.parametrize(("lufs", "found"), [(-36.0, [("loudness_gap", "check", 5)]), (-26.0, [])])
def test_a_take_far_softer_than_its_contender_and_its_test_is_to_be_looked_at(lufs: float, found: list) -> None:
    assert called(audit_table(cells({(1, 2): {"loudness_lufs": lufs}}))) == found
    # A contender that is loud throughout is loud by itself.
    assert audit_table(cells({(1, column): {"loudness_lufs": -2.0} for column in range(3)})) == []


def test_a_fuzz_that_makes_all_phrases_alike_has_not_been_moved() -> None:
    flat = -np.abs(np.log2(HZ / 600)) * 4
    saturated = {(1, column): {"bands_db": flat, "plr_db": 5.0} for column in range(3)}
    assert audit_table(cells(saturated)) == []
    moved = saturated | {(1, 0): {"bands_db": flat - TREBLE * 2, "plr_db": 5.0}}
    assert called(audit_table(cells(moved)))[0][::2] == ("tone_moved", 3)


def test_a_contender_that_always_hangs_on_is_no_room_and_a_test_that_never_stops_tells_nothing() -> None:
    assert audit_table(cells({(2, column): {"fall_db": 22.0} for column in range(3)})) == []
    ringing = {(row, 0): {"fall_db": 8.0 if row else 1.0} for row in range(4)}
    assert audit_table(cells(ringing)) == []


@pytest.mark.parametrize(("share", "found"), [(0.9, ("hum", "fault")), (0.2, ("noise", "check"))])
def test_only_lines_of_the_mains_are_sure_to_be_hum(share: float, found: tuple[str, str]) -> None:
    (one,) = audit_table(cells({(1, 2): {"rest_db": -30.0, "hum_share": share}}))
    assert (one.rule, one.severity) == found


def test_a_fall_is_that_from_the_playing_to_a_quarter_of_a_second_later() -> None:
    levels = np.concatenate((np.full(200, -10.0), np.full(100, -52.0)))
    assert fall_of(levels, np.array([0.5])) == pytest.approx(42.0, abs=0.1)
    ringing = -10.0 - 0.05 * np.arange(800)
    assert fall_of(ringing, np.array([0.5])) < 3.0
    # Cut before the stop, or fallen to its own noise: it cannot be seen.
    assert np.isnan(fall_of(levels[:150], np.array([1.4])))
    assert np.isnan(fall_of(np.concatenate((np.full(200, -40.0), np.full(300, -52.0))), np.array([0.5])))
