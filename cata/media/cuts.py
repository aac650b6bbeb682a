"""Short cuts of a listening copy, without decoding the rest of it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from cata.core.clip import Audio
from cata.core.match.features import Cut, Mix, carried, slice_of


def cut_of(copy: Path, mix: Mix) -> Cut:
    """Cuts of the carrier of a take from its listening copy."""

    def cut(start: int, length: int) -> Audio:
        with soundfile.SoundFile(str(copy)) as file:
            first = min(max(start, 0), file.frames)
            file.seek(first)
            wanted = max(0, min(start + length, file.frames) - first)
            samples = file.read(wanted, dtype="float32", always_2d=True).T
        return slice_of(carried(np.ascontiguousarray(samples), mix), start - first, length)

    return cut
