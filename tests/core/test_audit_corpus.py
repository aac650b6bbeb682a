"""Flights of known truth: what is called "record it again" is wrong, what is wrong is named, takes are found by ear."""

from __future__ import annotations

import pytest

from cata.core.capture.silences import cut_by_silences
from cata.core.capture.slates import SEARCH_RATE_HZ
from tests.corpus.afternoon import afternoon
from tests.corpus.flights import audited, make_flight

FAULTLESS = [("pickup", 11), ("amplifier", 13)]
FAULTY = [
    ("pickup", "microphone", 21), ("pedal", "room", 22), ("amplifier", "tempo", 23), ("pickup", "hum", 25),
    ("pickup", "exchanged", 28),
]  # fmt: skip


@pytest.mark.grid(0, 1)
@pytest.mark.parametrize(("family", "seed"), FAULTLESS)
def test_a_flight_without_a_fault_stays_without_record_it_again(family: str, seed: int) -> None:
    assert [one for one in audited(make_flight(family, None, seed)) if one[1] == "fault"] == []


@pytest.mark.grid(0, 3)
@pytest.mark.parametrize(("family", "fault", "seed"), FAULTY)
def test_the_take_with_the_fault_is_named_and_no_other_is_to_be_recorded_again(
    family: str, fault: str, seed: int
) -> None:
    flight = make_flight(family, fault, seed)
    found = audited(flight)
    assert {place for _, severity, place in found if severity == "fault"} <= flight.wrong
    assert {place for *_, place in found} & flight.wrong


@pytest.mark.certify
def test_takes_are_found_among_talk_noodling_and_false_starts_and_nothing_else_is_sure() -> None:
    flights = [make_flight(family, None, seed) for family, seed in (("pedal", 31), ("amplifier", 32))]
    found = takes = 0
    for seed in range(12):
        made = afternoon(flights[seed % 2], flights[1 - seed % 2], seed)
        right = 0
        for piece in cut_by_silences(made.samples, SEARCH_RATE_HZ, len(made.takes)):
            near = any(
                abs(piece.start_s - start) <= 0.2 and abs(piece.end_s - stop) <= 0.7 for start, stop in made.takes
            )
            assert near or piece.flag, (seed, piece)
            right += near
        found, takes = found + right, takes + len(made.takes)
    assert takes > 100
    assert found >= 0.97 * takes
