"""A stretch of a recording made ready for the tray: as FLAC, with what its level and picture need."""

from __future__ import annotations

from typing import Any

from cata.core.clip import Clip
from cata.core.measure.level import loudness_lufs, true_peak_dbtp
from cata.core.measure.material import Material
from cata.core.peaks import outline
from cata.media.encode import write_listening_copy
from cata.tasks.desk import Desk


def for_listening(clip: Clip, name: str, desk: Desk) -> dict[str, Any]:
    """Write a clip as a listening copy; its loudness, true peak, length, outline, and the gain that undoes scaling."""
    with desk.writing(name) as path:
        copy_gain_db = write_listening_copy(clip, path)
    material = Material(clip)
    return {
        "loudness_lufs": loudness_lufs(material).value,
        "true_peak_dbtp": true_peak_dbtp(material).value,
        "duration_s": clip.duration_s,
        "copy_gain_db": copy_gain_db,
        "outline": outline(clip),
    }
