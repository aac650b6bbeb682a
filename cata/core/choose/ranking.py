"""The ranking: fit weighed against price, with reasons, and how sure it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from cata.core.brief import Need
from cata.core.choose.checks import Answer, Check
from cata.core.choose.fit import Fit, fit
from cata.core.choose.takes import Ground
from cata.core.choose.told import shortfalls, strengths
from cata.said import Said, said

NOT_KNOWN_PRICE_SCORE = 0.0
THERE = 0.5
"""A sound that must be there is, where at least so much of it is met."""
MOST_DRAWN, FEWEST_DRAWN = 16_000, 50
"""Certainty is asked of so many ranges of contenders (130 MB of draws): those behind the first are never the best."""


@dataclass(frozen=True)
class Candidate:
    """A contender as the ranking sees it; ``price_minor`` None where no price is known.

    ``checks`` are what must be, ``wishes`` what would be nice; ``feel`` is the person's own score of it, 0 to 1.
    """

    ident: int
    name: str
    price_minor: int | None
    checks: tuple[Check, ...] = ()
    wishes: tuple[Check, ...] = ()
    feel: float | None = None


@dataclass(frozen=True)
class Ranked:
    """A candidate's place: ``score`` 0 to 1, ``over_minor`` by how much it exceeds what can be spent.

    ``fine`` says that price, checks and what must be there are known to be within the need; ``may_be_fine``, that only
    a sound that must be there is not known. ``best_share`` is the share of draws in which
    it comes first, ``ahead`` that in which the first placed is before it; ``span`` holds nine in ten of its fits.
    """

    candidate: Candidate
    place: int
    score: float
    fit: Fit
    price_score: float | None
    over_minor: int
    left_minor: int | None
    fine: bool
    may_be_fine: bool
    need: Need = field(repr=False)
    best_share: float = 0.0
    ahead: float = 0.0
    span: tuple[float, float] | None = None

    @cached_property
    def strengths(self) -> tuple[Said, ...]:
        """What speaks for it."""
        return strengths(self.need, self.fit, (*self.candidate.checks, *self.candidate.wishes))

    @cached_property
    def shortfalls(self) -> tuple[Said, ...]:
        """What stands against it, and what nobody knows."""
        given = (*self.candidate.checks, *must_be_there(self.need, self.fit), *self.candidate.wishes)
        return shortfalls(self.need, self.fit, given, self.over_minor, self.candidate.price_minor)


def must_be_there(need: Need, found: Fit) -> tuple[Check, ...]:
    """Of every sound that must be there, whether it is: served by at least a half."""
    checks = []
    for sound in need.sounds:
        if sound.must and sound.key in found.by_sound:
            served, known = found.by_sound[sound.key]
            answer: Answer = "yes" if served >= THERE else "no" if served + 1 - known < THERE else "not known"
            words = "{name} must be there: " + (
                "not known yet" if answer == "not known" else "{percent:.0f} % of it is"
            )
            checks.append(Check(answer, said("must_sound", words, name=sound.name, percent=served * 100)))
    return tuple(checks)


def price_score(price_minor: int | None, need: Need) -> float | None:
    """1 for nothing spent, 0 at the whole of what can be spent; None without a price or a budget."""
    spendable = need.spendable_minor
    if price_minor is None or not spendable:
        return None
    return max(0.0, 1.0 - price_minor / spendable)


def over_budget(price_minor: int | None, need: Need) -> int:
    """By how many minor units a price exceeds what can be spent."""
    spendable = need.spendable_minor
    return 0 if price_minor is None or spendable is None else max(0, price_minor - spendable)


def fit_share(need: Need) -> float:
    """How much fit counts beside the price, 0 to 1; all of it where there is nothing to hold a price against."""
    total = need.fit_weight + sum(_besides(need).values())
    return need.fit_weight / total if total > 0 else 1.0


def _besides(need: Need) -> dict[str, float]:
    """What counts besides the fit, and how much: each only where there is something to hold it against."""
    return {
        "price": need.price_weight if need.spendable_minor else 0.0,
        "nice": need.nice_weight if need.nice_to_haves.strip() else 0.0,
        "feel": need.feel_weight if any(one.score is not None for one in need.feel.values()) else 0.0,
    }


def _other(need: Need, one: Candidate, prices_minor: Sequence[int]) -> tuple[float, float]:
    """What counts besides the fit, 0 to 1: from what is known, up to what it could be."""
    weights = _besides(need)
    total = sum(weights.values())
    if not total:
        return 0.0, 0.0
    met = [check.answer for check in one.wishes]
    nice = (met.count("yes") / len(met), 1 - met.count("no") / len(met)) if met else (1.0, 1.0)
    spans = {
        "price": _priced(one.price_minor, need, prices_minor),
        "nice": nice,
        "feel": (0.0, 1.0) if one.feel is None else (one.feel, one.feel),
    }
    low, high = (sum(weights[key] * spans[key][end] for key in weights) / total for end in (0, 1))
    return low, high


def rank_on(
    ground: Ground, need: Need, candidates: Sequence[Candidate], prices_minor: Sequence[int] = (), *, seed: int = 1
) -> list[Ranked]:
    """Candidates in order by what a ground knows of them; ``prices_minor`` are what such things cost."""
    entries = [_entry(need, ground, one) for one in candidates]
    ordered = sorted(entries, key=lambda entry: (not entry.fine, -round(entry.score, 6), entry.candidate.name))
    same = contending(need, ground, ordered)
    if not same:
        return []
    from cata.core.choose.certainty import Draws  # it needs numpy

    draws = Draws(need, ground, [entry.candidate.ident for entry in same], seed)
    others = {entry.candidate.ident: _other(need, entry.candidate, prices_minor) for entry in same}
    sure = draws.sureness(others, fit_share(need))
    return [
        replace(
            entry,
            place=place,
            best_share=sure.first.get(entry.candidate.ident, 0.0),
            ahead=sure.ahead.get(entry.candidate.ident, 1.0),
            span=_with(sure.spans.get(entry.candidate.ident), entry.fit.score),
        )
        for place, entry in enumerate(ordered, start=1)
    ]


def contending(need: Need, ground: Ground, ordered: Sequence[Ranked]) -> Sequence[Ranked]:
    """Those of an order that could be first: certainty is asked of them."""
    ranges = sum(len(sound.targets) for sound in need.sounds)
    same = rivals(ordered)
    return same[: max(FEWEST_DRAWN, MOST_DRAWN // max(1, ranges))]


def rivals(ordered: Sequence[Ranked]) -> Sequence[Ranked]:
    """Those of an order that stand as the first does: all that may be fine, or where none may, all."""
    return [entry for entry in ordered if entry.may_be_fine == ordered[0].may_be_fine]


def _priced(price_minor: int | None, need: Need, prices_minor: Sequence[int]) -> tuple[float, float]:
    known = price_score(price_minor, need)
    if known is not None:
        return known, known
    scores = [score for price in prices_minor if (score := price_score(price, need)) is not None]
    return (min(scores), max(scores)) if scores else (NOT_KNOWN_PRICE_SCORE, NOT_KNOWN_PRICE_SCORE)


def _entry(need: Need, ground: Ground, candidate: Candidate) -> Ranked:
    found = fit(need, ground, candidate.ident)
    price = price_score(candidate.price_minor, need)
    over = over_budget(candidate.price_minor, need)
    spendable = need.spendable_minor
    left = spendable - candidate.price_minor if spendable is not None and candidate.price_minor is not None else None
    share = fit_share(need)
    known_price = candidate.price_minor is not None or spendable is None
    answers = {check.answer for check in must_be_there(need, found)}
    able = known_price and not over and all(check.answer == "yes" for check in candidate.checks)
    return Ranked(
        candidate=candidate,
        place=0,
        score=share * found.score + (1 - share) * _other(need, candidate, ())[0],
        fit=found,
        price_score=price,
        over_minor=over,
        left_minor=left,
        fine=able and answers <= {"yes"},
        may_be_fine=able and "no" not in answers,
        need=need,
    )


def _with(span: tuple[float, float] | None, fit: float) -> tuple[float, float] | None:
    """A span that holds what it is the span of: what is not known counts as bad in the fit and is drawn in the span."""
    return None if span is None else (min(span[0], fit), max(span[1], fit))
