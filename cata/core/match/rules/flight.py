"""Rules that need the whole flight: one take whose tone departs from what its row and column predict."""

from __future__ import annotations

import warnings
from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from cata.core.match.finding import Finding, Picture, Series
from cata.core.measure.regions import THIRD_OCTAVES_HZ

MIN_CONTENDERS, MIN_TESTS = 3, 2
MIN_SHIFT_DB, TIMES_TYPICAL = 2.5, 4.0
SWEEPS = 8
USED_HZ = (100, 8000)
Floats = npt.NDArray[np.float64]


def residuals(bands: Floats) -> Floats:
    """What a row effect and a column effect leave of a table (contenders, tests, bands), by median polish.

    Missing takes are nan. Source: Tukey 1977, Exploratory Data Analysis, chapter 11.
    """
    left = bands.copy()
    with warnings.catch_warnings():
        # A cell without a take is nan in every band; its median is nan, which is right.
        warnings.filterwarnings("ignore", "All-NaN slice", RuntimeWarning)
        for _ in range(SWEEPS):
            left -= np.nanmedian(left, axis=1, keepdims=True)
            left -= np.nanmedian(left, axis=0, keepdims=True)
        # Spectra are taken at equal loudness, so more treble would also read as less of everything else.
        return np.asarray(left - np.nanmedian(left, axis=2, keepdims=True))


def _table(spectra: Mapping[tuple[int, int], Mapping[str, float | None]], used: Sequence[int]) -> Floats:
    rows = 1 + max(row for row, _ in spectra)
    columns = 1 + max(column for _, column in spectra)
    table = np.full((rows, columns, len(used)), np.nan)
    for (row, column), bands in spectra.items():
        table[row, column] = [np.nan if bands.get(str(hz)) is None else float(bands[str(hz)] or 0.0) for hz in used]
    return table


def tone_moved(
    spectra: Mapping[tuple[int, int], Mapping[str, float | None]],
    names: Mapping[tuple[int, int], str],
    take_of: Mapping[tuple[int, int], int],
) -> list[Finding]:
    """Takes whose third octaves differ from row and column by 2.5 dB and four times what is typical of this flight.

    ``spectra``, ``names`` and ``take_of`` are keyed by (contender, test). With one signal path a
    contender's difference from the others is the same in every test; a knob that was moved for one
    take breaks that. Where the contenders react to the playing (drives) the typical residual is
    itself large, and only a larger change is called.
    """
    rows, columns = {r for r, _ in spectra}, {c for _, c in spectra}
    if len(rows) < MIN_CONTENDERS or len(columns) < MIN_TESTS:
        return []
    used = [hz for hz in THIRD_OCTAVES_HZ if USED_HZ[0] <= hz <= USED_HZ[1]]
    left = residuals(_table(spectra, used))
    # A knob moves neighbouring bands together; hands do not.
    kernel = np.ones(5) / 5
    smooth = np.apply_along_axis(lambda v: np.convolve(np.nan_to_num(v), kernel, mode="same"), 2, left)
    size = {cell: float(np.max(np.abs(smooth[cell]))) for cell in spectra}
    found = []
    for cell, shift in size.items():
        others = [value for other, value in size.items() if other != cell]
        if shift < MIN_SHIFT_DB or shift < TIMES_TYPICAL * float(np.median(others)):
            continue
        centre = used[int(np.argmax(np.abs(smooth[cell])))]
        more = smooth[cell][used.index(centre)] > 0
        found.append(
            Finding(
                rule="tone_moved",
                severity="fault",
                text=(
                    f"{names[cell]} has {shift:.1f} dB {'more' if more else 'less'} around {centre} Hz "
                    "than its contender and its test explain."
                ),
                advice="Something besides the contender changed: compare the amplifier's knobs and the microphone.",
                take=take_of[cell],
                picture=Picture(
                    x=[float(hz) for hz in used],
                    series=[
                        Series(names[cell], [round(float(v), 2) for v in left[cell]]),
                        Series("typical of the others", [round(float(np.median(others)), 2)] * len(used)),
                    ],
                    x_label="Hz",
                    y_label="unexplained dB",
                    marks=[(float(centre), f"{shift:+.1f} dB" if more else f"{-shift:.1f} dB")],
                    log_x=True,
                ),
            )
        )
    return found
