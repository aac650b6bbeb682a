"""Volts at a device's input: what 0 dBFS of an interface comes out as, by its data sheet or by a meter."""

from __future__ import annotations

import math
import re

from cata.errors import Invalid

DBU_VOLTS = math.sqrt(0.6)
"""0 dBu is 1 mW in 600 ohms, 0.775 V RMS."""
LOWEST_DBU, HIGHEST_DBU = -40.0, 30.0
FORM = re.compile(r"^\s*([+-]?\d+(?:[.,]\d+)?)\s*(dbu|dbv|v|mv)\s*(?:rms)?\s*$", re.IGNORECASE)


def read_full_scale(text: str) -> float:
    """What a sine at 0 dBFS comes out as, in dBu: "+18 dBu", "12 dBV", "2.1 V" or "900 mV" RMS.

    Invalid for anything else, and for what no interface sends.
    """
    found = FORM.match(text.replace("\N{MINUS SIGN}", "-"))
    if found is None:
        raise Invalid(f"{text!r} is no output level: write +18 dBu, 12 dBV or 2.1 V", "bad_level")
    number, unit = float(found[1].replace(",", ".")), found[2].lower()
    if unit in ("v", "mv"):
        volts = number / (1000 if unit == "mv" else 1)
        dbu = 20 * math.log10(volts / DBU_VOLTS) if volts > 0 else -math.inf
    else:
        dbu = number + (20 * math.log10(1 / DBU_VOLTS) if unit == "dbv" else 0.0)
    if not LOWEST_DBU <= dbu <= HIGHEST_DBU:
        raise Invalid(f"{text.strip()} at 0 dBFS: no interface sends that", "bad_level")
    return dbu


def peak_volts(dbfs: float, full_scale_dbu: float) -> float:
    """Peak of a sine at the device's input, in volts, where one at 0 dBFS comes out as so many dBu."""
    return math.sqrt(2) * DBU_VOLTS * 10 ** ((full_scale_dbu + dbfs) / 20)


def in_volts(dbfs: float, full_scale_dbu: float) -> str:
    """The same for reading: "0.62 V peak"."""
    volts = peak_volts(dbfs, full_scale_dbu)
    return f"{1000 * volts:.0f} mV peak" if volts < 0.1 else f"{volts:.2f} V peak"
