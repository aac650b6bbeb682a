"""Clipping: runs of equal samples at a channel's own extreme.

A digital converter that is overdriven returns its largest code again and again. A low note also
rests on its crest for a few samples, but it arrives there in small steps; so a run counts only
when it is entered by a step.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from cata.core.clip import Audio
from cata.core.measure.material import Material
from cata.core.measure.outcome import SILENT, Number, Outcome, measured, refused
from cata.said import Said, said

FULL_SCALE = 0.9999
ENTRY_STEP = 8e-4
MIN_RUN, MIN_RUN_BELOW_FULL_SCALE = 3, 4


def runs_at_extreme(plane: Audio, sign: int, extreme: float) -> list[tuple[int, int]]:
    """The runs (start, length) of one channel at ``sign`` times its largest value of that sign."""
    if extreme <= 0:
        return []
    at_top = plane == np.float32(sign * extreme)
    if np.count_nonzero(at_top) < MIN_RUN:
        return []
    hits = np.flatnonzero(at_top)
    breaks = np.flatnonzero(np.diff(hits) > 1) + 1
    starts = hits[np.concatenate(([0], breaks))]
    lengths = np.diff(np.concatenate(([0], breaks, [hits.size])))
    least = MIN_RUN if extreme >= FULL_SCALE else MIN_RUN_BELOW_FULL_SCALE
    long = lengths >= least
    runs = []
    for start, length in zip(starts[long], lengths[long], strict=True):
        # Two samples before: the last one may lie by chance just under the ceiling.
        step = extreme - sign * float(plane[start - 2]) if start > 1 else extreme
        if step >= ENTRY_STEP * extreme:
            runs.append((int(start), int(length)))
    return runs


def overdriven(kind: Mapping[str, Number | str | None]) -> Said:
    """Why a recording with clipped runs cannot be measured."""
    runs = kind["runs"] or 0
    return said("clipped", "the interface was overdriven (flat tops: {runs}); turn its input down", runs=runs)


LOSSY = said("lossy", "a lossy file no longer shows its clipped runs")


def clipped(material: Material) -> Outcome:
    """{"runs", "samples", "kind"}: kind is "none", "clipped" (at full scale) or "flat top upstream".

    Refused for silence. Exact counts on a take as it came from the converter; a take that was
    resampled or coded with loss after clipping no longer shows its runs.
    """
    if material.silent:
        return refused(SILENT)
    runs = samples = 0
    at_full_scale = False
    for plane, (high, low) in zip(material.clip.distinct, material.clip.extremes, strict=True):
        for sign, extreme in ((1, high), (-1, -low)):
            found = runs_at_extreme(plane, sign, extreme)
            runs += len(found)
            samples += sum(length for _, length in found)
            at_full_scale |= bool(found) and extreme >= FULL_SCALE
    kind = "none" if not runs else "clipped" if at_full_scale else "flat top upstream"
    flag = LOSSY if material.lossy and not runs else None
    return measured({"runs": runs, "samples": samples, "kind": kind}, flag)
