"""What is poured into which glass: numbered anew for every round, by chance that a seed records, in balanced order."""

from __future__ import annotations

from collections.abc import Sequence
from random import Random
from typing import TypeVar

T = TypeVar("T")


def chance_of(seed: str, *at: object) -> Random:
    """The chance of one place of a tasting: always the same there, and of no other place's making."""
    return Random("/".join([seed, *map(str, at)]))


def balanced_orders(count: int) -> list[list[int]]:
    """Orders of ``count`` things in which each stands in each place, and before each other, equally often.

    A Williams design (Williams 1949): so many orders where the count is even, twice as many where it is odd.
    """
    first = [0]
    for step in range(1, count):
        first.append((first[-1] + (step if step % 2 else -step)) % count)
    rows = [[(one + shift) % count for one in first] for shift in range(count)]
    return rows if count % 2 == 0 else rows + [row[::-1] for row in rows]


def numbered(seed: str, round_at: int, taster: int, things: Sequence[T]) -> list[T]:
    """Things in the order of their glasses, glass 1 first: another in every round and for every taster.

    Tasters go through a balanced set of orders whose labels chance gave out.
    """
    if not things:
        return []
    given = list(things)
    chance_of(seed, "labels", round_at).shuffle(given)
    rows = balanced_orders(len(given))
    return [given[at] for at in rows[taster % len(rows)]]
