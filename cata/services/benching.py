"""The bench's tasks in workers: a planned take on simulated gear, and the file that is played out for re-amping."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from cata.core.bench.names import knobs_of, stand_in
from cata.core.gear import Control

LEAD_IN_S = 0.6
GAP_S = 0.4
BETWEEN_S = 1.0
LOUD_AMPLIFIER_GAIN = 0.5
REAMP_PEAK = 0.5
"""Half of full scale: 6 dB of room for what the interface adds."""


def chain_of(
    phrase: str, devices: Sequence[dict[str, Any]], conditions: dict[str, Any], player: float, seed: int
) -> tuple[dict[str, Any], list[str]]:
    """What :func:`render_take` is to play; and notes where a stand-in is only a stand-in. Touches no numpy."""
    known = phrase if phrase in ("soft-to-hard", "offbeat", "muted-riff", "lead-line") else "soft-to-hard"
    notes = [] if known == phrase else [f"“{phrase}” is not simulated; soft to hard chords are played instead."]
    played = [device | {"bench": _stand_in(device)} for device in devices if device["on"]]
    chain = {
        "phrase": known,
        "devices": played,
        "neck": conditions["pickup"] == "neck",
        "guitar_volume": conditions["guitar_volume"],
        "player": player,
        "seed": seed,
    }
    for device in played:
        if not device["name"]:
            continue
        if device["kind"] in ("speaker", "microphone", "direct box"):
            notes.append(f"{device['name']} is not simulated: all takes share one speaker response.")
        elif device["kind"] == "pedal" and not device["bench"]:
            notes.append(f"{device['name']} is not simulated: it is played as a straight wire.")
        elif device["kind"] == "amplifier" and device["text"] and not device["bench"]:
            notes.append(f"{device['name']} is not simulated: the bench's clean amplifier is played.")
    return chain, notes


def _stand_in(device: dict[str, Any]) -> str:
    """The bench device for one of a chain; empty where the bench has nothing like it."""
    specs = device["specs"]
    written = (str(specs.get(key, "")) for key in ("effect", "topology"))
    return stand_in(device["kind"], device["name"], device["text"], *written)


def render_take(chain: dict[str, Any], path: str) -> dict[str, Any]:
    """Play a planned chain on the bench and write it as 24-bit WAV; the facts of the take."""
    return render_settings(_settings(chain), path)


def render_settings(settings: dict[str, Any], path: str) -> dict[str, Any]:
    """Play bench settings (core.bench.chain.ChainSettings) and write them as 24-bit WAV; the facts of the take."""
    from cata.core.bench.chain import ChainSettings, record
    from cata.media.encode import write_wav

    clip = record(ChainSettings(**settings))
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


def _settings(chain: dict[str, Any]) -> dict[str, Any]:
    from cata.core.bench.standin import pickup_for

    found: dict[str, Any] = {
        "phrase": chain["phrase"],
        "guitar_volume": max(chain["guitar_volume"], 0.05) ** 1.7,
        "player": chain["player"],
        "seed": chain["seed"],
    }
    if chain["neck"]:
        found["pickup"] = "narrow-single-neck"
    for device in chain["devices"]:
        controls = [Control.model_validate(row) for row in device["controls"]]
        specs = device["specs"]
        positions = {control.key: control.default for control in controls} | device["settings"]
        if device["kind"] == "pedal" and device["bench"]:
            knobs = knobs_of(device["bench"], controls, positions)
            found |= {"pedal": device["bench"], "pedal_settings": knobs}
        elif device["kind"] == "amplifier":
            key = device["bench"] or "clean"
            found |= {"amplifier": key, "amplifier_settings": knobs_of(key, controls, positions)}
            # The recorder is set for what it hears: an amplifier that breaks up is louder than the clean one.
            found["input_gain"] = 1.0 if key == "clean" else LOUD_AMPLIFIER_GAIN
        elif device["kind"] == "pickup" and device["name"] and not chain["neck"]:
            found["pickup"] = pickup_for(specs.get("coils"), specs.get("inductance_h"), specs.get("dc_resistance_kohm"))
    return found


def reamp(parts: Sequence[tuple[int, str]], path: str) -> dict[str, Any]:
    """Write slate, dry take and closing slate for each (number, phrase) as one mono 24-bit WAV file."""
    import numpy as np

    from cata.core.bench.chain import ChainSettings, dry
    from cata.core.clip import ANALYSIS_RATE_HZ, Clip
    from cata.core.signals.phrase import PHRASES
    from cata.core.signals.slate import SlateMark, slate
    from cata.media.encode import write_wav

    silence = np.zeros(round(GAP_S * ANALYSIS_RATE_HZ), dtype=np.float32)
    rest = np.zeros(round(BETWEEN_S * ANALYSIS_RATE_HZ), dtype=np.float32)
    dry_takes: dict[str, Any] = {}
    pieces = [rest]
    for number, phrase in parts:
        if phrase not in PHRASES:
            return {"refused": f"there is no dry take of “{phrase}”: record it, or choose one of the four phrases"}
        if phrase not in dry_takes:
            wave = dry(ChainSettings(phrase=phrase))
            dry_takes[phrase] = wave * np.float32(REAMP_PEAK / max(float(np.max(np.abs(wave))), 1e-9))
        opening, closing = (slate(SlateMark(number, closes)).samples[0] for closes in (False, True))
        pieces += [opening, silence, dry_takes[phrase], silence, closing, rest]
    write_wav(Clip.of(np.concatenate(pieces), ANALYSIS_RATE_HZ), Path(path))
    return {"path": path}
