"""Cautions that belong to a change or a place in the plan; shown where the task arises."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from cata.core.plan.setup import Change
from cata.said import Said, said

LIFT_KG = 20.0
LOUD_WATTS = 5.0
STRINGS = Said("strings", "Strings: slacken the old ones before cutting, protect your eyes, then stretch and retune.")
SOLDERING = Said("soldering", "Soldering: eye protection and fresh air; the iron burns. Slacken the strings first.")
SPEAKER = Said("speaker", "Speaker: switch the amplifier off first; match the impedance.")
HEARING = Said(
    "hearing", "Hearing: a loud amplifier reaches 100 to 115 dB; at 100 dB(A) a quarter of an hour a day is the limit."
)


@dataclass(frozen=True)
class Device:
    """What a caution needs to know of a piece of gear."""

    kind: str
    name: str
    specs: Mapping[str, Any]

    def number(self, key: str) -> float | None:
        """A number of its specification."""
        value = self.specs.get(key)
        return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None

    @property
    def has_valves(self) -> bool:
        """True unless it is said to be without: an unknown amplifier is treated as the dangerous kind."""
        return self.kind == "amplifier" and self.specs.get("build", "valve") in ("valve", "hybrid")


def cautions_for(changes: Iterable[Change], devices: Mapping[str, Device]) -> list[Said]:
    """What to mind during these changes; ``devices`` by the key of their link, as they are after the change."""
    found: list[Said] = []
    for change in changes:
        device = devices.get(change.key)
        found += _swap(change, device)
        if change.kind == "strings":
            found.append(STRINGS)
        if change.kind == "pickup":
            found.append(SOLDERING)
        if change.kind in ("pedal", "power supply") and device is not None:
            found += _power(device)
    return list({one.words: one for one in found}.values())


def _swap(change: Change, device: Device | None) -> list[Said]:
    if device is None or change.kind not in ("amplifier", "speaker"):
        return []
    found = []
    weight = device.number("weight_kg")
    if weight is not None and weight >= LIFT_KG:
        words = "Lifting: {name} weighs {kg:g} kg; lift it with two people."
        found.append(said("lifting", words, name=device.name, kg=weight))
    if device.has_valves:
        load = device.number("speaker_load_ohm")
        ohms = " of {ohm:g} Ω" if load else ""
        words = (
            f"Valve amplifier: connect its speaker or rated load{ohms} before switching on, standby before unplugging; "
            "never open it: lethal voltage stays even unplugged."
        )
        found.append(said("valves", words, **({"ohm": load} if load else {})))
    if change.kind == "speaker" or (device.kind == "amplifier" and not device.has_valves):
        found.append(SPEAKER)
    watts = device.number("watts")
    if device.kind == "amplifier" and (watts is None or watts >= LOUD_WATTS):
        found.append(HEARING)
    return found


def _power(device: Device) -> list[Said]:
    polarity, voltage = device.specs.get("polarity"), device.number("voltage_v")
    if polarity not in ("centre positive", "AC") and not (voltage and voltage > 9.6):
        return []
    volts = "{volts:g} V, " if voltage else ""
    words = f"Pedal power: {{name}} wants {volts}{{polarity}}; not the usual supply."
    numbers = {"volts": voltage} if voltage else {}
    return [said("pedal_power", words, name=device.name, polarity=polarity or "check the polarity", **numbers)]
