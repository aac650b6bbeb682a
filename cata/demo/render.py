"""The task of a worker: one bench take as a WAV file."""

from __future__ import annotations

from typing import Any

LEAD_IN_S = 0.6


def render_take(chain: dict[str, Any], path: str) -> dict[str, Any]:
    """Render a chain to 24-bit WAV at ``path``; the facts of the take."""
    from pathlib import Path

    from cata.core.bench.chain import ChainSettings, record
    from cata.media.encode import write_wav

    clip = record(ChainSettings(**chain))
    write_wav(clip, Path(path))
    return {
        "path": path,
        "container": "WAV",
        "codec": "PCM_24",
        "rate_hz": clip.rate_hz,
        "channels": clip.channels,
        "duration_s": clip.duration_s,
        "evidence": "re-amped",
    }
