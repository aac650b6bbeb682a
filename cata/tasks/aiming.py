"""Takes held against a sound that somebody is after."""

from __future__ import annotations

from dataclasses import dataclass

from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.core.together.aim import Aimed, aim
from cata.media.decode import Limits, decode
from cata.tasks.beds import MOST_S
from cata.tasks.desk import Desk
from cata.tasks.shape import Task

DYNAMICS = ("drive_density", "level_spread_db", "sustain", "loudness_lufs", "true_peak_dbtp")


@dataclass(frozen=True)
class ToAim:
    """Listening copies of takes and of a target."""

    takes: tuple[str, ...]
    target: str


@dataclass(frozen=True)
class Held:
    """Each take against the target, and what is read of the target itself."""

    aimed: tuple[Aimed, ...]
    target: Results


def hold(wish: ToAim, desk: Desk) -> Held:
    """Hold takes against a target."""
    with desk.reading(wish.target) as path:
        target = decode(path, Limits(max_duration_s=MOST_S)).clip
    takes = []
    for file in wish.takes:
        with desk.reading(file) as path:
            takes.append(decode(path).clip)
    return Held(tuple(aim(takes, target)), analyse_material(Material(target), DYNAMICS))


AIM = Task("aim", hold, limit_s=300)
