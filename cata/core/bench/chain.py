"""A whole chain: phrase, pickup, pedals, amplifier; and the recording of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.pedals import PEDALS
from cata.core.bench.pickups import PICKUPS
from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.signals.phrase import PHRASES, Phrase, retuned, varied

LEAD_IN_S = 0.6
"""Silence (noise only) before the phrase, from which the noise floor is read."""


@dataclass(frozen=True, kw_only=True)
class ChainSettings:
    """A bench chain: keys of phrase, pickup, pedal and amplifier, with positions; ``tuning_cents`` re standard.

    ``guitar_volume`` is linear; ``input_gain`` is the recorder's (over 1 it clips, as a recorder does);
    ``noise_dbfs`` the hiss of the chain, RMS; ``player`` how unsteady the hands are (0 a machine, 1 a steady player);
    ``gain_db`` what the player or the recorder turned up since.
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
    player: float = 0.0
    gain_db: float = 0.0


def played(settings: ChainSettings) -> Phrase:
    """The phrase as this chain's player plays it, in its tuning."""
    return retuned(varied(PHRASES[settings.phrase], settings.player, settings.seed), settings.tuning_cents)


def dry(settings: ChainSettings) -> Audio:
    """The direct signal of the guitar, mono, 48 kHz, without lead-in: what is played through gear when re-amping."""
    di = PICKUPS[settings.pickup].record(played(settings), settings.seed)
    return np.asarray(di * np.float32(settings.guitar_volume), dtype=np.float32)


def record(settings: ChainSettings) -> Clip:
    """One take of the chain, mono, 48 kHz, deterministic: lead-in of noise, then the phrase."""
    di = np.pad(dry(settings), (int(LEAD_IN_S * ANALYSIS_RATE_HZ), 0))
    driven = PEDALS[settings.pedal].render(di, settings.pedal_settings)
    heard = AMPLIFIERS[settings.amplifier].render(driven, settings.amplifier_settings)
    hiss = np.random.default_rng(settings.seed + 7).standard_normal(len(heard)) * 10 ** (settings.noise_dbfs / 20)
    gain = settings.input_gain * 10 ** (settings.gain_db / 20)
    recorded = (heard + hiss.astype(np.float32)) * np.float32(gain)
    return Clip.of(np.clip(recorded, -1.0, 1.0 - 2.0**-23), ANALYSIS_RATE_HZ)
