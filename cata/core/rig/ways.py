"""The ways to fill the places that hold one part each, and what each way may reach at most.

Every sound is granted the best that the place for several could add if what is left of the money were spent on it
alone. No rig is better than the grant of its way.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.rig.parts import WEAKEST_SHARE, Part, Problem, Slot
from cata.core.rig.value import losses_of

Floats = npt.NDArray[np.float32]
Indices = npt.NDArray[np.intp]
MOST_WAYS = 2_000_000
NO = np.float32(-1e9)


@dataclass(frozen=True)
class Options:
    """What may fill a slot, cheapest first; None: nothing of it serves."""

    slot: Slot
    parts: Sequence[Part | None]
    prices: npt.NDArray[np.float64]
    values: Mapping[str, Floats]
    labels: Sequence[frozenset[str]]
    liked: Floats


class Ways:
    """All ways to fill the slots that hold one part and make sound, each with what it may reach."""

    def __init__(self, problem: Problem, needed: Mapping[int, float] | None = None) -> None:
        """``needed``: what parts of the place for several cannot do without costs at least, by ident."""
        self._problem, self._needed = problem, needed or {}
        self._sounds = [sound for sound in problem.sounds if sound.weight > 0]
        self._weights = [one.weight for one in self._sounds]
        self.others = silent_slots(problem)
        sounding = [slot for slot in problem.slots if slot not in self.others]
        self._single = [self._options(slot) for slot in sounding if slot.most == 1]
        self.several = [self._options(slot) for slot in sounding if slot.most > 1]
        sizes = [len(one.parts) for one in self._single]
        self._places: tuple[Indices, ...] = np.unravel_index(np.arange(int(np.prod(sizes))), sizes)
        self._prices = np.sum([one.prices[at] for one, at in self._placed()], axis=0)
        self._liked: Floats = np.sum([one.liked[at] for one, at in self._placed()], axis=0)
        self._signature, self._tables = self._signatures()
        self._base = [self._alone(one.key) for one in self._sounds]
        self._up_to = [np.maximum.accumulate(table, axis=1) for table in self._tables]
        self._most_needed = max(self._needed.values(), default=0.0)

    @staticmethod
    def can_be_listed(problem: Problem) -> bool:
        """True where the ways are few enough to look at each of them."""
        silent = silent_slots(problem)
        sounding = [slot for slot in problem.slots if slot.most == 1 and slot not in silent]
        sizes = [sum(part.slot == slot.key for part in problem.parts) + 1 for slot in sounding]
        return (
            bool(sounding) and any(one.weight > 0 for one in problem.sounds) and np.prod(sizes, dtype=float) < MOST_WAYS
        )

    def granted(self, budget_minor: int | None) -> Floats:
        """What each way may reach within a budget; NO where it cannot be paid."""
        left = self.left_of(budget_minor)
        fit = self.fit_of(self._by_sound_of(self._base, self._signature, left))
        return np.where(left >= -1e-6, fit + self._liked, NO)

    def refined(self, ways: Indices, left: npt.NDArray[np.float64]) -> Floats:
        """What some ways may reach with so much left: with one part of the place for several, or with two and more.

        With one every sound is served by it or by none. Of two one costs at most half of what both may, so that the
        sounds it serves get the best of the cheaper half; which these are is not asked, the best of all splits counts.
        """
        rows = self._signature[ways]
        mine = [base[ways] for base in self._base]
        if not self.several or self.several[0].parts[0] is not None:
            return self._liked[ways] + self.fit_of(self._by_sound_of(mine, rows, left))
        own = [
            base[:, None] + np.maximum(table[rows], table[rows][:, :1])
            for base, table in zip(mine, self._tables, strict=True)
        ]
        with_one = np.where(self.several[0].prices <= left[:, None] + 1e-6, self.fit_of(own), NO).max(axis=1)
        whole = self._by_sound_of(mine, rows, left)
        half = self._by_sound_of(mine, rows, (left + self._most_needed) / 2)
        best = with_one
        for split in range(1, 2 ** len(mine) - 1):
            chosen = [half[at] if split >> at & 1 else whole[at] for at in range(len(mine))]
            best = np.maximum(best, self.fit_of(chosen))
        return np.asarray(self._liked[ways] + best, dtype=np.float32)

    def left_of(self, budget_minor: int | None) -> npt.NDArray[np.float64]:
        """What each way leaves for the place for several."""
        return self._left(budget_minor) - self._prices

    @property
    def mean_weights(self) -> list[float]:
        """How much each sound counts in the mean of all."""
        return [weight / sum(self._weights) for weight in self._weights]

    def price_of(self, way: int) -> float:
        """The least that a way costs with the other slots, however bundles fall."""
        return float(self._prices[way]) + self._others_least()

    def parts_of(self, way: int) -> list[Part]:
        """The parts of a way."""
        found = (one.parts[at[way]] for one, at in self._placed())
        return [part for part in found if part is not None]

    def served(self, way: int) -> list[list[float]]:
        """By sound what it reaches with each option of the place for several, in a way; NO where it cannot be."""
        if not self.several:
            return [[float(base[way])] for base in self._base]
        row = self._signature[way]
        return [(base[way] + table[row]).tolist() for base, table in zip(self._base, self._tables, strict=True)]

    def fit_of(self, by_sound: Sequence[Any]) -> Any:
        """The fit of what the sounds reach: numbers, or arrays of ways."""
        weakest, mean = by_sound[0], self._weights[0] * by_sound[0]
        for weight, one in zip(self._weights[1:], by_sound[1:], strict=True):
            weakest = np.minimum(weakest, one) if isinstance(one, np.ndarray) else min(weakest, one)
            mean = mean + weight * one
        return WEAKEST_SHARE * weakest + (1 - WEAKEST_SHARE) / sum(self._weights) * mean

    def _options(self, slot: Slot) -> Options:
        problem = self._problem
        usable = [part for part in problem.parts if part.slot == slot.key and not part.fails - problem.dropped]
        # Every bundle is granted to each of its items: an item cannot be cheaper than that.
        price = {part.ident: float(part.price_minor - self._off(part)) for part in usable}
        if slot.most > 1:
            # Whoever uses one of these needs what it needs, which makes no sound and has its price.
            price = {part.ident: price[part.ident] + self._needed.get(part.ident, 0.0) for part in usable}
        parts: list[Part | None] = [*sorted(usable, key=lambda part: price[part.ident])]
        if slot.least == 0 or slot.most > 1:
            parts = [None, *parts]
        values = {
            one.key: np.array(
                [
                    slot.share.get(one.key, 0.0) * (slot.idle if part is None else part.fits).get(one.key, 0.0)
                    for part in parts
                ],
                dtype=np.float32,
            )
            for one in self._sounds
        }
        prices = np.array([0.0 if part is None else max(0.0, price[part.ident]) for part in parts])
        labels = [part.labels if part else frozenset() for part in parts]
        liked = np.array([part.liked if part else 0.0 for part in parts], dtype=np.float32)
        return Options(slot, parts, prices, values, labels, liked)

    def _off(self, part: Part) -> int:
        """What all bundles with a part take off."""
        return sum(bundle.discount_minor for bundle in self._problem.bundles if part.item in bundle.items)

    def _placed(self) -> Iterable[tuple[Options, Indices]]:
        return zip(self._single, self._places, strict=True)

    def _left(self, budget_minor: int | None) -> float:
        """What is left for the slots that make sound when the others take the least they can."""
        return np.inf if budget_minor is None else budget_minor - self._others_least()

    def _others_least(self) -> float:
        problem = self._problem
        silent = {slot.key for slot in self.others}
        items = {part.item for part in problem.parts if part.slot in silent}
        least = -float(sum(bundle.discount_minor for bundle in problem.bundles if bundle.items & items))
        for slot in self.others:
            prices = [part.price_minor for part in problem.parts if part.slot == slot.key]
            least += min(prices, default=0) * slot.least
        return least

    def _alone(self, sound: str) -> Floats:
        """What each way reaches in a sound without the other places."""
        value: Floats = np.sum([one.values[sound][at] for one, at in self._placed()], axis=0)
        for second, (other, there) in enumerate(self._placed()):
            for one, here in list(self._placed())[:second]:
                lost = self._lost(sound, one, other)
                if lost is not None:
                    value = value - lost[here, there]
        return value

    def _lost(self, sound: str, first: Options, second: Options) -> Floats | None:
        """What any two options of two slots lose together in a sound; without end where they cannot be combined."""
        clashes = self._problem.clashes
        table = np.zeros((len(first.parts), len(second.parts)), dtype=np.float32)
        never = {frozenset({one.first, one.second}): -float(NO) for one in clashes if one.never}
        for pair, loss in (losses_of(clashes, sound) | never).items():
            one, other = sorted(pair)
            for here, there in ((one, other), (other, one)):
                rows, columns = ([label in labels for labels in side] for side, label in
                                 ((first.labels, here), (second.labels, there)))  # fmt: skip
                table += np.outer(rows, columns).astype(np.float32) * np.float32(loss)
        return table if table.any() else None

    def _signatures(self) -> tuple[Indices, list[Floats]]:
        """The ways by what of them clashes with the places for several, and what these add to each sound there.

        The tables, by sound, have a row for every signature and a column for every option.
        """
        named = {label for one in self._problem.clashes for label in (one.first, one.second)}
        told = {label for one in self.several for labels in one.labels for label in labels & named}
        keys = []
        for one, at in self._placed():
            seen: dict[frozenset[str], int] = {}
            of_option = [seen.setdefault(labels & named if told else frozenset(), len(seen)) for labels in one.labels]
            keys.append(np.array(of_option, dtype=np.intp)[at])
        unique, first, signature = np.unique(np.stack(keys), axis=1, return_index=True, return_inverse=True)
        del unique
        tables: list[Floats] = []
        for sound in self._sounds:
            for others in self.several:
                table = np.tile(others.values[sound.key], (len(first), 1))
                for one, at in self._placed():
                    lost = self._lost(sound.key, one, others)
                    if lost is not None:
                        table = table - lost[at[first]]
                tables.append(table)
        return signature.reshape(-1), tables

    def _by_sound_of(self, base: Sequence[Floats], rows: Indices, left: npt.NDArray[np.float64]) -> list[Floats]:
        """What ways reach by sound when the best of what can be paid serves each."""
        if not self.several:
            return list(base)
        last = np.maximum(np.searchsorted(self.several[0].prices, left + 1e-6, side="right") - 1, 0)
        return [mine + table[rows, last] for mine, table in zip(base, self._up_to, strict=True)]


def silent_slots(problem: Problem) -> list[Slot]:
    """Slots that make nothing of any sound that counts, and of whose parts none is liked more than another."""
    sounds = [sound.key for sound in problem.sounds if sound.weight > 0]
    liked = {part.slot for part in problem.parts if part.liked}
    return [
        slot for slot in problem.slots if slot.key not in liked and not any(slot.share.get(key, 0.0) for key in sounds)
    ]


def cheapest(problem: Problem) -> Problem:
    """The same with one offer of an item where others are only dearer."""
    found: dict[tuple[object, ...], Part] = {}
    for part in problem.parts:
        alike = (
            part.item, part.slot, tuple(sorted(part.takes.items())), tuple(sorted(part.gives.items())), part.labels,
            part.fails, tuple(sorted(part.fits.items())), part.ident if problem.slot_of[part.slot].most > 1 and
            not any(problem.slot_of[part.slot].share.values()) else None,
        )  # fmt: skip
        known = found.get(alike)
        if known is None or (part.price_minor, part.ident) < (known.price_minor, known.ident):
            found[alike] = part
    return replace(problem, parts=list(found.values()))
