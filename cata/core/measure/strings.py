"""A pickup heard by its strings: the six open strings one after the other, in one round or several.

What one round cannot know, several tell: how far two strokes of the same hand lie apart. Levels are RMS over the first
second of a stroke, K-weighted for what is heard and plain for what the coil gives in volts.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.clipping import clipped, overdriven
from cata.core.measure.dynamics import STRINGS, strokes
from cata.core.measure.kweight import k_weighted
from cata.core.measure.level import OFFSET_LUFS
from cata.core.measure.material import Material, db
from cata.core.measure.noise import Noise, find_noise
from cata.core.measure.outcome import SILENT, Number, Outcome, measured, refused
from cata.core.measure.results import Result, Results
from cata.core.measure.sustain import sustain
from cata.core.measure.waver import waver
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

LEVEL_S = 1.0
DAMPED_S = 0.04
"""The hand that damps a string before the next one sounds takes this long."""
BEFORE_S = 0.08
"""A stroke is cut out with a little before it, so that it is found as one."""
MIN_CLEAR_DB = 20.0
SPECTRUM_S = 1.5
PER_OCTAVE = 6
MIN_TONE_BLOCKS, TONE_STEADY_DB, MAX_TONE_CREST_DB = 10, 0.5, 4.5
CENTRES_HZ = tuple(round(200.0 * 2 ** (step / PER_OCTAVE), 1) for step in range(34))
"""Sixths of an octave, 200 Hz to 9 kHz."""
TWO_OF_A_KIND = 1.96 * np.sqrt(2.0)
"""Two means whose own errors scatter alike differ by less than this many of them, 19 times in 20."""


@dataclass(frozen=True)
class Strings:
    """What six open strings give: ``heard_db`` and ``plain_dbfs`` (rounds, 6), ``powers`` (rounds, 6, bands).

    ``powers`` are those of sixths of an octave less the noise's; ``wavers`` and ``sustains`` one per string, from the
    first round; ``first_s`` when the first is struck.
    """

    heard_db: Floats
    plain_dbfs: Floats
    powers: Floats
    noise_powers: Floats
    wavers: tuple[Outcome, ...]
    sustains: tuple[Outcome, ...]
    first_s: float

    @property
    def rounds(self) -> int:
        """How often the six were played."""
        return int(self.heard_db.shape[0])

    @property
    def output_lufs(self) -> float:
        """Mean K-weighted level of the six strings."""
        return float(self.heard_db.mean())

    @property
    def plain_rms_dbfs(self) -> float:
        """RMS of the first second of a stroke, its power averaged over all strokes, dBFS."""
        return float(db(np.mean(10 ** (self.plain_dbfs / 10))))

    @property
    def balance_db(self) -> Floats:
        """Each string against the mean of all, K-weighted, shape (6,)."""
        per_string = self.heard_db.mean(axis=0)
        return np.asarray(per_string - per_string.mean())

    @property
    def output_band_db(self) -> float | None:
        """By how much the output of two such recordings differs for no reason; None after one round."""
        return self._band(self.heard_db.mean(axis=1))

    @property
    def balance_band_db(self) -> float | None:
        """The same for one string against the others."""
        if self.rounds < 2:
            return None
        own = self.heard_db - self.heard_db.mean(axis=1, keepdims=True)
        return float(TWO_OF_A_KIND * np.sqrt(np.mean(np.var(own, axis=0, ddof=1)) / self.rounds))

    def _band(self, values: Floats) -> float | None:
        if len(values) < 2:
            return None
        return float(TWO_OF_A_KIND * np.std(values, ddof=1) / np.sqrt(len(values)))


def _band_powers(signal: Floats) -> Floats:
    """Power in each sixth of an octave of a stretch, mean square a sample, shape (bands,)."""
    window = np.hanning(len(signal))
    size = scipy.fft.next_fast_len(len(signal), real=True)
    power = np.abs(scipy.fft.rfft(signal * window, size)) ** 2 * 2 / (size * np.sum(window**2))
    running = np.concatenate(([0.0], np.cumsum(power)))
    edges = np.array([[f * 2 ** (s / (2 * PER_OCTAVE)) for s in (-1, 1)] for f in CENTRES_HZ])
    at = edges * size / ANALYSIS_RATE_HZ + 0.5
    reach = np.interp(at, np.arange(len(running)), running)
    return np.asarray(reach[:, 1] - reach[:, 0])


def read_strings(clip: Clip) -> Strings | Said:
    """What a recording of six open strings holds, low to high, in rounds; the reason where it cannot be read.

    Reasons: silent, clipped, not six notes or a multiple of them, less than 0.6 s apart, too much noise.
    """
    material = Material(clip)
    if material.silent:
        return SILENT
    kind = clipped(material).value
    if isinstance(kind, dict) and kind["kind"] == "clipped":
        return overdriven(kind)
    found = strokes(material)
    if isinstance(found, Said):
        return found
    noise = material.shared(find_noise)
    rate = material.work.rate_hz
    plain = material.work.distinct.astype(np.float64)
    weighted = [k_weighted(plane, rate) for plane in material.work.distinct]
    quiet = _noise_powers(material, noise)
    heard, level, powers = [], [], []
    for start, end in found:
        first, last = int(start * rate), int(min(start + LEVEL_S, end) * rate)
        heard.append(OFFSET_LUFS + float(db(np.mean([np.mean(np.square(p[first:last])) for p in weighted]))))
        level.append(float(db(np.mean(np.square(plain[:, first:last])))))
        stop = int(min(start + SPECTRUM_S, end - DAMPED_S) * rate)
        powers.append(np.maximum(np.mean([_band_powers(p[first:stop]) for p in plain], axis=0) - quiet, 0.0))
    if isinstance(noise, Noise) and min(level) - float(db(noise.power)) < MIN_CLEAR_DB:
        clear = min(level) - float(db(noise.power))
        return said(
            "noise",
            "too much noise: the quietest string stands only {clear_db:.0f} dB over it ({least_db:.0f} needed)",
            clear_db=clear,
            least_db=MIN_CLEAR_DB,
        )
    notes = [
        Material(material.work.cut(max(0, int((start - BEFORE_S) * rate)), int((end - DAMPED_S) * rate)))
        for start, end in found[:STRINGS]
    ]
    return Strings(
        np.reshape(heard, (-1, STRINGS)),
        np.reshape(level, (-1, STRINGS)),
        np.reshape(powers, (-1, STRINGS, len(CENTRES_HZ))),
        quiet,
        tuple(waver(note) for note in notes),
        tuple(sustain(note) for note in notes),
        found[0][0],
    )


def _noise_powers(material: Material, noise: Noise | Said) -> Floats:
    """Power of the noise in each band: of the silence before the first stroke, or none where nothing is known."""
    start = strokes(material)
    if not isinstance(start, list) or not isinstance(noise, Noise):
        return np.zeros(len(CENTRES_HZ))
    first = int((start[0][0] - DAMPED_S) * ANALYSIS_RATE_HZ)
    before = material.work.carrier[:first].astype(np.float64)
    return _band_powers(before) if len(before) > 0.2 * ANALYSIS_RATE_HZ else np.zeros(len(CENTRES_HZ))


def worst_waver(found: Strings) -> Outcome:
    """The string whose level or pitch wavers most, as {"string", "rate_hz", "level_db", "pitch_cents"}.

    Refused where no string wavers, or where none rings long enough to know.
    """
    known = [(index, one.value) for index, one in enumerate(found.wavers) if isinstance(one.value, dict)]
    if not known:
        reasons = [one.refusal for one in found.wavers if one.refusal]
        return refused(max(reasons, key=lambda one: sum(other.code == one.code for other in reasons)))
    index, worst = max(known, key=lambda pair: _swing(pair[1]))
    return measured({"string": index + 1, **worst})


def _swing(value: Mapping[str, Number | str | None]) -> float:
    # Half a decibel and four cents are heard about alike.
    return max(float(value["level_db"]) / 0.5, float(value["pitch_cents"]) / 4.0)  # type: ignore[arg-type]


def decay_db_per_s(found: Strings) -> tuple[float, ...] | None:
    """How fast each string dies away, None unless all of them ring long enough."""
    slopes = [one.value["db_per_s"] if isinstance(one.value, dict) else None for one in found.sustains]
    known = [float(slope) for slope in slopes if isinstance(slope, int | float)]
    return tuple(known) if len(known) == STRINGS else None


METHOD = 2
"""Raise it when a method changes: recordings read by an older one are read again."""
UNITS = {"heard_lufs": "LUFS", "rms_dbfs": "dBFS", "string_balance_db": "dB", "waver": "", "decay_db_per_s": "dB/s"}


def string_results(found: Strings) -> Results:
    """The readings of six open strings; strings are named 1 to 6 in the order played."""
    decay = decay_db_per_s(found)
    outcomes = {
        "heard_lufs": measured(round(found.output_lufs, 3)),
        "rms_dbfs": measured(round(found.plain_rms_dbfs, 3)),
        "string_balance_db": measured(_by_string(found.balance_db, 3)),
        "waver": worst_waver(found),
        "decay_db_per_s": refused(RINGS_SHORT) if decay is None else measured(_by_string(decay, 2)),
    }
    bands = {"heard_lufs": found.output_band_db, "string_balance_db": found.balance_band_db}
    return Results({
        key: Result(value=one.value, refusal=one.refusal, unit=UNITS[key], band=bands.get(key), version=METHOD)
        for key, one in outcomes.items()
    })  # fmt: skip


def _by_string(values: Iterable[float], decimals: int) -> dict[str, Number | str | None]:
    return {str(index + 1): round(float(value), decimals) for index, value in enumerate(values)}


RINGS_SHORT = said("too_short", "not every string rings long enough")


def tone_rms_dbfs(clip: Clip) -> Outcome:
    """RMS of a steady tone recorded to calibrate an input, dBFS, from its blocks of 50 ms.

    Refused where it is silent, clipped, lasts under half a second, or moves.
    """
    material = Material(clip)
    if material.silent:
        return refused(SILENT)
    kind = clipped(material).value
    if isinstance(kind, dict) and kind["kind"] == "clipped":
        return refused(said("clipped", "the tone is clipped: turn the input down and calibrate again"))
    levels = db(material.blocks)
    sounding = levels[levels > levels.max() - 6.0]
    if len(sounding) < MIN_TONE_BLOCKS:
        return refused(said("too_short", "the tone lasts under half a second"))
    middle = float(np.median(sounding))
    steady = sounding[np.abs(sounding - middle) < 0.5 * TONE_STEADY_DB]
    if len(steady) < 0.8 * len(sounding):
        return refused(said("level_moves", "the level moves: play one steady tone"))
    level = float(db(np.mean(10 ** (steady / 10))))
    if 20 * np.log10(material.peak) - level > MAX_TONE_CREST_DB:
        return refused(said("no_single_tone", "that is no single tone: its peaks stand too high"))
    return measured(level)
