"""Reading devices from files: what the command line and the worker share."""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.evidence.compare import differences, nearest_pair
from cata.core.evidence.fingerprint import fingerprint
from cata.core.evidence.knobs import foretold, knob_answers
from cata.core.evidence.probe import Probe
from cata.core.evidence.questions import four_questions
from cata.core.gear import Control
from cata.core.measure.device.nominal import nominal_dbfs_of
from cata.core.measure.device.readings import BY_KEY, NOMINAL_DBFS
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import NO_SLATE, Sent, Unusable, as_written, read_returned, slates_in
from cata.core.measure.device.whole import Tell, device_report
from cata.core.measure.material import Material
from cata.core.signals.testfile.layout import PartName, layout, part_of
from cata.core.signals.testfile.waves import sent_file
from cata.errors import CataError, Invalid
from cata.media.decode import decode
from cata.media.encode import write_wav
from cata.services.listening import for_listening


def device_file(
    sent: Sent | Path,
    returned: Path,
    *,
    loopback: Path | None = None,
    nominal_dbfs: float | None = None,
    channel: int | None = None,
    tell: Tell = lambda share, what: None,
) -> dict[str, Any]:
    """All readings of a device as plain values; ``refused`` holds the reason where there are none.

    ``sent`` is the file that was played, or the plan of one that Cata itself handed out.
    """
    head: dict[str, Any] = {"file": returned.name, "rate_hz": None, "channels": None, "duration_s": None}
    empty: dict[str, Any] = {
        "readings": {}, "flags": {}, "refusals": {}, "bands": {}, "notes": [], "pictures": {},
        "evidence": "test signal",
    }  # fmt: skip
    try:
        clip = _clip(returned)
        head |= {"rate_hz": clip.rate_hz, "channels": clip.channels, "duration_s": round(clip.duration_s, 6)}
        report = device_report(
            sent if isinstance(sent, Sent) else _clip(sent),
            clip,
            loopback=_clip(loopback) if loopback else None,
            nominal_dbfs=NOMINAL_DBFS if nominal_dbfs is None else nominal_dbfs,
            channel=channel,
            tell=tell,
        )
    except CataError as error:
        return head | {"refused": error.message} | empty
    return head | {"refused": None} | empty | _plain(report)


def _clip(path: Path) -> Clip:
    return decode(path).clip


