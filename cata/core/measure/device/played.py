"""The picking ladder: the same playing at rising strength, and what the device adds to it.

The linear part of the device is estimated from the softest steps; at each step the answer is split into what that part
explains, with a gain that may move, and the rest: dirt. It cannot see less than -44 dB, so it gives no 1 % onset; its
levels are peaks of the playing, not of a sine, and are never mixed with those.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.device import steady, sweeps
from cata.core.measure.device.returned import Returned
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals import slate
from cata.core.signals.testfile.layout import Section
from cata.core.signals.testfile.waves import wave
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

POINTS, HOP_SHARE = 16384, 8
REFERENCE_STEPS = 3
BLOCK_S, SHORT_BLOCK_S = 0.05, 0.02
OWN_FLOOR_DB = -44.0
COMPRESSING_DB, FOLLOWS_DB, UNBENT_THD = 3.0, 1.5, 0.004
SYMBOL_LINE_HZ = 12.0
SLATE_DBFS, FOLLOWS_CLEAR_DB = -12.0, 6.0
FOLLOWS = said("follows", "its tone or gain follows the playing without distorting: an auto-wah or a gate")
CLEAN_DB = -31.0
NOISE_MARGIN_DB = 10.0
QUIET_SHARE = 1e-4
ONSETS_PERCENT = (3, 10)
FAINT_DB = -35.0
MIN_MIDDLE, MIN_LOW = 5, 2
CHORD_AT_S, SUSTAIN_BLOCK_S = (0.12, 0.57), 0.06
"""Soon after the stroke of the chord, and before it is damped."""


@dataclass(frozen=True)
class Played:
    """Dirt in dB re the explained part at each step, with the share of it that noise could feign.

    ``riding_db`` is by how much a faster moving gain explains the loudest step better; ``hard_db`` the dirt of the
    loudest step where the loudest three, not the softest, say what the linear part is.
    """

    levels_dbfs: Floats
    dirt_db: Floats
    noise_db: Floats
    riding_db: float
    hard_db: float

    @property
    def usable(self) -> npt.NDArray[np.bool_]:
        """Steps whose noise lies low enough to see 3 % of dirt."""
        return np.asarray(self.noise_db <= 20 * np.log10(0.03) + NOISE_MARGIN_DB)


def _linear_part(x: Floats, y: Floats) -> Floats:
    """Impulse response (POINTS,) of the noise-averaged linear estimate from x to y, its zero in the middle."""
    window, hop = np.hanning(POINTS), POINTS // HOP_SHARE
    starts = np.arange(0, len(x) - POINTS, hop)
    cross = np.zeros(POINTS // 2 + 1, dtype=np.complex128)
    power = np.zeros(POINTS // 2 + 1)
    for start in starts:
        a = np.fft.rfft(x[start : start + POINTS] * window)
        b = np.fft.rfft(y[start : start + POINTS] * window)
        cross += np.conj(a) * b
        power += np.abs(a) ** 2
    response = np.fft.irfft(cross / (power + 1e-6 * power.max()))
    taper = np.hanning(POINTS)
    return np.asarray(np.roll(response, POINTS // 2) * taper)


def _rest(y: Floats, r: Floats, block_s: float, order: int) -> tuple[float, float]:
    """Energy left of y after the best gain (a polynomial over each block) times r, and the energy explained."""
    size = round(block_s * ANALYSIS_RATE_HZ)
    count = len(y) // size
    ys, rs = y[: count * size].reshape(count, size), r[: count * size].reshape(count, size)
    energies = np.sum(rs**2, axis=1)
    used = energies > QUIET_SHARE * energies.max()
    u = np.linspace(-1, 1, size)
    left = explained = 0.0
    for a, b in zip(ys[used], rs[used], strict=True):
        basis = np.stack([b * u**power for power in range(order + 1)], axis=1)
        weights, *_ = np.linalg.lstsq(basis, a, rcond=None)
        fit = basis @ weights
        left += float(np.sum((a - fit) ** 2))
        explained += float(np.sum(fit**2))
    return left, explained


def read_played(returned: Returned, section: Section, noise_power: float, level_db: float = 0.0) -> Played:
    """The ladder's dirt, step by step."""
    x = wave(section, ANALYSIS_RATE_HZ).astype(np.float64)
    y = returned.section(section)[: len(x)]
    step, steps = round(section.step_s * ANALYSIS_RATE_HZ), len(section.levels_dbfs)
    used = REFERENCE_STEPS
    dirt, noise, r = _by_step(x, y, slice(0, used * step), step, noise_power)
    # The softest steps lie nearest the noise; harder ones that are clean too make the estimate quieter.
    clean = REFERENCE_STEPS
    while clean < steps and dirt[clean] < CLEAN_DB:
        clean += 1
    if clean > used:
        dirt, noise, r = _by_step(x, y, slice(0, clean * step), step, noise_power)
    last = slice((steps - 1) * step, steps * step)
    floor = noise_power * step * _used_share(r[last])
    long, _ = _rest(y[last], r[last], BLOCK_S, 0)
    short, _ = _rest(y[last], r[last], SHORT_BLOCK_S, 2)
    riding = 10 * float(np.log10(max(long - floor, 1e-20) / max(short - floor, 0.1 * floor, 1e-20)))
    hard, _, _ = _by_step(x, y, slice((steps - REFERENCE_STEPS) * step, steps * step), step, noise_power)
    return Played(np.array(section.levels_dbfs) + level_db, dirt, noise, riding, float(hard[-1]))


