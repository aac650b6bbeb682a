"""The rig within a budget: equal to trying everything, monotone, and honest where nothing fits."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cata.core.rig.best import APART, Finder, apart
from cata.core.rig.parts import Bundle, Clash, Part, Problem, Requires, Rig, Slot, Wanted
from cata.core.rig.search import Search
from cata.core.rig.shares import shares
from cata.core.rig.solve import best_rig
from cata.core.rig.value import allowed, price_of, worth
from cata.core.rig.wishes import least_price, nearest_rig

SLOTS = (
    Slot(key="guitar", least=1, share={"clean": 0.3, "lead": 0.2}),
    Slot(key="pedals", most=2, share={"clean": 0.2, "lead": 0.5}, idle={"clean": 0.9, "lead": 0.1}),
    Slot(key="amplifier", least=1, share={"clean": 0.5, "lead": 0.3}),
    Slot(key="supply"),
)
CASE = Slot(key="case")
"""It makes no sound, and is liked all the same."""
SOUNDS = (Wanted("clean", 1.0), Wanted("lead", 2.0))


def small(chance: random.Random) -> Problem:
    """A shelf small enough to try everything, with something of every rule."""
    parts, items = [], iter(range(1, 99))
    slots = (*SLOTS, CASE) if chance.random() < 0.2 else SLOTS
    for slot in slots:
        for _ in range(chance.randint(1, 3)):
            item = next(items)
            liked = chance.uniform(-0.15, 0.15) if slot.key in ("guitar", "amplifier", "case") else 0.0
            for _ in range(chance.choice((1, 1, 2)) if slot != CASE else 1):
                parts.append(Part(
                    ident=100 + len(parts), item=item, slot=slot.key, price_minor=chance.randint(0, 50) * 100,
                    fits={sound.key: chance.random() for sound in SOUNDS} if slot.share else {},
                    takes={"current": chance.choice((0.0, 50.0, 300.0))} if slot.key == "pedals" else {},
                    gives={"current": chance.choice((200.0, 500.0))} if slot.key == "supply" else {},
                    labels=frozenset(
                        f"{slot.key} {aspect}={chance.choice('ab')}" for aspect in "xy" if chance.random() < 0.8
                    ),
                    fails=frozenset(chance.sample(["heavy", "loop"], 1)) if chance.random() < 0.15 else frozenset(),
                    stock=chance.choice((1, 1, 2)), liked=liked,
                ))  # fmt: skip
    by_slot = {slot.key: sorted({part.item for part in parts if part.slot == slot.key}) for slot in SLOTS}
    pair = frozenset({by_slot["guitar"][0], by_slot["amplifier"][0]})
    clashes = [
        Clash(f"{first} {aspect}={a}", f"{second} {aspect}={b}",
              {sound.key: chance.uniform(0, 0.4) for sound in SOUNDS}, never=chance.random() < 0.1)
        for first, second in (("guitar", "amplifier"), ("pedals", "amplifier"), ("guitar", "pedals"))
        for aspect, a, b in product("xy", "ab", "ab")
        if chance.random() < 0.4
    ]  # fmt: skip
    return Problem(
        parts=parts, slots=slots, sounds=SOUNDS, budget_minor=chance.randint(20, 140) * 100, clashes=clashes,
        requires=[Requires(by_slot["pedals"][0], frozenset(by_slot["supply"]))],
        bundles=[Bundle(pair, min(700, *(part.price_minor for part in parts if part.item in pair)))],
        base={"current": 60.0},
    )  # fmt: skip


def odd(chance: random.Random) -> Problem:
    """The same with what is owned, deals that may take off more than their parts cost, and no money at all."""
    problem = small(chance)
    items = sorted({part.item for part in problem.parts})
    owned = set(chance.sample(items, chance.choice((0, 0, 1, 2))))
    parts = [part for part in problem.parts if part.item not in owned]
    parts += [replace(next(part for part in problem.parts if part.item == item), price_minor=0, stock=1)
              for item in sorted(owned)]  # fmt: skip
    free = [item for item in items if item not in owned]
    bundles = [
        Bundle(frozenset(chance.sample(free, min(len(free), chance.choice((2, 2, 3))))),
               chance.choice((300, 1500, 4000, 9000)))
        for _ in range(chance.choice((0, 1, 2, 3)))
    ]  # fmt: skip
    budget = chance.choice((0, None, problem.budget_minor, problem.budget_minor))
    return replace(problem, parts=parts, bundles=bundles, budget_minor=budget)


def big(chance: random.Random) -> Problem:
    """A shelf of eight slots and 300 items, with twenty things to hold to."""
    rooms = (
        ("guitar", 1, 1, 0.2), ("pedals", 0, 4, 0.35), ("amplifier", 1, 1, 0.3), ("speaker", 1, 1, 0.15),
        ("supply", 0, 1, 0.0), ("cable", 1, 2, 0.0), ("strings", 1, 1, 0.0), ("board", 0, 1, 0.0),
    )  # fmt: skip
    slots = [
        Slot(key=key, least=least, most=most, share=dict.fromkeys("abc", share),
             idle={"a": 0.8, "b": 0.3, "c": 0.1} if key == "pedals" else {})
        for key, least, most, share in rooms
    ]  # fmt: skip
    sounds = [Wanted(key, weight) for key, weight in (("a", 0.5), ("b", 2.0), ("c", 1.0))]
    typical = {"guitar": 600, "pedals": 120, "amplifier": 600, "speaker": 120}
    wishes = ["heavy", "loop", "loud", "direct", "noise", "bypass", "build", "valve", "coil", "size", "voltage", "look"]
    parts: list[Part] = []
    counts = {"guitar": 40, "pedals": 90, "amplifier": 60, "speaker": 40, "supply": 20, "cable": 20, "strings": 15,
              "board": 15}  # fmt: skip
    for slot in slots:
        for _ in range(counts[slot.key]):
            item = len({part.item for part in parts}) + 1
            price = round(chance.lognormvariate(0, 0.7) * typical.get(slot.key, 40)) * 100
            whole = Part(
                ident=0, item=item, slot=slot.key, price_minor=price,
                fits={sound.key: 0.8 * chance.betavariate(2, 2) + 0.2 * chance.random() for sound in sounds},
                takes={"current": chance.choice((5.0, 9.0, 120.0)), "outlets": 1.0, "width": 80.0}
                if slot.key == "pedals" else {},
                gives={"current": chance.choice((300.0, 1200.0)), "outlets": 8.0} if slot.key == "supply"
                else {"width": chance.choice((300.0, 600.0))} if slot.key == "board" else {},
                labels=frozenset(f"{slot.key} {aspect}={chance.choice('abc')}" for aspect in "xyz"),
                fails=frozenset(wish for wish in wishes if chance.random() < 0.04),
            )  # fmt: skip
            if slot.key in ("guitar", "amplifier"):
                whole = replace(whole, liked=chance.uniform(-0.1, 0.1))
            for share in (1.0, 0.65) if chance.random() < 0.5 else (1.0,):
                parts.append(replace(whole, ident=len(parts) + 1, price_minor=int(share * price)))
    pairs = (("pedals", "amplifier"), ("guitar", "amplifier"), ("amplifier", "speaker"), ("guitar", "pedals"))
    clashes = [
        Clash(f"{first} {aspect}={a}", f"{second} {aspect}={b}",
              {sound.key: chance.choice((0.05, 0.1, 0.2)) for sound in sounds if chance.random() < 0.6})
        for first, second in pairs for aspect in "xyz"
        for a, b in chance.sample(list(product("abc", "abc")), 2)
    ]  # fmt: skip
    supplies = frozenset(part.item for part in parts if part.slot == "supply")
    return Problem(
        parts=parts, slots=slots, sounds=sounds, budget_minor=115_000, clashes=clashes,
        requires=[Requires(item, supplies) for item in sorted({p.item for p in parts if p.slot == "pedals"})],
        base={"current": 0.0, "outlets": 0.0, "width": 0.0},
    )  # fmt: skip


def everything(problem: Problem) -> Rig | None:
    """The best of all rigs there are."""
    counts = [range(min(part.stock, problem.slot_of[part.slot].most) + 1) for part in problem.parts]
    best: Rig | None = None
    for way in product(*counts):
        chosen = {part.ident: count for part, count in zip(problem.parts, way, strict=True) if count}
        if allowed(problem, chosen):
            rig = worth(problem, chosen)
            if best is None or rig.value > best.value:
                best = rig
    return best


@pytest.mark.grid(12, 120)
@pytest.mark.parametrize("seed", range(500))
def test_the_best_rig_of_an_odd_shelf_is_that_of_trying_everything_and_buys_nothing_in_vain(seed: int) -> None:
    problem = odd(random.Random(7 * seed + 1))
    truth, least = everything(problem), least_price(problem)
    for found in (best_rig(problem), Finder(problem).best()):
        assert found.proven
        assert (found.rig is None) == (truth is None)
        if found.rig is None or truth is None:
            continue
        assert found.rig.value == pytest.approx(truth.value, abs=1e-6)
        assert least is not None
        assert least <= found.rig.price_minor
        by_ident = {part.ident: part for part in problem.parts}
        bought = [by_ident[ident] for ident in found.rig.counts]
        assert len({part.item for part in bought}) == len(bought)
        for part in bought:
            without = {ident: count for ident, count in found.rig.counts.items() if ident != part.ident}
            if part.price_minor and allowed(problem, without):
                # Leaving it would be worse, or by a deal dearer.
                assert (worth(problem, without).value < found.rig.value - 1e-9
                        or price_of(problem, without) > found.rig.price_minor)  # fmt: skip


@pytest.mark.grid(12)
@pytest.mark.parametrize("seed", range(100))
def test_the_best_rig_is_that_of_trying_everything(seed: int) -> None:
    problem = small(random.Random(seed))
    assert Search.fits(problem)
    truth = everything(problem)
    # Two ways to the optimum that share no line: the solver's, and the search's.
    for found in (best_rig(problem), Finder(problem).best()):
        assert found.proven
        if truth is None:
            assert found.rig is None
            continue
        assert found.rig is not None
        assert allowed(problem, found.rig.counts)
        assert found.rig.value == pytest.approx(truth.value, abs=2e-6)
        assert found.bound >= truth.value - 2e-6


def best_of(problem: Problem) -> float:
    found = Finder(problem).best()
    return found.rig.value if found.rig is not None else -1.0


@given(st.integers(0, 10_000), st.data())
@settings(deadline=None, max_examples=30)
def test_what_gets_better_or_cheaper_never_lowers_the_best(seed: int, data: st.DataObject) -> None:
    problem = small(random.Random(seed))
    before = best_of(problem)
    at = data.draw(st.integers(0, len(problem.parts) - 1))
    part = problem.parts[at]
    better = replace(part, fits={sound: min(1.0, fit + 0.2) for sound, fit in part.fits.items()})
    cheaper = replace(part, price_minor=part.price_minor // 2)
    liked = replace(part, liked=part.liked + 0.1 * (part.slot in ("guitar", "amplifier")))
    for changed in (better, cheaper, liked):
        parts = [changed if one.ident == part.ident else one for one in problem.parts]
        assert best_of(replace(problem, parts=parts)) >= before - 2e-6
    # What is in nothing better than another, and dearer, changes nothing.
    dominated = replace(part, ident=999, item=999, price_minor=part.price_minor + 100,
                        fits={sound: fit * 0.9 for sound, fit in part.fits.items()})  # fmt: skip
    needs = [Requires(999, one.one_of) for one in problem.requires if one.item == part.item]
    more = replace(problem, parts=[*problem.parts, dominated], requires=[*problem.requires, *needs])
    chosen, other = (Finder(one).best().rig for one in (problem, more))
    assert (chosen is None) == (other is None)
    if chosen is not None and other is not None:
        assert chosen.value == pytest.approx(other.value, abs=2e-6)
        assert 999 not in other.counts


def test_ten_rigs_are_really_different_and_a_curve_never_falls() -> None:
    problem = big(random.Random(3))
    finder = Finder(problem)
    found = finder.different(10)
    assert len(found) == 10
    assert all(one.proven for one in found)
    rigs = [one.rig for one in found if one.rig is not None]
    assert [rig.value for rig in rigs] == sorted((rig.value for rig in rigs), reverse=True)
    assert all(apart(problem, later, rig) >= APART for at, rig in enumerate(rigs) for later in rigs[at + 1 :])
    steps = finder.curve(range(20_000, 140_000, 10_000))
    fits = [step.solved.rig.value if step.solved.rig else -1.0 for step in steps]
    assert fits == sorted(fits)
    assert all(step.solved.bound >= fit - 1e-6 for step, fit in zip(steps, fits, strict=True))
    assert all(step.solved.rig is None or step.solved.rig.price_minor <= step.budget_minor for step in steps)


def test_where_nothing_fits_the_fewest_wishes_go() -> None:
    amplifier = Part(ident=1, item=1, slot="amplifier", price_minor=50_000, fits={"clean": 0.9, "lead": 0.5},
                     fails=frozenset({"heavy"}))  # fmt: skip
    other = Part(ident=2, item=2, slot="amplifier", price_minor=90_000, fits={"clean": 0.5, "lead": 0.5},
                 fails=frozenset({"heavy", "loop"}))  # fmt: skip
    guitar = Part(ident=3, item=3, slot="guitar", price_minor=0, fits={"clean": 0.5, "lead": 0.5})
    problem = Problem(parts=[amplifier, other, guitar], slots=SLOTS, sounds=SOUNDS, budget_minor=60_000)
    found = nearest_rig(problem)
    assert found is not None
    assert (found.dropped, found.over_minor) == ({"heavy"}, 0)
    assert found.solved.rig is not None
    assert set(found.solved.rig.counts) == {1, 3}
    poor = nearest_rig(replace(problem, budget_minor=40_000, dropped=frozenset({"heavy"})))
    assert poor is not None
    assert (poor.dropped, poor.over_minor) == ({"budget"}, 10_000)
    assert nearest_rig(replace(problem, parts=[amplifier, other])) is None


def test_the_part_that_makes_most_of_the_sound_is_told() -> None:
    good, poor = {"clean": 0.9, "lead": 0.9}, {"clean": 0.3, "lead": 0.3}
    parts = [
        Part(ident=n, item=n, slot=slot, price_minor=n, fits=fits)
        for n, (slot, fits) in enumerate(
            [("amplifier", good), ("amplifier", poor), ("guitar", good), ("guitar", good)], start=1
        )
    ]
    problem = Problem(parts=parts, slots=SLOTS, sounds=SOUNDS)
    found = Finder(problem).best().rig
    assert found is not None
    first, *others = shares(problem, found, [{1: good}, {1: {"clean": 0.8, "lead": 0.8}}, {1: good}])
    assert first.ident == 1
    assert 0 < first.low < first.high
    # A part that is like all of its slot adds nothing, however good it is.
    assert all(abs(one.adds) < 1e-9 for one in others)
