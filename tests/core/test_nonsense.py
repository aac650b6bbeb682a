"""What is no playing gets no number that only playing has."""

from __future__ import annotations

import numpy as np
import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.measure.analysis import analyse
from cata.core.measure.material import Material
from cata.core.measure.nonsense import no_notes
from cata.core.signals.phrase import PHRASES

RATE = 48_000
TIME = np.arange(3 * RATE) / RATE
NOTES = {"drive_density", "chord_dirt_db", "low_tightness_ms", "sustain", "tuning_cents", "string_balance_db"}
TONES = {"third_octaves_db", "regions_db", "centroid_hz", "tilt_db_per_oct", "harshness_db", "level_spread_db"}
CLICK = np.where(np.arange(3 * RATE) == RATE, 0.9, 0.0)
WHITE = 0.2 * np.random.default_rng(1).standard_normal(3 * RATE)


@pytest.mark.parametrize(
    ("signal", "lacking"),
    [
        (np.full(3 * RATE, 0.5), NOTES | TONES | {"noise_floor_dbfs"}),
        (CLICK, NOTES | TONES),
        (WHITE, NOTES),
        (0.5 * np.cos(np.pi * np.arange(3 * RATE)), NOTES | TONES),
        (0.5 * np.sin(2 * np.pi * 23_900 * TIME), NOTES | TONES),
    ],
    ids=["a constant level", "a click", "white noise", "a tone at half the rate", "a tone nobody hears"],
)
def test_what_is_no_playing_is_refused(signal: np.ndarray, lacking: set[str]) -> None:
    analysis = analyse(Clip.of(signal.astype(np.float32), RATE))
    assert lacking <= set(analysis.refusals)
    assert analysis.readings["crest_db"] >= 0.0  # type: ignore[operator]


@pytest.mark.grid(2)
@pytest.mark.parametrize("pedal", ["bypass", "hard-clip", "fuzz", "compressor"])
@pytest.mark.parametrize("phrase", PHRASES)
def test_playing_is_never_taken_for_nonsense(phrase: str, pedal: str) -> None:
    clip = record(ChainSettings(phrase=phrase, pedal=pedal))
    assert no_notes(Material(clip)) is None
    hissing = clip.samples + 0.003 * np.random.default_rng(2).standard_normal(clip.samples.shape)
    assert no_notes(Material(Clip.of(hissing.astype(np.float32), RATE))) is None
