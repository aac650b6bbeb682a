"""Cautions that belong to a change or a place in the plan; shown where the task arises."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from cata.core.plan.setup import Change

LIFT_KG = 20.0
LOUD_WATTS = 5.0


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


def cautions_for(changes: Iterable[Change], devices: Mapping[str, Device]) -> list[str]:
    """What to mind during these changes; ``devices`` by the key of their link, as they are after the change."""
    found: list[str] = []
    for change in changes:
        device = devices.get(change.key)
        found += _swap(change, device)
        if change.kind == "strings":
            found.append("Strings: slacken the old ones before cutting, protect your eyes, then stretch and retune.")
        if change.kind == "pickup":
            found.append("Soldering: eye protection and fresh air; the iron burns. Slacken the strings first.")
        if change.kind in ("pedal", "power supply") and device is not None:
            found += _power(device)
    return list(dict.fromkeys(found))


def _swap(change: Change, device: Device | None) -> list[str]:
    if device is None or change.kind not in ("amplifier", "speaker"):
        return []
    found = []
    weight = device.number("weight_kg")
    if weight is not None and weight >= LIFT_KG:
        found.append(f"Lifting: {device.name} weighs {weight:g} kg; lift it with two people.")
    if device.has_valves:
        load = device.number("speaker_load_ohm")
        ohms = f" of {load:g} Ω" if load else ""
        found.append(
            f"Valve amplifier: connect its speaker or rated load{ohms} before switching on, standby before unplugging; "
            "never open it: lethal voltage stays even unplugged."
        )
    if change.kind == "speaker" or (device.kind == "amplifier" and not device.has_valves):
        found.append("Speaker: switch the amplifier off first; match the impedance.")
    watts = device.number("watts")
    if device.kind == "amplifier" and (watts is None or watts >= LOUD_WATTS):
        found.append(
            "Hearing: a loud amplifier reaches 100 to 115 dB; at 100 dB(A) a quarter of an hour a day is the limit."
        )
    return found


def _power(device: Device) -> list[str]:
    polarity, voltage = device.specs.get("polarity"), device.number("voltage_v")
    if polarity not in ("centre positive", "AC") and not (voltage and voltage > 9.6):
        return []
    volts = f"{voltage:g} V, " if voltage else ""
    return [f"Pedal power: {device.name} wants {volts}{polarity or 'check the polarity'}; not the usual supply."]
