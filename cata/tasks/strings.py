"""Six open strings through a pickup: what a recording of them says; and the level of a calibrating tone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from cata.core.clip import Clip
from cata.core.measure.device.returned import one_channel
from cata.core.measure.pickup import resonance_from_playing
from cata.core.measure.results import NOT_MEASURED, as_kept
from cata.core.measure.strings import Strings, read_strings, string_results, tone_rms_dbfs
from cata.errors import Refused
from cata.media.decode import decode
from cata.said import Said
from cata.tasks.desk import Desk
from cata.tasks.listening import for_listening
from cata.tasks.shape import Task


@dataclass(frozen=True)
class StringsToRead:
    """A recording of open strings, where its listening copy goes, and the channel that carries the pickup."""

    file: str
    playing: str
    channel: int | None = None


def read(wish: StringsToRead, desk: Desk) -> dict[str, Any]:
    """What a recording of six open strings says, as it is kept; Refused where it says nothing."""
    with desk.reading(wish.file) as path:
        clip = decode(path).clip
    if wish.channel is not None and wish.channel < clip.channels:
        clip = Clip(clip.samples[wish.channel : wish.channel + 1], clip.rate_hz)
    one, notes = one_channel(clip)
    found = read_strings(one)
    if isinstance(found, Said):
        raise Refused.of(found)
    heard = for_listening(one, wish.playing, desk) | {"first_s": round(found.first_s, 4)}
    whole: dict[str, Any] = {"part": "strings", "refused": None, "notes": [note.words for note in notes]}
    return whole | {
        "rounds": found.rounds, "results": as_kept(string_results(found)), "playing": heard,
        "strings": {
            "heard_db": found.heard_db.round(3).tolist(), "plain_dbfs": found.plain_dbfs.round(3).tolist(),
            "powers": found.powers.tolist(), "noise_powers": found.noise_powers.tolist(),
        },
    }  # fmt: skip


@dataclass(frozen=True)
class Pair:
    """Two results of :func:`read`; ``known`` is (resonance in Hz, Q) of the second, None for a flat one."""

    own: Mapping[str, Any]
    reference: Mapping[str, Any]
    known: tuple[float, float] | None


def resonance(pair: Pair, _desk: Desk) -> dict[str, float]:
    """The resonance of a pickup by playing, against a reference; Refused where it cannot be told."""
    found = resonance_from_playing(_strings(pair.own), _strings(pair.reference), pair.known)
    if not isinstance(found.value, dict):
        raise Refused.of(found.refusal or NOT_MEASURED)
    return {key: float(value) for key, value in found.value.items() if isinstance(value, int | float)}


def _strings(result: Mapping[str, Any]) -> Strings:
    kept = {key: np.array(values) for key, values in result["strings"].items()}
    return Strings(**kept, wavers=(), sustains=(), first_s=0.0)


def tone_level(file: str, desk: Desk) -> float:
    """RMS in dBFS of a calibrating tone; Refused where the recording holds none."""
    with desk.reading(file) as path:
        one, _ = one_channel(decode(path).clip)
    found = tone_rms_dbfs(one)
    if not isinstance(found.value, float):
        raise Refused.of(found.refusal or NOT_MEASURED)
    return found.value


READ_STRINGS = Task("read strings", read, limit_s=900)
RESONANCE = Task("resonance by playing", resonance, limit_s=60)
TONE_LEVEL = Task("level of a tone", tone_level, limit_s=60)
