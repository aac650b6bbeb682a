"""The audit of one test: every take alone, and every take against the reference."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from cata.core.match.evidence import PairEvidence, TakeEvidence
from cata.core.match.finding import SEVERITY_ORDER, Finding
from cata.core.match.pair import PairMatch, match_pair
from cata.core.match.rules.pair import PAIR_RULES, TEMPO_SHARE, TUNING_CENTS
from cata.core.match.rules.take import TAKE_RULES, silence
from cata.core.match.strokes import strokes_apart, together


@dataclass(frozen=True)
class TestAudit:
    """Findings worst first; ``reference`` the index of the take the others were matched to, and their matches.

    ``strokes``: what the strokes of the phrase leave open in readings, as of :func:`strokes_apart`.
    """

    findings: list[Finding]
    reference: int | None
    matches: dict[int, PairMatch]
    strokes: Mapping[str, float] = field(default_factory=dict)


def worst_first(findings: Sequence[Finding]) -> list[Finding]:
    """Faults before checks before notes, otherwise in order."""
    return sorted(findings, key=lambda finding: SEVERITY_ORDER.index(finding.severity))


def take_findings(take: TakeEvidence) -> list[Finding]:
    """What one take alone shows; of one in which nothing is heard, that alone."""
    if nothing := silence(take):
        return [nothing]
    found = [rule(take) for rule in TAKE_RULES]
    return [finding for finding in found if finding is not None]


def pair_findings(pair: PairEvidence) -> list[Finding]:
    """What a take against its reference shows."""
    found = [rule(pair) for rule in PAIR_RULES]
    return [finding for finding in found if finding is not None]


def _pairs(takes: Sequence[TakeEvidence], reference: TakeEvidence) -> list[PairEvidence]:
    return [PairEvidence(reference, take) for take in takes if take.index != reference.index]


def _odd_one_out(pairs: Sequence[PairEvidence]) -> bool:
    """True where most takes do not play the reference's phrase: then the reference is the stranger."""
    return len(pairs) >= 2 and sum(pair.match.same_phrase == "no" for pair in pairs) > len(pairs) / 2


def _by_way_of_another(pairs: Sequence[PairEvidence]) -> list[PairEvidence]:
    """The pairs, a doubtful phrase or lag settled by a take that is sure of the reference's and whose phrase it plays.

    A fuzz blurs its strokes against a clean take; against another fuzz they are as clear as ever.
    """
    certain = [pair for pair in pairs if pair.match.same_phrase == "yes" and pair.match.lag_ms is not None]
    settled = []
    for pair in pairs:
        found = pair
        if not pair.take.features.silent and (pair.match.same_phrase != "yes" or pair.match.lag_ms is None):
            for one in certain:
                second = match_pair(one.take.features, pair.take.features)
                if second.same_phrase == "yes":
                    found = replace(pair)
                    found.__dict__["match"] = _by_way_of(one.match, second, pair.match)
                    break
        settled.append(found)
    return settled


def _by_way_of(first: PairMatch, second: PairMatch, direct: PairMatch) -> PairMatch:
    """The match of a take whose phrase a take that plays the reference's plays too; lags add up, and their doubts."""
    if direct.lag_ms is not None or first.lag_ms is None or second.lag_ms is None:
        return replace(direct, same_phrase="yes")
    return replace(
        direct,
        same_phrase="yes",
        lag_ms=first.lag_ms + second.lag_ms,
        lag_doubt_ms=math.hypot(first.lag_doubt_ms or 0.0, second.lag_doubt_ms or 0.0),
        refusals={key: why for key, why in direct.refusals.items() if key != "lag_ms"},
    )


def _with_typical(pairs: Sequence[PairEvidence]) -> list[PairEvidence]:
    """The pairs with the medians of tuning and tempo over the test, the reference (0, 1) included."""
    same = [pair.match for pair in pairs if pair.match.same_phrase != "no"]
    cents = [0.0, *(m.tuning_difference_cents for m in same if m.tuning_difference_cents is not None)]
    tempi = [1.0, *(m.tempo_ratio for m in same if m.tempo_ratio is not None)]
    # With two takes there is no majority; the reference is right by convention.
    typical_cents = median(cents) if len(cents) > 2 else 0.0
    typical_tempo = median(tempi) if len(tempi) > 2 else 1.0
    result = []
    for pair in pairs:
        full = replace(pair, typical_cents=typical_cents, typical_tempo=typical_tempo)
        full.__dict__["match"] = pair.match
        result.append(full)
    return result


