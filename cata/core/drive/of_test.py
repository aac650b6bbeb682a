"""The drive of all takes of one test: against the cleanest of them, or only their order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from cata.core.clip import Audio
from cata.core.drive.grain import LOWEST, Grain, spectra_of
from cata.core.drive.ladder import Ladder, coherence_of
from cata.core.drive.share import Share, read_off
from cata.core.drive.words import name_between
from cata.core.measure import frames
from cata.core.measure.material import HALF_RATE_HZ
from cata.core.measure.of_flights import EQUIVALENT_DRIVE
from cata.core.measure.outcome import Evidence
from cata.core.measure.results import Result
from cata.said import Said, said

POINTED_DB, BYPASS_POINTED_DB = 13.0, 9.0
"""Peak over loudness from which a take is clean enough for a foot: of 139 takes through clippers that made more than
5 % of the power, one had it (docs/measures.md). What is declared to be nothing needs less."""
INSIDE, BAND_SDS = 1.64, 1.96
EXACT_SD = 0.01
EVEN_S, REST = 0.04, 1e-3
RIDING = 0.1
"""Of the bench's clippers at least 0.19 of the share stays at an even level, of its compressors 0.03."""


@dataclass(frozen=True)
class Heard:
    """A take of a test: its grain (None: too little of it sounds), peak over loudness, and whether it is the bypass.

    ``spoilt`` says that it is to be recorded again.
    """

    grain: Grain | None
    plr_db: float | None
    is_bypass: bool = False
    spoilt: bool = False

    @property
    def clean(self) -> bool:
        """True where it may be the foot of a ladder."""
        return self.plr_db is not None and self.plr_db >= (BYPASS_POINTED_DB if self.is_bypass else POINTED_DB)


def foot_among(takes: Sequence[Heard]) -> int | None:
    """The take that the ladder is made of: the bypass where it is clean, else the least filled one."""
    able = [index for index, take in enumerate(takes) if take.grain is not None and not take.spoilt]
    if not able:
        return None
    bypass = [index for index in able if takes[index].is_bypass and takes[index].clean]
    clean = [index for index in able if takes[index].clean]
    return min(bypass or clean or able, key=lambda index: _filled(takes[index]))


def _filled(take: Heard) -> float:
    assert take.grain is not None
    return float(take.grain.values[1])


def share_of_image(dry: Audio, wet: Audio) -> Share:
    """The share of a take that was made of the very performance ``dry``, both at 24 kHz and one under the other.

    A compressor's gain moves what was played without filling a gap: where nearly all of the share is gone as soon as
    both are brought to an even level, it is none.
    """
    share = _not_linear(dry, wet)
    even = _not_linear(_even(dry), _even(wet))
    return Share(even if even < RIDING * share else share, EXACT_SD)


def _even(signal: Audio) -> Audio:
    """A take at 24 kHz with its level evened out over some periods."""
    window = np.hanning(round(EVEN_S * HALF_RATE_HZ))
    power = scipy.signal.fftconvolve(np.square(signal, dtype=np.float64), window / window.sum(), "same")
    return np.asarray(signal / np.sqrt(np.maximum(power, 0.0) + REST * power.mean() + 1e-30), dtype=np.float32)


def _not_linear(dry: Audio, wet: Audio) -> float:
    first, second = spectra_of(dry), spectra_of(wet)
    count = min(len(first), len(second))
    linear = coherence_of(first[:count], second[:count])[LOWEST:]
    power = frames.power(second[:count]).mean(axis=0, dtype=np.float64)[LOWEST:]
    return float(1 - (linear * power).sum() / max(power.sum(), 1e-30))


def drives(
    takes: Sequence[Heard], foot: int | None, ladder: Ladder | None, images: Mapping[int, Share]
) -> list[Result]:
    """The equivalent drive of every take; ``images`` are those of takes made of the foot's own performance."""
    found: list[Share | Said] = [_share(take, ladder) for take in takes]
    shares = {index: one for index, one in enumerate(found) if isinstance(one, Share)}
    if foot is not None and not takes[foot].clean:
        order = sorted(shares, key=lambda index: shares[index].value)
        return [
            _order(order.index(index) + 1, len(order)) if index in shares else _refused(one)
            for index, one in enumerate(found)
        ]
    return [_result(images.get(index, one), "re-amped" if index in images else "played")
            for index, one in enumerate(found)]  # fmt: skip


def _share(take: Heard, ladder: Ladder | None) -> Share | Said:
    if take.spoilt:
        return said("spoilt", "the take is to be recorded again")
    if take.grain is None or ladder is None:
        return said("too_short", "less than a second of it sounds")
    share = read_off(ladder, take.grain)
    if share.strange:
        return said("off_the_ladder", "no clipper fills this phrase like that")
    if share.flat:
        return said("flat_ladder", "drive cannot be told from chance in this phrase")
    return share


def _result(one: Share | Said, evidence: Evidence) -> Result:
    if isinstance(one, Said):
        return _refused(one)
    reach = INSIDE * one.sd
    word = name_between(one.value - reach, one.value + reach)
    return Result(
        value={"percent": 100 * one.value, "word": word}, band=BAND_SDS * 100 * one.sd, evidence=evidence,
        unit=EQUIVALENT_DRIVE.unit, version=EQUIVALENT_DRIVE.version,
    )  # fmt: skip


def _order(place: int, count: int) -> Result:
    words = "no take of this test is known to be clean: only the order is, this is number {place} of {count}"
    return _refused(said("order_only", words, place=place, count=count))


def _refused(why: Share | Said) -> Result:
    assert isinstance(why, Said)
    return Result(refusal=why, unit=EQUIVALENT_DRIVE.unit, version=EQUIVALENT_DRIVE.version)


def shifted(signal: Audio, lag_s: float) -> Audio:
    """A take at 24 kHz moved earlier by a lag, so that it lies under what it lags behind."""
    lag = round(lag_s * HALF_RATE_HZ)
    return signal[lag:] if lag >= 0 else np.concatenate([np.zeros(-lag, dtype=np.float32), signal])
