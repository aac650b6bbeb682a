"""Two items against each other in words: what differs, sorted by how audible it is and how sure."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from cata.core.comparison import Doubt, compared
from cata.core.evidence.probe import REGION_BANDS, Probe, described
from cata.core.evidence.targets import ALL_KEPT_PERCENT, KEPT
from cata.core.measure.device.readings import COMPRESSION, DEVICE_READINGS, DeviceReading
from cata.core.measure.results import Result
from cata.said import Said, said

REGION_JND_DB = 1.5
MEASURED = Doubt(0.0, inf, True)
"""Nothing is played anew: what a device is measured by repeats within its band."""
PERCENT_PER_DB = 2.0
SKIPPED = (
    "delay_ms",
    "clock_ppm",
    "polarity",
    "thd_percent",
    "response_db",
    "harmonics_db",
    "chords_db",
    "compressor",
    "resonance",
)
UNTOLD = Said("untold", "no difference you can trust")
PARTS = {"breakup_dbfs": ("3",), "played_breakup_dbfs": ("3",)}


@dataclass(frozen=True)
class Difference:
    """One difference: both values, how many just-noticeable steps, whether it stands over both bands, what is told.

    Codes: more and less, of the second against the first; untold where nothing can be trusted or heard.
    """

    key: str
    name: str
    first: str
    second: str
    said: Said
    steps: float
    sure: bool
    audible: bool


def _steps(reading: DeviceReading, first: float, second: float) -> float:
    if reading.jnd is None:
        return 0.0
    if reading.jnd_factor:
        if min(first, second) <= 0:
            return 0.0
        return abs(math.log(second / first)) / math.log(reading.jnd)
    return abs(second - first) / reading.jnd


def differences(first: Probe, second: Probe, names: tuple[str, str]) -> list[Difference]:
    """All differences between two items at one setting each, the most audible sure ones first."""
    found = []
    for reading in (*DEVICE_READINGS, *COMPRESSION):
        if reading.key in SKIPPED:
            continue
        for part in PARTS.get(reading.key, ("",)):
            key = f"{reading.key}.{part}" if part else reading.key
            a, b = (KEPT.of(one) if key == KEPT.key else one.number(key) for one in (first, second))
            if a is None or b is None or a == b == ALL_KEPT_PERCENT:
                continue
            if reading.key == "breakup_dbfs" and (apart := _apart_dbu(first, second)) is not None:
                b += apart
            results = [probe.results.get(key) for probe in (first, second)]
            bands = [(one.band if one else None) or 0.0 for one in results]
            way, word = ("more", reading.more) if b > a else ("less", reading.less)
            gap = described(reading, abs(b - a)).lstrip("+").replace("dBFS", "dB")
            if reading.jnd_factor and min(a, b) > 0:
                gap = f"{max(a, b) / min(a, b):.1f} times"
            told = Said(way, f"{names[1]}: {word} ({gap})", {"by": abs(b - a)})
            found.append(_difference(key, reading.name, described(reading, a), described(reading, b), told,
                                     _steps(reading, a, b),
                                     _beyond(b - a, bands) and not _open(a, b, results)))  # fmt: skip
    for region in REGION_BANDS:
        a, b = first.region_db(region), second.region_db(region)
        if a is not None and b is not None:
            more = "more" if b > a else "less"
            bands = [first.region_band(region), second.region_band(region)]
            found.append(_difference(f"region.{region}", region.capitalize(), _signed(a), _signed(b),
                                     said(more, "{who}: {way} {region} ({by:.1f} dB)", who=names[1], way=more,
                                          region=region, by=abs(b - a)),
                                     abs(b - a) / REGION_JND_DB, _beyond(b - a, bands)))  # fmt: skip
    return sorted(found, key=lambda d: (d.sure and d.audible, d.steps), reverse=True)


def _apart_dbu(first: Probe, second: Probe) -> float | None:
    """By how much more the second's interface sent at one level; None where either was not calibrated."""
    if first.full_scale_dbu is None or second.full_scale_dbu is None:
        return None
    return second.full_scale_dbu - first.full_scale_dbu


def _beyond(amount: float, bands: Sequence[float]) -> bool:
    """Whether the bands of both hardly make such a difference."""
    return compared(amount, 0.0, MEASURED, (bands[0], bands[1])).trusted


def _signed(value: float) -> str:
    return f"{value:+.1f} dB".replace("-", "−")


def _difference(key: str, name: str, first: str, second: str, told: Said, steps: float, sure: bool) -> Difference:
    audible = steps >= 1.0
    if not audible or not sure:
        told = UNTOLD
    return Difference(key, name, first, second, told, round(steps, 2), sure, audible)


def _open(first: float, second: float, results: Sequence[Result | None]) -> bool:
    """True where the values are bounds that leave open which of the two is the larger."""
    bounds = [one.bound if one else None for one in results]
    lower, upper = bounds if first < second else bounds[::-1]
    return lower == "at_least" or upper == "at_most"


def nearest_pair(firsts: Sequence[Probe], seconds: Sequence[Probe]) -> tuple[Probe, Probe] | None:
    """The settings of two items whose gain, breakup and squeeze lie nearest: the fairest to compare."""
    pairs = [(a, b) for a in firsts for b in seconds]
    if not pairs:
        return None

    def apart(pair: tuple[Probe, Probe]) -> float:
        total = 0.0
        for key, missing in (("breakup_dbfs.3", 10.0), ("gain_db", -40.0)):
            values = [p.number(key) for p in pair]
            a, b = (missing if v is None else v for v in values)
            total += abs(a - b)
        kept = [KEPT.of(p) for p in pair]
        if None not in kept:
            total += abs((kept[0] or 0.0) - (kept[1] or 0.0)) / PERCENT_PER_DB
        return total

    return min(pairs, key=apart)
