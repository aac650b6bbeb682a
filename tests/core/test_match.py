"""Matching against known shifts, and gains for listening."""

from __future__ import annotations

import numpy as np
import pytest
import soxr
from hypothesis import given
from hypothesis import strategies as st

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.match.audit import audit_test
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.features import features_of
from cata.core.match.gains import CEILING_DBTP, Level, listening_gains
from cata.core.match.pair import PairMatch, match_pair
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from tests.tolerances import CENTS_DIFFERENCE, SAMPLE_S, TEMPO_SHARE
from tests.tones import white

PHRASE = "lead-line"


def take(**settings: object) -> Clip:
    return record(ChainSettings(**{"phrase": PHRASE, **settings}))  # type: ignore[arg-type]


def shifted(clip: Clip, samples: int) -> Clip:
    first = np.pad(clip.samples, ((0, 0), (max(0, samples), 0)))
    return Clip.of(first[:, max(0, -samples) :], clip.rate_hz)


def matched(a: Clip, b: Clip) -> PairMatch:
    return match_pair(features_of(Material(a)), features_of(Material(b)))


def evidence(index: int, name: str, clip: Clip) -> TakeEvidence:
    material = Material(clip, lead_in_s=0.6)
    return TakeEvidence(
        index, name, features_of(material), analyse_material(material), Source("PCM_24", False, 48000, 1)
    )


@pytest.mark.grid(1)
@pytest.mark.parametrize("samples", [-20011, -997, -1, 0, 1, 333, 48003])
def test_a_reamped_take_is_placed_to_the_sample(samples: int) -> None:
    dry = take()
    match = matched(dry, shifted(take(pedal="transparent"), samples))
    assert match.lag_exact
    assert match.lag_ms == pytest.approx(samples / 48, abs=SAMPLE_S * 1000)
    assert match.same_phrase == "yes"


def test_an_inverted_take_is_told_and_a_played_one_is_not_judged() -> None:
    clip = take()
    upside_down = Clip(-clip.samples, clip.rate_hz)
    assert matched(clip, upside_down).polarity == "inverted"
    assert matched(clip, clip).polarity == "same"
    assert matched(clip, take(tuning_cents=-200.0, seed=5)).polarity == "cannot tell"


@pytest.mark.grid(1)
@pytest.mark.parametrize(("phrase", "pedal"), [("muted-riff", "boost"), ("lead-line", "bypass"), ("offbeat", "fuzz")])
def test_takes_played_twice_are_lined_up_by_their_strokes_and_say_how_far_these_lie(phrase: str, pedal: str) -> None:
    first = take(phrase=phrase, player=1.0)
    match = matched(first, shifted(take(phrase=phrase, pedal=pedal, player=1.0, seed=2), 4800))
    assert not match.lag_exact
    assert match.polarity == "cannot tell"
    assert match.lag_ms == pytest.approx(100, abs=15)
    assert match.lag_doubt_ms is not None
    assert 4 < match.lag_doubt_ms < 60


@pytest.mark.grid(1)
@pytest.mark.parametrize("ratio", [0.85, 0.97, 1.0, 1.03, 1.2])
def test_the_tempo_ratio_is_found(ratio: float) -> None:
    clip = take()
    faster = soxr.resample(clip.samples[0], ratio, 1.0)
    match = matched(clip, Clip.of(faster, 48000))
    assert match.tempo_ratio == pytest.approx(ratio, rel=TEMPO_SHARE)


@pytest.mark.grid(1)
@pytest.mark.parametrize("cents", [-100.0, -14.0, 3.0, 60.0])
def test_the_tuning_difference_is_found(cents: float) -> None:
    clip = take()
    # Played from a slower or faster tape: every pitch moves by exactly as much.
    moved = soxr.resample(clip.samples[0], 2 ** (cents / 1200), 1.0)
    match = matched(clip, Clip.of(moved, 48000))
    assert match.tuning_difference_cents == pytest.approx(cents, abs=CENTS_DIFFERENCE)


def test_another_phrase_and_noise_are_not_the_same_phrase() -> None:
    assert matched(take(), take(phrase="muted-riff")).same_phrase == "no"
    noise = matched(take(), Clip.of(white(-20, 8), 48000))
    assert noise.same_phrase == "no"
    assert noise.tempo_ratio is None
    assert noise.refusals["tuning_difference_cents"]


def test_silence_is_refused_everywhere_with_reasons() -> None:
    match = matched(take(), Clip.of(np.zeros(96000), 48000))
    assert match.lag_ms is None
    assert match.loudness_difference_lu is None
    assert set(match.refusals) == {"lag_ms", "tempo_ratio", "tuning_difference_cents", "loudness_difference_lu"}


