"""Amplifiers: input stages, passive tone stacks from their components, output stages with their supply, speakers."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from cata.core.bench.circuit import Block, Chain, Gain, Response, Sagging, Shape, one_pole, shelf
from cata.core.bench.curves import rounded, soft, uneven
from cata.core.bench.device import Device, Settings, db, knob, taper
from cata.core.clip import ANALYSIS_RATE_HZ

F = np.float32
Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]
TAPS = 4096


@dataclass(frozen=True, kw_only=True)
class ToneStack:
    """Components of a passive bass, middle and treble stack: pots, slope resistor, capacitors, both ends."""

    treble_ohm: float = 250e3
    bass_ohm: float = 250e3
    middle_ohm: float = 10e3
    slope_ohm: float = 100e3
    treble_f: float = 250e-12
    bass_f: float = 100e-9
    middle_f: float = 47e-9
    source_ohm: float = 1e3
    load_ohm: float = 1e6

    def response(self, hz: Floats, bass: float, middle: float, treble: float) -> Complex:
        """Complex gain at ``hz`` by nodal analysis; positions from 0 to 1.

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

        join(0, None, 1 / self.source_ohm)
        join(0, 1, s * self.treble_f)
        join(0, 2, 1 / self.slope_ohm)
        join(1, 5, 1 / max((1 - treble) * self.treble_ohm, 10.0))
        join(5, 3, 1 / max(treble * self.treble_ohm, 10.0))
        join(5, None, 1 / self.load_ohm)
        join(2, 3, s * self.bass_f)
        join(2, 4, s * self.middle_f)
        # An audio taper on the bass pot: a tenth of its resistance at noon.
        join(3, 4, 1 / max(bass**3 * self.bass_ohm, 10.0))
        join(4, None, 1 / max(middle * self.middle_ohm, 10.0))
        drive = np.zeros((len(s), 6, 1), dtype=np.complex128)
        drive[:, 0, 0] = 1 / self.source_ohm
        return np.asarray(np.linalg.solve(y, drive)[:, 5, 0])


SCOOPED_STACK = ToneStack()
MIDDLE_STACK = ToneStack(treble_ohm=220e3, bass_ohm=1e6, middle_ohm=25e3, slope_ohm=33e3, treble_f=470e-12,
                         bass_f=22e-9, middle_f=22e-9, source_ohm=1.3e3, load_ohm=517e3)  # fmt: skip
TIGHT_STACK = ToneStack(bass_ohm=1e6, middle_ohm=20e3, slope_ohm=47e3, treble_f=500e-12, bass_f=22e-9, middle_f=22e-9,
                        source_ohm=1.3e3)  # fmt: skip


def tone_stack_response(hz: Floats, bass: float, middle: float, treble: float) -> Complex:
    """Complex gain of the clean amplifier's stack."""
    return SCOOPED_STACK.response(hz, bass, middle, treble)


@lru_cache(maxsize=128)
def _stack_taps(stack: ToneStack, bass: float, middle: float, treble: float) -> Response:
    # Its zeros lie left of the axis, so that the magnitude says all; the phase sampled up to half the rate would ring
    # on past the last tap and come back as an echo. A fine grid, for the lows turn within a few hertz.
    hz = np.fft.rfftfreq(16 * TAPS, 1 / ANALYSIS_RATE_HZ).astype(np.float64)
    return Response(minimum_phase(np.abs(stack.response(hz, bass, middle, treble)))[: 2 * TAPS])


def _tone(stack: ToneStack, s: Settings) -> Response:
    return _stack_taps(stack, s["bass"], s["middle"], s["treble"])


def minimum_phase(magnitude: npt.NDArray[np.float64]) -> npt.NDArray[np.float32]:
    """Taps (2 (n - 1),) of the minimum-phase filter with this magnitude on a linear grid of n (real cepstrum)."""
    full = np.concatenate((magnitude, magnitude[-2:0:-1]))
    cepstrum = np.fft.ifft(np.log(np.maximum(full, 1e-5))).real
    half = len(full) // 2
    cepstrum[1:half] *= 2
    cepstrum[half + 1 :] = 0
    return np.asarray(np.fft.ifft(np.exp(np.fft.fft(cepstrum))).real, dtype=F)


SPEAKERS_DB = {
    "open": ((20, -30), (50, -12), (75, -1), (95, 3.5), (130, 1.0), (220, -0.5), (400, -2.5), (700, -1.5), (1100, 0.5),
             (1700, 2.5), (2500, 5.5), (3200, 5.0), (3900, 1.5), (4600, -4.5), (5400, -10), (6800, -19), (9000, -28),
             (12000, -38), (24000, -60)),
    "closed": ((20, -32), (50, -8), (80, 4.0), (110, 4.5), (160, 2.0), (300, -1.0), (500, -3.0), (900, -1.0),
               (1500, 1.0), (2200, 4.5), (3000, 5.5), (3600, 2.0), (4300, -5.0), (5200, -13), (7000, -24), (10000, -36),
               (24000, -66)),
    "small": ((20, -45), (80, -18), (130, -4), (180, 2.0), (260, 1.0), (450, 0.0), (800, 1.5), (1400, 3.0), (2100, 4.0),
              (2900, 2.5), (3800, -1.0), (5000, -7.0), (7000, -15), (11000, -26), (24000, -50)),
}  # fmt: skip
"""Points of a magnitude curve: a twelve-inch speaker in an open cabinet, four in a closed one, an eight-inch."""


