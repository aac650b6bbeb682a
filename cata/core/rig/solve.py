"""The best rig, by mixed-integer programming: exact, with the bound that proves it.

A part is in the rig or not (as often as there are of it). Where a slot may hold several, which of them serves a sound
is free: a pedal can be off. What two parts lose together counts where both serve. Everything is linear, so HiGHS (a
branch-and-cut solver, through scipy) proves the optimum.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from cata.core.rig.parts import BUDGET, WEAKEST_SHARE, Part, Problem, Rig, Slot, Solved, aspect_of
from cata.core.rig.value import losses_of, trimmed, worth

LIMIT_S = 10.0
PER_PRICE = 1e-6
"""Of two rigs that fit alike the cheaper one: what the whole of what can be spent counts beside the fit."""
Row = tuple[Mapping[int, float], float, float]
"""A constraint: coefficients by column, and the bounds of their sum."""


@dataclass
class Model:
    """Columns and rows as they are collected, by the parts' idents.

    ``x``: how many of a part; ``inside``: whether it is in; ``use``: whether it serves a sound.
    """

    problem: Problem
    gain: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    whole: list[bool] = field(default_factory=list)
    rows: list[Row] = field(default_factory=list)
    x: dict[int, int] = field(default_factory=dict)
    inside: dict[int, int] = field(default_factory=dict)
    use: dict[tuple[str, int], int] = field(default_factory=dict)
    _serving: dict[tuple[str, str], int] = field(default_factory=dict)
    _meetings: dict[tuple[str, str, tuple[str, ...]], dict[str, int]] = field(default_factory=dict)

    def column(self, gain: float = 0.0, high: float = 1.0, *, low: float = 0.0, whole: bool = False) -> int:
        """A new column."""
        self.gain.append(gain)
        self.high.append(high)
        self.low.append(low)
        self.whole.append(whole)
        return len(self.gain) - 1

    def row(self, terms: Mapping[int, float], low: float = -np.inf, high: float = np.inf) -> None:
        """A new constraint."""
        self.rows.append((terms, low, high))

    def add(self, part: Part) -> None:
        """The columns of a part: how many, and whether any."""
        most = min(part.stock, self.problem.slot_of[part.slot].most)
        high = 0 if part.fails - self.problem.dropped else most
        self.x[part.ident] = self.inside[part.ident] = at = self.column(high=high, whole=True)
        if high > 1:
            self.inside[part.ident] = any_of_it = self.column(whole=True)
            self.row({at: 1.0, any_of_it: -float(high)}, high=0.0)
            self.row({at: 1.0, any_of_it: -1.0}, low=0.0)

    def of_items(self, items: Iterable[int]) -> list[int]:
        """The columns that say whether some items are in, one an offer."""
        wanted = set(items)
        return [self.inside[part.ident] for part in self.problem.parts if part.item in wanted]

    def labelled(self, label: str) -> list[int]:
        """The columns that say whether a part with a label is in."""
        return [self.inside[part.ident] for part in self.problem.parts if label in part.labels]

    def serving(self, sound: str, label: str) -> tuple[int, str]:
        """The column that says whether a part with a label serves a sound, and for which sounds it is the same."""
        mine = [part for part in self.problem.parts if label in part.labels]
        # What is alone in its place serves every sound.
        for_sound = "" if self.problem.slot_of[mine[0].slot].most == 1 else sound
        key = (for_sound, label)
        if key not in self._serving:
            self._serving[key] = at = self.column()
            users = [self.use[sound, part.ident] for part in mine]
            self.row({at: -1.0} | dict.fromkeys(users, 1.0), 0.0, 0.0)
        return self._serving[key], for_sound

    def meetings(self, sound: str, label: str, others: Sequence[str]) -> dict[str, int]:
        """The columns that are 1 where a label and one of others of one aspect both serve a sound."""
        own, for_own = self.serving(sound, label)
        served = {other: self.serving(sound, other) for other in others}
        for_sound = for_own or next(iter(served.values()))[1]
        key = (for_sound, label, tuple(others))
        if key not in self._meetings:
            both = {other: self.column() for other in others}
            for other, at in both.items():
                self.row({at: 1.0, served[other][0]: -1.0}, high=0.0)
            self.row(
                dict.fromkeys(both.values(), 1.0) | {at: -1.0 for at, _ in served.values()} | {own: -1.0}, low=-1.0
            )
            self._meetings[key] = both
        return self._meetings[key]

    def solve(self, limit_s: float) -> tuple[npt.NDArray[np.float64] | None, float, bool]:
        """Values of all columns at the best, the bound of what is gained, and whether it is proven."""
        from scipy.optimize import Bounds, LinearConstraint, milp  # slow to load, and few pages want it
        from scipy.sparse import csr_array

        if not self.gain:
            return np.zeros(0), 0.0, True
        cells = [(at, column, value) for at, (terms, _, _) in enumerate(self.rows) for column, value in terms.items()]
        at, column, value = zip(*cells, strict=True) if cells else ((), (), ())
        matrix = csr_array((value, (at, column)), shape=(len(self.rows), len(self.gain)))
        bounds = LinearConstraint(matrix, [low for _, low, _ in self.rows], [high for _, _, high in self.rows])
        found = milp(
            -np.array(self.gain), integrality=np.array(self.whole, dtype=int), bounds=Bounds(self.low, self.high),
            constraints=[bounds] if self.rows else [], options={"time_limit": limit_s, "mip_rel_gap": 0.0},
        )  # fmt: skip
        bound = np.inf if found.mip_dual_bound is None else -float(found.mip_dual_bound)
        return found.x, bound, found.status in (0, 2)


def model_of(problem: Problem) -> Model:
    """All parts, what they serve, and everything a rig is held to but its wishes."""
    model = Model(problem)
    for part in problem.parts:
        model.add(part)
    _money(model)
    _together(model)
    _sounds(model)
    for part in problem.parts:
        model.gain[model.inside[part.ident]] += part.liked
    return model


def best_rig(problem: Problem, *, limit_s: float = LIMIT_S, beside: Sequence[Rig] = (), apart: float = 0.0) -> Solved:
    """The best rig; none of ``beside``, from each of which it differs in parts that make ``apart`` of the sound."""
    model = model_of(problem)
    for rig in beside:
        differ_from(model, rig, apart)
    values, bound, proven = model.solve(limit_s)
    if values is None:
        return Solved(None, bound if not proven else 0.0, proven)
    # What a price counts beside the fit is less than the solver looks at.
    rig = trimmed(problem, worth(problem, counts_of(model, values)))
    # The bound is of the gain, in which the price has its small share.
    return Solved(rig, max(bound + PER_PRICE, rig.value) if not proven else rig.value, proven)


def counts_of(model: Model, values: npt.NDArray[np.float64]) -> dict[int, int]:
    """How many of each part a solution holds."""
    return {ident: round(float(values[at])) for ident, at in model.x.items() if values[at] > 0.5}


def price_terms(model: Model) -> dict[int, float]:
    """What a rig costs, by column; bundles take their part off."""
    terms = {model.x[part.ident]: float(part.price_minor) for part in model.problem.parts if part.price_minor}
    for bundle in model.problem.bundles:
        whole = model.column(whole=True)
        for item in bundle.items:
            model.row({whole: 1.0} | dict.fromkeys(model.of_items([item]), -1.0), high=0.0)
        terms[whole] = -float(bundle.discount_minor)
    return terms


def _money(model: Model) -> None:
    problem = model.problem
    terms = price_terms(model)
    dearest = sum(part.price_minor for part in problem.parts) or 1
    scale = PER_PRICE / (problem.budget_minor or dearest)
    for at, price in terms.items():
        model.gain[at] -= scale * price
    if problem.budget_minor is not None and BUDGET not in problem.dropped:
        model.row(terms, high=float(problem.budget_minor))


def _together(model: Model) -> None:
    problem = model.problem
    for slot in problem.slots:
        mine = [model.x[part.ident] for part in problem.parts if part.slot == slot.key]
        model.row(dict.fromkeys(mine, 1.0), slot.least, slot.most)
    for item, count in Counter(part.item for part in problem.parts).items():
        if count > 1:
            # One item once, at one price.
            model.row(dict.fromkeys(model.of_items([item]), 1.0), high=1.0)
    for item in problem.locked:
        model.row(dict.fromkeys(model.of_items([item]), 1.0), 1.0)
    for key in sorted({key for part in problem.parts for key in part.takes}):
        terms = {
            model.x[part.ident]: amount
            for part in problem.parts
            if (amount := part.takes.get(key, 0.0) - part.gives.get(key, 0.0))
        }
        model.row(terms, high=problem.base.get(key, 0.0))
    for one in problem.clashes:
        if one.never:
            for first in model.labelled(one.first):
                for second in model.labelled(one.second):
                    model.row({first: 1.0, second: 1.0}, high=1.0)
    any_of: dict[frozenset[int], int] = {}
    for need in problem.requires:
        if need.one_of not in any_of:
            any_of[need.one_of] = model.column()
            model.row({any_of[need.one_of]: 1.0} | dict.fromkeys(model.of_items(need.one_of), -1.0), high=0.0)
        for at in model.of_items([need.item]):
            model.row({at: 1.0, any_of[need.one_of]: -1.0}, high=0.0)


def _sounds(model: Model) -> None:
    problem = model.problem
    counted = [sound for sound in problem.sounds if sound.weight > 0]
    total = sum(sound.weight for sound in counted)
    weakest = model.column(WEAKEST_SHARE, high=1.0, low=-10.0) if counted else -1
    for sound in counted:
        value: dict[int, float] = {}
        constant = 0.0
        for slot in problem.slots:
            share = slot.share.get(sound.key, 0.0)
            idle = share * slot.idle.get(sound.key, 0.0)
            constant += idle
            for part, at in _users(model, slot, sound.key):
                value[at] = value.get(at, 0.0) + share * part.fits.get(sound.key, 0.0) - idle
        for loss, at in _losses(model, sound.key):
            value[at] = value.get(at, 0.0) - loss
        for at, amount in value.items():
            model.gain[at] += (1 - WEAKEST_SHARE) * sound.weight / total * amount
        model.row({weakest: 1.0} | {at: -amount for at, amount in value.items()}, high=constant)


def _users(model: Model, slot: Slot, sound: str) -> list[tuple[Part, int]]:
    """The columns that say which part of a slot serves a sound: the parts' own where it holds only one."""
    mine = [part for part in model.problem.parts if part.slot == slot.key]
    if slot.most == 1:
        for part in mine:
            model.use[sound, part.ident] = model.inside[part.ident]
        return [(part, model.inside[part.ident]) for part in mine]
    found = []
    for part in mine:
        at = model.column()
        model.use[sound, part.ident] = at
        model.row({at: 1.0, model.inside[part.ident]: -1.0}, high=0.0)
        found.append((part, at))
    model.row({at: 1.0 for _, at in found}, high=1.0)
    return found


