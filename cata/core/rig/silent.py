"""What makes no sound and has to be there: power, board, cables, strings, at the least they cost beside the rest."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from math import comb, inf

from cata.core.rig.parts import Clash, Part, Problem, Slot

MOST_CHOICES = 40_000
EPS = 1e-9


@dataclass(frozen=True)
class Choice:
    """Some parts of silent slots: how many of each, their price, what they take less what they give."""

    counts: Mapping[int, int]
    price_minor: int
    takes: Mapping[str, float]
    items: frozenset[int]
    labels: frozenset[str]


@dataclass(frozen=True)
class Group:
    """Silent slots that depend on each other, and all there is to choose in them, the cheapest first."""

    choices: Sequence[Choice]
    resources: frozenset[str]
    labels: frozenset[str]
    bundled: frozenset[int]
    needed: Sequence[tuple[int, frozenset[int]]]


class Silent:
    """The slots of a problem that make no sound."""

    def __init__(self, problem: Problem, slots: Sequence[Slot]) -> None:
        self._problem = problem
        own = {part.item for part in problem.parts if part.slot in {slot.key for slot in slots}}
        self._locked = problem.locked & own
        self._never = [one for one in problem.clashes if one.never]
        self._known: dict[object, Choice | None] = {}
        self.groups = [self._group(slots) for slots in _dependent(problem, slots)]

    @staticmethod
    def can_be_listed(problem: Problem, slots: Sequence[Slot]) -> bool:
        """True where there is little enough to choose from."""
        for group in _dependent(problem, slots):
            ways = 1.0
            for slot in group:
                count = sum(min(part.stock, slot.most) for part in problem.parts if part.slot == slot.key)
                ways *= sum(comb(count, n) for n in range(slot.least, min(slot.most, count) + 1)) or 1
            if ways > MOST_CHOICES:
                return False
        return True

    def beside(self, parts: Sequence[Part]) -> tuple[int, dict[int, int]] | None:
        """The least that must be added to some parts: its price, less bundles with it, and what; None: it cannot be."""
        takes: dict[str, float] = {}
        for part in parts:
            for key, amount in part.takes.items():
                takes[key] = takes.get(key, 0.0) + amount
            for key, amount in part.gives.items():
                takes[key] = takes.get(key, 0.0) - amount
        items = frozenset(part.item for part in parts)
        labels = frozenset(label for part in parts for label in part.labels)
        price = 0
        counts: dict[int, int] = {}
        for at, group in enumerate(self.groups):
            needs = tuple(one_of for item, one_of in group.needed if item in items and not one_of & items)
            asked = (
                at, tuple(takes.get(name, 0.0) for name in sorted(group.resources)), labels & group.labels,
                items & group.bundled, needs,
            )  # fmt: skip
            if asked not in self._known:
                self._known[asked] = self._cheapest(group, takes, labels, items, needs)
            found = self._known[asked]
            if found is None:
                return None
            price += found.price_minor - self._off(found, items)
            counts |= found.counts
        return price, counts

    def _group(self, slots: Sequence[Slot]) -> Group:
        problem = self._problem
        parts = [part for part in problem.parts if part.slot in {slot.key for slot in slots}]
        items = {part.item for part in parts}
        labels = {label for part in parts for label in part.labels}
        choices = [_joined(way) for way in product(*(list(_of_slot(problem, slot)) for slot in slots))]
        locked = self._locked & items
        return Group(
            sorted((one for one in choices if locked <= one.items), key=lambda one: one.price_minor),
            frozenset(key for part in parts for key in (*part.takes, *part.gives)),
            frozenset(label for one in self._never for label in _others(one, labels)),
            frozenset(item for one in problem.bundles if one.items & items for item in one.items - items),
            [(one.item, one.one_of) for one in problem.requires if one.one_of & items],
        )

    def _cheapest(
        self,
        group: Group,
        takes: Mapping[str, float],
        labels: frozenset[str],
        items: frozenset[int],
        needs: Sequence[frozenset[int]],
    ) -> Choice | None:
        best, least = None, inf
        forbidden = frozenset(label for one in self._never for label in _others(one, labels))
        most_off = sum(one.discount_minor for one in self._problem.bundles if one.items & group.bundled)
        for one in group.choices:
            if one.price_minor - most_off >= least:
                break
            if any(
                takes.get(key, 0.0) + one.takes.get(key, 0.0) > self._problem.base.get(key, 0.0) + EPS
                for key in group.resources
            ):
                continue
            if one.labels & forbidden or any(not need & one.items for need in needs):
                continue
            price = one.price_minor - self._off(one, items)
            if price < least:
                best, least = one, price
        return best

    def _off(self, one: Choice, items: frozenset[int]) -> int:
        """What bundles that some of the choice belongs to take off."""
        return sum(
            bundle.discount_minor
            for bundle in self._problem.bundles
            if bundle.items & one.items and bundle.items <= one.items | items
        )


def _of_slot(problem: Problem, slot: Slot) -> Iterable[Choice]:
    parts = [part for part in problem.parts if part.slot == slot.key and not part.fails - problem.dropped]

    def grown(at: int, left: int) -> Iterable[dict[int, int]]:
        if at == len(parts):
            yield {}
            return
        for count in range(min(parts[at].stock, left) + 1):
            for rest in grown(at + 1, left - count):
                yield ({parts[at].ident: count} if count else {}) | rest

    by_ident = {part.ident: part for part in parts}
    for counts in grown(0, slot.most):
        one_price_each = len({by_ident[ident].item for ident in counts}) == len(counts)
        if sum(counts.values()) >= slot.least and one_price_each:
            takes: dict[str, float] = {}
            for ident, count in counts.items():
                for sign, amounts in ((1, by_ident[ident].takes), (-1, by_ident[ident].gives)):
                    for key, amount in amounts.items():
                        takes[key] = takes.get(key, 0.0) + sign * count * amount
            yield Choice(
                counts, sum(by_ident[ident].price_minor * count for ident, count in counts.items()), takes,
                frozenset(by_ident[ident].item for ident in counts),
                frozenset(label for ident in counts for label in by_ident[ident].labels),
            )  # fmt: skip


def _joined(way: Sequence[Choice]) -> Choice:
    counts: dict[int, int] = {}
    takes: dict[str, float] = {}
    for one in way:
        counts |= one.counts
        for key, amount in one.takes.items():
            takes[key] = takes.get(key, 0.0) + amount
    return Choice(
        counts, sum(one.price_minor for one in way), takes,
        frozenset().union(*(one.items for one in way)), frozenset().union(*(one.labels for one in way)),
    )  # fmt: skip


def _others(clash: Clash, labels: Iterable[str]) -> set[str]:
    """The other label of a clash that one of some labels has part in."""
    mine = set(labels)
    found = {clash.second} if clash.first in mine else set()
    return found | ({clash.first} if clash.second in mine else set())


def _dependent(problem: Problem, slots: Sequence[Slot]) -> list[list[Slot]]:
    """Slots in groups that share something, a bundle, a need or what cannot be combined."""
    ties: list[set[str]] = []
    by_item = {part.item: part.slot for part in problem.parts}
    for slot in slots:
        mine = [part for part in problem.parts if part.slot == slot.key]
        ties += [{slot.key, f"takes {key}"} for part in mine for key in (*part.takes, *part.gives)]
    for bundle in problem.bundles:
        ties.append({by_item[item] for item in bundle.items if item in by_item})
    for need in problem.requires:
        ties.append({by_item[item] for item in need.one_of if item in by_item})
    labels = {label: part.slot for part in problem.parts for label in part.labels}
    ties += [{labels.get(one.first, ""), labels.get(one.second, "")} for one in problem.clashes if one.never]
    silent = {slot.key for slot in slots}
    groups = [{slot.key} for slot in slots]
    for tie in ties:
        # What ties slots through one that makes sound is settled before these are chosen.
        tied = {key for key in tie if key in silent or key.startswith("takes ")}
        touched = [group for group in groups if group & tied]
        if touched:
            groups = [group for group in groups if not group & tied] + [set().union(*touched, tied)]
    return [[slot for slot in slots if slot.key in group] for group in groups]
