"""Everything Cata says about one take against another."""

from __future__ import annotations

from dataclasses import dataclass, field

from cata.core.match.features import Features
from cata.core.match.lag import Lag, Polarity, find_lag
from cata.core.match.lining import line_up
from cata.core.match.notes import Astray, astray, octaves
from cata.core.match.tempo import CHROMA_NO, SamePhrase, Tempo, chroma_similarity, same_phrase, tempo_of
from cata.core.match.tuning import tuning_difference
from cata.core.measure.level import DUAL_MONO_LU
from cata.said import Said, said

CANNOT_TELL = said("cannot_tell", "cannot tell")
NO_LOUDNESS = said("no_loudness", "one of the takes has no loudness: silent or shorter than 0.4 s")


@dataclass(frozen=True)
class PairMatch:
    """The second take against the first; a value that is None has its reason in ``refusals``.

    ``lag_ms``: how much later the second begins; ``lag_exact``: to the sample, else from the strokes, which lie within
    ``lag_doubt_ms`` of the first's. ``lag_rivals_ms``: where it fits as well, because the phrase repeats.
    ``agreement`` of strokes and changing notes (:mod:`cata.core.match.lining`). ``tempo_ratio``: its tempo over the
    first's. ``tuning_difference_cents``: how much higher it sounds. ``loudness_difference_lu``: how much louder it is;
    a mono take counts as two channels against stereo.
    ``octaves``: 1 or -1 where all of it is an octave higher or lower; ``astray``: where it plays other notes, in the
    first's time. Neither is sought where it is another phrase altogether.
    """

    lag_ms: float | None
    lag_exact: bool
    lag_doubt_ms: float | None
    polarity: Polarity
    tempo_ratio: float | None
    tuning_difference_cents: float | None
    same_phrase: SamePhrase
    agreement: float
    chroma_similarity: float
    loudness_difference_lu: float | None
    octaves: int = 0
    astray: tuple[Astray, ...] = ()
    lag_rivals_ms: tuple[float, ...] = ()
    refusals: dict[str, Said] = field(default_factory=dict)


def _loudness(take: Features, other: Features) -> float | None:
    if take.loudness_lufs is None:
        return None
    return take.loudness_lufs + (float(DUAL_MONO_LU) if take.channels == 1 < other.channels else 0.0)


def match_pair(a: Features, b: Features) -> PairMatch:
    """Compare take ``b`` with take ``a``."""
    refusals: dict[str, Said] = {}
    cents, reason = tuning_difference(a, b)
    lined = line_up(a, b, cents or 0.0)
    lag: Lag = find_lag(a, b, lined)
    tempo: Tempo = tempo_of(a, b, lined)
    if lag.lag_s is None:
        refusals["lag_ms"] = lag.reason or CANNOT_TELL
    if tempo.ratio is None:
        refusals["tempo_ratio"] = tempo.reason or CANNOT_TELL
    if cents is None:
        refusals["tuning_difference_cents"] = reason or CANNOT_TELL
    silent = a.silent or b.silent
    chroma = 0.0 if silent else chroma_similarity(a, b, tempo, cents or 0.0)
    loud_a, loud_b = _loudness(a, b), _loudness(b, a)
    difference = loud_b - loud_a if loud_a is not None and loud_b is not None else None
    if difference is None:
        refusals["loudness_difference_lu"] = NO_LOUDNESS
    verdict: SamePhrase = "unsure" if silent else same_phrase(lined, chroma, few=not tempo.judged)
    if lag.exact and chroma >= CHROMA_NO:
        # The strokes coincide to the sample; a heavy drive only blurs their onsets.
        verdict = "yes"
    return PairMatch(
        lag_ms=None if lag.lag_s is None else lag.lag_s * 1000,
        lag_exact=lag.exact,
        lag_doubt_ms=None if lag.doubt_s is None else lag.doubt_s * 1000,
        polarity=lag.polarity,
        tempo_ratio=tempo.ratio,
        tuning_difference_cents=cents,
        same_phrase=verdict,
        agreement=lined.agreement,
        chroma_similarity=chroma,
        loudness_difference_lu=difference,
        octaves=0 if silent or verdict == "no" else octaves(a, b, cents or 0.0),
        astray=() if silent or verdict == "no" else astray(a, b, tempo, cents or 0.0),
        lag_rivals_ms=tuple(round(1000 * one, 1) for one in lag.rivals_s),
        refusals=refusals,
    )
