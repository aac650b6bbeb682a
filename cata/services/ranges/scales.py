"""The ranges of a brief in words, with what the shelf shows on them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.brief import Sound, Target
from cata.core.choose.fit import fit_of, halves_of
from cata.core.choose.takes import Known, jnd_at
from cata.core.choose.words import range_in_words
from cata.core.measure.registry import BY_KEY
from cata.services.choice.choosing import stand
from cata.services.choice.standing import Standing
from cata.services.ranges.views import PlayedView, SoundScale, TargetScale
from cata.services.workspace import Workspace

Shown = Sequence[tuple[str, Known]]


def get_scales(ws: Workspace, brief_id: int, kind: str = "") -> list[SoundScale]:
    """Every sound of a brief: what each range asks for, and where the items of a kind stand."""
    here = stand(ws, kind, brief_id)
    names = {ident: one.name for ident, one in here.offered.items()} | here.gathered.rows
    return [
        SoundScale(
            key=sound.key, targets=[_scale(target, _shown(here, names, sound, target)) for target in sound.targets]
        )
        for sound in here.need.sounds
    ]


def _shown(here: Standing, names: Mapping[int, str], sound: Sound, target: Target) -> Shown:
    """What everybody shows of a target."""
    known = [(name, here.whole.known(ident, sound.key, target)) for ident, name in names.items()]
    return [(name, one) for name, one in known if one is not None]


def _scale(target: Target, shown: Shown) -> TargetScale:
    reading = BY_KEY[target.reading]
    played = [
        PlayedView(name=name, value=round(one.value, 3), fit=round(fit_of(target, one.value, one.jnd)[0], 3))
        for name, one in sorted(shown, key=lambda pair: pair[1].value)
    ]
    ends = [end for end in (target.low, target.high) if end is not None]
    step = jnd_at(target, ends[0] if ends else max((abs(one.value) for _, one in shown), default=0.0))
    below, above = halves_of(target, step)
    unit = reading.step_unit if target.against else reading.unit
    return TargetScale(words=range_in_words(target).words, half_below=below, half_above=above, step=step, unit=unit,
                       decimals=reading.decimals, played=played)  # fmt: skip
