"""The share of drive in a take, read off the ladder of its test's cleanest take."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cata.core.drive.grain import Floats, Grain
from cata.core.drive.ladder import Ladder, Rung

# What two performances of one clean phrase differ by, as standard deviations of the grain's values and their
# correlations: six phrases of sampled guitar, played anew some 800 times with human scatter (docs/measures.md).
SCATTER = np.array([0.0082, 0.0075, 0.235, 0.303, 0.244, 0.359, 0.459])
ALIKE = np.array([
    [1.00, 0.76, 0.11, 0.02, 0.00, -0.11, 0.10],
    [0.76, 1.00, 0.32, 0.17, 0.21, 0.10, 0.07],
    [0.11, 0.32, 1.00, 0.67, 0.53, 0.25, 0.38],
    [0.02, 0.17, 0.67, 1.00, 0.67, 0.18, 0.60],
    [0.00, 0.21, 0.53, 0.67, 1.00, 0.65, 0.40],
    [-0.11, 0.10, 0.25, 0.18, 0.65, 1.00, -0.17],
    [0.10, 0.07, 0.38, 0.60, 0.40, -0.17, 1.00],
])  # fmt: skip
OTHER_CLIPPERS = 0.03
"""What a clipper that is none of the ladder's may differ by, as a share of the whole ladder."""
OFF_AT_LEAST, OFF_SHARE = 0.012, 0.10
"""Standard deviation of what is read off devices of other structures: at no drive, and per share."""
FINE = 120
FLAT_SD = 0.08
FIT, NO_FIT = 2.0, 4.0
"""How many standard deviations the best place may be off before doubt grows, and before there is no place."""
AS_CLEAN = 1.5


@dataclass(frozen=True)
class Share:
    """How much of a take's power no linear filter of its dry signal explains, 0 to 1, with its standard deviation.

    ``off``: how many standard deviations its grain lies off the ladder.
    """

    value: float
    sd: float
    off: float = 0.0

    @property
    def flat(self) -> bool:
        """True where the ladder does not tell."""
        return self.sd > FLAT_SD + OFF_SHARE * self.value

    @property
    def strange(self) -> bool:
        """True where no clipper of the ladder fills a take like that."""
        return self.off > NO_FIT


def read_off(ladder: Ladder, grain: Grain) -> Share:
    """Where on a ladder a take of the same test stands.

    Every place of every run is weighed by how well its grain explains the take's, given what two performances of
    one phrase differ by and that the clipper may be another; all shares are equally likely before.
    """
    ladder = ladder.seen_through(grain)
    values = np.array([rung.grain.values for run in ladder.runs for rung in run])
    whole = np.abs(values.max(axis=0) - ladder.foot.grain.values)
    # Both takes were played: their difference has twice the variance.
    doubt = 2 * ALIKE * SCATTER * SCATTER[:, None] + np.diag(np.square(OTHER_CLIPPERS * whole))
    precision = np.linalg.inv(doubt)
    foot = ladder.foot.grain.values
    seen = grain.values
    if np.all(seen - foot < AS_CLEAN * np.sqrt(np.diag(doubt))):
        # Less filled than the foot, in whatever way, is as clean as it.
        seen = np.maximum(seen, foot)
    shares, weights, best = [], [], -np.inf
    for run in ladder.runs:
        at, share = _places(ladder.foot, run, grain)
        miss = at - seen
        fits = -0.5 * np.einsum("ij,jk,ik->i", miss, precision, miss)
        shares.append(share)
        best = max(best, float(fits.max()))
        weights.append(fits + np.log(np.gradient(share) + 1e-4))
    places, logs = np.concatenate(shares), np.concatenate(weights)
    weight = np.exp(logs - logs.max())
    weight /= weight.sum()
    value = float(weight @ places)
    within = float(weight @ np.square(places - value))
    off = float(np.sqrt(-2 * best))
    sd = float(np.sqrt(within + (OFF_AT_LEAST + OFF_SHARE * value) ** 2)) * max(1.0, off / FIT)
    return Share(value, sd, off)


def _places(foot: Rung, run: tuple[Rung, ...], grain: Grain) -> tuple[Floats, Floats]:
    """Grain values and shares of places between the rungs of a run, its foot first."""
    values = np.array([foot.grain.values, *(rung.grain.values for rung in run)])
    share = np.maximum.accumulate([0.0, *(rung.share(grain.colour) for rung in run)])
    rungs = np.arange(len(values))
    fine = np.linspace(0, len(values) - 1, FINE)
    at = np.stack([np.interp(fine, rungs, column) for column in values.T], axis=1)
    return at, np.interp(fine, rungs, share)
