"""The tasks that run in worker processes: plain data in, plain data out.

The numerical libraries are imported inside the tasks, so that naming a task costs the web process
nothing; the fork server loads them once (:mod:`cata.services.warm`) and every worker starts with them.
"""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any


def ready() -> bool:
    """Nothing; submitting it starts a worker."""
    return True


def inspect_file(path: str, max_duration_s: float) -> dict[str, Any]:
    """What a file is; {"refused": reason, "code": ...} where it cannot be used."""
    from cata.errors import BadAudio
    from cata.media.decode import Limits, decode

    try:
        recording = decode(Path(path), Limits(max_duration_s=max_duration_s))
    except BadAudio as error:
        return {"refused": error.message, "code": error.code}
    return {
        "container": recording.container,
        "codec": recording.codec,
        "lossy": recording.lossy,
        "rate_hz": recording.clip.rate_hz,
        "channels": recording.clip.channels,
        "duration_s": recording.clip.duration_s,
        "notes": list(recording.notes),
    }


def analyse_file(path: str, copy_path: str, lead_in_s: float) -> dict[str, Any]:
    """All readings of a file, its outline and chart spectrum; writes the listening copy where there is none."""
    import os

    from cata.core.measure.analysis import analyse_material
    from cata.core.measure.material import Material
    from cata.core.peaks import chart_spectrum, outline
    from cata.errors import BadAudio
    from cata.media.decode import Limits, decode
    from cata.media.encode import write_listening_copy

    try:
        recording = decode(Path(path), Limits(max_duration_s=float("inf")))
    except BadAudio as error:
        return {"refused": error.message}
    material = Material(recording.clip, lead_in_s=lead_in_s, lossy=recording.lossy)
    analysis = analyse_material(material)
    partial = Path(f"{copy_path}.{os.getpid()}")
    gain_db = write_listening_copy(material.work, partial)
    os.replace(partial, copy_path)
    return {
        "readings": analysis.readings,
        "flags": analysis.flags,
        "refusals": analysis.refusals,
        "copy_gain_db": gain_db,
        "outline": outline(material.work),
        "spectrum": chart_spectrum(material),
    }


def audit_takes(takes: list[dict[str, Any]], prefer: int | None) -> dict[str, Any]:
    """The audit of one test.

    Each take: {"name", "path", "lead_in_s", "readings", "refusals"}; ``prefer`` is the index of the take to match to.
    Returns {"findings": [...], "reference": index or None, "matches": {index: ...}}.
    """
    from cata.core.match.audit import audit_test
    from cata.core.match.evidence import Source, TakeEvidence
    from cata.core.measure.analysis import Analysis
    from cata.core.measure.material import Material
    from cata.media.decode import Limits, decode

    evidence = []
    for index, take in enumerate(takes):
        recording = decode(Path(take["path"]), Limits(max_duration_s=float("inf")))
        clip = recording.clip
        evidence.append(
            TakeEvidence(
                index=index,
                name=take["name"],
                material=Material(clip, lead_in_s=take["lead_in_s"], lossy=recording.lossy),
                analysis=Analysis(readings=take["readings"], refusals=take["refusals"]),
                source=Source(recording.codec, recording.lossy, clip.rate_hz, clip.channels),
            )
        )
    audit = audit_test(evidence, prefer)
    return {
        "findings": [finding.as_json() for finding in audit.findings],
        "reference": audit.reference,
        "matches": {index: asdict(match) for index, match in audit.matches.items()},
    }


def order_takes(
    costs: list[list[int]], anchor: int | None, grown: dict[str, tuple[list[list[int]], float]]
) -> dict[str, Any]:
    """The order of least change-over time.

    ``grown`` are the costs of larger plans, with the seconds it takes to play what they add. Returns {"sequence",
    "seconds", "least_s", "grown": {name: seconds more than the plan as it is}}.
    """
    import numpy as np

    from cata.core.plan.order import best_order

    order = best_order(np.array(costs, dtype=np.int64), anchor)
    more = {}
    for name, (table, play_s) in grown.items():
        larger = best_order(np.array(table, dtype=np.int64), anchor, effort=60)
        more[name] = max(0.0, larger.seconds - order.seconds) + play_s
    return {
        "sequence": list(order.sequence),
        "seconds": order.seconds,
        "least_s": order.least_s,
        "grown": more,
    }


