"""Where a guitar sounds: six regions, and third octaves of IEC 61260-1. Said here once."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Region:
    """A region of the spectrum: its key, plain name, and edges in Hz."""

    key: str
    word: str
    low_hz: float
    high_hz: float

    @property
    def name(self) -> str:
        """The word with its edges: "upper mids, 1–2.5 kHz"."""
        if self.low_hz >= 1000:
            return f"{self.word}, {self.low_hz / 1000:g}–{self.high_hz / 1000:g} kHz"
        return f"{self.word}, {self.low_hz:g}–{self.high_hz:g} Hz"


REGIONS = (
    Region("lows", "lows", 60.0, 150.0),
    Region("low_mids", "low mids", 150.0, 400.0),
    Region("mids", "mids", 400.0, 1000.0),
    Region("upper_mids", "upper mids", 1000.0, 2500.0),
    Region("presence", "presence", 2500.0, 5000.0),
    Region("air", "air", 5000.0, 12000.0),
)
LOWEST_HZ, HIGHEST_HZ = REGIONS[0].low_hz, REGIONS[-1].high_hz
EDGES_HZ = [LOWEST_HZ, *(region.high_hz for region in REGIONS)]

# Nominal centres; the exact ones are 1000 * 10^(n/10), edges half a band either side.
THIRD_OCTAVES_HZ = (
    63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300,
    8000, 10000, 12500,
)  # fmt: skip
FIRST_BAND = -12


def band_edges(nominal_hz: int) -> tuple[float, float]:
    """Exact edges in Hz of a third octave named by its nominal centre."""
    n = FIRST_BAND + THIRD_OCTAVES_HZ.index(nominal_hz)
    return 1000.0 * 10 ** ((n - 0.5) / 10), 1000.0 * 10 ** ((n + 0.5) / 10)
