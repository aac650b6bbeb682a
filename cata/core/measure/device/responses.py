"""What several sweeps together say: the response before anything distorts, colour, low end, polarity."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.sweeps import (
    BAND_SHARES,
    CENTRES_HZ,
    HZ,
    LOW,
    MIDDLE,
    NAMES,
    TONE_BANDS,
    Swept,
    reach_of,
)
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals.testfile.waves import SWEEP_HIGH_HZ, SWEEP_LOW_HZ
from cata.said import Said, said

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

DISTORTS_DB = -46.0
"""Harmonics together re the linear response (0.5 %), below which a sweep counts as linear."""
MOVED_DB = 0.1
CAME_BACK_DB, MIN_BANDS = 0.15, 10
LEAST_SURE = 4.0
"""How many times a band's power stands over what its noise leaves uncertain: 4 is about 1 dB."""
MAX_RIVAL = 0.75


def most_linear(sweeps: list[Swept]) -> tuple[Swept, Said | None]:
    """The strongest sweep that does not distort, for noise lies furthest under it; else the weakest, with a doubt."""
    ordered = sorted(sweeps, key=lambda one: one.level_dbfs)
    weakest = ordered[0]
    if _gain_came_back(ordered):
        return _at_level_of(ordered[1], weakest), said(
            "lets_go",
            "its gain comes back slowly after a loud sound: read at {level_dbfs:.0f} dBFS, where it holds still",
            level_dbfs=ordered[1].level_dbfs,
        )
    if weakest.distortion_db < DISTORTS_DB:
        best = weakest
        for louder in ordered[1:]:
            # A compressor bends no wave, but its gain is another one up there.
            if louder.distortion_db >= DISTORTS_DB or abs(_gain_between(louder, best)) > MOVED_DB:
                break
            best = louder
        return best, None
    return weakest, said(
        "breaks_up", "taken while it breaks up: even {level_dbfs:.0f} dBFS distorts", level_dbfs=weakest.level_dbfs
    )


def _gain_came_back(ordered: list[Swept]) -> bool:
    """Whether the first sweep found the gain still pressed down by what went before it, and the next ones did not.

    A sweep's pitch is its time: the response then rises as the sweep goes on, against that of the louder sweeps, which
    agree with each other as those of a device whose response depends on the level do not.
    """
    if len(ordered) < 3 or any(one.distortion_db >= DISTORTS_DB for one in ordered):
        return False
    used = np.logical_and.reduce([heard(one) for one in ordered])[TONE_BANDS]
    first, second, third = (change_db(one, None)[TONE_BANDS][used] for one in ordered)
    if len(first) < MIN_BANDS:
        return False
    early, after = _early_over_late(second - first), _early_over_late(third - second)
    return bool(early[0] > max(CAME_BACK_DB, 5 * early[1], 3 * abs(after[0])))


def _at_level_of(settled: Swept, softest: Swept) -> Swept:
    """A response at the level that the end of a softer sweep shows: by then its gain had come back."""
    last = slice(-(len(NAMES[TONE_BANDS]) // 3), None)
    change = change_db(softest, None)[TONE_BANDS][last] - change_db(settled, None)[TONE_BANDS][last]
    gain = 10 ** (float(np.median(change)) / 20)
    return replace(settled, responses=settled.responses * gain, noise=settled.noise * gain**2)


def _early_over_late(change: Floats) -> tuple[float, float]:
    """By how much a change is greater in the lowest third of its bands than in the highest, and the doubt of it."""
    third = len(change) // 3
    doubt = float(np.std(np.diff(change))) / third**0.5
    return float(np.mean(change[:third]) - np.mean(change[-third:])), doubt


def _gain_between(louder: Swept, softer: Swept) -> float:
    """Mean difference of their responses in dB, 200 Hz to 4 kHz."""
    inside = slice(int(np.searchsorted(HZ, 200.0)), int(np.searchsorted(HZ, 4000.0)))
    power = [float(np.sum(np.abs(one.responses[0, inside]) ** 2 - one.noise[0, inside])) for one in (louder, softer)]
    return 10 * float(np.log10(max(power[0], 1e-30) / max(power[1], 1e-30)))


def heard(swept: Swept) -> npt.NDArray[np.bool_]:
    """The third octaves that the noise leaves certain to about 1 dB, (26,)."""
    noise = BAND_SHARES @ swept.noise[0]
    signal = BAND_SHARES @ (np.abs(swept.responses[0]) ** 2) - noise
    # As many independent values as the response's window tells apart in a band.
    before, after = reach_of(1)
    told_apart = (before + after) / ANALYSIS_RATE_HZ * (10**0.05 - 10**-0.05) * np.array(CENTRES_HZ)
    doubt = np.sqrt((noise**2 + 2 * noise * np.maximum(signal, 0.0)) / np.maximum(told_apart, 1.0))
    return np.asarray(signal > LEAST_SURE * doubt)


def change_db(swept: Swept, bypass: Swept | None) -> Floats:
    """Gain in each third octave, dB: against the bypass where there is one, else against the file, (26,)."""
    own = 10 * np.log10(np.maximum(swept.band_powers(), 1e-20))
    return own if bypass is None else own - 10 * np.log10(np.maximum(bypass.band_powers(), 1e-20))


def transparency_db(change: Floats) -> float:
    """RMS of the third-octave change, 80 Hz to 10 kHz, its mean taken out: 0 is a wire."""
    bands = change[TONE_BANDS]
    return float(np.std(bands))


def low_end_loss_db(change: Floats) -> float:
    """Mean change at 400 to 1600 Hz minus that at 80, 100 and 125 Hz: positive where the lows go."""
    return float(np.mean(change[MIDDLE]) - np.mean(change[LOW]))


def _least_phase(gains: Floats) -> Complex:
    """The phase, as unit vectors (bins,), that the minimum-phase filter of so much gain turns.

    Source: Oppenheim and Schafer, the real cepstrum folded onto positive times.
    """
    swept = (HZ > 2 * SWEEP_LOW_HZ) & (HZ < 0.9 * SWEEP_HIGH_HZ)
    level = np.interp(HZ, HZ[swept], np.log(np.maximum(gains[swept], 1e-9)))
    cepstrum = np.fft.irfft(level)
    half = len(cepstrum) // 2
    cepstrum[1:half] *= 2.0
    cepstrum[half + 1 :] = 0.0
    return np.asarray(np.exp(1j * np.fft.rfft(cepstrum).imag))


def polarity(swept: Swept) -> Outcome:
    """1 upright, -1 inverted; refused where the response has no side it clearly falls to.

    The response between 100 Hz and 5 kHz, plain, with all frequencies made equally strong, and freed of the phase that
    a filter of its response turns in any case; the one whose weaker side is the weaker counts.
    """
    first, last = int(np.searchsorted(HZ, 100.0)), int(np.searchsorted(HZ, 5000.0))
    own = swept.responses[0]
    whitened = own / np.maximum(np.abs(own), 1e-9)
    best = (1.0, 1)
    for spectrum in (own, whitened, whitened * np.conj(_least_phase(np.abs(own)))):
        band = np.zeros_like(own)
        band[first:last] = spectrum[first:last] * np.hanning(last - first)
        response = np.fft.irfft(band)
        up, down = float(response.max()), float(-response.min())
        best = min(best, (min(up, down) / max(up, down, 1e-20), 1 if up > down else -1))
    rival, sign = best
    if rival > MAX_RIVAL:
        return refused(said("phase_turned", "cannot tell: the device turns the phase too much for one side to win"))
    return measured(sign)