def audit_flight(cells: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Findings that need the whole flight; each cell: {"row", "column", "name", "bands"}, takes by index."""
    from cata.core.match.rules.flight import tone_moved

    at = {(cell["row"], cell["column"]): index for index, cell in enumerate(cells)}
    spectra = {key: cells[index]["bands"] for key, index in at.items()}
    names = {key: cells[index]["name"] for key, index in at.items()}
    return [finding.as_json() for finding in tone_moved(spectra, names, at)]


def write_test_file(part: str, rate_hz: int, as_float: bool, path: str) -> None:
    """Write a part of the test file as WAV; the file appears whole."""
    import os

    from cata.core.signals.testfile.waves import sent_file
    from cata.media.encode import write_wav

    partial = Path(f"{path}.{os.getpid()}.wav")
    write_wav(sent_file(part, rate_hz), partial, "FLOAT" if as_float else "PCM_24")  # type: ignore[arg-type]
    os.replace(partial, path)


def read_probe(
    path: str, playing_path: str, progress_path: str, loop: str | None, nominal_dbfs: float | None, channel: int | None
) -> dict[str, Any]:
    """All readings of a device from one recording of the test file; writes the playing in it for listening.

    ``progress_path`` is a small file that says how far it is, for the page that waits.
    """
    from cata.services.devicing import read_recording

    return read_recording(
        Path(path),
        playing=Path(playing_path),
        progress=Path(progress_path),
        loopback=Path(loop) if loop else None,
        nominal_dbfs=nominal_dbfs,
        channel=channel,
    )


def through_the_bench(device: str, settings: dict[str, float], part: str, path: str, seed: int) -> str:
    """The test file through a bench device that stands in for the outside world, as a recording; its path."""
    from cata.services.devicing import rehearse_device

    rehearse_device(device, settings, part, Path(path), seed)
    return path


def evidence_of(probes: list[dict[str, Any]], controls: list[dict[str, Any]]) -> dict[str, Any]:
    """The four questions, the knobs and the fingerprint of an item, from its probes."""
    from cata.services.devicing import evidence

    return evidence(probes, controls)


def knob_foretold(probes: list[dict[str, Any]], control: dict[str, Any], position: float) -> list[dict[str, Any]]:
    """What a knob gives at a position, measured or drawn between."""
    from cata.services.devicing import knob_foretold as found

    return found(probes, control, position)


def compare_items(first: list[dict[str, Any]], second: list[dict[str, Any]], names: tuple[str, str]) -> dict[str, Any]:
    """What differs between two items, at their nearest settings."""
    from cata.services.devicing import comparison

    return comparison(first, second, names)


def nominal_of(path: str) -> dict[str, Any]:
    """The everyday level of somebody's own strumming, recorded dry: {"nominal_dbfs"} or {"refused"}."""
    from cata.services.devicing import nominal_file

    return nominal_file(Path(path))


def read_strings(path: str, playing_path: str, channel: int | None) -> dict[str, Any]:
    """What six open strings through a pickup say; writes them for listening."""
    from cata.services.stringing import strings_file

    return strings_file(Path(path), Path(playing_path), channel)


def strings_on_the_bench(specs: dict[str, Any], made: dict[str, Any], path: str, seed: int) -> str:
    """Six open strings through the bench pickup nearest to a specification, as a recording; its path."""
    from cata.services.stringing import rehearse_strings

    rehearse_strings(specs, made, Path(path), seed)
    return path


def resonance_by_playing(
    own: dict[str, Any], reference: dict[str, Any], known: tuple[float, float] | None
) -> dict[str, Any]:
    """The resonance of a pickup from its strings against a known one: {"resonance": {...}} or {"refused": reason}."""
    from cata.services.stringing import resonance_against

    return resonance_against(own, reference, known)


def level_of_tone(path: str) -> dict[str, Any]:
    """The level of a steady tone, recorded to calibrate an input: {"rms_dbfs"} or {"refused"}."""
    from cata.services.stringing import tone_file

    return tone_file(Path(path))
