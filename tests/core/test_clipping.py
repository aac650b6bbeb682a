"""Clipping is counted exactly, and a low note's rounded top is none."""

from __future__ import annotations

import numpy as np

from cata.core.clip import Clip
from cata.core.measure.clipping import clipped
from cata.core.measure.material import Material
from tests.tones import reading, sine


def _value(samples: np.ndarray) -> dict[str, object]:
    found = reading("clipped", samples).value
    assert isinstance(found, dict)
    return dict(found)


def test_every_flat_top_at_full_scale_is_counted() -> None:
    samples = np.clip(sine(100, 6.0, 1.0), -1.0, 1.0)
    found = _value(samples)
    assert found["kind"] == "clipped"
    assert found["runs"] == 200
    assert found["samples"] == int(np.count_nonzero(np.abs(samples) == 1.0))


def test_a_flat_top_below_full_scale_came_from_upstream() -> None:
    assert _value(np.clip(sine(100, 0.0, 1.0), -0.5, 0.5))["kind"] == "flat top upstream"


def test_the_rounded_top_of_a_quantised_low_note_is_not_clipping() -> None:
    samples = np.round(sine(30, -1.0, 2.0) * 32767) / 32768
    assert _value(samples) == {"runs": 0, "samples": 0, "kind": "none"}


def test_two_equal_samples_at_the_top_are_not_a_run() -> None:
    samples = sine(440, -20, 1.0)
    samples[1000:1002] = 1.0
    assert _value(samples)["kind"] == "none"
    samples[1000:1003] = 1.0
    assert _value(samples)["runs"] == 1


def test_every_run_of_a_tone_driven_over_full_scale_is_counted() -> None:
    tone = 10 ** (3.5 / 20) * np.sin(2 * np.pi * 220.7 * np.arange(4 * 48_000) / 48_000)
    outcome = clipped(Material(Clip.of(np.clip(tone, -1, 1).astype(np.float32), 48_000)))
    assert outcome.value == {"runs": 1766, "samples": int(np.count_nonzero(np.abs(tone) >= 1)), "kind": "clipped"}
