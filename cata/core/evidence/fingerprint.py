"""A fingerprint: five readings of an item on scales from 0 to 1, for one small glyph."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cata.core.evidence.probe import Probe
from cata.said import Number, Said, said

LOW, HIGH = 0.35, 0.65
AXES: tuple[tuple[str, str, str, str, float, float, str], ...] = (
    # key, name, low word, high word, value at 0, value at 1, unit
    ("output", "Output", "quiet", "loud", -20.0, 40.0, "dB"),
    ("headroom", "Headroom", "breaks up at once", "stays clean", -40.0, 20.0, "dB"),
    ("span", "Gain span", "one sound", "from clean to full", 0.0, 50.0, "dB"),
    ("tightness", "Tightness", "loose lows", "tight lows", 140.0, 40.0, "ms"),
    ("brightness", "Brightness", "dark", "bright", -15.0, 15.0, "dB"),
)


@dataclass(frozen=True)
class Ray:
    """One axis: its place from 0 to 1, None where there is none, and what is said of it.

    Codes: low, between, high; never_breaks_up and not_measured where there is no place. ``at_least`` is in the numbers
    of a bound.
    """

    key: str
    name: str
    place: float | None
    said: Said

    @property
    def text(self) -> str:
        """The same in words."""
        return self.said.words


def _mean(values: list[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    return sum(known) / len(known) if known else None


def headroom_of(probe: Probe) -> tuple[float | None, bool]:
    """Headroom of a setting, and whether it is a bound: what never broke up has at least all that was sent."""
    room = probe.number("headroom_db")
    if room is not None or probe.results.code("headroom_db") != "never":
        return room, False
    return -probe.nominal_dbfs, True


def fingerprint(probes: Sequence[Probe]) -> list[Ray]:
    """The five rays of an item from all its probes; empty where nothing was measured.

    Output, headroom, tightness and brightness are means over the settings measured; gain span is how far the 3 %
    breakup moved between them, a bound where some setting was beyond what was sent.
    """
    if not probes:
        return []
    onsets = [onset for p in probes if (onset := p.number("breakup_dbfs.3")) is not None]
    clean = any(p.number("breakup_dbfs.3") is None and p.number("gain_db") is not None for p in probes)
    span = max(onsets) - min(onsets) if onsets and not clean else (0.0 - min(onsets) if onsets else None)
    rooms = [headroom_of(p) for p in probes]
    bounds = {"span": clean, "headroom": any(room is not None and bound for room, bound in rooms)}
    values = {
        "output": _mean([p.number("gain_db") for p in probes]),
        "headroom": _mean([room for room, _ in rooms]),
        "span": span if len(probes) > 1 else None,
        "tightness": _mean([p.number("low_tightness_ms") for p in probes]),
        "brightness": _mean([p.brightness_db for p in probes]),
    }
    rays = []
    for key, name, low, high, at_zero, at_one, unit in AXES:
        value = values[key]
        if value is None:
            never = key == "span" and clean and len(probes) > 1
            lacking = Said("never_breaks_up", f"{name}: none, it never breaks up") if never else \
                Said("not_measured", f"{name}: not measured")  # fmt: skip
            rays.append(Ray(key, name, None, lacking))
            continue
        place = min(1.0, max(0.0, (value - at_zero) / (at_one - at_zero)))
        code, word = (
            ("low", low)
            if place < LOW
            else ("high", high)
            if place > HIGH
            else ("between", f"between {low} and {high}")
        )
        told = round(value) or 0  # no minus before a zero
        numbers: dict[str, Number] = {"at_least": told} if bounds.get(key) else {"value": told}
        sign, number = ("≥ ", "{at_least}") if bounds.get(key) else ("", "{value}")
        rays.append(Ray(key, name, round(place, 3), said(code, f"{name}: {sign}{number} {unit}, {word}", **numbers)))
    return rays
