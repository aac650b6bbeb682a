"""Rules about one take alone."""

from __future__ import annotations

import numpy as np

from cata.core.match.evidence import TakeEvidence, thinned
from cata.core.match.features import CELL_HZ, CELLS_FROM_HZ
from cata.core.match.finding import Finding, Picture, Series

MIN_NOISE_DISTANCE_DB, HUM_SHARE = 30.0, 0.6
OFFSET_DBFS, OFFSET_RE_SIGNAL_DB = -50.0, -20.0
EDGE_DB, EDGE_BELOW_HZ, EDGE_FROM_HZ = 22.0, 17_000.0, 9_000.0
LOW_RATE_HZ = 32_000
BLOCK_S = 0.4


def silence(take: TakeEvidence) -> Finding | None:
    """Nothing above the loudness gate."""
    if take.number("loudness_lufs") is not None:
        return None
    reason = take.analysis.refusals.get("loudness_lufs", "silent")
    return Finding(
        rule="silence",
        severity="fault",
        text=f"{take.name} has no loudness: {reason}.",
        advice="Record the whole phrase again."
        if take.features.duration_s < BLOCK_S
        else "Check the cable and the input, then record it again.",
        take=take.index,
    )


def clipping(take: TakeEvidence) -> Finding | None:
    """Runs of equal samples at the top."""
    value = take.analysis.readings.get("clipped")
    if not isinstance(value, dict) or not value["runs"]:
        return None
    where = "at full scale" if value["kind"] == "clipped" else "below full scale, so before the recorder"
    return Finding(
        rule="clipping",
        severity="fault",
        text=f"{take.name} is clipped in {value['runs']} places, {where}.",
        advice="Turn the recorder's input down by 6 dB and record it again; no later gain repairs it.",
        take=take.index,
        picture=_longest_run(take),
        numbers={"runs": value["runs"] or 0, "kind": value["kind"] or ""},
    )


def _longest_run(take: TakeEvidence) -> Picture | None:
    found = take.features
    if not len(found.run):
        return None
    return Picture(
        x=[round(found.run_at_s + i / found.rate_hz, 6) for i in range(len(found.run))],
        series=[Series("waveform", [round(float(v), 4) for v in found.run])],
        x_label="seconds",
        y_label="amplitude",
        marks=[(round(found.run_marked_s, 6), "flat top")],
    )


def noise(take: TakeEvidence) -> Finding | None:
    """Noise less than 30 dB under the playing."""
    floor, loudness = take.number("noise_floor_dbfs"), take.number("loudness_lufs")
    if floor is None or loudness is None or loudness - floor >= MIN_NOISE_DISTANCE_DB:
        return None
    levels = take.features.blocks_db
    hums = take.features.hum_share >= HUM_SHARE
    return Finding(
        rule="noise",
        severity="check" if hums else "note",
        text=f"The {'hum' if hums else 'noise'} of {take.name} lies only {loudness - floor:.0f} dB under the playing.",
        advice="If the gear is that noisy, keep it: noise belongs to it. Otherwise look for hum and record it again.",
        take=take.index,
        picture=Picture(
            x=[round(i * len(levels) * 0.05 / min(400, len(levels)), 3) for i in range(min(400, len(levels)))],
            series=[Series("level", thinned(levels))],
            x_label="seconds",
            y_label="dBFS",
        ),
    )


def offset(take: TakeEvidence) -> Finding | None:
    """A constant offset that is heard as a click at every cut."""
    found = take.features
    level = 20 * np.log10(max(found.rest, 1e-12))
    if found.silent or level < OFFSET_DBFS or level - 20 * np.log10(found.peak) < OFFSET_RE_SIGNAL_DB:
        return None
    return Finding(
        rule="offset",
        severity="check",
        text=f"{take.name} rests at {level:.0f} dBFS instead of zero.",
        advice="The interface adds a DC offset; readings ignore it, but cuts may click.",
        take=take.index,
    )


def source(take: TakeEvidence) -> Finding | None:
    """A lossy codec, a low sampling rate, or a steep edge that only a codec leaves behind."""
    reason, code, picture = None, "", None
    if take.source.lossy:
        code, reason = (
            "lossy",
            f"is a lossy file ({take.source.codec}): levels may be off by half a dB and the highs are coded",
        )
    elif take.source.rate_hz < LOW_RATE_HZ:
        code, reason = (
            "low_rate",
            f"was sampled at {take.source.rate_hz} Hz: nothing above {take.source.rate_hz // 2} Hz is in it",
        )
    else:
        edge = steep_edge_hz(take)
        if edge:
            code, reason = (
                "steep_edge",
                f"holds nothing above {edge / 1000:.1f} kHz, with a steep edge: it has been a lossy file before",
            )
            picture = _edge_picture(take, edge)
    if reason is None:
        return None
    return Finding(
        rule="source",
        severity="check",
        text=f"{take.name} {reason}.",
        advice="Use the original WAV or FLAC where there is one; do not compare the highs.",
        take=take.index,
        picture=picture,
        numbers={"reason": code},
    )


def steep_edge_hz(take: TakeEvidence) -> float | None:
    """Frequency between 9 and 17 kHz above which the level falls by 22 dB within half a kilohertz and stays down."""
    levels = take.features.edge_db
    for i in range(4, len(levels) - 8):
        hz = CELLS_FROM_HZ + i * CELL_HZ
        if not EDGE_FROM_HZ <= hz <= EDGE_BELOW_HZ:
            continue
        below, above = levels[i - 4 : i], levels[i + 2 : i + 8]
        # The level before the edge must be even: a falling speaker response is no edge.
        if below.mean() - above.max() > EDGE_DB and np.ptp(below) < 10.0:
            return hz
    return None


def _edge_picture(take: TakeEvidence, edge_hz: float) -> Picture:
    levels = take.features.edge_db
    return Picture(
        x=[CELLS_FROM_HZ + i * CELL_HZ for i in range(len(levels))],
        series=[Series("spectrum", [round(float(v), 1) for v in levels])],
        x_label="Hz",
        y_label="dB",
        marks=[(edge_hz, "edge")],
    )


TAKE_RULES = (clipping, noise, offset, source)