def _plain(report: Report) -> dict[str, Any]:
    return {
        "part": report.part,
        "readings": _rounded(report.readings),
        "flags": report.flags,
        "refusals": report.refusals,
        "bands": _rounded(report.bands),
        "notes": report.notes,
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
    for key, value in result["readings"].items():
        reading = BY_KEY[key]
        shown = _shown(value, reading.decimals)
        band = result["bands"].get(key)
        lines.append(
            f"  {reading.name:26s} {shown} {reading.unit}"
            + (f"  ± {band:.2g}" if band else "")
            + (f"  ({result['flags'][key]})" if key in result["flags"] else "")
        )
    lines += [
        f"  {BY_KEY[key].name:26s} - {reason}" for key, reason in result["refusals"].items() if key in BY_KEY
    ]  # fmt: skip
    return "\n".join(lines + [f"  note: {note}" for note in result["notes"]])


def _shown(value: Any, decimals: int) -> str:
    if not isinstance(value, dict):
        return f"{value:.{decimals}f}"
    return "  ".join(f"{name}: {_shown(one, decimals)}" for name, one in value.items() if not isinstance(one, dict))


# --- for the application: recordings of files that Cata handed out


def read_recording(
    path: Path, *, playing: Path, progress: Path, loopback: Path | None, nominal_dbfs: float | None, channel: int | None
) -> dict[str, Any]:
    """:func:`device_file` for a recording whose part its own slate tells; writes the picking ladder as FLAC."""

    def tell(share: float, what: str) -> None:
        partial = progress.with_suffix(".new")
        partial.write_text(json.dumps({"share": round(share, 3), "what": what}))
        partial.replace(progress)

    try:
        tell(0.01, "opening the recording")
        clip = _clip(path)
        part = part_in(clip)
        result = device_file(
            as_written(part), path, loopback=loopback, nominal_dbfs=nominal_dbfs, channel=channel, tell=tell
        )
        if result["refused"] is None:
            result |= _write_playing(clip, part, channel, playing)
    except CataError as error:
        result = {"file": path.name, "refused": error.message, "readings": {}}
    finally:
        progress.unlink(missing_ok=True)
    return result


def part_in(clip: Clip) -> PartName:
    """Which part of the test file a recording answers; Unusable where it carries no slate of one."""
    slates = slates_in(clip)
    for found in slates:
        part = part_of(found.mark.take)
        if part is not None:
            return part
    if slates:
        raise Unusable(f"wrong file: it carries the slate of take {slates[0].mark.take}, not that of a test file")
    raise Unusable(f"no slate found: {NO_SLATE}")


def _write_playing(clip: Clip, part: PartName, channel: int | None, path: Path) -> dict[str, Any]:
    """The playing of the picking ladder on the file's clock, for listening; {} where the part has none."""
    section = layout(part).named("ladder")
    if section is None:
        return {}
    returned = read_returned(clip, as_written(part), channel)
    excerpt = Clip.of(returned.section(section), ANALYSIS_RATE_HZ)
    return {"playing": for_listening(excerpt, path)}


BENCH_SNR_DB, BENCH_PEAK_DBFS = 62.0, -8.0


def rehearse_device(device: str, settings: dict[str, float], part: str, path: Path, seed: int) -> None:
    """The test file through a bench device, with an interface's noise, latency and clock, as 24-bit WAV."""
    from cata.core.bench.amplifiers import AMPLIFIERS
    from cata.core.bench.pedals import PEDALS

    known = PEDALS | AMPLIFIERS
    if device not in known:
        raise Invalid(f"the bench has no {device!r}; it has {', '.join(known)}")
    sent = sent_file(part)  # type: ignore[arg-type]
    rng = np.random.default_rng(seed)
    came_back = known[device].render(np.pad(sent.samples[0], (int(rng.uniform(2000, 9000)), 12_000)), settings)
    loudest = max(float(np.max(np.abs(came_back))), 1e-6)
    noise = rng.standard_normal(len(came_back)) * loudest / np.sqrt(2) * 10 ** (-BENCH_SNR_DB / 20)
    # The recorder's input is set once, for the strongest the device can give: a quieter setting stays quieter.
    scale = min(BENCH_GAIN, 10 ** (BENCH_PEAK_DBFS / 20) / loudest)
    write_wav(Clip.of((came_back + noise) * scale, ANALYSIS_RATE_HZ), path)


BENCH_GAIN = 0.35


def nominal_file(path: Path) -> dict[str, Any]:
    """The nominal level of a dry recording of somebody's strumming, or why it has none."""
    try:
        found = nominal_dbfs_of(Material(_clip(path)))
    except CataError as error:
        return {"refused": error.message}
    return {"refused": found.refusal} if found.value is None else {"nominal_dbfs": found.value}


# --- what probes say together


def _probes(rows: list[dict[str, Any]]) -> list[Probe]:
    return [Probe(**row) for row in rows]


def evidence(rows: list[dict[str, Any]], control_rows: list[dict[str, Any]]) -> dict[str, Any]:
    """Questions, knobs and fingerprint of an item as plain values."""
    probes, controls = _probes(rows), [Control.model_validate(row) for row in control_rows]
    knobs = knob_answers(probes, controls, tonal=False)
    for knob in knobs:
        knob.lowest = knob.highest = None
    return {
        "questions": [asdict(answer) for answer in four_questions(probes, controls)],
        "knobs": [asdict(knob) for knob in knobs],
        "fingerprint": [asdict(ray) for ray in fingerprint(probes)],
    }


def knob_foretold(rows: list[dict[str, Any]], control_row: dict[str, Any], position: float) -> list[dict[str, Any]]:
    """What a knob gives at a position as plain values for showing."""
    control = Control.model_validate(control_row)
    return [
        {
            "name": one.name,
            "text": f"{one.value:+.1f} {'dBFS' if one.name == 'Breakup' else 'dB'}".replace("-", "−"),
            "measured": one.measured,
            "doubt": "" if one.left_out is None else f"± {one.left_out:.1f} when foretold",
        }
        for one in foretold(_probes(rows), control, position)
    ]


def comparison(first: list[dict[str, Any]], second: list[dict[str, Any]], names: tuple[str, str]) -> dict[str, Any]:
    """The differences of two items at their nearest settings as plain values."""
    firsts, seconds = _probes(first), _probes(second)
    pair = nearest_pair(firsts, seconds)
    return {
        "at": [pair[0].name, pair[1].name] if pair else [],
        "probes": [pair[0].ident, pair[1].ident] if pair else [],
        "differences": [asdict(one) for one in differences(*pair, names)] if pair else [],
        "fingerprints": [[asdict(ray) for ray in fingerprint(one)] for one in (firsts, seconds)],
    }
