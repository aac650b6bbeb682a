"""Pairing: every rule speaks where both sides are known, is silent where one is not, and can be switched off."""

from __future__ import annotations

from dataclasses import replace

import pytest

from cata.core.brief import Sound, Target
from cata.core.pairing.rule import Piece, clashes_of, labels_of, pair_for, pairing_rules, told_of
from cata.core.rig.best import Finder
from cata.core.rig.parts import Part, Problem, Slot, Wanted

CLEAN = Sound(key="clean", name="Clean", targets=[Target(reading="equivalent_drive", part="percent", high=3)])
DRIVEN = Sound(key="lead", name="Lead", targets=[Target(reading="equivalent_drive", part="percent", low=10)])
SOUNDS = [CLEAN, DRIVEN]


def piece(item: int, place: str, specs: dict[str, float | bool | str] | None = None, **figures: float) -> Piece:
    named = {key.replace("__", "."): value for key, value in figures.items()}
    return Piece(item, f"i{item}", place, specs or {}, named)


EARLY = piece(9, "amplifier", headroom_db=-6.0)
LATE = piece(9, "amplifier", headroom_db=20.0)
PAIRS = {
    "output-and-input": (piece(1, "pickup", {"output_class": "hot"}), EARLY, {"clean": 0.2}),
    "lows-in-front": (piece(1, "pedals", low_end_loss_db=0.2), EARLY, {"lead": 0.1}),
    "mids-back": (piece(1, "pedals", region__mids=-5.0), piece(2, "amplifier", region__mids=-6.0),
                  {"clean": 0.1, "lead": 0.1}),
    "noise-before-gain": (piece(1, "pedals", noise_below_db=30.0), EARLY, {"lead": 0.1}),
    "loop-or-front": (piece(1, "pedals", {"effect": "delay"}),
                      piece(2, "amplifier", {"effects_loop": False}, headroom_db=-3.0), {"lead": 0.1}),
    "plugs": (piece(1, "pedals", {"polarity": "centre positive"}),
              piece(2, "power supply", {"polarity": "centre negative"}), None),
    "thin-pickup": (piece(1, "pickup", {"coils": 1, "output_class": "low"}), piece(2, "pedals", region__mids=-5.0),
                    {"clean": 0.1, "lead": 0.1}),
    "gain-still-needed": (piece(1, "pedals", headroom_db=15.0), LATE, {"lead": 0.05}),
    "fuzz-first": (piece(1, "pedals", {"effect": "fuzz"}), piece(2, "pedals", {"bypass": "buffered"}), {}),
    "direct": (piece(1, "pedals", headroom_db=-5.0), piece(2, "amplifier", {"role": "direct box"}),
               {"clean": 0.05, "lead": 0.2}),
    "voltage": (piece(1, "pedals", {"voltage_v": 9.0}), piece(2, "power supply", {"voltage_v": 18.0}), None),
    "speaker-power": (piece(1, "amplifier", {"watts": 100.0}), piece(2, "speaker", {"watts": 30.0}), None),
    "speaker-load": (piece(1, "amplifier", {"speaker_load_ohm": 16}), piece(2, "speaker", {"impedance_ohm": 8}), None),
}  # fmt: skip


@pytest.mark.parametrize("rule", pairing_rules(), ids=lambda rule: rule.key)
def test_every_rule_has_a_pair_that_shows_it_and_one_that_gets_on(rule) -> None:  # type: ignore[no-untyped-def]
    first, second, losses = PAIRS[rule.key]
    (told,) = [one for one in told_of([first, second], {}) if one.code == rule.key]
    assert {first.item, second.item} == {told.numbers["first"], told.numbers["second"]}
    (clash,) = rule.clashes([first, second], SOUNDS)
    assert (clash.losses, clash.never) == (losses or {}, losses is None)
    assert {clash.first, clash.second} <= labels_of(first) | labels_of(second)
    # Of what is there for something else than drive none is expected.
    press = replace(first, specs={**first.specs, "effect": "compressor"})
    assert rule.key != "gain-still-needed" or not told_of([press, second], {})
    # Where nothing is known of one of them, nothing is said.
    assert not told_of([first, replace(second, specs={}, figures={})], {})
    # What keeps from harm cannot be switched off.
    off = clashes_of([first, second], SOUNDS, {rule.key: 0.0})
    assert (clash in off) == rule.safety == bool(told_of([first, second], {rule.key: 0.0}))
    shown = pair_for(rule, [LATE, EARLY, second, first])
    assert shown is not None
    assert shown.words == told.words
    assert rule.reason
    assert rule.school


def test_a_rule_counts_as_much_as_it_is_given() -> None:
    first, second, _ = PAIRS["lows-in-front"]
    losses = [clash.losses for clash in clashes_of([first, second], SOUNDS, {"lows-in-front": 2.0})]
    assert {"lead": 0.2} in losses


def test_what_meets_badly_is_left_for_what_gets_on() -> None:
    hot, low = piece(1, "pickup", {"output_mv": 400.0}), piece(2, "pickup", {"output_mv": 200.0})
    pieces = [hot, low, piece(3, "amplifier", headroom_db=5.0)]
    fits = {1: 0.8, 2: 0.77, 3: 0.8}
    parts = [Part(ident=one.item, item=one.item, slot=one.place, price_minor=0, labels=labels_of(one),
                  fits={"clean": fits[one.item]}) for one in pieces]  # fmt: skip
    slots = [Slot(key=place, least=1, share={"clean": 0.5}) for place in ("pickup", "amplifier")]
    problem = Problem(parts=parts, slots=slots, sounds=[Wanted("clean")], clashes=clashes_of(pieces, [CLEAN], {}))
    best = Finder(problem).best().rig
    assert best is not None
    assert set(best.counts) == {2, 3}
    assert told_of([hot, pieces[2]], {})[0].numbers["measured"] == 0


@pytest.mark.parametrize(
    ("takes", "most", "gives", "clash"),
    [(9, None, 9, False), (9, 18, 18, False), (9, None, 12, True), (18, None, 9, True), (9, 18, 24, True)],
)
def test_a_supply_gives_what_a_pedal_stands(takes: float, most: float | None, gives: float, clash: bool) -> None:
    specs: dict[str, float | bool | str] = {"voltage_v": takes} | ({} if most is None else {"voltage_max_v": most})
    found = told_of([piece(1, "pedals", specs), piece(2, "power supply", {"voltage_v": gives})], {})
    assert bool(found) == clash


def test_what_gets_on_with_everything_shows_no_rule() -> None:
    quiet = [piece(1, "pedals", headroom_db=5.0), piece(2, "amplifier", {"speaker_count": 1, "watts": 100.0})]
    assert [pair_for(rule, quiet) for rule in pairing_rules()] == [None] * len(pairing_rules())
