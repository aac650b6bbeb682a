"""Tone: third octaves, regions, centroid, tilt and harshness of the whole take.

All come from one transform of the whole take. Averaged short spectra would smear the low bands:
with 8192 points the band at 63 Hz is 0.8 dB wrong.
"""

from __future__ import annotations

import numpy as np

from cata.core.measure.level import loudness_lufs
from cata.core.measure.material import Material, db
from cata.core.measure.noise import Noise, find_noise
from cata.core.measure.nonsense import no_tone
from cata.core.measure.outcome import SILENT, Outcome, Value, low_rate, measured, refused, too_short
from cata.core.measure.regions import FIRST_BAND, HIGHEST_HZ, LOWEST_HZ, REGIONS, THIRD_OCTAVES_HZ, band_edges
from cata.core.measure.segments import Spectrum
from cata.said import Said, said

AIR = REGIONS[-1]
REFERENCE_LUFS = -23.0
NEAR_NOISE_DB = 6.0
MIN_BANDS_S = 2.0
TILT_BANDS = (100, 8000)
MIN_RATE_HZ = 24_000
LEANS_DB, FEWEST_LEANING = (25.0, 40.0), 6
"""Bands up to 25 dB under the loudest count in full for the tilt, from 40 dB on not at all."""
KNOWN_NOISE = 0.25
KNOWN_NOISE = 0.25
FAINT_DB = {"lows": -30.0, "low_mids": -32.0, "mids": -36.0, "upper_mids": -38.0, "presence": -40.0, "air": -44.0}
"""Shares that nobody hears beside the rest: less is not told from it, lows sooner than what no louder sound covers."""


def noise_spectrum(material: Material) -> Spectrum | None:
    """Spectrum of the take's noise, None where no noise was found."""
    noise = material.shared(find_noise)
    return noise.spectrum(material.work.rate_hz) if isinstance(noise, Noise) else None


def third_octaves_db(material: Material) -> Outcome:
    """{nominal centre in Hz: level in dB at a loudness of -23 LUFS}, 63 Hz to 12.5 kHz.

    Refused under 2 s and for silence. A band within 6 dB of the noise has the noise subtracted
    and is flagged; one that does not rise above it, or lies above 0.98 of the Nyquist frequency
    of the source, is absent (null).
    """
    if material.clip.duration_s < MIN_BANDS_S:
        return refused(too_short(MIN_BANDS_S, ": the lowest bands hold too few cycles"))
    if reason := material.shared(no_tone):
        return refused(reason)
    loudness = material.shared(loudness_lufs).value
    if not isinstance(loudness, float):
        return refused(SILENT)
    floor = material.shared(noise_spectrum)
    bands: dict[str, float | int | str | None] = {}
    near: list[str] = []
    for nominal in THIRD_OCTAVES_HZ:
        low, high = band_edges(nominal)
        power = material.whole.energy(low, high)
        hiss = floor.energy(low, high) if floor else 0.0
        if high > material.usable_hz or power <= 0.0:
            bands[str(nominal)] = None
            continue
        if db(power) - db(hiss) < NEAR_NOISE_DB:
            near.append(str(nominal))
            power -= hiss
        bands[str(nominal)] = float(db(power)) + REFERENCE_LUFS - loudness if power > 0.02 * hiss else None
    flag = (
        said("near_noise", "within 6 dB of the noise, noise subtracted: {bands} Hz", bands=", ".join(near))
        if near
        else None
    )
    return measured(bands, flag)


def _spectral_guard(material: Material) -> Said | None:
    if reason := material.shared(no_tone):
        return reason
    if material.clip.rate_hz < MIN_RATE_HZ:
        return low_rate(material.clip.rate_hz, f"nothing above {material.clip.rate_hz // 2} Hz was recorded")
    if material.whole.energy(LOWEST_HZ, HIGHEST_HZ) < 1e-12:
        return said("nothing_heard", "nothing between 60 Hz and 12 kHz")
    return None


