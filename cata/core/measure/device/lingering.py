"""A device that goes on sounding: echoes of the slate in the silence after it, and what is left of a tone in a pause.

Hiss covers both to the eye. The slate is known, and so is a tone: looked for by itself, either stands out where its
energy lies far under that of the noise.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.returned import Returned
from cata.core.signals import slate
from cata.core.signals.testfile.layout import GAP_S, Section
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

ECHO_FROM_S, SLATE_RINGS_S, ROOM_S = 0.10, 0.04, 0.05
SOON_S, LEAST_DB = 0.25, (-40.0, -50.0)
"""A room that a microphone hears beside the loudspeaker falls below the first soon and below the second later."""
LONE_S, LONE_SHARE = (0.012, 0.1), 0.3
"""Nothing as strong so far away: an echo, and no reverb."""
LONE_FROM_S = 0.13
"""Sooner it may be the slope of a tail."""
LEAST_SHARE = 0.05
"""Of the slate's energy, so much must fall into the silence for an echo to be told there."""
STANDS_OUT = 7.0
"""Standard deviations: in some ten thousand independent delays noise stays below six."""
BAND_HZ = (500.0, 6000.0)
"""The slate and its first overtones; hum lies below."""

TAIL_BLOCK_S, TAIL_BLOCKS, TAIL_DB, TAIL_CLEAR = 0.04, 8, -48.0, 6.0
"""The first third of a second of the silence against its second half."""
PAUSE_S = (0.10, 0.29)
TONE_LEFT_DB = -50.0
BESIDE = (3, 12)
"""Bins beside a line from which its noise is read."""
CLEAR = 25.0
HALF_S, EDGE_S = 0.125, 0.02
LEFT_CLEAR, LEFT_SAFE = 8.0, 4.0


def echo(returned: Returned) -> Said | None:
    """Why the device goes on sounding: its own answer to the slate once more, or all along; None where it does not.

    An echo is found up to 50 dB down and 2.7 s later.
    """
    end_s = returned.plan.of("noise")[0].end_s + GAP_S
    band = scipy.signal.butter(2, BAND_HZ, "bandpass", fs=ANALYSIS_RATE_HZ, output="sos")
    heard = scipy.signal.sosfilt(band, returned.cut(0.0, round(end_s * ANALYSIS_RATE_HZ)))
    after = round((slate.LENGTH_S + SLATE_RINGS_S) * ANALYSIS_RATE_HZ)
    template = heard[: round(slate.LENGTH_S * ANALYSIS_RATE_HZ)]
    silence = heard.copy()
    silence[:after] = 0.0
    match = scipy.signal.correlate(silence, template, mode="full", method="fft")[len(template) - 1 :]
    # Of an early echo only the end falls into the silence, of a late one only the beginning.
    energy = np.concatenate(([0.0], np.cumsum(template**2)))
    delays = np.arange(len(silence))
    inside = (
        energy[np.clip(len(silence) - delays, 0, len(template))] - energy[np.clip(after - delays, 0, len(template))]
    )
    told = (inside > LEAST_SHARE * energy[-1]) & (delays > ECHO_FROM_S * ANALYSIS_RATE_HZ)
    strength = np.abs(scipy.signal.hilbert(match))[told] / np.sqrt(inside[told])
    usual = float(np.sqrt(np.median(strength**2) / np.log(2.0)))
    after_s, gains = delays[told] / ANALYSIS_RATE_HZ, strength / np.sqrt(inside[told])
    at = int(np.argmax(strength))
    off_s = np.abs(after_s - after_s[at])
    beside = gains[(off_s > LONE_S[0]) & (off_s < LONE_S[1])]
    lone = after_s[at] > LONE_FROM_S and np.percentile(beside, 90) < LONE_SHARE * gains[at]
    least = 10 ** (np.where(after_s < SOON_S, *LEAST_DB) / 20)
    stands_out = (strength > STANDS_OUT * usual) & (gains > least)
    if lone and stands_out.any():
        return said(
            "echoes",
            "an echo {after_s:.2f} s after each sound, {down_db:.0f} dB down: switch it off",
            after_s=float(after_s[at]),
            down_db=-20 * float(np.log10(gains[at])),
        )
    return _tail(template, silence[after + round(ROOM_S * ANALYSIS_RATE_HZ) :], bool(stands_out.any()))


