"""Error bands: how far two measurements of the same device may differ through noise alone.

The noise of a recording is measured between the harmonics and in its silence. The same noise is added again, many
times over, and every reading is taken from each: what then scatters is what a repeat would scatter.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

DRAWS = 48
TWO_OF_A_KIND = 1.96 * 2**0.5
"""19 of 20 differences between two values of one normal scatter lie within so many of its standard deviations."""
FEW = 1.06
"""A standard deviation from 48 draws is itself uncertain: this keeps 19 in 20."""
ROUNDING = 1e-4
Floats = npt.NDArray[np.float64]


def band(values: Sequence[float | None]) -> float | None:
    """The difference that two repeats keep within 19 times in 20; None where some draws gave no value."""
    given = np.array([value for value in values if value is not None], dtype=float)
    if len(given) < 0.9 * len(values) or len(given) < 8:
        return None
    spread = float(np.std(given, ddof=1))
    # A few draws that fell over a step must not make the band; nor may they be left out of it.
    middle = float(np.percentile(given, 84.13) - np.percentile(given, 15.87)) / 2
    return TWO_OF_A_KIND * FEW * max(spread, middle) + ROUNDING


def draws(read: Callable[[np.random.Generator], dict[str, float | None]], count: int = DRAWS) -> dict[str, float]:
    """Bands by key of what ``read`` gives with noise added anew, ``count`` times; keys without a band are left out."""
    rng = np.random.default_rng(20)
    found = [read(rng) for _ in range(count)]
    keys = {key for one in found for key in one}
    bands = {key: band([one.get(key) for one in found]) for key in sorted(keys)}
    return {key: value for key, value in bands.items() if value is not None}


def scatter(shape: tuple[int, ...], power: Floats, rng: np.random.Generator) -> npt.NDArray[np.complex128]:
    """Complex Gaussian noise of a mean power |z|², broadcast to ``shape``."""
    root = np.sqrt(np.maximum(power, 0.0) / 2)
    return np.asarray(root * (rng.standard_normal(shape) + 1j * rng.standard_normal(shape)))
