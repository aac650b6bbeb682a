"""What comparing takes needs of each of them, taken once: an audit or a new comparison decodes nothing again.

Spectral peaks, pitch classes, onsets and levels are small and kept; of the waveform only short cuts are wanted, which
come from wherever the take lies.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field, fields
from typing import Any, BinaryIO, Literal
from zipfile import BadZipFile

import numpy as np
import numpy.typing as npt

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.drive.grain import Grain, grain_of
from cata.core.match.chroma import chroma_of, register_of
from cata.core.match.room import HOP_S as LEVEL_HOP_S
from cata.core.match.room import levels_of
from cata.core.match.strokes import band_powers
from cata.core.measure.clipping import runs_of
from cata.core.measure.level import loudness_lufs
from cata.core.measure.material import Material, db
from cata.core.measure.onsets import flux_of, onsets_of
from cata.core.measure.pitch import peaks_of
from cata.core.versioned import version_of

Floats = npt.NDArray[np.float64]
Cut = Callable[[int, int], Audio]
"""So many samples of the carrier at 48 kHz from a place; zeros beyond the take."""
Mix = Literal["first", "mid", "side"]

TAKEN_BY = (
    __name__, "cata.core.match.chroma", "cata.core.match.room", "cata.core.match.strokes", "cata.core.drive.grain",
    "cata.core.measure.clipping", "cata.core.measure.onsets", "cata.core.measure.pitch", "cata.core.measure.frames",
    "cata.core.measure.material",
    "cata.core.measure.level", "cata.core.measure.kweight", "cata.core.measure.segments", "cata.core.resample",
)  # fmt: skip
"""What takes features: those that other code took are taken again."""
CELLS_FROM_HZ, CELL_HZ, CELLS_TO_HZ = 4000.0, 250.0, 20_000.0
RUN_REACH_S = 0.004
QUIET_S = 0.5
NOTHING: Floats = np.zeros(0)
MAINS_HZ, MAINS_LINES, LINE_HZ = (50.0, 60.0), 10, 3.0


def no_cut(_start: int, length: int) -> Audio:
    """The cut of a take that nobody can reach."""
    return np.zeros(length, dtype=np.float32)


@dataclass(frozen=True, kw_only=True)
class Features:
    """One take for comparing.

    ``rate_hz`` and ``channels`` of the take as it came, ``length`` in samples at 48 kHz; ``rest`` the largest constant
    offset of a channel; ``flux`` onset strength every 5 ms, ``onsets_s``; ``peak_cents`` and ``peak_weights`` of its
    spectral peaks; ``chroma`` (frames, 120); ``register`` (350,); ``levels_db`` every 10 ms of the carrier,
    ``blocks_db`` every 50 ms of all channels; ``hum_share`` the share of its quietest half second that lies on lines
    of the mains; ``edge_db`` cells of 250 Hz from 4 kHz on; ``loudest`` the place of the largest sample; ``run`` the
    waveform around the longest clipped run from ``run_at``, ``run_marked`` seconds after the take's beginning;
    ``grain``, ``colour`` and ``noise`` as of :class:`Grain`, empty where there is none; ``bands`` the power in each
    third octave every 50 ms.
    """

    rate_hz: int
    channels: int
    length: int
    peak: float
    rest: float
    loudness_lufs: float | None
    mix: Mix
    loudest: int
    run_at_s: float
    run_marked_s: float
    hum_share: float
    flux: Floats
    onsets_s: Floats
    peak_cents: Floats
    peak_weights: Floats
    chroma: Floats
    register: Floats
    levels_db: Floats
    blocks_db: Floats
    edge_db: Floats
    run: Floats
    grain: Floats
    colour: Floats
    noise: Floats
    bands: Floats
    cut: Cut = field(default=no_cut, compare=False)

    @property
    def silent(self) -> bool:
        """Nothing to compare: silence, dithered or not, or less than the 0.4 s that loudness is defined on."""
        return self.peak < 1e-5 or self.loudness_lufs is None

    @property
    def whole_grain(self) -> Grain | None:
        """Its grain; None where too little of it sounds."""
        noise = self.noise if len(self.noise) else None
        return Grain(self.grain, self.colour, noise) if len(self.grain) else None

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.length / ANALYSIS_RATE_HZ


def features_of(material: Material) -> Features:
    """The features of a take; its cuts come from memory."""
    clip, work = material.clip, material.work
    loudness = material.shared(loudness_lufs).value
    cents, weights = material.shared(peaks_of)
    run, at_s, marked_s = _longest_run(clip)
    grain = grain_of(material)
    top = min(CELLS_TO_HZ, material.usable_hz)
    cells = np.arange(CELLS_FROM_HZ, top, CELL_HZ)
    return Features(
        rate_hz=clip.rate_hz,
        channels=clip.channels,
        length=work.length,
        peak=material.peak,
        rest=float(np.abs(clip.samples.mean(axis=1, dtype=np.float64)).max()),
        loudness_lufs=loudness if isinstance(loudness, float) else None,
        mix="first" if len(work.distinct) == 1 else "side" if work.side else "mid",
        loudest=int(np.argmax(np.abs(work.carrier))),
        run_at_s=at_s,
        run_marked_s=marked_s,
        hum_share=_hum_share(work.carrier, material.shared(levels_of)),
        flux=material.shared(flux_of),
        onsets_s=material.shared(onsets_of),
        peak_cents=cents,
        peak_weights=weights,
        chroma=material.shared(chroma_of),
        register=material.shared(register_of),
        levels_db=material.shared(levels_of),
        blocks_db=db(material.blocks),
        edge_db=db([material.whole.energy(low, low + CELL_HZ) for low in cells]),
        run=run,
        grain=grain.values if grain else NOTHING,
        colour=grain.colour if grain else NOTHING,
        noise=grain.noise if grain and grain.noise is not None else NOTHING,
        bands=band_powers(material),
        cut=lambda start, length: slice_of(work.carrier, start, length),
    )


def _hum_share(carrier: Audio, levels_db: Floats) -> float:
    """Share of the power from 40 to 520 Hz that lies on lines of the mains, in the quietest half second."""
    span = round(QUIET_S / LEVEL_HOP_S)
    if len(levels_db) < span:
        return 0.0
    sums = np.convolve(10 ** (levels_db / 10), np.ones(span), mode="valid")
    start = int(np.argmin(sums)) * round(LEVEL_HOP_S * ANALYSIS_RATE_HZ)
    quiet = slice_of(carrier, start, round(QUIET_S * ANALYSIS_RATE_HZ)).astype(np.float64)
    power = np.square(np.abs(np.fft.rfft(quiet * np.hanning(len(quiet)))))
    hz = np.arange(len(power)) / QUIET_S
    heard = (hz >= 40.0) & (hz <= 520.0)
    total = float(power[heard].sum())
    if total <= 0.0:
        return 0.0
    on_lines = [
        heard
        & (np.abs(hz - mains * np.maximum(1, np.round(hz / mains))) <= LINE_HZ)
        & (hz < mains * (MAINS_LINES + 0.5))
        for mains in MAINS_HZ
    ]
    return max(float(power[lines].sum()) / total for lines in on_lines)


def slice_of(signal: Audio, start: int, length: int) -> Audio:
    """So many samples from a place, zeros beyond the signal."""
    part = np.zeros(length, dtype=np.float32)
    low, high = max(0, start), min(len(signal), start + length)
    if high > low:
        part[low - start : high - start] = signal[low:high]
    return part


def carried(samples: Audio, mix: Mix) -> Audio:
    """The carrier of a cut of all channels, shape (channels, samples), as the whole take has it."""
    if mix == "first":
        return samples[0]
    return np.float32(0.5) * (samples[0] - samples[1] if mix == "side" else samples[0] + samples[1])


def _longest_run(clip: Clip) -> tuple[Floats, float, float]:
    """The waveform around the longest run at an extreme, where it begins, and where the run's middle is, in seconds."""
    best = max(runs_of(clip), key=lambda run: run.length, default=None)
    if best is None:
        return np.zeros(0), 0.0, 0.0
    channel, start, length, _ = best
    reach = int(RUN_REACH_S * clip.rate_hz)
    first = max(0, start - reach)
    wave = clip.distinct[channel][first : start + length + reach].astype(np.float64)
    return wave, first / clip.rate_hz, (start + length / 2) / clip.rate_hz


