"""The resonance of a pickup read back: from a sweep coil over it, or, weaker, from playing against a known pickup."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.measure.strings import CENTRES_HZ, Strings
from cata.core.workshop.coil import peak_of
from cata.said import said

Floats = npt.NDArray[np.float64]

FIT_HZ = (200.0, 12_000.0)
MAX_FIT_DB = 1.5
FALLS_DB = 6.0
ABOVE = said("resonance_above", "the response does not fall within what was measured: the resonance lies above it")


MAX_SMOOTH_DB = 1.5
MIN_ROUNDS, DRAWS, MAX_DOUBT = 2, 40, 0.25
CLEAR = 4.0
"""A band counts where the strings are this many times as strong as the noise."""
MIN_BANDS = 16
HALF_OCTAVE = 3


def _model_db(hz: Floats, f0: float, q: float) -> Floats:
    x = hz / f0
    return np.asarray(-10 * np.log10((1 - x * x) ** 2 + (x / q) ** 2))


def _fitted(x: Floats, y: Floats, start: tuple[float, float, float] | None = None) -> tuple[float, float, float]:
    """f0 in Hz, Q and gain in dB of the second-order low-pass nearest to a response."""
    # Equal weight for equal parts of an octave, however finely the points lie.
    weight = np.sqrt(np.gradient(np.log(x)))

    def misfit(p: Floats) -> Floats:
        return np.asarray((_model_db(x, float(np.exp(p[0])), float(np.exp(p[1]))) + p[2] - y) * weight)

    level = float(np.median(y[:4]))
    starts = [start] if start else [(f, q, level) for f in (2000.0, 3500.0, 6000.0) for q in (1.0, 3.0)]
    bounds = ([math.log(100.0), math.log(0.1), -np.inf], [math.log(40_000.0), math.log(30.0), np.inf])
    fits = [
        scipy.optimize.least_squares(misfit, (math.log(f), math.log(q), gain), bounds=bounds) for f, q, gain in starts
    ]
    found = min(fits, key=lambda one: float(one.cost))
    return math.exp(found.x[0]), math.exp(found.x[1]), float(found.x[2])


def fit_resonance(hz: Floats, response_db: Floats) -> Outcome:
    """{"resonance_hz", "q", "peak_hz", "peak_db", "fit_db"} from a response against a flat reference.

    ``hz`` and ``response_db`` shape (points,); levels may lie at any height. Refused where no second-order low-pass
    describes it (fit over 1.5 dB), where it does not fall within what was measured, or has no peak (Q under 0.71).
    """
    inside = (hz >= FIT_HZ[0]) & (hz <= FIT_HZ[1])
    x, y = hz[inside], response_db[inside]
    if len(x) < 8:
        return refused(said("few_frequencies", "too few frequencies were measured"))
    f0, q, gain = _fitted(x, y)
    rest = _model_db(x, f0, q) + gain - y
    fit_db = float(np.sqrt(np.average(rest**2, weights=np.gradient(np.log(x)))))
    if fit_db > MAX_FIT_DB:
        return refused(
            said(
                "no_coil",
                "no coil with one resonance describes this response: the best fit is {fit_db:.1f} dB off",
                fit_db=fit_db,
            )
        )
    if f0 > FIT_HZ[1] or y[0] - y[-1] < FALLS_DB:
        return refused(ABOVE)
    return _as_resonance(f0, q, fit_db)


def _as_resonance(f0: float, q: float, fit_db: float) -> Outcome:
    peak = peak_of(f0, q)
    if peak is None:
        return refused(said("no_peak", "so heavily loaded that it has no peak (Q {q:.2f})", q=q))
    return measured({"resonance_hz": f0, "q": q, "peak_hz": peak[0], "peak_db": peak[1], "fit_db": fit_db})


def resonance_from_playing(own: Strings, reference: Strings, known: tuple[float, float] | None) -> Outcome:
    """The resonance of a pickup from its strings against those of a pickup whose resonance is known.

    ``known``: f0 and Q of the reference, None where it is flat. Both recordings in the same place of the same guitar.
    {"resonance_hz", "q", "peak_hz", "peak_db", "fit_db", "resonance_band_hz", "q_band"}: the bands are 1.96 standard
    deviations over strokes drawn anew. Refused with fewer than two rounds, where the strings do not stand out of the
    noise, where no coil describes what differs, or where the hands leave more than 25 % of doubt.
    """
    if min(own.rounds, reference.rounds) < MIN_ROUNDS:
        return refused(
            said("one_round", "one round cannot tell the hand from the pickup: play the six strings at least twice")
        )
    over_noise = [one.powers.mean(axis=(0, 1)) / np.maximum(one.noise_powers, 1e-20) for one in (own, reference)]
    clear = np.minimum(*over_noise)
    heard = np.flatnonzero(clear >= CLEAR)
    if len(heard) < MIN_BANDS:
        return refused(
            said(
                "noise",
                "the strings stand out of the noise in {heard} of {bands} bands only",
                heard=len(heard),
                bands=len(CENTRES_HZ),
            )
        )
    hz = np.array(CENTRES_HZ)[heard]
    flat = np.zeros(len(hz)) if known is None else _model_db(hz, *known)

    def response(a: Floats, b: Floats) -> Floats:
        return np.asarray(10 * np.log10(np.maximum(a[heard], 1e-20) / np.maximum(b[heard], 1e-20)) + flat)

    y = response(own.powers.mean(axis=(0, 1)), reference.powers.mean(axis=(0, 1)))
    f0, q, gain = _fitted(hz, y)
    # Strokes scatter from band to band; what remains over half an octave is no scatter.
    rest = np.convolve(_model_db(hz, f0, q) + gain - y, np.full(HALF_OCTAVE, 1 / HALF_OCTAVE), mode="valid")
    fit_db = float(np.sqrt(np.mean(rest**2)))
    if fit_db > MAX_SMOOTH_DB:
        return refused(said(
            "no_coil",
            "what differs is not one coil against another ({fit_db:.1f} dB off): was it in the same place of the same "
            "guitar?",
            fit_db=fit_db,
        ))  # fmt: skip
    rng = np.random.default_rng(1)
    again = [
        _fitted(hz, response(_drawn(own, rng), _drawn(reference, rng)), (f0, q, gain))[:2] for _ in range(DRAWS)
    ]  # fmt: skip
    # Drawing from few rounds shows too little of their scatter.
    few = math.sqrt(min(own.rounds, reference.rounds) / (min(own.rounds, reference.rounds) - 1))
    doubt_f, doubt_q = (1.96 * few * float(np.std(np.log(column))) for column in zip(*again, strict=True))
    if doubt_f > MAX_DOUBT:
        return refused(
            said(
                "strokes_differ",
                "two strokes differ too much: the resonance is uncertain by {percent:.0f} %",
                percent=100 * doubt_f,
            )
        )
    if f0 > hz[-1]:
        return refused(ABOVE)
    found = _as_resonance(f0, q, fit_db)
    if not isinstance(found.value, dict):
        return found
    return measured(
        {**found.value, "resonance_band_hz": f0 * doubt_f, "q_band": q * doubt_q},
        said("from_playing", "from playing: the sweep coil says more"),
    )


def _drawn(one: Strings, rng: np.random.Generator) -> Floats:
    """Mean powers of rounds drawn anew, string by string, shape (bands,)."""
    rounds, strings = one.powers.shape[:2]
    picked = rng.integers(0, rounds, (rounds, strings))
    return np.asarray(one.powers[picked, np.arange(strings)].mean(axis=(0, 1)))
