"""A probe: one recording of the test file through an item, at one setting of its knobs. No numpy."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

from cata.core.measure.device.readings import BY_KEY, NOMINAL_DBFS, DeviceReading
from cata.core.measure.device.volts import in_volts
from cata.core.measure.outcome import BOUND_SIGNS
from cata.core.measure.regions import REGIONS, THIRD_OCTAVES_HZ
from cata.core.measure.results import Results

BRIGHT_BANDS = ("2000", "2500", "3150", "4000", "5000")
BODY_BANDS = ("200", "250", "315", "400", "500", "630", "800")
REGION_BANDS: Mapping[str, tuple[str, ...]] = {
    region.word: tuple(str(hz) for hz in THIRD_OCTAVES_HZ if 1.02 * region.low_hz <= hz <= 1.05 * region.high_hz)
    for region in REGIONS
}
BODY_REGIONS = ("low mids", "mids", "upper mids", "presence")
"""Where a guitar always sounds: its lowest and its highest octave drown first."""
SAME_POSITION = 0.02


@dataclass(frozen=True)
class Probe:
    """What was read of an item at knob positions (key to 0..1); ``name`` says the setting in the knobs' own scales."""

    ident: int
    name: str
    settings: Mapping[str, float]
    results: Results = field(default_factory=Results)
    pictures: Mapping[str, Sequence[Sequence[float]]] = field(default_factory=dict)
    nominal_dbfs: float = NOMINAL_DBFS
    """Everyday playing, as it was counted for these readings."""
    full_scale_dbu: float | None = None
    """What the interface sent at 0 dBFS; None where nobody knows."""

    def number(self, key: str) -> float | None:
        """A reading or one part of it ("breakup_dbfs.3"), None where it was refused."""
        return self.results.number(key)

    def mean_of(self, bands: Sequence[str]) -> float | None:
        """Mean gain in dB over some third octaves of the response; None where one of them was refused."""
        values = [v for band in bands if (v := self.number(f"response_db.{band}")) is not None]
        return sum(values) / len(values) if len(values) == len(bands) else None

    def gain_in(self, region: str) -> float | None:
        """Gain in a region in dB."""
        return self.mean_of(REGION_BANDS[region])

    @property
    def brightness_db(self) -> float | None:
        """2 to 5 kHz against 200 to 800 Hz of the response."""
        bright, body = self.mean_of(BRIGHT_BANDS), self.mean_of(BODY_BANDS)
        return None if bright is None or body is None else bright - body

    def region_db(self, region: str) -> float | None:
        """Gain of a region against the body of the sound, so that level does not count."""
        own, body = self.gain_in(region), self.body_db
        return None if own is None or body is None else own - body

    def region_band(self, region: str) -> float:
        """The band of :meth:`region_db` in dB, from those of its third octaves and the body's, each with its noise."""
        bands = self.results.bands
        own = [bands.get(f"response_db.{band}", 0.0) / len(REGION_BANDS[region]) for band in REGION_BANDS[region]]
        body = [
            bands.get(f"response_db.{band}", 0.0) / len(REGION_BANDS[name]) / len(BODY_REGIONS)
            for name in BODY_REGIONS
            for band in REGION_BANDS[name]
        ]
        return math.hypot(*own, *body)

    @property
    def body_db(self) -> float | None:
        """Mean gain in dB of the regions where a guitar always sounds."""
        gains = [gain for name in BODY_REGIONS if (gain := self.gain_in(name)) is not None]
        return sum(gains) / len(gains) if len(gains) == len(BODY_REGIONS) else None


def described(reading: DeviceReading, value: float) -> str:
    """A value with its unit."""
    value = round(value, reading.decimals) or 0.0  # no minus before a zero
    sign = "+" if reading.signed and reading.unit == "dB" and value > 0 else ""
    return f"{sign}{value:.{reading.decimals}f} {reading.unit}".replace("-", "−").strip()


def figure(probe: Probe, key: str, word: str = "") -> dict[str, Any] | None:
    """A number for showing: what it is, its text, band, bound, doubt and a word; None where the probe lacks it."""
    value = probe.number(key)
    if value is None:
        return None
    name, _, part = key.partition(".")
    if key in BY_KEY:
        part = ""
    reading = BY_KEY.get(key) or BY_KEY[name]
    whole = probe.results[name]
    # A part says more than the whole it belongs to.
    own = probe.results.get(key, whole)
    flag, bound = own.flag or whole.flag, own.bound or whole.bound
    return {
        "key": name,
        "name": reading.name + (f", {part} %" if name == "breakup_dbfs" else f", {part}" if part else ""),
        "value": value,
        "unit": reading.unit,
        "text": BOUND_SIGNS[bound] + described(reading, value) + _at_input(probe, name, value),
        # How well it repeats, not how right it is; too small to show at the precision of the value it says nothing.
        "band": f"repeats within {own.band:.{reading.decimals}f}"
        if own.band and own.band >= 0.5 * 10**-reading.decimals
        else None,
        "bound": bound,
        "flag": asdict(flag) if flag else None,
        "doubt": flag.words if flag else "",
        "word": word,
        "about": reading.about,
        "grade": whole.evidence,
    }


def _at_input(probe: Probe, name: str, value: float) -> str:
    """What a level that was sent is in volts at the device; of an interface that nobody calibrated, that it is its."""
    if name != "breakup_dbfs":
        return ""
    if probe.full_scale_dbu is None:
        return ", by this interface"
    return f", {in_volts(value, probe.full_scale_dbu)} at its input"


def same_but(one: Probe, other: Probe, keys: Sequence[str]) -> bool:
    """True where two probes differ in these knobs only."""
    everything = {*one.settings, *other.settings} - set(keys)
    return all(abs(one.settings.get(k, 0.5) - other.settings.get(k, 0.5)) <= SAME_POSITION for k in everything)