def _nearest(pairs: Sequence[PairEvidence], value: Callable[[PairMatch], float | None], typical: float) -> TakeEvidence:
    """The take whose value is nearest to what is typical of the test."""
    known = [(abs(found - typical), pair.take) for pair in pairs if (found := value(pair.match)) is not None]
    return min(known, key=lambda one: one[0])[1]


def _against_most(pairs: Sequence[PairEvidence], found: Callable[[PairMatch], object]) -> TakeEvidence | None:
    """A take of the majority where most differ from the reference in the same way: then it is the reference."""
    differing = [pair.take for pair in pairs if found(pair.match)]
    return differing[0] if len(pairs) >= 2 and len(differing) > len(pairs) / 2 else None


OF_THE_REFERENCE: Mapping[str, Callable[[PairMatch], object]] = {
    "other_notes": lambda match: match.astray,
    "octave": lambda match: match.octaves,
}


def _reference_findings(pairs: Sequence[PairEvidence], reference: TakeEvidence) -> list[Finding]:
    """What is off about the reference itself, where the majority differs from it: held against a usual take.

    Its tempo is not among it: with another tempo it is no reference (:func:`audit_test`).
    """
    usual = {rule: take for rule, found in OF_THE_REFERENCE.items() if (take := _against_most(pairs, found))}
    if pairs and abs(cents := pairs[0].typical_cents) >= TUNING_CENTS:
        usual["other_tuning"] = _nearest(pairs, lambda match: match.tuning_difference_cents, cents)
    held = {rule: pair_findings(PairEvidence(take, reference)) for rule, take in usual.items()}
    return [finding for rule, found in held.items() for finding in found if finding.rule == rule]


def audit_test(takes: Sequence[TakeEvidence], prefer: int | None = None) -> TestAudit:
    """Audit the takes of one test; ``prefer`` is the index of the take to match to (the bypass, say)."""
    findings = [finding for take in takes for finding in take_findings(take)]
    sound = [take for take in takes if not take.features.silent]
    if not sound:
        return TestAudit(worst_first(findings), None, {})
    reference = next((take for take in sound if take.index == prefer), sound[0])
    pairs = _pairs(sound, reference)
    if _odd_one_out(pairs):
        reference = next(take for take in sound if take.index != reference.index)
        pairs = _pairs(sound, reference)
    pairs = _with_typical(_by_way_of_another(pairs))
    if pairs and abs(1 / pairs[0].typical_tempo - 1) >= TEMPO_SHARE:
        # Nothing lines up with a take that is itself too fast: all are held against one that is as most are.
        reference = _nearest(pairs, lambda match: match.tempo_ratio, pairs[0].typical_tempo)
        pairs = _with_typical(_by_way_of_another(_pairs(sound, reference)))
    of_reference = _reference_findings(pairs, reference)
    turned = {finding.rule for finding in of_reference} & OF_THE_REFERENCE.keys()
    findings += of_reference
    findings += [finding for pair in pairs for finding in pair_findings(pair) if finding.rule not in turned]
    matches = {pair.take.index: pair.match for pair in pairs}
    return TestAudit(worst_first(findings), reference.index, matches, _strokes(pairs))


def _strokes(pairs: Sequence[PairEvidence]) -> dict[str, float]:
    """What the strokes of the phrase leave open, by the pairs that are lined up."""
    return together([
        strokes_apart(
            pair.reference.features.bands, pair.take.features.bands,
            (pair.reference.features.onsets_s, pair.take.features.onsets_s),
            pair.match.lag_ms / 1000, pair.match.tempo_ratio or 1.0,
        )
        for pair in pairs if pair.match.lag_ms is not None and pair.match.same_phrase == "yes"
    ])  # fmt: skip