def _tail(sounding: Floats, silence: Floats, surely: bool) -> Said | None:
    """Why a silence is none: it begins louder than it ends, by more than its own scatter."""
    size = round(TAIL_BLOCK_S * ANALYSIS_RATE_HZ)
    blocks = np.mean(silence[: len(silence) // size * size].reshape(-1, size) ** 2, axis=1)
    early, late = blocks[:TAIL_BLOCKS], blocks[len(blocks) // 2 :]
    more = float(early.mean() - late.mean()) / float(np.mean(sounding**2))
    doubt = float(np.std(late)) / np.sqrt(TAIL_BLOCKS) / float(np.mean(sounding**2))
    if not surely and (more < TAIL_CLEAR * doubt or more < 10 ** (TAIL_DB / 10)):
        return None
    return said(
        "sounds_on",
        "it goes on sounding after each sound, {down_db:.0f} dB down: reverb; switch it off",
        down_db=-10 * float(np.log10(max(more, 1e-9))),
    )


def tone_left(returned: Returned) -> Said | None:
    """Why the device goes on sounding: the steady tone's own pitch in the pause after it; None otherwise."""
    steady = returned.plan.of("steady")[0]
    length = round((PAUSE_S[1] - PAUSE_S[0]) * ANALYSIS_RATE_HZ)
    after, noise = _line(returned.cut(steady.end_s + PAUSE_S[0], length), np.array([steady.pitch_hz]))
    before, _ = _line(returned.cut(steady.end_s - PAUSE_S[1], length), np.array([steady.pitch_hz]))
    left = float((after[0] - noise[0]) / max(before[0], 1e-20))
    if after[0] < CLEAR * noise[0] or left < 10 ** (TONE_LEFT_DB / 10):
        return None
    return said(
        "sounds_on",
        "a tone goes on sounding {down_db:.0f} dB down after it has stopped: echo or reverb; switch it off",
        down_db=-10 * float(np.log10(left)),
    )


def left_over(returned: Returned, section: Section, harmonics: int, times_s: Floats) -> Floats:
    """Power |z|² that sounds from before a section may put onto the lines of its tone, (times, harmonics).

    Read in the pause before it, and let fall on as it falls there; a multiple of it, for it may add in phase.
    """
    length = round(HALF_S * ANALYSIS_RATE_HZ)
    hz = section.pitch_hz * np.arange(1, harmonics + 1, dtype=np.float64)
    starts = [section.start_s - EDGE_S - HALF_S * n for n in (2, 1)]
    (early, noise), (late, noise_late) = (_line(returned.cut(start, length), hz) for start in starts)
    heard = late > LEFT_CLEAR * noise_late
    early, late = np.maximum(early - noise, 1e-20), np.maximum(late - noise_late, 1e-20)
    fall = np.minimum(np.log(late / early) / HALF_S, 0.0)
    later = times_s[:, None] + EDGE_S + HALF_S / 2
    return np.where(heard, LEFT_SAFE * late * np.exp(fall * later), 0.0)


def _line(cut: Floats, hz: Floats) -> tuple[Floats, Floats]:
    """Power |z|² of lines at frequencies in a stretch, and what noise puts there, both (frequencies,)."""
    window = np.hanning(len(cut) + 1)[:-1]
    window /= window.sum() / 2
    beside = np.arange(BESIDE[0], BESIDE[1] + 1)
    t = np.arange(len(cut)) / ANALYSIS_RATE_HZ
    # Turned down to nothing a line is the first bin of a transform, and what lies beside it the bins beside that.
    turned = cut * window * np.exp(-2j * np.pi * np.outer(hz, t))
    power = np.abs(scipy.fft.fft(turned, axis=1)) ** 2
    return power[:, 0], np.median(power[:, np.concatenate((beside, -beside))], axis=1) / np.log(2.0)