def _noisy(material: Material, low_hz: float, high_hz: float) -> Said | None:
    """A doubt where the range lies within 6 dB of the noise."""
    noise = material.shared(noise_spectrum)
    if noise is None:
        return None
    hiss = noise.energy(low_hz, high_hz)
    if db(material.whole.energy(low_hz, high_hz)) - db(hiss) < NEAR_NOISE_DB:
        return said(
            "near_noise",
            "{low_hz:g} to {high_hz:g} Hz lies within 6 dB of the noise: reads too bright",
            low_hz=low_hz,
            high_hz=high_hz,
        )
    return None


def _without_noise(material: Material, low_hz: float, high_hz: float) -> float:
    """Energy of a range less that of the noise; never less than a quarter of the noise, which is not known better."""
    power, noise = material.whole.energy(low_hz, high_hz), material.shared(noise_spectrum)
    hiss = noise.energy(low_hz, high_hz) if noise is not None else 0.0
    return max(power - hiss, KNOWN_NOISE * hiss)


def regions_db(material: Material) -> Outcome:
    """{region: 10 lg of its share of the energy between 60 Hz and 12 kHz}; refused for silence and low rates.

    A share that nobody would hear is given as the most that it may be, and flagged: what is not there does not differ.
    """
    reason = _spectral_guard(material)
    if reason:
        return refused(reason)
    total = material.whole.energy(LOWEST_HZ, HIGHEST_HZ)
    ranges = {region.key: _without_noise(material, region.low_hz, region.high_hz) for region in REGIONS}
    shares = {key: float(db(power / total)) for key, power in ranges.items()}
    faint = [region.word for region in REGIONS if shares[region.key] < FAINT_DB[region.key]]
    value: Value = {key: max(share, FAINT_DB[key]) for key, share in shares.items()}
    hidden = said("faint", "too little {regions} to hear: shown as an upper limit", regions=", ".join(faint))
    return measured(value, hidden if faint else _noisy(material, AIR.low_hz, AIR.high_hz))


def centroid_hz(material: Material) -> Outcome:
    """Power-weighted mean frequency between 60 Hz and 12 kHz in Hz; a mean over frames is another quantity."""
    reason = _spectral_guard(material)
    if reason:
        return refused(reason)
    return measured(material.whole.mean_hz(LOWEST_HZ, HIGHEST_HZ), _noisy(material, AIR.low_hz, AIR.high_hz))


def tilt_db_per_oct(material: Material) -> Outcome:
    """Least-squares slope of the third octaves on log2 f, 100 Hz to 8 kHz, dB per octave (pink 0, white +3.01)."""
    bands = material.shared(third_octaves_db)
    if not isinstance(bands.value, dict):
        return refused(bands.refusal or SILENT)
    used = [n for n in THIRD_OCTAVES_HZ if TILT_BANDS[0] <= n <= TILT_BANDS[1]]
    levels = [bands.value[str(n)] for n in used]
    if any(level is None for level in levels):
        return refused(
            said("band_missing", "a third octave between 100 Hz and 8 kHz is missing: low rate or within the noise")
        )
    octaves = np.array([np.log2(10.0) * (FIRST_BAND + THIRD_OCTAVES_HZ.index(n)) / 10 for n in used])
    heard = np.array(levels, dtype=float)
    under = heard.max() - heard
    # A band that nothing sounds in leans nowhere.
    weights = np.clip((LEANS_DB[1] - under) / (LEANS_DB[1] - LEANS_DB[0]), 0.0, 1.0)
    if np.count_nonzero(weights > 0.5) < FEWEST_LEANING:
        return refused(said("few_bands", "it sounds in fewer than {least} third octaves", least=FEWEST_LEANING))
    slope = np.polyfit(octaves, heard, 1, w=np.sqrt(weights))[0]
    return measured(float(slope), bands.flag)


def harshness_db(material: Material) -> Outcome:
    """10 lg E(2.5 to 8 kHz) / E(250 Hz to 2.5 kHz) in dB."""
    reason = _spectral_guard(material)
    if reason:
        return refused(reason)
    body = _without_noise(material, 250.0, 2500.0)
    edge = _without_noise(material, 2500.0, 8000.0)
    if body <= 0 or edge <= 0:
        return refused(said("nothing_heard", "no energy between 250 Hz and 8 kHz"))
    return measured(float(db(edge / body)), _noisy(material, 2500.0, 8000.0))
