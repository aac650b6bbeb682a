"""What moves, repeats or rings on is named with its rate or time; what stands still is never called moving."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from functools import cache

import numpy as np
import pytest
import soxr

from cata.core.measure.material import QUARTER_RATE_HZ
from cata.core.measure.outcome import measured
from cata.core.measure.results import Result, Results
from cata.core.motion.contender import Heard, Motion, heard_of, motion_of
from cata.core.motion.told import as_result, in_words, moves, withheld
from cata.core.motion.track import Track, track_of
from tests.corpus.moving import MOVING, RATE_HZ, STILL, Moving, moving
from tests.corpus.phrases import PHRASES
from tests.corpus.playing import sampled
from tests.corpus.strings import GUITARS, Floats, strum

Through = Callable[[Floats], Floats]


def recorded(dry: Floats, device: Through, hands: random.Random) -> Floats:
    """A dry take through a device and a clean amplifier, with the noise of both."""
    noise = np.random.default_rng(hands.getrandbits(32))
    wet = device(dry / np.abs(dry).max() * 0.6 + noise.normal(0, 10 ** (-82 / 20), len(dry)))
    wet = STILL["cabinet"](np.tanh(1.2 * wet))
    return np.asarray(wet / np.abs(wet).max() * 0.5 + noise.normal(0, 10 ** (-80 / 20), len(wet)))


@cache
def played(world: str, phrase: str, seed: int) -> Floats:
    """A phrase, played anew by the seed, in a world of strings or of samples."""
    hands, notes = random.Random(seed), PHRASES[phrase](random.Random(7))
    return strum(notes, hands, guitar=GUITARS[1]) if world == "strings" else sampled(notes, hands)


def take(world: str, phrase: str, device: Through, seed: int) -> Track:
    """A take of a phrase through a device."""
    wet = recorded(played(world, phrase, seed), device, random.Random(seed))
    return track_of(soxr.resample(wet, RATE_HZ, QUARTER_RATE_HZ).astype(np.float32))


@cache
def bare(world: str, phrase: str) -> Track:
    return take(world, phrase, STILL["nothing"], 1)


def heard(world: str, phrases: Sequence[str], device: Through, seed: int) -> list[Heard]:
    return [
        heard_of(take(world, phrase, device, seed + at), 0.0, [(bare(world, phrase), 0.0)])
        for at, phrase in enumerate(phrases)
    ]


def right(found: Motion, true: Moving) -> bool:
    """The rate within 2 %, the time within 1 %, the ring within 20 %, and nothing else."""
    pairs = ((found.rate_hz, true.rate_hz, 0.02), (found.echo_s, true.time_s, 0.01), (found.ring_s, true.ring_s, 0.2))
    return all(
        (one is None) == (other is None) and (one is None or other is None or abs(one / other - 1) < within)
        for one, other, within in pairs
    )


THREE = ("lead", "repeating chords", "walking")


@pytest.mark.parametrize("name", ["vibrato", "phaser", "square tremolo", "delay"])
def test_what_moves_is_named_with_its_rate_or_time(name: str) -> None:
    assert right(motion_of(heard("strings", THREE, MOVING[name].through, 40)), MOVING[name])


@pytest.mark.parametrize("name", ["hard clip", "fast compressor", "doubled"])
def test_what_stands_still_is_not_called_moving(name: str) -> None:
    assert motion_of(heard("strings", THREE, STILL[name], 50)) == Motion()


def test_what_moves_in_the_other_take_only_is_not_this_ones_motion() -> None:
    still, also = STILL["drive"], [STILL["boost"], MOVING["vibrato"].through]
    takes = []
    for at, phrase in enumerate(THREE):
        others = [(take("strings", phrase, one, 80 + at), 0.0) for one in also]
        takes.append(heard_of(take("strings", phrase, still, 70 + at), 0.0, others))
    assert motion_of(takes).rate_hz is None


def test_a_shift_between_two_takes_changes_nothing() -> None:
    phrase, device, shift = "ringing", MOVING["fast phaser"].through, 0.4
    one = take("strings", phrase, device, 3)
    frames = round(shift / 0.01)
    late = Track(one.levels_db[frames:], one.hz[frames:], one.floor_db, one.echo)
    found = [motion_of([heard_of(track, lag, [(bare("strings", phrase), 0.0)])]) for track, lag in
             ((one, 0.0), (late, -shift))]  # fmt: skip
    assert found[0].rate_hz == pytest.approx(MOVING["fast phaser"].rate_hz, rel=0.02)
    assert found[1].rate_hz == pytest.approx(found[0].rate_hz, rel=0.02)


def test_silence_and_snippets_move_nothing() -> None:
    nothing = track_of(np.zeros(5 * QUARTER_RATE_HZ, dtype=np.float32))
    snippet = track_of(np.zeros(400, dtype=np.float32))
    for one in (nothing, snippet):
        assert motion_of([heard_of(one, 0.0, [(bare("strings", "lead"), 0.0)])] * 3) == Motion()
    assert motion_of([]) == Motion()


def test_words_say_what_swings_and_how_fast() -> None:
    assert in_words(Motion(5.52, ("pitch", "tone"))) == "pitch and tone swing at 5.5 Hz"
    assert in_words(Motion(0.452, ("tone",), echo_s=0.3104)) == "tone swings at 0.45 Hz, repeats after 310 ms"
    assert in_words(Motion(ring_s=1.86)) == "rings on for 1.9 s"
    assert in_words(Motion()) == "stands still"


def test_what_motion_spoils_is_refused_with_it_as_the_reason() -> None:
    def results(motion: Motion | None) -> Results:
        drive = Result(value={"percent": 29.0}, unit="%")
        return Results({"equivalent_drive": drive, "centroid_hz": Result(value=900.0), "motion": as_result(motion)})

    spoilt = withheld(results(Motion(5.5, ("pitch",), cents=30.0)))
    assert spoilt.code("equivalent_drive") == "moves"
    assert spoilt.number("centroid_hz") == 900.0
    assert "5.5 Hz" in spoilt.refusals["equivalent_drive"].words
    for still in (Motion(), None):
        assert withheld(results(still)).number("equivalent_drive.percent") == 29.0
        assert moves(results(still)) == ""
    assert results(None).code("motion") == "alone"
    assert measured(1.0).refusal is None


PLAYED = 5
"""So many times each phrase is played; devices share them."""
WORLDS: Mapping[str, tuple[float, tuple[str, ...], int]] = {
    "strings": (1.0, ("lead", "one chord", "ringing", "chugs"), 300),
    "samples": (1.17, ("arpeggio", "repeating chords", "offbeats", "walking"), 600),
}
"""The limits were set on other takes of the strings, with these rates; the sampler has others, and proves them."""


@pytest.mark.whole
@pytest.mark.parametrize("world", sorted(WORLDS))
def test_of_twenty_four_that_move_nearly_all_are_named_and_none_of_twenty_that_do_not(world: str) -> None:
    pace, phrases, seed = WORLDS[world]
    devices = {name: one for name, one in moving(pace).items() if not one.follows}
    named = {
        name: right(motion_of(heard(world, phrases, one.through, seed + 10 * (at % PLAYED))), one)
        for at, (name, one) in enumerate(devices.items())
    }
    assert sum(named.values()) >= len(named) - 3, [name for name, well in named.items() if not well]
    still = {
        name: motion_of(heard(world, phrases, one, 2 * seed + 10 * (at % PLAYED)))
        for at, (name, one) in enumerate(STILL.items())
    }
    assert [name for name, found in still.items() if not found.still] == []
