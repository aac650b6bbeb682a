"""A clean amplifier: input stage, passive tone stack from its components, output stage, speaker."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy.signal

from cata.core.bench.curves import clip_with, soft
from cata.core.bench.device import Device, Settings, one_pole, taper
from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.gear import Control

F = np.float32
Complex = npt.NDArray[np.complex128]
TAPS = 4096

# Components of the stack in ohm and farad: treble, bass and middle pots, slope resistor, three capacitors.
TREBLE_OHM, BASS_OHM, MIDDLE_OHM, SLOPE_OHM = 250e3, 250e3, 10e3, 100e3
TREBLE_F, BASS_F, MIDDLE_F = 250e-12, 100e-9, 47e-9
SOURCE_OHM, LOAD_OHM = 1e3, 1e6


def tone_stack_response(hz: npt.NDArray[np.float64], bass: float, middle: float, treble: float) -> Complex:
    """Complex gain of the stack at ``hz`` by nodal analysis; positions from 0 to 1.

    Nodes: 0 input after the source resistance, 1 top of the treble pot (after its capacitor), 2 the slope
    junction, 3 bottom of the treble pot and top of the bass pot, 4 between bass and middle pot, 5 the
    treble wiper. The middle pot is a variable resistance to ground at the middle capacitor.
    """
    s = 2j * np.pi * np.maximum(hz, 1.0)
    y = np.zeros((len(s), 6, 6), dtype=np.complex128)

    def join(a: int, b: int | None, admittance: Complex | float) -> None:
        y[:, a, a] += admittance
        if b is not None:
            y[:, b, b] += admittance
            y[:, a, b] -= admittance
            y[:, b, a] -= admittance

    join(0, None, 1 / SOURCE_OHM)
    join(0, 1, s * TREBLE_F)
    join(0, 2, 1 / SLOPE_OHM)
    join(1, 5, 1 / max((1 - treble) * TREBLE_OHM, 10.0))
    join(5, 3, 1 / max(treble * TREBLE_OHM, 10.0))
    join(5, None, 1 / LOAD_OHM)
    join(2, 3, s * BASS_F)
    join(2, 4, s * MIDDLE_F)
    # An audio taper on the bass pot: a tenth of its resistance at noon.
    join(3, 4, 1 / max(bass**3 * BASS_OHM, 10.0))
    join(4, None, 1 / max(middle * MIDDLE_OHM, 10.0))
    drive = np.zeros((len(s), 6, 1), dtype=np.complex128)
    drive[:, 0, 0] = 1 / SOURCE_OHM
    return np.asarray(np.linalg.solve(y, drive)[:, 5, 0])


@lru_cache(maxsize=64)
def _stack_taps(bass: float, middle: float, treble: float) -> npt.NDArray[np.float32]:
    hz = np.fft.rfftfreq(TAPS, 1 / ANALYSIS_RATE_HZ).astype(np.float64)
    return np.asarray(np.fft.irfft(tone_stack_response(hz, bass, middle, treble), TAPS), dtype=F)


def minimum_phase(magnitude: npt.NDArray[np.float64]) -> npt.NDArray[np.float32]:
    """Taps (2 (n - 1),) of the minimum-phase filter with this magnitude on a linear grid of n (real cepstrum)."""
    full = np.concatenate((magnitude, magnitude[-2:0:-1]))
    cepstrum = np.fft.ifft(np.log(np.maximum(full, 1e-5))).real
    half = len(full) // 2
    cepstrum[1:half] *= 2
    cepstrum[half + 1 :] = 0
    return np.asarray(np.fft.ifft(np.exp(np.fft.fft(cepstrum))).real, dtype=F)


SPEAKER_POINTS_DB = (
    (20, -30), (50, -12), (75, -1), (95, 3.5), (130, 1.0), (220, -0.5), (400, -2.5), (700, -1.5), (1100, 0.5),
    (1700, 2.5), (2500, 5.5), (3200, 5.0), (3900, 1.5), (4600, -4.5), (5400, -10), (6800, -19), (9000, -28),
    (12000, -38), (24000, -60),
)  # fmt: skip


@lru_cache(maxsize=1)
def speaker_taps() -> npt.NDArray[np.float32]:
    """Impulse response of a twelve-inch speaker in an open cabinet, close microphone, 48 kHz."""
    hz = np.fft.rfftfreq(TAPS, 1 / ANALYSIS_RATE_HZ)
    points = np.array(SPEAKER_POINTS_DB, dtype=float)
    curve = np.interp(np.log(np.maximum(hz, 10.0)), np.log(points[:, 0]), points[:, 1])
    # Cone break-up: small irregularities that belong to this one speaker.
    curve += 1.2 * np.sin(2 * np.pi * np.log2(np.maximum(hz, 10.0)) * 2.3) * (hz > 800)
    return minimum_phase(10 ** (curve / 20))


def filtered(signal: Audio, taps: npt.NDArray[np.float32]) -> Audio:
    """The signal through an impulse response; the length is kept."""
    return np.asarray(scipy.signal.oaconvolve(signal, taps)[: len(signal)], dtype=F)


def clean_amp(signal: Audio, s: Settings) -> Audio:
    """A platform: input stage with much headroom, tone stack, output stage that only rounds the loudest peaks."""
    driven = one_pole(signal, 30.0, "highpass") * F(taper(s["volume"], 0.3, 4.0))
    first = clip_with(driven, soft(2.4))
    toned = filtered(first, _stack_taps(s["bass"], s["middle"], s["treble"])) * F(4.0)
    power = clip_with(toned, soft(3.0))
    return filtered(power, speaker_taps()) * F(0.3)


def _knob(key: str, name: str) -> Control:
    return Control(key=key, name=name)


AMPLIFIERS = {
    "clean": Device(
        "clean",
        "clean platform amplifier",
        "amplifier",
        "passive bass, middle and treble stack between two stages, one speaker",
        (_knob("volume", "Volume"), _knob("bass", "Bass"), _knob("middle", "Middle"), _knob("treble", "Treble")),
        clean_amp,
    )
}
