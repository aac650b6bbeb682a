"""Stand-ins and players of the bench: who plays for whom, and how unsteadily."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cata.core.bench.chain import ChainSettings, dry, played, record
from cata.core.bench.names import knobs_of, stand_in
from cata.core.bench.rehearsal import Device, rehearsal
from cata.core.bench.standin import pickup_for
from cata.core.gear import Control
from cata.core.plan.chain import Conditions
from cata.core.signals.phrase import PHRASES, varied


def knob(name: str) -> Control:
    return Control(key=name.lower(), name=name)


@pytest.mark.parametrize(
    ("texts", "key"),
    [
        (("Some Name", "mid-hump drive"), "mid-hump"), (("X", "soft clip in the feedback"), "mid-hump"),
        (("X", "transparent, full range"), "transparent"), (("X", "", "boost"), "boost"),
        (("X", "hard clip to ground"), "hard-clip"), (("X", "", "distortion"), "hard-clip"),
        (("Old Fuzz", "drive"), "fuzz"), (("X", "tremolo"), ""), (("", ""), ""),
    ],
)  # fmt: skip
def test_a_pedal_is_played_by_the_one_of_its_structure(texts: tuple[str, ...], key: str) -> None:
    assert stand_in("pedal", *texts) == key


@pytest.mark.parametrize(
    ("coils", "inductance", "resistance", "key"),
    [
        (1, 2.5, 6.5, "narrow-single"), (1, 6.0, None, "wide-single"), (2, 8.6, 15.6, "hot-two-coil"),
        (2, None, 8.0, "two-coil"), (2, 3.4, 6.9, "small-two-coil"),
    ],
)  # fmt: skip
def test_a_pickup_is_played_by_the_nearest(coils: int, inductance: float, resistance: float, key: str) -> None:
    assert pickup_for(coils, inductance, resistance) == key


def test_knobs_go_to_those_that_do_the_same() -> None:
    controls = [knob("Gain"), knob("Volume"), knob("Filter")]
    found = knobs_of("mid-hump", controls, {"gain": 0.9, "volume": 0.5, "filter": 0.1})
    assert found == {"drive": 0.9, "tone": 0.1, "level": 0.5}
    assert knobs_of("fuzz", [knob("Wobble")], {"wobble": 1.0}) == {}


def test_a_machine_repeats_itself_and_a_player_does_not() -> None:
    phrase = PHRASES["offbeat"]
    assert varied(phrase, 0, seed=5) is phrase
    assert varied(phrase, 1, seed=5) == varied(phrase, 1, seed=5) != varied(phrase, 1, seed=6)


@pytest.mark.parametrize("amount", [0.5, 2.0])
def test_a_players_unsteadiness_is_what_it_says(amount: float) -> None:
    phrase = PHRASES["soft-to-hard"]
    moved = np.array(
        [
            (b.start_s - a.start_s, b.strength / a.strength - 1)
            for seed in range(20)
            for a, b in zip(phrase.notes, varied(phrase, amount, seed).notes, strict=True)
            if a.start_s > 1 and a.strength < 0.6
        ]
    )
    assert moved[:, 0].std() == pytest.approx(0.005 * amount, rel=0.1)
    assert moved[:, 1].std() == pytest.approx(0.06 * amount, rel=0.1)


@pytest.mark.certify
def test_the_dry_take_is_what_a_re_amped_chain_hears() -> None:
    settings = ChainSettings(phrase="lead-line", tuning_cents=-100.0)
    assert played(settings).notes[0].midi == PHRASES["lead-line"].notes[0].midi - 1
    assert dry(settings).dtype == np.float32
    louder = record(ChainSettings(phrase="offbeat", gain_db=6.0)).samples
    plain = record(ChainSettings(phrase="offbeat")).samples
    assert np.allclose(louder, np.clip(plain * 10 ** (6 / 20), -1, 1), atol=1e-6)


BRIDGE = Conditions(pickup="bridge", guitar_volume=0.5)


def test_a_chain_without_a_pickup_or_amplifier_plays_the_usual_ones() -> None:
    neck = Conditions(pickup="neck", guitar_volume=1.0)
    chain, notes = rehearsal("my own song", [Device("speaker", "Twelve")], neck, player=0.0, seed=1)
    assert len(notes) == 2
    assert chain == ChainSettings(phrase="soft-to-hard", pickup="narrow-single-neck")


def test_a_stage_that_is_off_is_not_played() -> None:
    pedal = Device("pedal", "Fuzz", "fuzz", on=False)
    chain, notes = rehearsal("offbeat", [pedal], BRIDGE, player=1.0, seed=3)
    assert (chain.pedal, chain.player, chain.seed, notes) == ("bypass", 1.0, 3, [])
    assert chain.guitar_volume == pytest.approx(0.5**1.7)
    assert rehearsal("offbeat", [replace(pedal, on=True)], BRIDGE, player=0.0, seed=1)[0].pedal == "fuzz"


@pytest.mark.certify
@pytest.mark.parametrize(
    ("kind", "text", "bench", "notes"),
    [
        ("amplifier", "two stages before the stack", "crunch", 0),
        ("amplifier", "Small amplifier, solid-state", "clean", 0),
        ("amplifier", "glowing glass", "clean", 1),
        ("amplifier", "", "clean", 0),
        ("pedal", "feedback compressor", "compressor", 0),
        ("pedal", "tremolo", "bypass", 1),
    ],
)
def test_each_link_is_played_by_its_like_and_said_where_there_is_none(
    kind: str, text: str, bench: str, notes: int
) -> None:
    device = Device(kind, "Alder", text, controls=[knob("Volume")], settings={"volume": 0.8})
    chain, said = rehearsal("offbeat", [device], BRIDGE, player=0, seed=1)
    assert getattr(chain, kind) == bench
    assert len(said) == notes
    if kind == "amplifier":
        clip = record(chain)
        assert -40.0 < 20 * np.log10(np.max(np.abs(clip.samples))) < -0.1
