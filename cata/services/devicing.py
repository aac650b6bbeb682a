"""Reading devices from files: what the command line and the worker share."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

from cata.core.clip import Clip
from cata.core.measure.device.readings import BY_KEY, NOMINAL_DBFS
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Sent
from cata.core.measure.device.whole import Tell, device_report
from cata.errors import CataError
from cata.media.decode import decode


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
