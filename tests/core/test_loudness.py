"""Loudness from watts, sensitivity and distance; exposure; power switches as people write them."""

from __future__ import annotations

import pytest

from cata.core.workshop.loudness import allowed_h, duration_text, level_db, loudness, power_steps


def test_levels_follow_watts_speakers_and_distance() -> None:
    assert level_db(1, 97, 1) == pytest.approx(97)
    assert level_db(100, 97, 1) == pytest.approx(117)
    assert level_db(22, 100, 2) == pytest.approx(107.4, abs=0.05)
    assert level_db(22, 100, 2, speakers=2) - level_db(22, 100, 2) == pytest.approx(3.01, abs=0.01)


@pytest.mark.parametrize(("level", "hours"), [(85, 8), (88, 4), (100, 0.25), (82, 16), (115, 8 / 1024)])
def test_exposure_halves_with_every_three_decibels(level: float, hours: float) -> None:
    assert allowed_h(level) == pytest.approx(hours)


@pytest.mark.parametrize(
    ("hours", "text"),
    [(30, "all day"), (8, "8 h"), (2.5, "2.5 h"), (0.25, "15 min"), (0.01, "36 s"), (1e-5, "less than a second")],
)  # fmt: skip
def test_durations_are_told_as_one_would(hours: float, text: str) -> None:
    assert duration_text(hours) == text


@pytest.mark.parametrize(
    ("written", "steps"),
    [
        ("", [("full", 50)]),
        ("full, half", [("full", 50), ("25 W", 25)]),
        ("50 / 25 / 1 W", [("full", 50), ("25 W", 25), ("1 W", 1)]),
        ("50W; 0,5 W", [("full", 50), ("0.5 W", 0.5)]),
        ("standby, on", [("full", 50)]),
        ("100 W", [("full", 50)]),
    ],
)
def test_power_switches_are_read_as_written(written: str, steps: list[tuple[str, float]]) -> None:
    assert power_steps(50, written) == steps


def test_a_tenth_of_the_power_is_half_as_loud() -> None:
    full, tenth = loudness(50, "5 W", 98, 1.5, 1)
    assert tenth.change_db == pytest.approx(-10)
    assert tenth.as_loud == pytest.approx(0.5)
    assert full.level_db - tenth.level_db == pytest.approx(10)
