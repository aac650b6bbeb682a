"""What is said of items that were measured, played or both, on simulated shelves of known truth."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field
from math import sqrt
from typing import Literal

import numpy as np
import pytest

from cata.core.brief import Need, Sound, Target
from cata.core.choose.between import Travel, travels
from cata.core.choose.evidence import Asked, Evidence, asked_of, trait_of
from cata.core.choose.fit import fit_of
from cata.core.choose.ranking import Candidate, rank_on
from cata.core.choose.takes import HEARD_SHARE, jnd_at
from cata.core.choose.whole import Whole
from cata.core.evidence.carrying import carried_by
from cata.core.pool.seen import NOTHING, TEST_FILE, Seen

How = Literal["measured", "played", "both"]
TARGETS = [
    Target(reading="equivalent_drive", part="percent", low=12, high=24),
    Target(reading="harshness_db", low=-4, high=2, against="reference"),
    Target(reading="regions_db", part="mids", low=0, high=4, against="reference"),
    Target(reading="tilt_db_per_oct", low=-1, high=0.5, against="reference"),
    Target(reading="level_spread_db", low=-6, high=-1, against="reference"),
]
SOUND = Sound(key="x", name="X", targets=TARGETS)
NEED = Need(sounds=[SOUND])
MEASURED_AT = (0.0, 0.5, 1.0)
REPEAT_JNDS, SHELVES = 0.7, 200


@dataclass
class Shelf:
    """Items with one knob, what each really does over its travel, and what was seen of it."""

    chance: random.Random
    how: dict[int, How]
    truth: dict[tuple[int, Asked], Callable[[float], float]] = field(default_factory=dict)
    seen: dict[Asked, list[Seen]] = field(default_factory=dict)
    settings: dict[str, dict[str, float]] = field(default_factory=dict)
    nodes: dict[int, list[str]] = field(default_factory=dict)

    def fill(self) -> None:
        """Lay out the settings, then draw truth and what is seen of it, reading by reading."""
        for ident, how in self.how.items():
            at = [*(MEASURED_AT if how != "played" else ()), *([0.3] if how != "measured" else ())]
            mine = {f"{ident}@{one}": {"drive": one} for one in at}
            self.nodes[ident], self.settings = list(mine), self.settings | mine
        spread = self.chance.choice((1.0, 2.0, 4.0))
        for target in TARGETS:
            asked, jnd = asked_of(SOUND, target), jnd_at(target, 10.0)
            for ident in self.how:
                self.truth[ident, asked] = self._curve(target, spread * jnd)
            self.seen[asked] = [*self._on_the_bench(target, asked, jnd), *self._in_flights(target, asked, jnd)]

    def _curve(self, target: Target, spread: float) -> Callable[[float], float]:
        bend = self.chance.uniform(0.6, 2.0)
        if target.reading == "equivalent_drive":
            low, more = abs(self.chance.gauss(0, 5)), abs(self.chance.gauss(0, 40))
        else:
            low, more = self.chance.gauss(0, spread), self.chance.gauss(0, spread)
        return lambda at: low + more * at**bend

    def _on_the_bench(self, target: Target, asked: Asked, jnd: float) -> list[Seen]:
        carried, sd = carried_by(target), HEARD_SHARE * jnd
        assert carried is not None
        found = [Seen(NOTHING, TEST_FILE, TEST_FILE, 0.0, sd)]
        for ident in (one for one, how in self.how.items() if how != "played"):
            moved = self.chance.gauss(0, carried.item_sd)
            for at in MEASURED_AT:
                value = self.truth[ident, asked](at) + moved + self.chance.gauss(0, carried.setting_sd)
                found.append(Seen(f"{ident}@{at}", TEST_FILE, TEST_FILE, value, sd, family=str(ident),
                                  transfer_sd=carried.item_sd, setting_sd=carried.setting_sd))  # fmt: skip
        return found if len(found) > 1 else []

    def _in_flights(self, target: Target, asked: Asked, jnd: float) -> list[Seen]:
        found, trait, sd = [], trait_of(target), REPEAT_JNDS * jnd
        for flight in ("0", "1"):
            moved = self.chance.gauss(0, trait.cell_sd or 20.0)
            for ident in (one for one, how in self.how.items() if how != "measured" and (one % 2 == int(flight))):
                rig = self.chance.gauss(0, trait.transfer_sd)
                value = self.truth[ident, asked](0.3) + rig + moved + self.chance.gauss(0, sd)
                found.append(Seen(f"{ident}@0.3", flight, f"{flight}/0", value, sd, family=str(ident)))
            if target.against:
                found.append(Seen(NOTHING, flight, f"{flight}/0", moved + self.chance.gauss(0, sd), sd))
        return found

    @property
    def travels(self) -> dict[int, Travel]:
        """What can be asked between the settings of each measured item."""
        at = {ident: {node: self.settings[node] for node in self.nodes[ident]} for ident in self.how}
        found = {ident: travels(mine, ("drive",)) for ident, mine in at.items() if self.how[ident] != "played"}
        return {ident: one for ident, one in found.items() if one is not None}

    def fit_at(self, ident: int, at: float) -> float:
        """How well an item really serves the sound."""
        fits = (fit_of(one, self.truth[ident, asked_of(SOUND, one)](at), jnd_at(one, 10.0))[0] for one in TARGETS)
        return sum(fits) / len(TARGETS)


def told(seed: int, hows: tuple[How, ...]) -> tuple[float, bool, bool, bool]:
    """The chance that is said of the first, whether it is best, whether its fit is in its span, whether set between."""
    chance = random.Random(seed)
    shelf = Shelf(chance, {ident: chance.choice(hows) for ident in range(chance.randint(3, 6))})
    shelf.fill()
    whole = Whole(NEED, Evidence(shelf.seen, shelf.nodes, shelf.travels))
    ranked = rank_on(whole, NEED, [Candidate(ident, f"i{ident}", None) for ident in shelf.how], seed=seed)
    real, between = {}, set()
    for ident in (entry.candidate.ident for entry in ranked):
        node = whole.setting_for(ident, "x") or ""
        place = whole.evidence.place(node)
        between |= {ident} if place is not None else set()
        real[ident] = shelf.fit_at(ident, (shelf.settings[node] if place is None else place[1].positions)["drive"])
    first = ranked[0]
    ident, span = first.candidate.ident, first.span
    assert span is not None
    best = real[ident] > max(real.values()) - 1e-9
    return first.best_share, best, span[0] <= real[ident] <= span[1], ident in between


@pytest.mark.certify
@pytest.mark.parametrize("hows", [("measured",), ("measured", "played", "both")])
def test_of_measured_settings_the_first_is_first_as_often_as_is_said(hows: tuple[How, ...]) -> None:
    found = np.array([told(seed, hows) for seed in range(SHELVES)], dtype=float)
    for least, most in ((0.2, 0.45), (0.45, 0.6), (0.6, 0.8)):
        near = found[(found[:, 0] >= least) & (found[:, 0] < most)]
        assert len(near) >= 12
        said, right = near[:, 0].mean(), near[:, 1].mean()
        assert abs(said - right) < 0.03 + 2 * sqrt(said * (1 - said) / len(near)), (least, said, right, len(near))
    assert 0.86 <= found[:, 2].mean() <= 0.97
    assert found[:, 3].mean() > 0.04, "few were set where nobody measured: this proves little of those"
