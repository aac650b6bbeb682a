"""What is said of rigs, on simulated shelves of known truth: first as often as it says, fits inside their spans."""

from __future__ import annotations

import random
from math import sqrt

import numpy as np
import pytest

from cata.core.brief import Need, Sound, Target
from cata.core.choose.certainty import Draws
from cata.core.choose.evidence import Evidence, asked_of, trait_of
from cata.core.choose.fit import fit_of
from cata.core.choose.next import NEVER_PLAYED
from cata.core.choose.takes import jnd_at
from cata.core.choose.whole import Whole
from cata.core.pool.seen import NOTHING, Seen
from cata.core.rig.answer import Asked, answer
from cata.core.rig.next import next_for_rig
from cata.core.rig.parts import Part, Problem, Slot, Wanted
from cata.core.rig.shares import Fits
from cata.core.rig.value import worth

KEYS = ("harshness_db", "level_spread_db", "tilt_db_per_oct")
DRAWN, SHELVES = 200, 200


def ranges(least: float, most: float) -> list[Target]:
    """A range on each reading, its ends in just-noticeable differences against the bypass."""
    steps = {key: jnd_at(Target(reading=key), 0.0) for key in KEYS}
    return [Target(reading=key, low=least * step, high=most * step, against="reference") for key, step in steps.items()]


SOUNDS = [Sound(key="a", name="A", targets=ranges(-1, 2)), Sound(key="b", name="B", weight=1.5, targets=ranges(1, 5))]
NEED = Need(sounds=SOUNDS, budget_minor=60_000)
Truth = dict[int, dict[str, float]]


def kind(chance: random.Random, idents: range) -> tuple[Whole, Truth]:
    """Items of one kind: what two flights show of them, and how well they really serve each sound."""
    spread, truth = chance.choice((1.5, 3.0, 5.0)), Truth({ident: {} for ident in idents})
    found: dict[tuple[str, str, str], list[Seen]] = {}
    for sound in SOUNDS:
        for target in sound.targets:
            step, transfer = jnd_at(target, 0.0), trait_of(target).transfer_sd
            own = {ident: chance.gauss(0, spread * step) for ident in idents}
            for ident in idents:
                fit = fit_of(target, own[ident], step)[0] / len(sound.targets)
                truth[ident][sound.key] = truth[ident].get(sound.key, 0.0) + fit
            mine = found.setdefault(asked_of(sound, target), [])
            for flight in ("0", "1"):
                mine.append(Seen(NOTHING, flight, f"{flight}/{sound.key}", 0.0, 0.7 * step))
                for ident in (one for one in idents if one % 2 == int(flight) or one % 3 == 0):
                    value = own[ident] + chance.gauss(0, transfer) + chance.gauss(0, 0.7 * step)
                    mine.append(Seen(f"i{ident}", flight, f"{flight}/{sound.key}", value, 0.7 * step))
    return Whole(NEED, Evidence(found, {ident: [f"i{ident}"] for ident in idents})), truth


