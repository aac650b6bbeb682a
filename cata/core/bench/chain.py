"""A whole chain: phrase, pickup, pedals, amplifier; and the recording of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.pedals import PEDALS
from cata.core.bench.pickups import PICKUPS
from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.signals.phrase import PHRASES, retuned

LEAD_IN_S = 0.6
"""Silence (noise only) before the phrase, from which the noise floor is read."""


@dataclass(frozen=True, kw_only=True)
class ChainSettings:
    """A bench chain: keys of phrase, pickup, pedal and amplifier, with positions; ``tuning_cents`` re standard.

    ``guitar_volume`` is linear; ``input_gain`` is the recorder's (over 1 it clips, as a recorder does);
    ``noise_dbfs`` the hiss of the chain, RMS.
    """

    phrase: str
    pickup: str = "narrow-single"
    pedal: str = "bypass"
    pedal_settings: Mapping[str, float] = field(default_factory=dict)
    amplifier: str = "clean"
    amplifier_settings: Mapping[str, float] = field(default_factory=dict)
    tuning_cents: float = 0.0
    guitar_volume: float = 1.0
    input_gain: float = 1.0
    noise_dbfs: float = -78.0
    seed: int = 1


def record(settings: ChainSettings) -> Clip:
    """One take of the chain, mono, 48 kHz, deterministic: lead-in of noise, then the phrase."""
    phrase = retuned(PHRASES[settings.phrase], settings.tuning_cents)
    di = PICKUPS[settings.pickup].record(phrase, settings.seed) * np.float32(settings.guitar_volume)
    di = np.pad(di, (int(LEAD_IN_S * ANALYSIS_RATE_HZ), 0))
    driven = PEDALS[settings.pedal].render(di, settings.pedal_settings)
    heard = AMPLIFIERS[settings.amplifier].render(driven, settings.amplifier_settings)
    hiss = np.random.default_rng(settings.seed + 7).standard_normal(len(heard)) * 10 ** (settings.noise_dbfs / 20)
    recorded = (heard + hiss.astype(np.float32)) * np.float32(settings.input_gain)
    return Clip.of(np.clip(recorded, -1.0, 1.0 - 2.0**-23), ANALYSIS_RATE_HZ)
