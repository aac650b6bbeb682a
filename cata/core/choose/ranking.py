"""The ranking: fit weighed against price, with reasons, and how sure it is."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from cata.core.brief import Need
from cata.core.choose.fit import HALF_FIT_JNDS, Fit, Judged, TakeReadings, fit, jnd_at, key_of
from cata.core.measure.registry import BY_KEY
from cata.core.money import show_price
from cata.said import Number, Said, said

DRAWS = 200
SPREAD_JNDS = 0.5
"""Standard deviation of a reading when certainty is asked for, in just-noticeable differences."""

MAX_REASONS = 3


@dataclass(frozen=True)
class Candidate:
    """A contender as the ranking sees it; ``price_minor`` None where no price is known."""

    ident: int
    name: str
    price_minor: int | None
    takes: tuple[TakeReadings, ...]
    is_bypass: bool = False


@dataclass(frozen=True)
class Ranked:
    """A candidate's place: ``score`` 0 to 1, ``over_minor`` by how much it exceeds what can be spent.

    ``best_share`` is the share of draws within the readings' uncertainty in which it comes first.
    """

    candidate: Candidate
    place: int
    score: float | None
    fit: Fit
    price_score: float | None
    over_minor: int
    left_minor: int | None
    strengths: tuple[Said, ...]
    shortfalls: tuple[Said, ...]
    best_share: float


def price_score(price_minor: int | None, need: Need) -> float | None:
    """1 for nothing spent, 0 at the whole of what can be spent; None without a price or a budget."""
    spendable = need.spendable_minor
    if price_minor is None or not spendable:
        return None
    return max(0.0, 1.0 - price_minor / spendable)


def combined(fit_score: float | None, price: float | None, need: Need) -> float | None:
    """Weighted mean of fit and price; what is not known does not count."""
    parts = [(fit_score, need.fit_weight), (price, need.price_weight)]
    known = [(value, weight) for value, weight in parts if value is not None and weight > 0]
    if not known:
        return None
    return sum(value * weight for value, weight in known) / sum(weight for _, weight in known)


def over_budget(price_minor: int | None, need: Need) -> int:
    """By how many minor units a price exceeds what can be spent."""
    spendable = need.spendable_minor
    return 0 if price_minor is None or spendable is None else max(0, price_minor - spendable)


def _order(entry: Ranked) -> tuple[bool, bool, float, str]:
    return (entry.over_minor > 0, entry.score is None, -(entry.score or 0.0), entry.candidate.name)


def rank(need: Need, candidates: Sequence[Candidate], *, seed: int = 1) -> list[Ranked]:
    """Candidates in order: those within the budget by score, then those over it by score."""
    entries = [_entry(need, candidate) for candidate in candidates if not candidate.is_bypass]
    shares = certainty(need, entries, seed=seed)
    ordered = sorted(entries, key=_order)
    return [
        replace(entry, place=place, best_share=shares[entry.candidate.ident])
        for place, entry in enumerate(ordered, start=1)
    ]


def _entry(need: Need, candidate: Candidate) -> Ranked:
    found = fit(need, candidate.takes)
    price = price_score(candidate.price_minor, need)
    over = over_budget(candidate.price_minor, need)
    spendable = need.spendable_minor
    left = spendable - candidate.price_minor if spendable is not None and candidate.price_minor is not None else None
    shortfalls = [told(need, one) for one in _worst(found.judged)]
    if over:
        price_text = show_price(over, need.currency)
        shortfalls.insert(0, Said("over_budget", f"{price_text} over what can be spent", {"over_minor": over}))
    if candidate.price_minor is None:
        shortfalls.append(Said("no_price", "no price known"))
    if found.score is not None and found.coverage < 0.6:
        words = "only {percent:.0f} % of the brief could be judged from its takes"
        shortfalls.append(said("little_judged", words, percent=found.coverage * 100))
    return Ranked(
        candidate=candidate,
        place=0,
        score=combined(found.score, price, need),
        fit=found,
        price_score=price,
        over_minor=over,
        left_minor=left,
        strengths=tuple(told(need, one) for one in _met(found.judged)),
        shortfalls=tuple(shortfalls),
        best_share=0.0,
    )


def _worst(judged: Sequence[Judged]) -> list[Judged]:
    """Misses that can be heard, the heaviest first."""
    missed = [one for one in judged if one.missed_jnds >= 1.0]
    return sorted(missed, key=lambda one: (one.fit - 1) * one.target.weight)[:MAX_REASONS]


def _met(judged: Sequence[Judged]) -> list[Judged]:
    met = [one for one in judged if one.miss == 0.0]
    return sorted(met, key=lambda one: -one.target.weight)[:MAX_REASONS]


def told(need: Need, one: Judged) -> Said:
    """A judgement: what, how much, for which sound. Codes: met, less and more than wanted."""
    reading = BY_KEY[one.target.reading]
    part = dict(reading.parts).get(one.target.part, "").split(",")[0]
    name = f"{reading.name}, {part}" if part else reading.name
    unit = f" {reading.unit}" if reading.unit else ""
    sound = next((s.name for s in need.sounds if s.key == one.sound), one.sound)
    numbers: dict[str, Number] = {
        "sound": one.sound,
        "reading": key_of(one.target),
        "value": one.value,
        "miss": one.miss,
    }
    value = f"{one.value:.{reading.decimals}f}{unit}"
    if one.miss == 0.0:
        return Said("met", f"{sound}: {name.lower()} {value}, in the range", numbers)
    amount = f"{abs(one.miss):.{reading.decimals}f} {reading.step_unit}".strip()
    word = reading.less if one.miss < 0 else reading.more
    way = "below" if one.miss < 0 else "above"
    words = f"{sound}: {word} than wanted, {name.lower()} {value} is {amount} {way}"
    return Said("less" if one.miss < 0 else "more", words, numbers)


def certainty(need: Need, entries: Sequence[Ranked], *, seed: int) -> dict[int, float]:
    """Share of draws in which each candidate is first, when every reading may be off by half of what is noticed.

    The draws are seeded: the same readings give the same answer.
    """
    wins: dict[int, float] = {entry.candidate.ident: 0.0 for entry in entries}
    able = [entry for entry in entries if entry.score is not None and not entry.over_minor]
    if not able:
        return wins
    chance = random.Random(seed)
    for _ in range(DRAWS):
        best = max(able, key=lambda entry: _drawn(need, entry, chance))
        wins[best.candidate.ident] += 1
    return {ident: count / DRAWS for ident, count in wins.items()}


def _drawn(need: Need, entry: Ranked, chance: random.Random) -> float:
    weights: Mapping[str, float] = {sound.key: sound.weight for sound in need.sounds}
    total = reached = 0.0
    for one in entry.fit.judged:
        jnd = jnd_at(one.target, one.value)
        value = one.value + chance.gauss(0.0, SPREAD_JNDS * jnd)
        low, high = one.target.low, one.target.high
        miss = max(low - value if low is not None else 0.0, value - high if high is not None else 0.0, 0.0)
        weight = weights[one.sound] * one.target.weight
        total += weight / (1.0 + (miss / jnd / HALF_FIT_JNDS) ** 2)
        reached += weight
    score = combined(total / reached if reached else None, entry.price_score, need)
    return score if score is not None else 0.0
