"""The audit on flights of known truth: what is called "record it again" is wrong, and what is wrong is named."""

from __future__ import annotations

import pytest

from tests.corpus.flights import audited, make_flight

FAULTLESS = [("pickup", 11), ("pedal", 12), ("amplifier", 13)]
FAULTY = [
    ("pickup", "microphone", 21), ("pedal", "room", 22), ("amplifier", "tempo", 23), ("pedal", "phrase", 24),
    ("pickup", "hum", 25), ("amplifier", "microphone", 26), ("pedal", "tuning", 27), ("pickup", "exchanged", 28),
    ("pedal", "clipped", 29),
]  # fmt: skip


@pytest.mark.grid(1)
@pytest.mark.parametrize(("family", "seed"), FAULTLESS)
def test_a_flight_without_a_fault_stays_without_record_it_again(family: str, seed: int) -> None:
    assert [one for one in audited(make_flight(family, None, seed)) if one[1] == "fault"] == []


@pytest.mark.grid(1)
@pytest.mark.parametrize(("family", "fault", "seed"), FAULTY)
def test_the_take_with_the_fault_is_named_and_no_other_is_to_be_recorded_again(
    family: str, fault: str, seed: int
) -> None:
    flight = make_flight(family, fault, seed)
    found = audited(flight)
    assert {place for _, severity, place in found if severity == "fault"} <= flight.wrong
    assert {place for *_, place in found} & flight.wrong
