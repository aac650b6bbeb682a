"""Blending, one tone and the mix for sound files, without a flight."""

from __future__ import annotations

from math import isfinite
from pathlib import Path
from typing import Any

from cata.core.measure.level import loudness_lufs
from cata.core.measure.material import Material
from cata.core.together import blend, in_the_mix, same_tone
from cata.errors import Refused
from cata.media.decode import decode

FEWEST_POINTS = 3


def blend_files(first: Path, second: Path, target: Path | None = None) -> dict[str, Any]:
    """Lag, polarity and comb of two recordings of one performance, and the sum that is nearest to a target.

    The target is a recording, or a curve as a CSV table. Refused where they are not of one performance.
    """
    wanted = None if target is None else curve_of(target) if target.suffix.lower() == ".csv" else decode(target).clip
    found = blend.blend(decode(first).clip, decode(second).clip, wanted)
    if found.lag_s is None:
        raise Refused(" ".join(one.words for one in blend.told(found)), "not_one_performance")
    best = found.best
    return {
        "lag_ms": round(found.lag_s * 1e3, 4),
        "polarity": found.polarity,
        "level_db": round(found.level_db, 2),
        "first_notch_hz": round(found.notches_hz[0], 2) if found.notches_hz else None,
        "notch_depth_db": None if found.notch_depth_db is None else round(found.notch_depth_db, 2),
        "best_gain_db": None if best is None else round(best.gain_db, 2),
        "best_polarity": None if best is None else best.polarity,
        "best_lined_up": None if best is None else best.lined_up,
        "residual_rms_db": None if best is None else round(best.residual_rms_db, 3),
        "sentences": [one.words for one in blend.told(found)],
    }


def curve_of(path: Path) -> dict[float, float]:
    """A curve from a table of two columns, frequency in Hz and level in dB; a line of heads may come first.

    Refused where it is none.
    """
    found: dict[float, float] = {}
    for number, line in enumerate(path.read_text(encoding="utf-8-sig", errors="replace").splitlines()):
        cells = line.replace(";", ",").split(",")
        try:
            hz, level = (float(cell) for cell in cells[:2])
        except ValueError:
            if number and line.strip():
                raise Refused(f"line {number + 1} of the curve is no frequency and level", "bad_curve") from None
            continue
        if hz <= 0 or not (isfinite(hz) and isfinite(level)):
            raise Refused(f"line {number + 1} of the curve is no frequency and level", "bad_curve")
        found[hz] = level
    if len(found) < FEWEST_POINTS:
        raise Refused(
            f"a curve has {FEWEST_POINTS} points at least: a frequency in Hz and a level in dB a line", "bad_curve"
        )
    return found


def remains_of_files(take: Path, reference: Path) -> dict[str, Any]:
    """How much of the way from a take to a reference an equaliser goes, with which moves, and what remains."""
    mine, wanted = decode(take).clip, decode(reference).clip
    for path, clip in ((take, mine), (reference, wanted)):
        if loudness_lufs(Material(clip)).value is None:
            raise Refused(f"{path.name} is silent or shorter than 0.4 s: nothing to compare", "nothing_heard")
    anew = blend.blend(mine, wanted).lag_s is None
    found = same_tone.remains(mine, wanted, anew=anew)
    return {
        "explained_percent": None if found.explained is None else round(100 * found.explained, 1),
        "moves": [{"hz": move.hz, "db": move.db} for move in found.moves],
        "apart_db": round(found.apart_db, 2),
        "remains_db": round(found.remains_db, 2),
        "one_performance": not anew,
        "equaliser_db": dict(zip(map(str, same_tone.BANDS_HZ), found.equaliser.gains_db, strict=True)),
        "sentences": [one.words for one in same_tone.told(found, take.stem, reference.stem)],
    }


def cut_through_of_files(take: Path, bed: Path, relation_lu: float | None = None) -> dict[str, Any]:
    """How well a take is heard through a bed: as both files are, or with the take so many LU above the bed.

    Refused where one of them is silent.
    """
    mine, other = decode(take).clip, decode(bed).clip
    gain = 0.0
    if relation_lu is not None:
        loud = [loudness_lufs(Material(one)).value for one in (mine, other)]
        if not all(isinstance(one, float) for one in loud):
            raise Refused("one of them is too quiet or too short for its loudness", "no_loudness")
        gain = float(loud[1]) + relation_lu - float(loud[0])  # type: ignore[arg-type]
    found = in_the_mix.cut_through(mine, other, gain)
    if found is None:
        raise Refused("there is nothing to hear in one of them", "silent")
    return {
        "cut_through": round(found.share, 4),
        "masked": {str(hz): share for hz, share in found.covered.items()},
        "take_gain_db": round(gain, 2),
        "sentence": in_the_mix.told(found, take.stem).words,
    }
