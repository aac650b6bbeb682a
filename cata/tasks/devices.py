"""Devices read from recordings of the test file: for the application, and for files on the command line."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.evidence.as_take import as_take, sounds_like_speaker
from cata.core.measure.device.nominal import nominal_dbfs_of
from cata.core.measure.device.readings import BY_KEY, NOMINAL_DBFS
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import (
    NO_SLATE,
    Floats,
    Sent,
    Unusable,
    as_written,
    read_returned,
    slate_of_a_take,
    slates_in,
)
from cata.core.measure.device.whole import Tell, device_report
from cata.core.measure.material import Material
from cata.core.measure.outcome import BOUND_SIGNS
from cata.core.measure.results import NOT_MEASURED, as_kept, from_kept
from cata.core.signals.testfile.layout import PartName, Section, layout, part_of
from cata.core.signals.testfile.waves import wave
from cata.errors import CataError, Refused
from cata.media.decode import decode
from cata.said import said
from cata.tasks.desk import Desk
from cata.tasks.listening import for_listening
from cata.tasks.shape import Task

LOSSY = said(
    "lossy", "a lossy file: levels are moved and overtones hidden in it; record WAV or FLAC, and send it as it is"
)


def device_file(
    sent: Sent | Path,
    returned: Path,
    *,
    loopback: Path | None = None,
    nominal_dbfs: float | None = None,
    channel: int | None = None,
    keys: Collection[str] | None = None,
    tell: Tell = lambda share, what: None,
) -> dict[str, Any]:
    """All readings of a device as plain values; where there are none ``refused`` says why, and ``code`` in a word.

    ``sent`` is the file that was played, or the plan of one that Cata itself handed out.
    """
    head: dict[str, Any] = {"file": returned.name, "rate_hz": None, "channels": None, "duration_s": None}
    empty: dict[str, Any] = {"results": {}, "notes": [], "pictures": {}}
    try:
        recording = decode(returned)
        clip = recording.clip
        head |= {"rate_hz": clip.rate_hz, "channels": clip.channels, "duration_s": round(clip.duration_s, 6)}
        if recording.lossy:
            raise Unusable.of(LOSSY)
        report = device_report(
            sent if isinstance(sent, Sent) else _clip(sent),
            clip,
            loopback=_clip(loopback) if loopback else None,
            nominal_dbfs=NOMINAL_DBFS if nominal_dbfs is None else nominal_dbfs,
            channel=channel,
            keys=keys,
            tell=tell,
        )
    except CataError as error:
        return head | {"refused": error.message, "code": error.code} | empty
    return head | {"refused": None} | empty | _plain(report)


def _clip(path: Path) -> Clip:
    return decode(path).clip


def _plain(report: Report) -> dict[str, Any]:
    return {
        "part": report.part,
        "results": _rounded(as_kept(report.results)),
        "notes": [note.words for note in report.notes],
        "pictures": report.pictures,
    }


def _rounded(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _rounded(one) for key, one in value.items()}
    if isinstance(value, float):
        return round(value, 5) if math.isfinite(value) else None
    return value


def as_text(result: dict[str, Any]) -> str:
    """A result for the eye."""
    if result["refused"]:
        return f"{result['file']}: refused: {result['refused']}"
    lines = [f"{result['file']}  {result['duration_s']:.1f} s  {result['rate_hz']} Hz"]
    for key, known in from_kept(result["results"]).items():
        reading = BY_KEY.get(key)
        if reading is None:
            continue
        shown = f"- {known.refusal}"
        if known.value is not None:
            shown = f"{BOUND_SIGNS[known.bound]}{_shown(known.value, reading.decimals)} {reading.unit}"
        band = f"  repeats within {known.band:.2g}" if known.band else ""
        lines.append(f"  {reading.name:26s} {shown}{band}" + (f"  ({known.flag})" if known.flag else ""))
    return "\n".join(lines + [f"  note: {note}" for note in result["notes"]])


def _shown(value: Any, decimals: int) -> str:
    if not isinstance(value, dict):
        return f"{value:.{decimals}f}"
    return "  ".join(f"{name}: {_shown(one, decimals)}" for name, one in value.items() if not isinstance(one, dict))


# --- for the application: recordings of files that Cata handed out


@dataclass(frozen=True)
class ProbeToRead:
    """A recording of the test file, where its playing goes, and how it was made (see :func:`device_file`)."""

    file: str
    playing: str
    loopback: str | None = None
    nominal_dbfs: float | None = None
    channel: int | None = None
    speaker: bool = False
    """It may have a speaker, or the sound of one, at its end."""
    known: dict[str, Any] | None = None
    """What was read of the same recording before some methods changed."""


def read(probe: ProbeToRead, desk: Desk) -> dict[str, Any]:
    """:func:`device_file` for a recording whose part its own slate tells; writes the picking ladder as FLAC.

    Refused where it cannot be read.
    """
    desk.tell(0.01, "opening the recording")
    with desk.reading(probe.file) as path, desk.reading(probe.loopback or probe.file) as loop:
        clip = _clip(path)
        part = part_in(clip)
        result = device_file(
            as_written(part), path, loopback=loop if probe.loopback else None, nominal_dbfs=probe.nominal_dbfs,
            channel=probe.channel, keys=_changed(probe.known), tell=desk.tell,
        )  # fmt: skip
    if result["refused"] is not None:
        raise Refused(result["refused"], result["code"])
    if probe.known is not None:
        result = _renewed(probe.known, result)
    section = layout(part).named("ladder")
    if section is not None:
        excerpt = read_returned(clip, as_written(part), probe.channel).section(section)
        result["as_take"] = _as_take(excerpt, section, probe, result)
        if probe.known is None:
            result["playing"] = for_listening(Clip.of(excerpt, ANALYSIS_RATE_HZ), probe.playing, desk)
    return result


def _as_take(own: Floats, section: Section, probe: ProbeToRead, result: dict[str, Any]) -> dict[str, Any]:
    nominal = NOMINAL_DBFS if probe.nominal_dbfs is None else probe.nominal_dbfs
    through = not (probe.speaker and sounds_like_speaker(from_kept(result["results"])))
    found = as_take(own, wave(section, ANALYSIS_RATE_HZ), section, nominal, speaker=through)
    return _rounded({"own": as_kept(found.own), "sent": as_kept(found.sent)})


def _versions(known: dict[str, Any]) -> dict[str, int]:
    return {key: one.version for key, one in from_kept(known["results"]).items()}


def _changed(known: dict[str, Any] | None) -> list[str] | None:
    """The readings whose methods changed since; None where all are to be read."""
    if known is None:
        return None
    versions = _versions(known)
    return [key for key, reading in BY_KEY.items() if versions.get(key, 0) != reading.version]


def _whole(key: str) -> str:
    return key.partition(".")[0]


def _renewed(known: dict[str, Any], result: dict[str, Any]) -> dict[str, Any]:
    """What was known with the results and pictures that are new; a result whose method is the same stays as it was."""
    versions = _versions(known)
    changed = {_whole(key) for key, version in _versions(result).items() if versions.get(key) != version}
    new = {key: one for key, one in result["results"].items() if _whole(key) in changed}
    kept = {key: one for key, one in known["results"].items() if _whole(key) not in changed}
    return known | {"results": kept | new, "pictures": known["pictures"] | result["pictures"]}


def part_in(clip: Clip) -> PartName:
    """Which part of the test file a recording answers; Unusable where it carries no slate of one."""
    slates = slates_in(clip)
    for found in slates:
        part = part_of(found.mark.take)
        if part is not None:
            return part
    if slates:
        raise Unusable.of(slate_of_a_take(slates[0].mark.take))
    raise Unusable.of(NO_SLATE)


def nominal_level(file: str, desk: Desk) -> float:
    """The level in dBFS of somebody's own strumming, recorded dry; Refused where the recording holds none."""
    with desk.reading(file) as path:
        found = nominal_dbfs_of(Material(_clip(path)))
    if not isinstance(found.value, int | float):
        raise Refused.of(found.refusal or NOT_MEASURED)
    return float(found.value)


READ_PROBE = Task("read a measurement", read, limit_s=1200)
NOMINAL_LEVEL = Task("level of strumming", nominal_level, limit_s=60)
