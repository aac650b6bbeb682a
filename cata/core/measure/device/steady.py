"""What makes static readings meaningless: a device that moves or goes on sounding, a level that moved, a codec."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device import lingering
from cata.core.measure.device.returned import Returned, level_db
from cata.core.measure.material import db
from cata.core.signals import slate
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

SETTLE_S = 0.6
BLOCK_PERIODS = 20
MAX_LEVEL_WAVER_DB, MAX_PHASE_WAVER_RAD = 0.6, 0.06
ECHO_FROM_S, ECHO_BLOCK_S, ECHO_DB, ECHO_CLEAR_DB = 0.07, 0.05, -38.0, 12.0
UNEVEN_DB = 12.0
QUIET_PERCENT = 20
NOISE_SKIP_S = 0.4
NOISE_HZ = (20.0, 20_000.0)
SMOOTHED_BINS, LINE = 31, 8.0
WINDOWED = 35 / 18
"""By how much the power in a Hann window scatters more, squared, than that of the whole stretch."""
MIN_CLEAR_DB = 30.0
MOVED_DB = 0.4
"""A valve amplifier drifts by a tenth of that while the file plays."""
EDGE_HZ, EDGE_CELL_HZ = (9000.0, 20_100.0, 23_500.0), 250.0
EDGE_DB, EDGE_EVEN_DB = 25.0, 6.0
CODED_LEAST_DB = -90.0
"""Sum of power under a window over the silence: where there is no hiss, its end tells nothing."""
BAND_OF_SLATE_HZ = slate.HIGH_HZ - slate.LOW_HZ


def silence(returned: Returned) -> Floats:
    """The silence after the slate, the slate's own ringing left out."""
    section = returned.plan.of("noise")[0]
    length = round((section.length_s - NOISE_SKIP_S) * ANALYSIS_RATE_HZ)
    return returned.cut(section.start_s + NOISE_SKIP_S, length)


def noise_dbfs(returned: Returned) -> float:
    """RMS of hum and hiss in dBFS between 20 Hz and 20 kHz, whatever the rate it was recorded at."""
    quiet = silence(returned)
    return float(db(2 * _heard_noise(quiet).sum() / (len(quiet) * float(np.sum(np.hanning(len(quiet)) ** 2)))))


def _heard_noise(quiet: Floats) -> Floats:
    """Power of a silence under a Hann window in the bins between 20 Hz and 20 kHz."""
    power = np.abs(np.fft.rfft((quiet - quiet.mean()) * np.hanning(len(quiet)))) ** 2
    hz = np.fft.rfftfreq(len(quiet), 1 / ANALYSIS_RATE_HZ)
    return np.asarray(power[(hz >= NOISE_HZ[0]) & (hz <= NOISE_HZ[1])])


def noise_scatter(returned: Returned) -> float:
    """One standard deviation of the power that :func:`noise_dbfs` reads, as a share of it.

    From the spectrum, where each bin scatters by itself, and from stretches of 50 ms; the greater counts: the one sees
    that rumble has few bins, the other that a level wanders.
    """
    quiet = silence(returned)
    power = _heard_noise(quiet)
    even = scipy.ndimage.median_filter(power, SMOOTHED_BINS, mode="nearest") / np.log(2.0)
    lines = np.maximum(power - LINE * even, 0.0)
    by_bins = float(np.sqrt(WINDOWED * np.sum(even**2) + 2 * np.sum(lines * even)) / max(power.sum(), 1e-30))
    blocks = 10 ** (_blocks_db(quiet) / 10)
    by_blocks = float(np.sqrt(WINDOWED / len(blocks)) * np.std(blocks) / max(np.mean(blocks), 1e-30))
    return max(by_bins, by_blocks)


