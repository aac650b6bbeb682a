"""The interface alone: a recording with a cable in the device's place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.clip import Clip
from cata.core.measure.device import lingering, responses, steady, stepped, sweeps, tones
from cata.core.measure.device.report import number
from cata.core.measure.device.returned import Returned, Sent, Unusable, read_returned
from cata.said import Said

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Loop:
    """What the interface alone does: its recording, its response, distortion, noise, delay and polarity."""

    returned: Returned
    swept: sweeps.Swept | None
    thd: Floats | None
    gain_db: float | None
    noise_dbfs: float
    polarity: int


def read_sweeps(answer: Returned, file: Sent) -> list[sweeps.Swept]:
    """Every sweep of a recording that stands out of its noise."""
    density = sweeps.noise_density(steady.silence(answer))
    found = [sweeps.read_sweep(answer, section, density, file.level_db) for section in file.plan.of("sweep")]
    return [one for one in found if isinstance(one, sweeps.Swept)]


def _of_loop(why: Said) -> Unusable:
    return Unusable(f"the loop-back: {why.words}", f"loopback_{why.code}", **why.numbers)


def read_loop(clip: Clip, file: Sent) -> Loop:
    """What a loop-back shows; Unusable, saying that it is the loop-back, where it shows nothing."""
    try:
        answer = read_returned(clip, file)
    except Unusable as error:
        raise _of_loop(error.said) from error
    reason = lingering.echo(answer) or steady.too_noisy(answer) or steady.moving(answer)
    if reason:
        raise _of_loop(reason)
    swept = read_sweeps(answer, file)
    best = responses.most_linear(swept)[0] if swept else None
    section = file.plan.named("tones-main")
    ladder = stepped.read_ladder(answer, section, file.level_db) if section else None
    gain = tones.small_signal_db(ladder) if ladder else None
    sign = responses.polarity(best).value if best else None
    return Loop(answer, best, ladder.thd if ladder else None, number(gain) if gain else None,
                steady.noise_dbfs(answer), int(sign) if isinstance(sign, int) else 1)  # fmt: skip
