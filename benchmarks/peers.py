"""What a full analysis is held against: the bound, and the same readings by general libraries as their manuals show."""

from __future__ import annotations

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