def _waver(signal: Floats, period: int, noise_power: float) -> Said | None:
    """Why a steady tone is not steady, None where it is."""
    size = BLOCK_PERIODS * period
    blocks = signal[: len(signal) // size * size].reshape(-1, size)
    lines = blocks @ np.exp(-2j * np.pi * np.arange(size) / period) * 2 / size
    level = np.abs(lines)
    doubt = float(np.sqrt(2 * noise_power / size) / max(np.median(level), 1e-9))
    if doubt > 0.05:
        return None
    span_db = 20 * float(np.log10(level.max() / max(level.min(), 1e-9)))
    if span_db > MAX_LEVEL_WAVER_DB + 8.7 * 4 * doubt:
        return said(
            "level_wavers",
            "a steady tone comes back wavering by {span_db:.1f} dB: tremolo, or something that moves by itself",
            span_db=span_db,
        )
    phase = np.unwrap(np.angle(lines))
    t = np.arange(len(phase))
    rest = phase - np.polyval(np.polyfit(t, phase, 1), t)
    if float(np.max(np.abs(rest))) > MAX_PHASE_WAVER_RAD + 4 * doubt:
        return said(
            "pitch_wavers", "a steady tone comes back with its pitch moving: chorus, vibrato or phaser; switch it off"
        )
    return None


def coded(returned: Returned) -> Said | None:
    """Why this has been a lossy file: even its hiss ends at a steep edge below 20 kHz, as no converter's does."""
    quiet = silence(returned)
    power = np.abs(np.fft.rfft(quiet * np.hanning(len(quiet)))) ** 2
    hz = np.fft.rfftfreq(len(quiet), 1 / ANALYSIS_RATE_HZ)
    cells = np.arange(EDGE_HZ[0], EDGE_HZ[2], EDGE_CELL_HZ)
    levels = db(np.array([power[(hz >= low) & (hz < low + EDGE_CELL_HZ)].mean() for low in cells]))
    if levels.max() < CODED_LEAST_DB:
        return None
    for at in range(4, len(cells) - 6):
        before, after = levels[at - 4 : at], levels[at + 3 :]
        if cells[at] < EDGE_HZ[1] and np.ptp(before) < EDGE_EVEN_DB and before.min() - after.max() > EDGE_DB:
            return said(
                "lossy",
                "nothing above {khz:.0f} kHz, not even hiss: it has been a lossy file, which moves levels and hides "
                "overtones; record WAV or FLAC",
                khz=float(cells[at] / 1000),
            )
    return None


def level_moved(returned: Returned) -> Said | None:
    """Why levels of this recording cannot be compared: its two slates came back unequally loud. None where equal.

    Only their last sweeps are compared: by then a compressor has settled, whatever sounded before.
    """
    length = round(slate.SWEEP_S * ANALYSIS_RATE_HZ)
    opening, closing = (returned.cut(start + slate.DOWN_AT_S, length) for start in (0.0, returned.plan.closing_s))
    noise = float(np.var(silence(returned)))
    powers = [max(float(np.mean(one**2)) - noise, 1e-20) for one in (opening, closing)]
    change_db = float(db(powers[1] / powers[0]))
    if abs(change_db) < MOVED_DB + 8.7 * np.sqrt(noise / min(powers) / slate.SWEEP_S / BAND_OF_SLATE_HZ):
        return None
    return said(
        "level_moved",
        "between the two slates the level moved by {change_db:+.1f} dB: something was turned, it warmed up, or an "
        "automatic level is at work; measure again",
        change_db=change_db,
    )


def moving(returned: Returned) -> Said | None:
    """Why no static reading is valid for this device: it wavers or echoes. None where it stands still.

    The steady tone is watched for level and phase; the pause after it and the silence after the slate for echoes.
    """
    steady = returned.plan.of("steady")[0]
    quiet = silence(returned)
    # The quiet end of the silence: a long tail of the slate still sounds in the rest.
    power = float(10 ** (np.percentile(_blocks_db(quiet), QUIET_PERCENT) / 10))
    tone = returned.cut(steady.start_s + SETTLE_S, round((steady.length_s - SETTLE_S - 0.02) * ANALYSIS_RATE_HZ))
    waver = _waver(tone, steady.period, power)
    if waver:
        return waver
    lingers = lingering.tone_left(returned)
    if lingers:
        return lingers
    block = round(ECHO_BLOCK_S * ANALYSIS_RATE_HZ)
    after = returned.cut(steady.end_s + ECHO_FROM_S, 4 * block).reshape(4, block)
    left = db(np.var(after, axis=1))
    sounding = level_db(tone)
    if left.max() > max(sounding + ECHO_DB, float(db(power)) + ECHO_CLEAR_DB):
        return said("sounds_on", "it goes on sounding after the tone has stopped: echo or reverb; switch it off")
    if _blocks_db(quiet).max() > sounding + ECHO_DB - 10:
        return sounds_in_silence(returned)
    return None


def _blocks_db(quiet: Floats) -> Floats:
    block = round(ECHO_BLOCK_S * ANALYSIS_RATE_HZ)
    return db(np.var(quiet[: len(quiet) // block * block].reshape(-1, block), axis=1))


def sounds_in_silence(returned: Returned) -> Said | None:
    """What keeps the silence from being one; None where it holds even noise only."""
    blocks = _blocks_db(silence(returned))
    if blocks.max() - np.median(blocks) > UNEVEN_DB:
        return said(
            "sounds_in_silence", "something sounds in the silence after the slate: an echo, or talk in the room"
        )
    return None


def too_noisy(returned: Returned) -> Said | None:
    """Why the noise leaves nothing to measure, None where the loudest tone stands 30 dB clear."""
    size = round(ECHO_BLOCK_S * ANALYSIS_RATE_HZ)
    loudest = -200.0
    for section in returned.plan.sections:
        blocks = returned.section(section)
        blocks = blocks[: len(blocks) // size * size].reshape(-1, size)
        loudest = max(loudest, float(db(np.mean(blocks**2, axis=1)).max()))
    clear = loudest - noise_dbfs(returned)
    if clear < MIN_CLEAR_DB:
        return said(
            "noise",
            "too much noise: the loudest tone stands only {clear_db:.0f} dB over hum and hiss ({least_db:.0f} needed)",
            clear_db=clear,
            least_db=MIN_CLEAR_DB,
        )
    return None
