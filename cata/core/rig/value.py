"""What a rig is worth, part by part: the definition that the solver is held to. Imports no numpy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import product

from cata.core.rig.parts import BUDGET, WEAKEST_SHARE, Clash, Part, Problem, Rig

NONE = 0
EPS = 1e-9


def price_of(problem: Problem, counts: Mapping[int, int]) -> int:
    """What the parts cost, less the bundles that are complete among them."""
    by_ident = {part.ident: part for part in problem.parts}
    total = sum(by_ident[ident].price_minor * count for ident, count in counts.items())
    items = {by_ident[ident].item for ident, count in counts.items() if count}
    return total - sum(one.discount_minor for one in problem.bundles if one.items <= items)


def allowed(problem: Problem, counts: Mapping[int, int]) -> bool:
    """True where the parts may stand together: slots, stock, what is shared, what excludes and needs what, wishes."""
    chosen = [(part, counts.get(part.ident, 0)) for part in problem.parts if counts.get(part.ident, 0)]
    items = {part.item for part, _ in chosen}
    if len(items) < len(chosen):
        # One item once, at one price.
        return False
    by_slot = {slot.key: sum(n for part, n in chosen if part.slot == slot.key) for slot in problem.slots}
    if any(not slot.least <= by_slot[slot.key] <= slot.most for slot in problem.slots):
        return False
    if any(n > part.stock or part.fails - problem.dropped for part, n in chosen):
        return False
    if not problem.locked <= items:
        return False
    labels = {label for part, _ in chosen for label in part.labels}
    if any(one.never and {one.first, one.second} <= labels for one in problem.clashes):
        return False
    if any(one.item in items and not one.one_of & items for one in problem.requires):
        return False
    for key in {key for part in problem.parts for key in part.takes}:
        taken = sum(n * (part.takes.get(key, 0.0) - part.gives.get(key, 0.0)) for part, n in chosen)
        if taken > problem.base.get(key, 0.0) + EPS:
            return False
    limit = None if BUDGET in problem.dropped else problem.budget_minor
    return limit is None or price_of(problem, counts) <= limit


def worth(problem: Problem, counts: Mapping[int, int], fits: Mapping[int, Mapping[str, float]] | None = None) -> Rig:
    """The rig of these parts, each slot serving each sound as well as it can together with the others.

    ``fits`` takes the place of the parts' own, by ident.
    """
    chosen = [part for part in problem.parts if counts.get(part.ident, 0)]
    by_sound: dict[str, float] = {}
    serves: dict[tuple[str, str], int] = {}
    for sound in problem.sounds:
        by_sound[sound.key], used = _best(problem, chosen, sound.key, fits)
        serves |= {(sound.key, slot): ident for slot, ident in used.items()}
    return Rig(
        {part.ident: counts[part.ident] for part in chosen}, fit_of(problem, by_sound),
        price_of(problem, counts), by_sound, serves, sum(part.liked for part in chosen),
    )  # fmt: skip


def trimmed(problem: Problem, rig: Rig, least: float = EPS) -> Rig:
    """A rig without what adds less than ``least``: parts go without which the rest is allowed, and cheaper."""
    by_ident = {part.ident: part for part in problem.parts}
    for ident in sorted(rig.counts, key=lambda one: -by_ident[one].price_minor):
        fewer = {one: count - (one == ident) for one, count in rig.counts.items()}
        while fewer[ident] >= 0 and allowed(problem, less := {one: n for one, n in fewer.items() if n}):
            found = worth(problem, less)
            if found.value < rig.value - least or found.price_minor >= rig.price_minor:
                break
            rig = found
            fewer[ident] -= 1
    return rig


def fit_of(problem: Problem, by_sound: Mapping[str, float]) -> float:
    """The fit of a rig: half of it that of its weakest sound, half the mean as sounds count."""
    counted = [sound for sound in problem.sounds if sound.weight > 0]
    if not counted:
        return 0.0
    total = sum(sound.weight for sound in counted)
    mean = sum(sound.weight * by_sound[sound.key] for sound in counted) / total
    weakest = min(by_sound[sound.key] for sound in counted)
    return WEAKEST_SHARE * weakest + (1 - WEAKEST_SHARE) * mean


def _best(
    problem: Problem, chosen: Sequence[Part], sound: str, fits: Mapping[int, Mapping[str, float]] | None
) -> tuple[float, dict[str, int]]:
    options = []
    for slot in problem.slots:
        mine: list[Part | None] = [part for part in chosen if part.slot == slot.key]
        # What is alone in its place is always on.
        options.append(mine if mine and slot.most == 1 else [*mine, None])
    losses = losses_of(problem.clashes, sound)
    best, used = float("-inf"), {}
    for way in product(*options):
        value = 0.0
        for slot, part in zip(problem.slots, way, strict=True):
            own = slot.idle if part is None else (fits[part.ident] if fits else part.fits)
            value += slot.share.get(sound, 0.0) * own.get(sound, 0.0)
        labels = {label for part in way if part is not None for label in part.labels}
        value -= sum(loss for pair, loss in losses.items() if pair <= labels)
        if value > best + EPS:
            best = value
            used = {
                slot.key: part.ident if part is not None else NONE
                for slot, part in zip(problem.slots, way, strict=True)
            }
    return best, used


def losses_of(clashes: Sequence[Clash], sound: str) -> dict[frozenset[str], float]:
    """What two labels lose together in a sound."""
    found: dict[frozenset[str], float] = {}
    for one in clashes:
        if loss := one.losses.get(sound, 0.0):
            pair = frozenset({one.first, one.second})
            found[pair] = found.get(pair, 0.0) + loss
    return found
