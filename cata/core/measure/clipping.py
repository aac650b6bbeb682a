"""Clipping: runs of equal samples at a channel's own extreme.

A digital converter that is overdriven returns its largest code again and again. A low note also
rests on its crest for a few samples, but it arrives there in small steps; so a run counts only
when it is entered by a step.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np

from cata.core.clip import BLOCK, Audio, Clip
from cata.core.measure.material import Material
from cata.core.measure.outcome import SILENT, Number, Outcome, measured, refused
from cata.said import Said, said

FULL_SCALE = 0.9999
ENTRY_STEP = 8e-4
LEAST = 1e-3
"""Below -60 dBFS the steps of a 16-bit converter are as tall as that of a clipped top: dither rests on them."""
MIN_RUN, MIN_RUN_BELOW_FULL_SCALE = 3, 4


class Run(NamedTuple):
    """Samples of a channel that rest at its own extreme: where they start, how many, and the extreme's size."""

    channel: int
    start: int
    length: int
    extreme: float


def runs_of(clip: Clip) -> Iterator[Run]:
    """The runs of every distinct channel, at its largest and at its smallest value."""
    for channel, (high, low) in enumerate(zip(*clip.block_extremes, strict=True)):
        for sign, tops in ((1, high), (-1, -low)):
            yield from _runs_at(clip.distinct[channel], channel, sign, tops)


def _runs_at(plane: Audio, channel: int, sign: int, tops: Audio) -> Iterator[Run]:
    extreme = float(tops.max(initial=0.0))
    if extreme < LEAST:
        return
    # Only the blocks of 512 samples that reach the extreme are looked at.
    ceiling = np.float32(sign * extreme)
    blocks = np.flatnonzero(tops == tops.max()) * BLOCK
    hits = np.concatenate([first + np.flatnonzero(plane[first : first + BLOCK] == ceiling) for first in blocks])
    breaks = np.flatnonzero(np.diff(hits) > 1) + 1
    starts = hits[np.concatenate(([0], breaks))]
    lengths = np.diff(np.concatenate(([0], breaks, [hits.size])))
    long = lengths >= (MIN_RUN if extreme >= FULL_SCALE else MIN_RUN_BELOW_FULL_SCALE)
    for start, length in zip(starts[long], lengths[long], strict=True):
        # Two samples before: the last one may lie by chance just under the ceiling.
        step = extreme - sign * float(plane[start - 2]) if start > 1 else extreme
        if step >= ENTRY_STEP * extreme:
            yield Run(channel, int(start), int(length), extreme)


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
    for run in runs_of(material.clip):
        runs += 1
        samples += run.length
        at_full_scale |= run.extreme >= FULL_SCALE
    kind = "none" if not runs else "clipped" if at_full_scale else "flat top upstream"
    flag = LOSSY if material.lossy and not runs else None
    return measured({"runs": runs, "samples": samples, "kind": kind}, flag)