@lru_cache(maxsize=4)
def speaker_taps(kind: str = "open") -> npt.NDArray[np.float32]:
    """Impulse response of a speaker with a close microphone, 48 kHz."""
    hz = np.fft.rfftfreq(TAPS, 1 / ANALYSIS_RATE_HZ)
    points = np.array(SPEAKERS_DB[kind], dtype=float)
    curve = np.interp(np.log(np.maximum(hz, 10.0)), np.log(points[:, 0]), points[:, 1])
    # Cone break-up: small irregularities that belong to this one speaker.
    curve += 1.2 * np.sin(2 * np.pi * np.log2(np.maximum(hz, 10.0)) * 2.3) * (hz > 800)
    return minimum_phase(10 ** (curve / 20))


@lru_cache(maxsize=4)
def _speaker(kind: str) -> Response:
    return Response(speaker_taps(kind))


def _watts(s: Settings) -> float:
    """What the power switch leaves of the output stage's ceiling: down to a tenth of its power."""
    return db(-10.0 * (1 - s["power"]))


def clean_amp(s: Settings) -> Block:
    """A platform: input stage with much headroom, tone stack, output stage that only rounds the loudest peaks."""
    first = (one_pole(30.0, "highpass"), Gain(taper(s["volume"], 0.3, 4.0)), Shape(soft(2.4)))
    return Chain((*first, _tone(SCOOPED_STACK, s), Gain(4.0), Shape(soft(3.0)), _speaker("open"), Gain(0.3)))


def edge_amp(s: Settings) -> Block:
    """A small valve at its limit: a stage off centre, then an output stage whose supply sags; no middle knob."""
    first = (one_pole(40.0, "highpass"), Gain(taper(s["volume"], 1.0, 24.0)), Shape(uneven(0.8, 1.3)))
    tone = (one_pole(20.0, "highpass"), shelf(300.0, 10.0 * (s["bass"] - 0.5), 0.0),
            shelf(1800.0, 0.0, 14.0 * (s["treble"] - 0.5)))  # fmt: skip
    return Chain((*first, *tone, Gain(1.4), Sagging(soft(0.9), 0.8), _speaker("small"), Gain(0.55)))


def crunch_amp(s: Settings) -> Block:
    """Two stages before a stack with strong mids, then a master: the tone controls come after the first breakup."""
    ceiling = _watts(s)
    stages = (one_pole(60.0, "highpass"), Gain(taper(s["gain"], 1.5, 60.0)), Shape(uneven(1.0, 1.6)),
              one_pole(90.0, "highpass"), Gain(1.8), Shape(soft(1.4)))  # fmt: skip
    power = (Gain(taper(s["master"], 0.3, 8.0)), Sagging(soft(1.2 * ceiling), 0.5))
    return Chain((*stages, _tone(MIDDLE_STACK, s), *power, _speaker("closed"), Gain(0.35)))


def high_gain_amp(s: Settings) -> Block:
    """Four stages, lows cut before each: breakup comes long before the tone stack, the master only sets the level."""
    gain = taper(s["gain"], 3.0, 120.0)
    stages = (one_pole(90.0, "highpass"), Gain(gain), Shape(uneven(0.7, 1.2)), one_pole(180.0, "highpass"), Gain(3.0),
              Shape(soft(0.9)), one_pole(7000.0, "lowpass"), Gain(3.0), Shape(rounded(0.4, 0.8)))  # fmt: skip
    power = (Gain(taper(s["master"], 0.2, 4.0)), Shape(soft(2.5)))
    return Chain((*stages, _tone(TIGHT_STACK, s), *power, _speaker("closed"), Gain(0.4)))


def stack_first_amp(s: Settings) -> Block:
    """Tone stack before all gain: the controls decide what breaks up; the output stage and its supply break up."""
    ceiling = _watts(s)
    before = (one_pole(30.0, "highpass"), Gain(2.0), Shape(soft(2.0)), _tone(SCOOPED_STACK, s))
    power = (Gain(taper(s["volume"], 2.0, 60.0)), Sagging(soft(1.5 * ceiling), 0.35))
    return Chain((*before, *power, _speaker("open"), Gain(0.4)))


_STACK_KNOBS = (knob("bass", "Bass"), knob("middle", "Middle"), knob("treble", "Treble"))
_POWER = knob("power", "Power", 1.0)
AMPLIFIERS = {
    d.key: d
    for d in (
        Device("clean", "clean platform amplifier", "amplifier",
               "passive bass, middle and treble stack between two stages, one speaker",
               (knob("volume", "Volume"), *_STACK_KNOBS), clean_amp),
        Device("edge", "small amplifier at the edge of breakup", "amplifier",
               "one stage off centre, sagging output stage, small speaker",
               (knob("volume", "Volume"), knob("bass", "Bass"), knob("treble", "Treble")), edge_amp),
        Device("crunch", "crunch amplifier", "amplifier", "two stages before the stack, master, power switch",
               (knob("gain", "Gain"), *_STACK_KNOBS, knob("master", "Master"), _POWER), crunch_amp),
        Device("high-gain", "high-gain amplifier", "amplifier", "many stages, lows cut before each, master",
               (knob("gain", "Gain"), *_STACK_KNOBS, knob("master", "Master")), high_gain_amp),
        Device("stack-first", "amplifier with its stack first", "amplifier",
               "stack before all gain, sagging output stage, power switch",
               (knob("volume", "Volume"), *_STACK_KNOBS, _POWER), stack_first_amp),
    )
}  # fmt: skip
