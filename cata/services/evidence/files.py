"""Measuring and matching files for the command line, without a data directory."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

from cata.core.match.audit import pair_findings, take_findings, worst_first
from cata.core.match.evidence import PairEvidence, Source, TakeEvidence
from cata.core.match.features import features_of
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.registry import READINGS
from cata.core.measure.results import as_kept, from_kept
from cata.errors import BadAudio
from cata.media.decode import Recording, decode
from cata.services.evidence.readings import text_of


def measure_file(path: Path, lead_in_s: float = 0.0) -> dict[str, Any]:
    """The readings of one file in the shape of docs/measures.md."""
    shell: dict[str, Any] = {
        "file": str(path),
        "rate_hz": None,
        "channels": None,
        "duration_s": None,
        "refused": None,
        "code": None,
        "results": {},
        "notes": [],
    }
    try:
        recording = decode(path)
    except BadAudio as error:
        return shell | {"refused": error.message, "code": error.code}
    results = analyse_material(Material(recording.clip, lead_in_s=lead_in_s, lossy=recording.lossy))
    return shell | {
        "rate_hz": recording.clip.rate_hz,
        "channels": recording.clip.channels,
        "duration_s": recording.clip.duration_s,
        "results": as_kept(results),
        "notes": [note.words for note in recording.notes],
    }


def as_text(result: dict[str, Any]) -> str:
    """A measured file for reading."""
    if result["refused"] is not None:
        return f"{result['file']}: refused: {result['refused']}"
    lines = [
        f"{result['file']}: {result['duration_s']:.2f} s, {result['rate_hz']} Hz, "
        f"{'mono' if result['channels'] == 1 else 'stereo'}"
    ]
    results = from_kept(result["results"])
    for reading in READINGS:
        known = results[reading.key]
        if known.refusal:
            lines.append(f"  {reading.name:<18} refused: {known.refusal}")
            continue
        parts = reading.parts or (("", ""),)
        texts = [f"{name.split(',')[0]} {text_of(reading, known, part)}".strip() for part, name in parts]
        flag = f"  ({known.flag})" if known.flag else ""
        lines.append(f"  {reading.name:<18} {', '.join(texts)}{flag}")
    return "\n".join(lines + [f"  note: {note}" for note in result["notes"]])


def _evidence(index: int, path: Path, recording: Recording) -> TakeEvidence:
    clip = recording.clip
    material = Material(clip, lossy=recording.lossy)
    source = Source(recording.codec, recording.lossy, clip.rate_hz, clip.channels)
    return TakeEvidence(index, path.name, features_of(material), analyse_material(material), source)


def match_files(files: list[Path]) -> list[dict[str, Any]]:
    """Each file against the first. BadAudio where the first cannot be used; another bad file has "refused"."""
    first = _evidence(0, files[0], decode(files[0]))
    results = []
    for index, path in enumerate(files[1:], start=1):
        try:
            take = _evidence(index, path, decode(path))
        except BadAudio as error:
            results.append({"a": str(files[0]), "b": str(path), "refused": error.message})
            continue
        results.append(_matched(files[0], path, first, take))
    return results


def _matched(a: Path, b: Path, first: TakeEvidence, take: TakeEvidence) -> dict[str, Any]:
    pair = PairEvidence(first, take)
    found = worst_first([*take_findings(first), *take_findings(take), *pair_findings(pair)])
    match = pair.match
    return {
        "a": str(a),
        "b": str(b),
        "lag_ms": match.lag_ms,
        "polarity": match.polarity,
        "tempo_ratio": match.tempo_ratio,
        "tuning_difference_cents": match.tuning_difference_cents,
        "same_phrase": match.same_phrase,
        "loudness_difference_lu": match.loudness_difference_lu,
        "findings": [{"rule": f.rule, "severity": f.severity, "text": str(f.text)} for f in found],
        "refusals": {key: asdict(why) for key, why in match.refusals.items()},
    }


def match_as_text(result: dict[str, Any]) -> str:
    """A comparison for reading."""
    head = f"{result['b']} against {result['a']}"
    if result.get("refused"):
        return f"{head}: refused: {result['refused']}"
    keys = ("lag_ms", "polarity", "tempo_ratio", "tuning_difference_cents", "same_phrase", "loudness_difference_lu")
    lines = [head]
    for key in keys:
        value = result[key]
        if value is None:
            shown = f"refused: {result['refusals'][key]['words']}" if key in result["refusals"] else "-"
        else:
            shown = f"{value:.4g}" if isinstance(value, float) else value
        lines.append(f"  {key:<24} {shown}")
    lines += [f"  {finding['severity']}: {finding['text']}" for finding in result["findings"]]
    return "\n".join(lines)
