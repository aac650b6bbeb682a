"""What a pedal does, and that it is offered for nothing else."""

from __future__ import annotations

import pytest

from cata.core.brief import Need
from cata.core.choose.checks import Noted, checks
from cata.core.effects import effects_of


@pytest.mark.parametrize(
    ("specs", "text", "does", "found"),
    [
        ({"effect": "fuzz"}, "Chorus Two", ("rate_hz",), {"fuzz"}),
        ({}, "Alder Drive", ("rate_hz",), {"modulation"}),
        ({}, "Alder", ("rate_hz", "echo_ms"), {"modulation", "echo"}),
        ({}, "Mid-hump overdrive", (), {"drive"}),
        ({}, "A boost into a fuzz", (), {"boost", "fuzz"}),
        ({}, "Aldermoor Hump", (), set()),
        ({"effect": "other"}, "Drives home", (), set()),
    ],
)
def test_what_is_noted_goes_before_what_moves_and_that_before_a_name(
    specs: dict[str, str], text: str, does: tuple[str, ...], found: set[str]
) -> None:
    assert effects_of(specs, ("Birk", text), does) == found


@pytest.mark.parametrize(
    ("item", "answers"),
    [
        (Noted("pedal", "Birk Chorus"), ["no"]),
        (Noted("pedal", "Birk Chorus", "goes well behind a fuzz"), ["no"]),
        (Noted("pedal", "Birk", does=frozenset({"echo_ms"})), ["no"]),
        (Noted("pedal", "Birk", "a transparent overdrive"), ["yes"]),
        (Noted("pedal", "Birk"), ["not known"]),
        (Noted("amplifier", "Birk Chorus"), []),
    ],
)
def test_a_chorus_is_never_offered_as_a_drive(item: Noted, answers: list[str]) -> None:
    assert [one.answer for one in checks(Need(effects=["drive", "fuzz"]), item)] == answers
