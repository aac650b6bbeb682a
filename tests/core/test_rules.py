"""Each rule of the audit at its border: just not, and just."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.match.audit import audit_test
from cata.core.match.evidence import PairEvidence, Source, TakeEvidence, thinned
from cata.core.match.features import features_of
from cata.core.match.finding import RULE_NAMES, RULES, SEVERITY_ORDER
from cata.core.match.pair import PairMatch
from cata.core.match.rules import pair as pair_rules
from cata.core.match.rules import take as take_rules
from cata.core.measure.material import Material
from cata.said import said
from tests.core.test_match import evidence
from tests.probes import results
from tests.tones import pink, sine, white

WAV = Source("PCM_24", False, 48000, 1)


def take(
    samples: np.ndarray | None = None,
    *,
    readings: dict[str, object] | None = None,
    source: Source = WAV,
    index: int = 0,
    name: str = "Alder",
) -> TakeEvidence:
    clip = Clip.of(pink(-20, 3) if samples is None else samples, source.rate_hz)
    return TakeEvidence(index, name, features_of(Material(clip)), results(readings or {}), source)  # type: ignore[arg-type]


MATCHED = PairMatch(
    lag_ms=0.0,
    lag_exact=True,
    lag_doubt_ms=None,
    polarity="same",
    tempo_ratio=1.0,
    tuning_difference_cents=0.0,
    same_phrase="yes",
    agreement=0.95,
    chroma_similarity=0.97,
    loudness_difference_lu=0.0,
)


def pair(typical_cents: float = 0.0, typical_tempo: float = 1.0, **changes: object) -> PairEvidence:
    """A pair whose match is what the test says."""
    evidence = PairEvidence(take(), take(index=1, name="Birk"), typical_cents, typical_tempo)
    evidence.__dict__["match"] = replace(MATCHED, **changes)  # type: ignore[arg-type]
    return evidence


def test_a_perfect_pair_has_no_finding() -> None:
    assert [rule(pair()) for rule in pair_rules.PAIR_RULES] == [None] * len(pair_rules.PAIR_RULES)


@pytest.mark.parametrize(
    ("changes", "rule", "severity"),
    [
        ({"loudness_difference_lu": 0.49}, pair_rules.loudness, None),
        ({"loudness_difference_lu": -0.5}, pair_rules.loudness, "note"),
        ({"loudness_difference_lu": 11.9}, pair_rules.loudness, "note"),
        ({"loudness_difference_lu": 12.0}, pair_rules.loudness, "note"),
        ({"loudness_difference_lu": None}, pair_rules.loudness, None),
        ({"tuning_difference_cents": 4.9}, pair_rules.tuning, None),
        ({"tuning_difference_cents": -5.0}, pair_rules.tuning, "fault"),
        ({"tuning_difference_cents": 90.0, "same_phrase": "no"}, pair_rules.tuning, None),
        ({"tempo_ratio": 1.019}, pair_rules.tempo, None),
        ({"tempo_ratio": 0.979}, pair_rules.tempo, "fault"),
        ({"tempo_ratio": None}, pair_rules.tempo, None),
        ({"polarity": "inverted"}, pair_rules.inverted, "check"),
        ({"polarity": "cannot tell"}, pair_rules.inverted, None),
        ({"lag_ms": 0.9}, pair_rules.lag, None),
        ({"lag_ms": 250.0}, pair_rules.lag, "note"),
        ({"lag_ms": None, "refusals": {"lag_ms": said("few_onsets", "no onsets")}}, pair_rules.lag, "check"),
        ({"same_phrase": "no"}, pair_rules.same_phrase, "fault"),
        ({"same_phrase": "unsure"}, pair_rules.same_phrase, "check"),
    ],
)
def test_a_pair_rule_speaks_from_its_border_on(changes: dict[str, object], rule: object, severity: str | None) -> None:
    finding = rule(pair(**changes))  # type: ignore[operator]
    assert (finding.severity if finding else None) == severity
    if finding:
        assert finding.take == 1
        assert "Birk" in finding.text
        assert finding.advice.endswith(".")
        assert finding.rule in RULE_NAMES


def test_tuning_and_tempo_are_judged_against_the_majority() -> None:
    assert pair_rules.tuning(pair(typical_cents=-40.0, tuning_difference_cents=-41.0)) is None
    lone = pair_rules.tuning(pair(typical_cents=-40.0, tuning_difference_cents=0.0))
    assert lone is not None
    assert lone.numbers == {"cents": 40.0}
    assert pair_rules.tempo(pair(typical_tempo=1.1, tempo_ratio=1.105)) is None


def test_mono_against_stereo_is_noted() -> None:
    stereo = Source("PCM_24", False, 48000, 2)
    evidence = PairEvidence(take(), replace(take(index=1, name="Birk"), source=stereo))
    found = pair_rules.channels(evidence)
    assert found is not None
    assert found.numbers == {"channels": 2}


@pytest.mark.parametrize(("distance", "found"), [(29.9, True), (30.0, False)])
def test_noise_is_named_within_30_db_of_the_playing(distance: float, found: bool) -> None:
    readings = {"loudness_lufs": -20.0, "noise_floor_dbfs": -20.0 - distance}
    assert (take_rules.noise(take(readings=readings)) is not None) == found
    assert take_rules.noise(take(readings={"loudness_lufs": -20.0})) is None


def test_an_offset_is_named_where_it_is_heard() -> None:
    assert take_rules.offset(take(sine(220, -12, 2) + 0.05)) is not None
    assert take_rules.offset(take(sine(220, -12, 2) + 0.001)) is None
    assert take_rules.offset(take(np.zeros(48000) + 1e-6)) is None


def test_lossy_and_low_rate_sources_are_named() -> None:
    lossy = take_rules.source(take(source=Source("VORBIS", True, 48000, 1)))
    assert lossy is not None
    assert lossy.numbers == {"reason": "lossy"}
    low = take(sine(440, -12, 3, 22050), source=Source("PCM_16", False, 22050, 1))
    found = take_rules.source(low)
    assert found is not None
    assert found.numbers == {"reason": "low_rate"}
    assert take_rules.source(take()) is None


def test_a_steep_edge_is_told_from_a_speaker() -> None:
    def shaped(gain: object) -> np.ndarray:
        spectrum = np.fft.rfft(white(-20, 4))
        hz = np.fft.rfftfreq(4 * 48000, 1 / 48000)
        return np.fft.irfft(spectrum * gain(hz))  # type: ignore[operator]

    cut = take(shaped(lambda hz: np.where(hz < 15800, 1.0, 1e-5)))
    assert take_rules.steep_edge_hz(cut) == pytest.approx(15800, abs=500)
    speaker = take(shaped(lambda hz: 1 / (1 + (hz / 5000) ** 8)))
    assert take_rules.steep_edge_hz(speaker) is None


def test_every_rule_has_a_name_and_words() -> None:
    assert len({rule.key for rule in RULES}) == len(RULES)
    assert all(rule.name and rule.about.endswith(".") for rule in RULES)
    assert SEVERITY_ORDER == ("fault", "check", "note")


def test_pictures_are_thinned_by_their_largest_values() -> None:
    values = np.zeros(10_000)
    values[7_777] = 1.0
    assert len(thinned(values)) == 400
    assert max(thinned(values)) == 1.0
    assert thinned(np.array([1.0, 2.0])) == [1.0, 2.0]


def test_of_silence_with_dither_and_of_a_snippet_nothing_else_is_said_and_neither_is_a_reference() -> None:
    r = np.random.default_rng(1)
    dither = Clip.of((np.round(r.random(96_000) - r.random(96_000)) / 32_768).astype(np.float32), 48_000)
    phrase = record(ChainSettings(phrase="lead-line"))
    for nothing in (dither, phrase.cut(48_000, 52_800)):
        clips = (nothing, phrase, record(ChainSettings(phrase="lead-line", seed=3)))
        found = audit_test([evidence(i, str(i), clip) for i, clip in enumerate(clips)], prefer=0)
        assert found.reference == 1
        assert [(f.rule, f.severity, f.take) for f in found.findings if f.severity != "note"] == [
            ("silence", "fault", 0)
        ]