def told(seed: int) -> tuple[float, float, bool] | None:
    """The chance that is said of the first rig, whether it is the best of those shown, and whether its span holds."""
    chance = random.Random(seed)
    pedals, drives = kind(chance, range(1, 7))
    amplifiers, amps = kind(chance, range(101, 105))
    truth = drives | amps
    parts = [
        Part(ident=ident, item=ident, slot=slot, price_minor=chance.randint(50, 300) * 100,
             fits={sound.key: ground.fit_for(ident, sound) for sound in SOUNDS})
        for ground, mine, slot in ((pedals, drives, "pedals"), (amplifiers, amps, "amplifier")) for ident in mine
    ]  # fmt: skip
    idle = {sound.key: pedals.idle(sound) or 0.0 for sound in SOUNDS}
    slots = [Slot(key="pedals", most=2, share={"a": 0.4, "b": 0.5}, idle=idle),
             Slot(key="amplifier", least=1, share={"a": 0.6, "b": 0.5})]  # fmt: skip
    problem = Problem(parts=parts, slots=slots, sounds=[Wanted(one.key, one.weight) for one in SOUNDS],
                      budget_minor=60_000)  # fmt: skip
    draws: list[dict[int, dict[str, float]]] = [{} for _ in range(DRAWN)]
    for ground, mine in ((pedals, drives), (amplifiers, amps)):
        for sound, fits in Draws(NEED, ground, sorted(mine), seed=1).of_sounds():
            for ident, row in zip(sorted(mine), fits[:, :DRAWN].tolist(), strict=True):
                for drawing, fit in zip(draws, row, strict=True):
                    drawing.setdefault(ident, {})[sound.key] = fit
    known: list[Fits] = list(draws)
    found = answer(Asked(problem, 10, (), known))
    if not found.rigs:
        return None
    real = [worth(problem, rig.counts, truth).fit for rig in found.rigs]
    best = [at for at, value in enumerate(real) if value > max(real) - 1e-9]
    low, high = found.spans[0]
    return found.chances[0], (0 in best) / len(best), low <= real[0] <= high


@pytest.mark.certify
def test_rigs_are_first_as_often_as_is_said_and_fit_within_their_spans() -> None:
    found = np.array([one for one in map(told, range(SHELVES)) if one is not None], dtype=float)
    for least, most in ((0.2, 0.45), (0.45, 0.6), (0.6, 0.8)):
        near = found[(found[:, 0] >= least) & (found[:, 0] < most)]
        assert len(near) >= 12
        said, right, _ = near.mean(axis=0)
        assert abs(said - right) < 0.05 + 2 * sqrt(said * (1 - said) / len(near)), (least, said, right, len(near))
    assert 0.8 <= found[:, 2].mean() <= 0.97


@pytest.mark.parametrize("seed", range(4))
def test_what_one_take_would_change_is_what_it_changes(seed: int) -> None:
    """Held against learning a part's fit outright, case by case, with all else drawn anew."""
    chance = np.random.default_rng(seed)
    parts = [Part(ident=at, item=at, slot="ab"[at % 2], price_minor=100) for at in range(6)]
    slots = [Slot(key=key, least=1, share={"s": 0.5}) for key in "ab"]
    problem = Problem(parts=parts, slots=slots, sounds=[Wanted("s")])
    rigs = [{0: 1, 1: 1}, {2: 1, 3: 1}, {4: 1, 5: 1}]
    mean, sd = chance.uniform(0.5, 0.6, 6), chance.uniform(0.02, 0.2, 6)

    def drawn(fits: np.ndarray) -> list[float]:
        known = {part.ident: {"s": float(fits[part.ident])} for part in parts}
        return [worth(problem, rig, known).fit for rig in rigs]

    draws = mean + sd * chance.standard_normal((400, 6))
    values = [drawn(one) for one in draws]
    fits = [{at: {"s": float(one[at])} for at in range(6)} for one in draws]
    told = next_for_rig(problem, values, fits, {(at, "s"): 0 for at in range(6)})
    assert told is not None
    learnt = []
    for known in mean[told.ident] + sd[told.ident] * NEVER_PLAYED**0.5 * chance.standard_normal(60):
        again = mean + sd * chance.standard_normal((60, 6))
        again[:, told.ident] = known
        learnt.append(int(np.mean([drawn(one) for one in again], axis=0).argmax()))
    first = int(np.mean(values, axis=0).argmax())
    assert abs(np.mean([one != first for one in learnt]) - told.chance) < 0.2
    # Nothing is worth a take of what has been played a hundred times, or where there is but one rig.
    assert next_for_rig(problem, values, fits, {(at, "s"): 2000 for at in range(6)}) is None
    assert next_for_rig(problem, [row[:1] for row in values], fits, {(0, "s"): 0}) is None