def _losses(model: Model, sound: str) -> list[tuple[float, int]]:
    """Columns that are 1 where two labels that lose something together both serve a sound.

    Of all labels of one aspect at most one is used at a time, so one row says it for all of them: far tighter than a
    row for every pair.
    """
    tables: dict[tuple[str, str], list[tuple[str, float]]] = {}
    for pair, loss in losses_of(model.problem.clashes, sound).items():
        first, second = sorted(pair)
        if model.labelled(first) and model.labelled(second):
            tables.setdefault((first, aspect_of(second)), []).append((second, loss))
    found = []
    for (label, _), others in tables.items():
        for other, both in model.meetings(sound, label, [other for other, _ in others]).items():
            found.append((dict(others)[other], both))
    return found


def differ_from(model: Model, rig: Rig, apart: float) -> None:
    """Another rig than this: by items that together make ``apart`` of the sound at least."""
    problem = model.problem
    by_ident = {part.ident: part for part in problem.parts}
    items = {by_ident[ident].item: by_ident[ident] for ident in rig.counts}
    weights = {item: share_of(problem, part.slot) for item, part in items.items()}
    total = sum(weights.values())
    row = {at: weights[item] for item in items if weights[item] > 0 for at in model.of_items([item])}
    model.row(row, high=total - apart)


def share_of(problem: Problem, slot: str) -> float:
    """How much of all sounds together a slot makes."""
    total = sum(sound.weight for sound in problem.sounds) or 1.0
    return sum(sound.weight * problem.slot_of[slot].share.get(sound.key, 0.0) for sound in problem.sounds) / total
