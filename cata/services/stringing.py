"""Six open strings through a pickup: read from a recording, played by the bench. Runs in workers."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from cata.core.bench.pickups import PICKUPS, RATED_MM, placed, record_strings
from cata.core.bench.standin import pickup_for
from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.device.returned import one_channel
from cata.core.measure.pickup import resonance_from_playing
from cata.core.measure.strings import Strings, decay_db_per_s, read_strings, tone_rms_dbfs, worst_waver
from cata.core.signals.phrase import open_strings, varied
from cata.errors import CataError
from cata.media.decode import decode
from cata.media.encode import write_wav
from cata.services.listening import for_listening

ROUNDS = 3
BENCH_NOISE_DBFS, BENCH_GAIN = -78.0, 0.4


def strings_file(path: Path, playing: Path, channel: int | None) -> dict[str, Any]:
    """What a recording of six open strings says, as plain values; ``refused`` where it says nothing."""
    empty: dict[str, Any] = {
        "part": "strings", "evidence": "played", "readings": {}, "bands": {}, "refusals": {}, "notes": [],
    }  # fmt: skip
    try:
        clip = decode(path).clip
        if channel is not None and channel < clip.channels:
            clip = Clip(clip.samples[channel : channel + 1], clip.rate_hz)
        one, notes = one_channel(clip)
        found = read_strings(one)
        if isinstance(found, str):
            return empty | {"file": path.name, "refused": found}
    except CataError as error:
        return empty | {"file": path.name, "refused": error.message}
    heard = for_listening(one, playing) | {"first_s": round(found.first_s, 4)}
    named = {"file": path.name, "refused": None, "notes": list(notes), "playing": heard}
    return empty | _plain(found) | named


def _plain(found: Strings) -> dict[str, Any]:
    readings: dict[str, Any] = {
        "heard_lufs": round(found.output_lufs, 3),
        "rms_dbfs": round(found.plain_rms_dbfs, 3),
        "string_balance_db": {str(i + 1): round(float(v), 3) for i, v in enumerate(found.balance_db)},
        "rounds": found.rounds,
    }
    refusals = {}
    waver = worst_waver(found)
    if isinstance(waver.value, dict):
        readings["waver"] = waver.value
    else:
        refusals["waver"] = waver.refusal or ""
    decay = decay_db_per_s(found)
    if decay is None:
        refusals["decay_db_per_s"] = "not every string rings long enough"
    else:
        readings["decay_db_per_s"] = {str(i + 1): round(v, 2) for i, v in enumerate(decay)}
    bands = {"heard_lufs": found.output_band_db, "string_balance_db": found.balance_band_db}
    return {
        "readings": readings,
        "refusals": refusals,
        "bands": {key: round(band, 3) for key, band in bands.items() if band is not None},
        "strings": {
            "heard_db": found.heard_db.round(3).tolist(), "plain_dbfs": found.plain_dbfs.round(3).tolist(),
            "powers": found.powers.tolist(), "noise_powers": found.noise_powers.tolist(),
        },
    }  # fmt: skip


def resonance_against(
    own: Mapping[str, Any], reference: Mapping[str, Any], known: tuple[float, float] | None
) -> dict[str, Any]:
    """:func:`resonance_from_playing` of two results of :func:`strings_file`, as plain values."""
    found = resonance_from_playing(_strings(own), _strings(reference), known)
    if not isinstance(found.value, dict):
        return {"refused": found.refusal}
    return {"resonance": {key: float(value) for key, value in found.value.items() if isinstance(value, int | float)}}


def tone_file(path: Path) -> dict[str, Any]:
    """{"rms_dbfs"} of a calibrating tone, or {"refused"} with the reason."""
    try:
        one, _ = one_channel(decode(path).clip)
    except CataError as error:
        return {"refused": error.message}
    found = tone_rms_dbfs(one)
    return {"rms_dbfs": found.value} if isinstance(found.value, float) else {"refused": found.refusal}


def _strings(result: Mapping[str, Any]) -> Strings:
    kept = {key: np.array(values) for key, values in result["strings"].items()}
    return Strings(**kept, wavers=(), sustains=(), first_s=0.0)


def rehearse_strings(specs: Mapping[str, Any], made: Mapping[str, Any], path: Path, seed: int) -> None:
    """Six open strings, three rounds, through the bench pickup nearest to a specification, as 24-bit WAV."""
    key = pickup_for(specs.get("coils"), specs.get("inductance_h"), specs.get("dc_resistance_kohm"))
    pickup = placed(PICKUPS[key], str(made.get("position") or specs.get("position") or "bridge"))
    phrase = varied(open_strings(rounds=ROUNDS), 0.5, seed)
    bass, treble = (float(made.get(side) or RATED_MM) for side in ("bass_mm", "treble_mm"))
    signal = record_strings(pickup, phrase, bass, treble, seed) * np.float32(BENCH_GAIN)
    noise = np.random.default_rng(seed).standard_normal(len(signal)) * 10 ** (BENCH_NOISE_DBFS / 20)
    write_wav(Clip.of(np.asarray(signal + noise, dtype=np.float32), ANALYSIS_RATE_HZ), path)
