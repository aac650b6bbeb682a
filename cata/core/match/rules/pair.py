"""Rules about a take against the reference take of its test."""

from __future__ import annotations

import numpy as np

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.match.evidence import PairEvidence
from cata.core.match.finding import Finding, Picture, Series
from cata.core.match.rules.phrase import octave, onset_picture, other_notes, same_phrase
from cata.core.match.tuning import SEARCH_CENTS, histogram_of

LOUDNESS_NOTE_LU, LOUDNESS_CHECK_LU = 0.5, 12.0
TUNING_CENTS, TEMPO_SHARE = 5.0, 0.02
LAG_NOTE_MS = 1.0
LENGTH_SHARE = 0.9


def tuning(pair: PairEvidence) -> Finding | None:
    """Tuned at least 5 cents off what is typical of the test."""
    cents = pair.match.tuning_difference_cents
    if pair.match.same_phrase == "no" or cents is None or abs(cents - pair.typical_cents) < TUNING_CENTS:
        return None
    off = cents - pair.typical_cents
    x, y = (histogram_of(side.features) for side in (pair.reference, pair.take))
    shifts = np.arange(-SEARCH_CENTS, SEARCH_CENTS + 1, 2)
    energy = float(np.sqrt(np.sum(x * x) * np.sum(y * y)))
    agreement = [round(float(np.sum(x * np.roll(y, -int(s))) / energy), 4) for s in shifts]
    return Finding(
        rule="other_tuning",
        severity="fault",
        text=f"{pair.take.name} is tuned {abs(off):.0f} cents {'higher' if off > 0 else 'lower'} than the others.",
        advice="Tune to the same reference and record it again.",
        take=pair.take.index,
        picture=Picture(
            x=[float(s) for s in shifts],
            series=[Series("agreement of the pitches", agreement)],
            x_label="cents",
            y_label="agreement",
            marks=[(round(cents, 1), f"{cents:+.0f} cents")],
        ),
        numbers={"cents": off},
    )


def tempo(pair: PairEvidence) -> Finding | None:
    """Played at least 2 % faster or slower than is typical of the test."""
    ratio = pair.match.tempo_ratio
    if pair.match.same_phrase == "no" or ratio is None or abs(ratio / pair.typical_tempo - 1) < TEMPO_SHARE:
        return None
    off = ratio / pair.typical_tempo - 1
    return Finding(
        rule="other_tempo",
        severity="fault",
        text=f"{pair.take.name} is played {abs(off) * 100:.1f} % {'faster' if off > 0 else 'slower'} than the others.",
        advice="Play to the count-in, and record it again: switching would jump in the music.",
        take=pair.take.index,
        picture=onset_picture(pair),
        numbers={"percent": 100 * off},
    )


def inverted(pair: PairEvidence) -> Finding | None:
    """The waveforms agree upside down."""
    if pair.match.polarity != "inverted":
        return None
    return Finding(
        rule="inverted",
        severity="check",
        text=f"{pair.take.name} is inverted against {pair.reference.name}.",
        advice="Harmless when heard alone. Turn one around before the two are blended.",
        take=pair.take.index,
        picture=_waves(pair),
    )


def _waves(pair: PairEvidence) -> Picture | None:
    lag_ms = pair.match.lag_ms
    if lag_ms is None:
        return None
    a, b = pair.reference.features, pair.take.features
    reach = int(0.01 * ANALYSIS_RATE_HZ)
    lag = round(lag_ms / 1000 * ANALYSIS_RATE_HZ)
    low = max(reach, a.loudest) - reach
    first, second = a.cut(low, 2 * reach), b.cut(max(0, low + lag), 2 * reach)
    return Picture(
        x=[round((low + i) / ANALYSIS_RATE_HZ, 5) for i in range(0, 2 * reach, 2)],
        series=[
            Series(pair.reference.name, [round(float(v), 4) for v in first[::2]]),
            Series(pair.take.name, [round(float(v), 4) for v in second[::2]]),
        ],
        x_label="seconds",
        y_label="amplitude",
    )


def loudness(pair: PairEvidence) -> Finding | None:
    """Half an LU or more from the reference: corrected. The table looks for the one take that is odd."""
    gap = pair.match.loudness_difference_lu
    if gap is None or abs(gap) < LOUDNESS_NOTE_LU:
        return None
    large = abs(gap) >= LOUDNESS_CHECK_LU
    words = f"{pair.take.name} is {abs(gap):.1f} LU {'louder' if gap > 0 else 'softer'} than {pair.reference.name}."
    return Finding(
        rule="loudness_gap",
        severity="note",
        text=words,
        advice=(
            "Corrected for listening, but its noise moves with it: matching the levels while recording is better."
            if large
            else "Corrected for listening at equal loudness."
        ),
        take=pair.take.index,
        numbers={"lu": gap},
    )


def lag(pair: PairEvidence) -> Finding | None:
    """Starts elsewhere: lined up, or impossible to line up."""
    match = pair.match
    if pair.take.features.silent or pair.reference.features.silent:
        return None
    if match.lag_ms is None:
        return Finding(
            rule="lag",
            severity="check",
            text=f"{pair.take.name} cannot be lined up with {pair.reference.name}: {match.refusals['lag_ms']}.",
            advice="It plays from its own start. Check that it is the right phrase.",
            take=pair.take.index,
            picture=onset_picture(pair),
        )
    if abs(match.lag_ms) < LAG_NOTE_MS:
        return None
    how = "to the sample: the same performance"
    if match.lag_doubt_ms is not None:
        how = f"by all its strokes; each lies within {max(match.lag_doubt_ms, 1.0):.0f} ms of the other's"
    return Finding(
        rule="lag",
        severity="note",
        text=f"{pair.take.name} starts {abs(match.lag_ms):.0f} ms {'later' if match.lag_ms > 0 else 'earlier'}.",
        advice=f"Lined up {how}.",
        take=pair.take.index,
        numbers={"ms": match.lag_ms, "doubt_ms": match.lag_doubt_ms or 0.0},
    )


def length(pair: PairEvidence) -> Finding | None:
    """The take ends while the reference still plays."""
    times = pair.reference.features.onsets_s
    if not times.size or pair.match.same_phrase == "no" or pair.match.lag_ms is None:
        return None
    span = float(times[-1] - times[0])
    end = pair.take.features.duration_s - pair.match.lag_ms / 1000
    covered = (min(float(times[-1]), end) - float(times[0])) / span if span > 0 else 1.0
    if covered >= LENGTH_SHARE:
        return None
    return Finding(
        rule="length",
        severity="check",
        text=f"{pair.take.name} ends after {max(covered, 0) * 100:.0f} % of the phrase.",
        advice="Record the whole phrase, or loop over the part that all takes share.",
        take=pair.take.index,
        picture=onset_picture(pair),
    )


def channels(pair: PairEvidence) -> Finding | None:
    """Mono against stereo: counted as equally loud on both sides."""
    a, b = pair.reference.source.channels, pair.take.source.channels
    if a == b:
        return None
    return Finding(
        rule="channels",
        severity="note",
        text=f"{pair.take.name} is {'mono' if b == 1 else 'stereo'}, {pair.reference.name} is "
        f"{'mono' if a == 1 else 'stereo'}.",
        advice="The mono take is heard on both sides and its loudness counted so.",
        take=pair.take.index,
        numbers={"channels": b},
    )


PAIR_RULES = (same_phrase, other_notes, octave, tuning, tempo, inverted, loudness, lag, length, channels)