ARRAYS = (
    "flux", "onsets_s", "peak_cents", "peak_weights", "chroma", "register", "levels_db", "blocks_db", "edge_db", "run",
    "grain", "colour", "noise", "bands",
)  # fmt: skip
NUMBERS = tuple(one.name for one in fields(Features) if one.name not in (*ARRAYS, "cut"))


def write_features(features: Features, file: BinaryIO) -> None:
    """Keep features as a NumPy archive, at single precision."""
    arrays: dict[str, Any] = {name: getattr(features, name).astype(np.float32) for name in ARRAYS}
    # A tenth of a cent counts, and onsets lie minutes apart: these at full precision.
    arrays |= {name: getattr(features, name) for name in ("peak_cents", "onsets_s")}
    told = {"version": version_of(*TAKEN_BY)} | {name: getattr(features, name) for name in NUMBERS}
    np.savez_compressed(file, told=np.array(json.dumps(told)), **arrays)


def read_features(file: BinaryIO) -> dict[str, Any] | None:
    """What :func:`write_features` kept, for the constructor; None where an older version kept it, or it is damaged."""
    try:
        with np.load(file, allow_pickle=False) as kept:
            told = json.loads(str(kept["told"]))
            if told.pop("version") != version_of(*TAKEN_BY):
                return None
            return told | {name: kept[name].astype(np.float64) for name in ARRAYS}
    except (ValueError, KeyError, OSError, EOFError, BadZipFile, zlib.error):
        return None
