"""Which one more take would tell most about a rig: how often it brings another rig to the first place.

Preposterior analysis over draws of what the parts' fits could be: what one take would show of a part moves the fit of
every rig by as much as the two move together in the draws (a linear regression; Strong, Oakley and Brennan 2014).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from cata.core.choose.next import LEAST_GAIN, NEVER_PLAYED, WORTH, Tells
from cata.core.rig.parts import Problem
from cata.core.rig.shares import Fits

Counts = Mapping[tuple[int, str], int]
"""How many takes there are of an item for a sound."""


def next_for_rig(
    problem: Problem, values: Sequence[Sequence[float]], draws: Sequence[Fits], counts: Counts
) -> Tells | None:
    """The most telling take of all that could be played; None where none is worth it.

    ``values`` are what the rigs are worth, draw by draw.
    """
    fits = np.array(values)
    if len(fits) < 2 or fits.shape[1] < 2:
        return None
    means = fits.mean(axis=0)
    first = int(means.argmax())
    part_of = {part.item: part.ident for part in problem.parts}
    best: Tells | None = None
    for (item, sound), count in counts.items():
        if item not in part_of:
            continue
        shown = np.array([one.get(part_of[item], {}).get(sound, 0.0) for one in draws])
        off = shown - shown.mean()
        variance = float(off @ off)
        if variance <= 0:
            continue
        settled = NEVER_PLAYED if count == 0 else 1 / (count + 1)
        could = means + settled**0.5 * np.outer(off, off @ (fits - means) / variance)
        changed = float((could.argmax(axis=1) != first).mean())
        gain = float(could.max(axis=1).mean() - means[first])
        if changed >= WORTH and gain >= LEAST_GAIN and (best is None or gain > best.gain):
            best = Tells(item, sound, changed, gain, count > 0)
    return best
