"""What a full analysis is held against: the bound, and the same readings by general libraries as their manuals show."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import scipy.fft
import scipy.signal
import soundfile


def bound(path: Path) -> Any:
    """Decode to float32, mono mix, one batched float32 spectrum (4096 every 2048): the least any analysis does."""
    data, _ = soundfile.read(str(path), dtype="float32", always_2d=True)
    planar = data.T
    mono = np.ascontiguousarray((planar[0] + planar[1]) * np.float32(0.5))
    frames = np.lib.stride_tricks.sliding_window_view(mono, 4096)[::2048]
    return scipy.fft.rfft(frames * np.hanning(4096).astype(np.float32), axis=1)


def peer_stack(path: Path) -> dict[str, Any]:
    """Group A by pyloudnorm, librosa and scipy, each call as documented, every reading on its own."""
    import librosa
    import pyloudnorm

    data, rate = soundfile.read(str(path))
    out: dict[str, Any] = {"loudness": pyloudnorm.Meter(rate).integrated_loudness(data)}
    out["true_peak"] = np.abs(scipy.signal.resample_poly(data, 8, 1, axis=0)).max()
    y, _ = librosa.load(str(path), sr=None, mono=True)
    out["crest"] = np.abs(y).max() / np.sqrt(np.mean(y**2))
    hz, psd = scipy.signal.welch(data, rate, nperseg=32768, axis=0)
    out["bands"] = [psd[(hz >= f / 1.122) & (hz < f * 1.122)].sum() for f in 1000 * 10 ** (np.arange(-12, 12) / 10)]
    out["centroid"] = librosa.feature.spectral_centroid(y=y, sr=rate).mean()
    out["flatness"] = librosa.feature.spectral_flatness(y=y).mean()
    out["rolloff"] = librosa.feature.spectral_rolloff(y=y, sr=rate).mean()
    out["contrast"] = librosa.feature.spectral_contrast(y=y, sr=rate).mean(axis=1)
    out["rms"] = librosa.feature.rms(y=y, frame_length=2400, hop_length=2400)
    out["onsets"] = librosa.onset.onset_detect(y=y, sr=rate)
    out["tuning"] = librosa.estimate_tuning(y=y, sr=rate)
    sos = scipy.signal.butter(4, [45, 200], "bandpass", fs=rate, output="sos")
    out["lows"] = np.abs(scipy.signal.hilbert(scipy.signal.sosfiltfilt(sos, y)))
    return out


def cata_full(path: Path) -> Any:
    """Decode and all of Cata's group A readings."""
    from cata.core.measure.analysis import analyse
    from cata.media.decode import decode

    return analyse(decode(path).clip)


def cata_grain(path: Path) -> Any:
    """The grain of a take that was decoded and split for its readings."""
    from cata.core.drive.grain import grain_of

    return grain_of(_material(path))


def cata_ladder(path: Path) -> Any:
    """The ladder that a test's cleanest take gives."""
    from cata.core.drive.ladder import ladder_of
    from cata.core.resample import downsample

    return ladder_of(downsample(_material(path).work.carrier, 2))


def cata_hearing(path: Path) -> Any:
    """Loudness over time at three levels, both channels, as it is kept of a take."""
    from cata.core.hearing.by_ear import OFFSETS_DB
    from cata.core.hearing.zwicker import loudness_sone, third_octaves

    levels = [third_octaves(channel) for channel in _material(path).work.distinct]
    power = 10 * np.log10(np.mean([10 ** (one / 10) for one in levels], axis=0))
    return [loudness_sone(power, offset) for offset in OFFSETS_DB]


@cache
def _material(path: Path) -> Any:
    from cata.core.measure.material import Material
    from cata.media.decode import decode

    material = Material(decode(path).clip)
    return material if material.reduced is not None else None
