"""A sound by pointing, on persons whose ranges are known: what it says counts does, as often as it says."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from cata.core.choose.pointing import Seen, point

READINGS, NOISE = 16, 0.15


def seen(values: np.ndarray) -> list[Seen]:
    return [Seen(str(n), values[:, n], np.full(len(values), NOISE)) for n in range(values.shape[1])]


def test_the_reading_that_parts_liked_from_not_is_found_with_its_end() -> None:
    values = np.random.default_rng(4).normal(size=(24, 8))
    liked = values[:, 3] < 0.2
    found = point(seen(values), np.flatnonzero(liked).tolist(), np.flatnonzero(~liked).tolist()).found
    assert (found[0].key, found[0].low) == ("3", None)
    assert found[0].chance > 0.9
    assert found[0].high is not None
    assert found[0].high[0] <= 0.2 <= found[0].high[2] + 0.2
    assert found[1].chance < 0.3


def test_two_readings_that_say_the_same_share_the_credit() -> None:
    values = np.random.default_rng(5).normal(size=(20, 6))
    values[:, 1] = values[:, 0]
    liked = values[:, 0] > 0
    found = {one.key: one.chance for one in point(seen(values), np.flatnonzero(liked).tolist(),
                                                  np.flatnonzero(~liked).tolist()).found}  # fmt: skip
    assert found["0"] == pytest.approx(found["1"], abs=0.25)
    assert found["0"] + found["1"] > 0.9
    assert max(found["0"], found["1"]) < 0.9


def test_what_a_take_does_not_show_neither_helps_nor_harms() -> None:
    values = np.random.default_rng(6).normal(size=(16, 4))
    values[::2, 2] = np.nan
    liked = values[:, 1] > 0
    found = point(seen(values), np.flatnonzero(liked).tolist(), np.flatnonzero(~liked).tolist())
    assert found.found[0].key == "1"
    assert all(0 <= one.chance <= 1 for one in found.found)


@pytest.mark.parametrize(("liked", "disliked"), [([], [1]), ([0], []), ([], [])])
def test_one_side_alone_says_nothing(liked: list[int], disliked: list[int]) -> None:
    with pytest.raises(ValueError, match="liked"):
        point(seen(np.zeros((3, 2))), liked, disliked)


@cache
def persons(count: int, pointed: int) -> tuple[np.ndarray, np.ndarray]:
    """What is said and what is so, over as many persons: readings that count; takes that would be liked."""
    rng = np.random.default_rng(11)
    counts: list[tuple[float, bool]] = []
    likes: list[tuple[float, bool]] = []
    while len(counts) < count * READINGS:
        shared = rng.normal(size=(24, 4)) @ rng.normal(size=(4, READINGS)) / 2
        values = np.sqrt(0.5) * (shared + rng.normal(size=(24, READINGS)))
        matter = rng.choice(READINGS, int(rng.integers(1, 5)), replace=False)
        fine = np.ones(24, dtype=bool)
        for reading in matter:
            low, high = np.quantile(values[:, reading], np.sort(rng.uniform(0.1, 0.9, 2)))
            kind = rng.integers(3)
            fine &= (kind == 1) | (values[:, reading] >= low)
            fine &= (kind == 0) | (values[:, reading] <= high)
        heard = rng.permutation(24)[:pointed]
        said = fine[heard] ^ (rng.random(pointed) < 0.05)
        if said.all() or not said.any():
            continue
        shown = seen(values + NOISE * rng.normal(size=values.shape))
        found = point(shown, heard[said].tolist(), heard[~said].tolist())
        counts += [(one.chance, int(one.key) in matter) for one in found.found]
        likes += [(share, bool(fine[take])) for take, share in found.liked.items()]
    return np.array(counts, dtype=float), np.array(likes, dtype=float)


@pytest.mark.certify
@pytest.mark.parametrize("pointed", [6, 14])
def test_what_is_said_to_count_counts_as_often(pointed: int) -> None:
    for said, which in zip(persons(60, pointed), ("counts", "liked"), strict=True):
        for least, most in ((0.0, 0.12), (0.12, 0.3), (0.3, 0.6), (0.6, 0.85), (0.85, 1.01)):
            near = said[(said[:, 0] >= least) & (said[:, 0] < most)]
            if len(near) >= 15:
                told, right = near.mean(axis=0)
                assert abs(told - right) < 0.12 + 2 * np.sqrt(told * (1 - told) / len(near)), (which, told, right)


def test_one_liked_and_one_disliked_take_say_where_a_range_may_end() -> None:
    seen = [Seen("crest_db", np.array([10.0, 16.0]), np.array([0.5, 0.5])),
            Seen("tilt_db_per_oct", np.array([1.0, 1.0]), np.array([0.1, 0.1]))]  # fmt: skip
    told = point(seen, [0], [1]).found
    assert [one.key for one in told] == ["crest_db"]
    assert 0.15 < told[0].chance <= 1