def _by_step(x: Floats, y: Floats, known: slice, step: int, noise_power: float) -> tuple[Floats, Floats, Floats]:
    """Dirt and noise in dB of each step against the linear part of a stretch, and what that part makes of x."""
    r = scipy.signal.oaconvolve(x, _linear_part(x[known], y[known]))[POINTS // 2 :][: len(x)]
    dirt, noise = [], []
    for at in range(0, len(x) - step + 1, step):
        left, explained = _rest(y[at : at + step], r[at : at + step], BLOCK_S, 0)
        floor = noise_power * step * _used_share(r[at : at + step])
        dirt.append(10 * np.log10(max((left - floor) / max(explained, 1e-20), 1e-12)))
        noise.append(10 * np.log10(max(floor / max(explained, 1e-20), 1e-12)))
    return np.array(dirt), np.array(noise), r


def _used_share(r: Floats) -> float:
    size = round(BLOCK_S * ANALYSIS_RATE_HZ)
    energies = np.sum(r[: len(r) // size * size].reshape(-1, size) ** 2, axis=1)
    return float(np.mean(energies > QUIET_SHARE * energies.max()))


def response_db(returned: Returned, section: Section) -> dict[str, float]:
    """Gain in each third octave of the softest steps, noise removed, by name; where the playing has enough energy.

    Energy against energy: what the device distorts counts as its own, so it is true below breakup only.
    """
    steps = round(REFERENCE_STEPS * section.step_s * ANALYSIS_RATE_HZ)
    size = scipy.fft.next_fast_len(steps, real=True)
    x = np.abs(scipy.fft.rfft(wave(section, ANALYSIS_RATE_HZ)[:steps].astype(np.float64), size)) ** 2
    y = np.abs(scipy.fft.rfft(returned.section(section)[:steps], size)) ** 2
    density = sweeps.noise_density(steady.silence(returned))
    hz = np.fft.rfftfreq(size, 1 / ANALYSIS_RATE_HZ)
    noise = steps * np.interp(hz, sweeps.HZ, density)
    found = {}
    for name, centre in zip(sweeps.NAMES, sweeps.CENTRES_HZ, strict=True):
        a, b = np.searchsorted(hz, (centre * 10**-0.05, centre * 10**0.05))
        sent, came, hiss = (float(one[a:b].sum()) for one in (x, y, noise))
        if sent > 10 ** (FAINT_DB / 10) * x.sum() and came > 2 * hiss:
            found[name] = 10 * float(np.log10((came - hiss) / sent))
    return found


def low_end_loss_db(response: dict[str, float]) -> Outcome:
    """Mean change at 400 to 1600 Hz minus that at 80, 100 and 125 Hz; the playing may lack a band.

    Refused with fewer than five of the seven, or two of the three.
    """
    groups = [
        [response[name] for name in sweeps.NAMES[part] if name in response] for part in (sweeps.MIDDLE, sweeps.LOW)
    ]
    if len(groups[0]) < MIN_MIDDLE or len(groups[1]) < MIN_LOW:
        return refused(said("little_energy", "the playing has too little energy in the bands it needs"))
    middle, low = (float(np.mean(group)) for group in groups)
    return measured(middle - low)


def sustain_db(own: Clip, dry: Clip, noise_power: float) -> Outcome:
    """How much less the chord of a ladder step falls from 0.1 to 0.55 s after its stroke than it was played."""
    falls = []
    for clip, noise in ((own, noise_power), (dry, 0.0)):
        powers = [_power_at(clip, at) - noise for at in CHORD_AT_S]
        if powers[1] < noise:
            return refused(said("noise", "the chord drowns in the noise before it has died away"))
        falls.append(10 * float(np.log10(powers[0] / powers[1])))
    return measured(falls[1] - falls[0])


def _power_at(clip: Clip, at_s: float) -> float:
    part = clip.samples[0][round(at_s * clip.rate_hz) : round((at_s + SUSTAIN_BLOCK_S) * clip.rate_hz)]
    return max(float(np.mean(np.square(part, dtype=np.float64))), 1e-20)


PEAKS = said("playing_peaks", "in dB of the playing's peaks, not of a sine")


def no_clipper(played: Played, sine_thd: float | None) -> Said | None:
    """Why what is not linear in the answer is a moving gain; None where the wave itself is bent.

    ``sine_thd`` is the distortion of the slate's tones at -12 dBFS, None where noise could feign it.
    """
    if played.dirt_db.max() < CLEAN_DB:
        return None
    unbent = sine_thd is not None and sine_thd < UNBENT_THD
    if played.riding_db >= COMPRESSING_DB or (unbent and played.riding_db >= FOLLOWS_DB):
        return said("compressor", "its gain follows the playing: a compressor, not a clipper")
    if played.hard_db < CLEAN_DB:
        return said("gate", "it is clean when played hard and holds soft playing back: a gate, not a clipper")
    soft = played.dirt_db[played.levels_dbfs <= SLATE_DBFS]
    if unbent and len(soft) and soft.max() > CLEAN_DB + FOLLOWS_CLEAR_DB:
        return FOLLOWS
    return None


def slate_thd(returned: Returned) -> float | None:
    """Distortion of the slate's five tones, all at -12 dBFS, as their median; None where noise could feign 0.3 %."""
    length = round((slate.SYMBOL_S - 2 * slate.EDGE_S) * ANALYSIS_RATE_HZ)
    window = np.hanning(length)
    found = []
    for index in range(slate.SYMBOLS):
        start = slate.SYMBOLS_AT_S + index * (slate.SYMBOL_S + slate.GAP_S) + slate.EDGE_S
        power = np.abs(np.fft.rfft(returned.cut(start, length) * window, 8 * length)) ** 2
        hz = np.fft.rfftfreq(8 * length, 1 / ANALYSIS_RATE_HZ)
        inside = (hz > slate.FIRST_HZ - slate.STEP_HZ) & (hz < slate.FIRST_HZ + (slate.BASE + 1) * slate.STEP_HZ)
        tone = float(hz[inside][np.argmax(power[inside])])
        lines = [float(power[np.abs(hz - n * tone) < SYMBOL_LINE_HZ].max()) for n in range(1, 8)]
        beside = [float(np.median(power[np.abs(hz - (n + 0.5) * tone) < 4 * SYMBOL_LINE_HZ])) for n in range(1, 8)]
        if sum(beside) > (UNBENT_THD * 0.7) ** 2 * lines[0]:
            return None
        found.append((sum(lines[1:]) / lines[0]) ** 0.5)
    return float(np.median(found))


def onset_dbfs(played: Played, percent: float) -> Outcome:
    """The playing level (peak, dBFS as sent) at which dirt reaches a share of the sound; bounds are flagged."""
    target = 20 * float(np.log10(percent / 100))
    floor = np.maximum(played.dirt_db, OWN_FLOOR_DB)
    usable = played.noise_db <= target + NOISE_MARGIN_DB
    if not usable.any():
        return refused(said("noise", "too much noise under the playing"))
    first = int(np.argmax(usable))
    levels, values = played.levels_dbfs[first:], floor[first:]
    if values[0] >= target:
        return measured(float(levels[0]), said("at_lowest", "the softest step is already past it"), "at_most")
    above = np.flatnonzero((values[:-1] < target) & (values[1:] >= target))
    if not len(above):
        return refused(said("never", "never: the hardest playing adds {dirt_db:.0f} dB", dirt_db=float(values[-1])))
    curve = scipy.interpolate.PchipInterpolator(levels, values - target)
    at = int(above[0])
    roots = [float(r) for r in curve.roots(extrapolate=False) if levels[at] <= r <= levels[at + 1]]
    return measured(roots[0] if roots else float(levels[at + 1]), PEAKS)
