"""The file that is measured: 30 s, 48 kHz, stereo, 24-bit, played on the bench with two different channels."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from cata.core.bench.chain import ChainSettings, record

RATE_HZ, SECONDS = 48_000, 30


def write(path: Path) -> None:
    """A clean take on the left, the same through a drive on the right, repeated to 30 s."""
    left = [record(ChainSettings(phrase=p)).samples[0] for p in ("soft-to-hard", "muted-riff", "lead-line")]
    right = [
        record(ChainSettings(phrase=p, pedal="mid-hump", seed=2)).samples[0]
        for p in ("soft-to-hard", "muted-riff", "lead-line")
    ]
    planes = np.stack([np.resize(np.concatenate(side), RATE_HZ * SECONDS) for side in (left, right)])
    soundfile.write(str(path), planes.T, RATE_HZ, subtype="PCM_24")
