"""Setups and changes: what has to be different in the room between two takes, and how long that takes.

A setup is a mapping of parts (the amplifier, the pedal, a knob of the pedal, the tuning ...) to what they are. Two
takes differ in the parts whose values differ; a device that is swapped takes its knobs with it. Seconds are those of
one person who works without haste; every one can be changed in the house rules. Imports no numpy.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

PartKind = Literal[
    "amplifier", "speaker", "microphone", "guitar", "strings", "pickup", "pedal", "cable", "power supply",
    "tuning", "routing", "power", "position", "guitar knob", "knob", "switch", "playing", "phrase", "other",
]  # fmt: skip

CHANGE_S: dict[PartKind, int] = {
    "strings": 1500, "pickup": 2400, "amplifier": 300, "speaker": 240, "microphone": 240, "guitar": 60,
    "power supply": 90, "pedal": 60, "cable": 30, "tuning": 120, "routing": 90, "power": 15, "knob": 8,
    "guitar knob": 4, "switch": 3, "position": 2, "playing": 2, "phrase": 5, "other": 60,
}  # fmt: skip
CHANGE_NAMES: dict[PartKind, str] = {
    "strings": "change strings", "pickup": "change a pickup (solder, string up)", "amplifier": "swap the amplifier",
    "speaker": "swap the speaker", "microphone": "move or swap the microphone", "guitar": "swap the guitar",
    "power supply": "swap the power supply", "pedal": "swap a pedal", "cable": "swap a cable",
    "tuning": "retune", "routing": "move a pedal in the chain", "power": "switch the amplifier's power",
    "knob": "set a knob", "guitar knob": "set a guitar knob", "switch": "throw a switch",
    "position": "choose the pickup position", "playing": "play differently", "phrase": "another phrase",
    "other": "something else",
}  # fmt: skip
WARM_UP_S = 180
"""A valve amplifier is left to settle once a session, when it is first switched on; after that it stays on standby."""

# What a swap brings with it, set before the swap counts as done.
SWAPPED_WITH: tuple[PartKind, ...] = ("knob", "switch", "guitar knob", "position", "power")


@dataclass(frozen=True)
class Part:
    """A part of a setup: what kind of change moves it, its name, what it is now, and the device it sits on.

    ``written`` is False where nobody wrote down what it is, or there is none.
    """

    kind: PartKind
    name: str
    value: str
    device: str = ""
    written: bool = True


Setup = Mapping[str, Part]


@dataclass(frozen=True)
class Change:
    """One thing to do between two takes; ``before`` and ``after`` are empty where the part is not in use.

    ``written`` is False where nobody wrote down what it is afterwards, or there is none.
    """

    key: str
    kind: PartKind
    name: str
    before: str
    after: str
    seconds: int
    written: bool = True


def changes(before: Setup | None, after: Setup, seconds: Mapping[PartKind, int] | None = None) -> list[Change]:
    """What has to be changed from one setup to another, the slowest first; all of it where there was none."""
    cost = CHANGE_S | dict(seconds or {})
    before = before or {}
    swapped = {key for key, part in after.items() if key in before and before[key].value != part.value}
    swapped |= {key for key in {*before, *after} if (key in before) != (key in after)}
    found = []
    for key in sorted(swapped):
        part = after.get(key) or before[key]
        if part.device in swapped and part.kind in SWAPPED_WITH:
            continue
        was = before[key].value if key in before else ""
        now = after[key].value if key in after else ""
        written = key in after and after[key].written
        found.append(Change(key, part.kind, part.name, was, now, cost[part.kind], written))
    return sorted(found, key=lambda change: (-change.seconds, change.key))


def change_seconds(before: Setup | None, after: Setup, seconds: Mapping[PartKind, int] | None = None) -> int:
    """How long the change from one setup to another takes, in seconds."""
    return sum(change.seconds for change in changes(before, after, seconds))
