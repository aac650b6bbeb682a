"""Waver of a held note: a pickup too close pulls the string, and level and pitch move a few times a second."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.material import Material
from cata.core.measure.outcome import SILENT, Outcome, measured, refused, too_short
from cata.said import said

Floats = npt.NDArray[np.float64]

LOW_HZ, HIGH_HZ = 70.0, 1200.0
MIN_S, MIN_CYCLES = 1.5, 2.0
RATES_HZ = (0.4, 12.0)
TRACK_HZ = 400
SMOOTH_HZ = 24.0
SKIP_S = 0.25
CLEAR = 4.0
LEVEL_HEARD_DB, PITCH_HEARD_CENTS = 0.05, 0.4


def waver(material: Material) -> Outcome:
    """{"rate_hz", "level_db", "pitch_cents"}: peak to peak swing of the strongest partial of a held note.

    The partial is demodulated, a quadratic trend (the decay) removed, and the strongest line between 0.4 and 12 Hz of
    level or pitch taken. Refused under 1.5 s or two cycles, or where nothing stands clear of what scatters.
    """
    if material.silent:
        return refused(SILENT)
    rate = material.work.rate_hz
    signal = material.work.carrier.astype(np.float64)
    held = signal[round(SKIP_S * rate) :]
    if len(held) < MIN_S * rate:
        return refused(too_short(MIN_S))
    hz = _strongest(held, rate)
    level, cents = _demodulated(held, rate, hz)
    usable = np.flatnonzero(level > level.max() - 40)
    level, cents = level[: usable[-1] + 1], cents[: usable[-1] + 1]
    if len(level) < MIN_S * TRACK_HZ:
        return refused(said("too_short", "the note is held for less than {least_s:g} s", least_s=MIN_S))
    found = [_line(track) for track in (level, cents)]
    (level_rate, level_swing, level_clear), (pitch_rate, pitch_swing, pitch_clear) = found
    heard = (
        level_clear >= CLEAR and level_swing > LEVEL_HEARD_DB,
        pitch_clear >= CLEAR and pitch_swing > PITCH_HEARD_CENTS,
    )
    if not any(heard):
        return refused(said("steady", "it does not waver beyond what scatters"))
    strong = level_rate if heard[0] and (not heard[1] or level_clear >= pitch_clear) else pitch_rate
    if strong * len(level) / TRACK_HZ < MIN_CYCLES:
        return refused(said("few_cycles", "fewer than two cycles of it were recorded"))
    return measured(
        {
            "rate_hz": strong,
            "level_db": level_swing if heard[0] else 0.0,
            "pitch_cents": pitch_swing if heard[1] else 0.0,
        }
    )


def _strongest(signal: Floats, rate: int) -> float:
    size = min(len(signal), 2 * rate)
    power = np.abs(np.fft.rfft(signal[:size] * np.hanning(size), 1 << 18)) ** 2
    hz = np.fft.rfftfreq(1 << 18, 1 / rate)
    inside = (hz >= LOW_HZ) & (hz <= HIGH_HZ)
    return float(hz[inside][int(np.argmax(power[inside]))])


def _demodulated(signal: Floats, rate: int, hz: float) -> tuple[Floats, Floats]:
    """Level in dB and pitch in cents of one partial at 400 values a second."""
    turned = signal * np.exp(-2j * np.pi * hz * np.arange(len(signal)) / rate)
    slow = scipy.signal.sosfiltfilt(scipy.signal.butter(4, SMOOTH_HZ, fs=rate, output="sos"), turned)
    every = rate // TRACK_HZ
    edge = round(0.05 * rate)
    track = slow[edge : len(slow) - edge : every]
    level = 20 * np.log10(np.abs(track) + 1e-9)
    deviation = np.gradient(np.unwrap(np.angle(track))) * TRACK_HZ / (2 * np.pi)
    cents = 1200 * np.log2(np.maximum(hz + deviation, 1.0) / hz)
    return level, cents


def _line(track: Floats) -> tuple[float, float, float]:
    """Rate in Hz, swing peak to peak, and how far it stands over the other lines, of the strongest wave in a track."""
    t = np.arange(len(track)) / TRACK_HZ
    rest = track - np.polyval(np.polyfit(t, track, 2), t)
    window = np.hanning(len(rest))
    spectrum = np.abs(np.fft.rfft(rest * window, 1 << 16)) * 4 / np.sum(window)
    hz = np.fft.rfftfreq(1 << 16, 1 / TRACK_HZ)
    inside = np.flatnonzero((hz >= max(RATES_HZ[0], 1.5 / t[-1])) & (hz <= RATES_HZ[1]))
    at = int(inside[np.argmax(spectrum[inside])])
    away = np.abs(hz[inside] - hz[at]) > 3 / t[-1]
    floor = float(np.median(spectrum[inside][away])) if np.any(away) else float(spectrum[at])
    return float(hz[at]), float(spectrum[at]), float(spectrum[at] / max(floor, 1e-9))