def test_a_mono_take_is_compared_with_stereo_as_it_is_heard() -> None:
    clip = take()
    both = Clip(np.vstack([clip.samples, clip.samples]), 48000)
    assert matched(clip, both).loudness_difference_lu == pytest.approx(0.0, abs=0.01)


levels = st.lists(
    st.builds(Level, st.one_of(st.none(), st.floats(-60, -5)), st.one_of(st.none(), st.floats(-40, 3))), max_size=8
)


@given(levels, st.sampled_from(["equal", "as_set"]))
def test_no_take_exceeds_the_ceiling_and_only_the_school_sets_the_differences(found: list[Level], school: str) -> None:
    gains = listening_gains(found, school)  # type: ignore[arg-type]
    for level, gain in zip(found, gains.gains_db, strict=True):
        if level.true_peak_dbtp is not None:
            assert level.true_peak_dbtp + gain <= CEILING_DBTP + 1e-9
    heard = [
        level.loudness_lufs + gain
        for level, gain in zip(found, gains.gains_db, strict=True)
        if level.loudness_lufs is not None
    ]
    if school == "equal" and heard:
        assert max(heard) - min(heard) < 1e-9
    if school == "as_set":
        assert len(set(gains.gains_db)) <= 1


def test_the_audit_finds_what_is_wrong_and_nothing_else() -> None:
    good = take()
    faulty = {
        "clipped": Clip.of(np.clip(good.samples * 40, -1, 1), 48000),
        "flat": take(tuning_cents=-30.0),
        "slow": Clip.of(soxr.resample(good.samples[0], 0.95, 1.0), 48000),
        "other": take(phrase="offbeat"),
        "upside": Clip(-good.samples, 48000),
        "silent": Clip.of(np.zeros(48000 * 9), 48000),
        "short": good.cut(0, 48000 * 4),
    }
    clips = {"a": good, "b": take(pedal="transparent"), "c": take(seed=3), "d": take(seed=4), **faulty}
    audit = audit_test([evidence(i, name, clip) for i, (name, clip) in enumerate(clips.items())])
    names = list(clips)
    found = {(names[f.take], f.rule) for f in audit.findings if f.severity != "note"}
    expected = {
        ("clipped", "clipping"),
        ("flat", "other_tuning"),
        ("slow", "other_tempo"),
        ("slow", "other_tuning"),
        ("other", "not_the_same_phrase"),
        ("upside", "inverted"),
        ("silent", "silence"),
        ("short", "length"),
    }
    assert expected <= found
    assert not [one for one in found - expected if one[0] in "abcd"]
    assert [f.severity for f in audit.findings] == sorted(
        (f.severity for f in audit.findings), key=["fault", "check", "note"].index
    )


@pytest.mark.certify
def test_a_reference_that_is_itself_off_is_the_one_that_is_found() -> None:
    slow = Clip.of(soxr.resample(take().samples[0], 0.95, 1.0), 48000)
    clips = [slow, take(), take(pedal="transparent"), take(seed=2)]
    audit = audit_test([evidence(i, str(i), clip) for i, clip in enumerate(clips)])
    found = {f.rule: f for f in audit.findings if f.severity == "fault"}
    assert found.keys() == {"other_tuning", "other_tempo"}
    assert {f.take for f in found.values()} == {0}
    # The picture shows it beside a take that is as the others are, not beside itself.
    assert [one.name for one in found["other_tempo"].picture.series][1] == "0"  # type: ignore[union-attr]
    assert found["other_tempo"].picture.series[0].name != "0"  # type: ignore[union-attr]
    shown_cents = found["other_tuning"].picture.marks[0][0]  # type: ignore[union-attr]
    assert shown_cents == pytest.approx(1200 * np.log2(0.95), abs=1.0)


@pytest.mark.certify
def test_findings_carry_pictures_and_become_plain_data() -> None:
    clips = [take(), take(tuning_cents=-40.0)]
    audit = audit_test([evidence(i, str(i), clip) for i, clip in enumerate(clips)])
    tuning = next(f for f in audit.findings if f.rule == "other_tuning").as_json()
    assert len(tuning["picture"]["x"]) == len(tuning["picture"]["series"][0]["y"])
    best = max(zip(tuning["picture"]["series"][0]["y"], tuning["picture"]["x"], strict=True))[1]
    assert best == pytest.approx(-40, abs=2)
