"""The ranges of a brief in words, with what the shelf shows on them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cached_property
from statistics import median

from sqlmodel import Session, col, select

from cata.core.brief import Sound, Target
from cata.core.choose.fit import fit_of, halves_of
from cata.core.choose.takes import Known, jnd_at
from cata.core.choose.words import range_in_words
from cata.core.measure.registry import BY_KEY
from cata.services.choice.choosing import Compared, compare
from cata.services.choice.shelf import stand
from cata.services.choice.standing import Standing
from cata.services.ranges.views import PlayedView, SoundScale, TargetScale
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Flight, Take

Shown = Sequence[tuple[str, Known]]


def get_scales(ws: Workspace, brief_id: int, kind: str = "") -> list[SoundScale]:
    """Every sound of a brief: what each range asks for, and where the items of a kind stand.

    Where nothing of the shelf was played for a sound: contenders of the newest flight, in tests that stand for none.
    """
    ground = _Ground(ws, stand(ws, kind, brief_id), brief_id)
    return [
        SoundScale(key=sound.key, targets=[_scale(target, ground.shown(sound, target)) for target in sound.targets])
        for sound in ground.here.need.sounds
    ]


class _Ground:
    """Where values of a brief's ranges come from: the whole shelf, else a flight."""

    def __init__(self, ws: Workspace, here: Standing, brief_id: int) -> None:
        self._ws, self.here, self._brief_id = ws, here, brief_id

    def shown(self, sound: Sound, target: Target) -> Shown:
        """What everybody shows of a target."""
        names = {ident: item.name for ident, item in self.here.items.items()} | self.here.gathered.rows
        known = [(name, self.here.whole.known(ident, sound.key, target)) for ident, name in names.items()]
        return [(name, one) for name, one in known if one is not None] or list(self._of_flight(sound, target))

    def _of_flight(self, sound: Sound, target: Target) -> Iterable[tuple[str, Known]]:
        if self._flight is None:
            return
        ground = self._flight.ground
        for contender in self._flight.contenders:
            mine = [ground.known(contender.id, test, target) for test in ground.tests_for(sound)[0]]
            known = sorted((one for one in mine if one is not None), key=lambda one: one.value)
            if known:
                middle = median(one.value for one in known)
                yield contender.name, min(known, key=lambda one: abs(one.value - middle))

    @cached_property
    def _flight(self) -> Compared | None:
        with self._ws.reading() as session:
            ident = _played(session, self._brief_id)
        return None if ident is None else compare(self._ws, ident, self.here.need)


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


def _played(session: Session, brief_id: int) -> int | None:
    """The newest flight with readings that stands for the brief, else the newest of all."""
    statement = (
        select(Flight.id)
        .join(Take, col(Take.flight_id) == Flight.id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(col(Take.test_id).is_not(None))
        .order_by((col(Flight.brief_id) == brief_id).desc(), col(Flight.id).desc())
    )
    return session.exec(statement.limit(1)).first()
