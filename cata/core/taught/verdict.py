"""What a flight taught: at most ten sentences over all its tests, against price, with what is not known."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import inf, sqrt
from statistics import fmean, median

from cata.core.choose.takes import Scatter
from cata.core.comparison import Comparison, compared, doubt_of
from cata.core.drive.words import name_between
from cata.core.measure.registry import BY_KEY
from cata.core.money import show_price
from cata.core.motion.told import moves
from cata.core.taught.differences import TOLD, TONE, Difference, Taken, alike, differences
from cata.core.taught.pooled import pooled
from cata.core.taught.sentences import told
from cata.said import Number, Said

MOST = 10
MOST_DIFFERENCES = 5
DRIVE = "equivalent_drive"
SURELY_DRIVEN = 3.0
"""Percent from which somebody is driven for sure, so that the order is worth a sentence."""


@dataclass(frozen=True)
class Priced:
    """A contender with what it costs; None where no price is known."""

    ident: int
    name: str
    price_minor: int | None
    currency: str = "EUR"
    is_bypass: bool = False


@dataclass(frozen=True)
class Tested:
    """A test with its takes."""

    ident: int
    name: str
    takes: tuple[Taken, ...]


@dataclass(frozen=True)
class Taught:
    """A sentence, the test whose takes prove it (None: all of them), and the tests in which it holds."""

    said: Said
    test: int | None = None
    holds_in: tuple[int, ...] = ()


def verdict(contenders: Sequence[Priced], tests: Sequence[Tested], scatter: Mapping[str, Scatter]) -> list[Taught]:
    """The sentences of a flight, the weightiest first; what was not tested and what to record next come last."""
    played = [test for test in tests if len([take for take in test.takes if not take.is_bypass]) > 1]
    if not played:
        return []
    found = _moving(contenders, played)
    found += _drives(contenders, played)
    told_already = [DRIVE] if any(one.said.code == "drive_order" for one in found) else []
    found += _over_tests(played, scatter, told_already)[:MOST_DIFFERENCES]
    found += _alike(contenders, played, scatter)
    last = _open(contenders, tests, scatter)
    return [*found[: MOST - len(last)], *last]


def _moving(contenders: Sequence[Priced], tests: Sequence[Tested]) -> list[Taught]:
    """What each contender does by itself: swings, repeats, rings on."""
    found = []
    for one in contenders:
        mine = [(test, take) for test in tests for take in test.takes if take.ident == one.ident]
        words = next((word for _, take in mine if (word := moves(take.results))), "")
        if words and not one.is_bypass:
            others = [take.ident for take in mine[0][0].takes if take.ident != one.ident]
            numbers: dict[str, Number] = {"contender": one.ident, "reading": "motion", "other": others[0]}
            said = Said("moves", f"{one.name}: {words}.", numbers)
            found.append(Taught(said, mine[0][0].ident, tuple(test.ident for test, _ in mine)))
    return found


def _drives(contenders: Sequence[Priced], tests: Sequence[Tested]) -> list[Taught]:
    """The contenders from the cleanest to the most driven, where that is known of at least two."""
    known: dict[int, dict[int, tuple[float, float]]] = {}
    driven = False
    for test in tests:
        for take in test.takes:
            value, band = take.results.number(f"{DRIVE}.percent"), take.results.bands.get(DRIVE, 0.0)
            if value is not None and not take.is_bypass:
                known.setdefault(take.ident, {})[test.ident] = (value, band)
                driven |= value - band > SURELY_DRIVEN
    if len(known) < 2 or not driven:
        return []
    shares = {ident: [value / 100 for value, _ in mine.values()] for ident, mine in known.items()}
    order = sorted(shares, key=lambda ident: median(shares[ident]))
    names = {one.ident: one.name for one in contenders}
    words = ""
    for before, ident in zip([0, *order], order, strict=False):
        link = "" if not words else ", then " if _more_driven(known[ident], known[before]) else ", then perhaps "
        words += f"{link}{names[ident]} ({name_between(min(shares[ident]), max(shares[ident]))})"
    numbers: dict[str, Number] = {str(ident): median(shares[ident]) for ident in order}
    return [Taught(Said("drive_order", f"From clean to driven: {words}.", numbers))]


def _more_driven(one: Mapping[int, tuple[float, float]], other: Mapping[int, tuple[float, float]]) -> bool:
    """Whether one is surely driven more than another, over the tests in which both are known."""
    both = one.keys() & other.keys()
    if not both:
        return False
    usual = doubt_of(BY_KEY[DRIVE].scatter or 0.0, None)
    each = [compared(one[test][0] - other[test][0], 0.0, usual, (one[test][1], other[test][1])) for test in both]
    mean = fmean(step.amount for step in each)
    sd = sqrt(sum(step.sd**2 for step in each)) / len(each)
    return mean > 0 and Comparison(mean, BY_KEY[DRIVE].jnd or 0.0, sd, usual.freedom).trusted


def _over_tests(tests: Sequence[Tested], scatter: Mapping[str, Scatter], but: Collection[str]) -> list[Taught]:
    """Differences of one contender that hold in several tests, told once, by the test that shows them best.

    ``but`` are readings that were told already.
    """
    seen: dict[tuple[int, str, bool, str, int], list[tuple[Tested, Difference]]] = {}
    for test in tests:
        for one in differences(test.takes, scatter):
            if one.reading not in but:
                pair = one.other if len(one.against) == 1 else 0
                seen.setdefault((one.ident, one.reading, one.amount > 0, _where(one), pair), []).append((test, one))
    # What is likely in one test only may be chance: there were many to look at.
    held_well = [group for group in seen.values() if len(group) > 1 or group[0][1].sure == "sure" or group[0][1].strong]
    ranked = sorted(held_well, key=lambda group: -sum(one.weight for _, one in group))
    found = []
    told_of: set[tuple[int, str, bool]] = set()
    for group in ranked:
        test, best = max(group, key=lambda pair: pair[1].weight)
        held = {one.ident for one, _ in group}
        asked = [one for one in tests if any(take.ident == best.ident for take in one.takes)]
        sure = "sure" if any(one.sure == "sure" for _, one in group) else "likely"
        sentence = told(best, test.takes, _held(test, sure, len(held), len(asked)))
        found.append(Taught(sentence, test.ident, tuple(sorted(held))))
        told_of |= {(best.ident, best.reading, best.amount > 0)}
        told_of |= {(ident, best.reading, best.amount < 0) for ident in best.against if len(best.against) == 1}
    together = pooled([test.takes for test in tests])
    for one in differences(together, scatter, len(tests)):
        if one.reading not in but and (one.ident, one.reading, one.amount > 0) not in told_of:
            shown = max(tests, key=lambda test: _shown(test.takes, one))
            sentence = told(one, together, f" on the average of {len(tests)} tests: {one.sure}")
            found.append(Taught(sentence, shown.ident, tuple(test.ident for test in tests)))
    return found


def _shown(takes: Sequence[Taken], one: Difference) -> float:
    """By how much a difference shows between the two in a test, its own way."""
    values = []
    for ident in (one.ident, one.other):
        results = next(take.results for take in takes if take.ident == ident)
        if one.reading == TONE:
            bands = results.parts("third_octaves_db").items()
            inside = [db for hz, db in bands if one.low_hz <= float(hz) <= (one.high_hz or inf)]
            values.append(sum(inside) / max(len(inside), 1))
        else:
            part = dict(TOLD).get(one.reading, "")
            values.append(results.number(f"{one.reading}.{part}" if part else one.reading) or 0.0)
    return (values[0] - values[1]) * (1 if one.amount > 0 else -1)


def _held(best: Tested, sure: str, held: int, asked: int) -> str:
    """In how many of the tests in which it was played a difference is seen; in others it may be there too."""
    if asked < 2:
        return ""
    return f" in {best.name}: {sure}, seen in {'all' if held == asked else f'{held} of'} {asked} tests"


def _where(one: Difference) -> str:
    """Which end of the spectrum it is at; empty for what is no tone."""
    if one.reading != "tone":
        return ""
    return "high" if not one.high_hz else "middle" if one.low_hz else "low"


def _alike(contenders: Sequence[Priced], tests: Sequence[Tested], scatter: Mapping[str, Scatter]) -> list[Taught]:
    """Pairs that nothing tells apart in most tests, the dearest saving first."""
    together: dict[tuple[int, int], list[Tested]] = {}
    both: dict[tuple[int, int], int] = {}
    for test in tests:
        idents = [take.ident for take in test.takes if not take.is_bypass]
        for at, one in enumerate(idents):
            for other in idents[at + 1 :]:
                both[one, other] = both.get((one, other), 0) + 1
        for pair in alike(test.takes, scatter):
            together.setdefault(pair, []).append(test)
    known = {one.ident: one for one in contenders}
    found: list[tuple[float, Taught]] = []
    for pair, held in together.items():
        if 2 * len(held) <= both[pair]:
            continue
        cheap, dear = sorted((known[ident] for ident in pair), key=lambda one: one.price_minor or 0)
        saving = 0
        who = f"{cheap.name} and {dear.name}"
        if cheap.price_minor is not None and dear.price_minor is not None and cheap.currency == dear.currency:
            saving = dear.price_minor - cheap.price_minor
            prices = [show_price(one.price_minor or 0, one.currency) for one in (cheap, dear)]
            who = f"{cheap.name} ({prices[0]}) and {dear.name} ({prices[1]})"
        where = f"{len(held)} of {both[pair]} tests" if both[pair] > 1 else "the one test they share"
        words = f"{who} differ by nothing you can trust in {where}."
        numbers: dict[str, Number] = {
            "contender": cheap.ident,
            "other": dear.ident,
            "reading": "alike",
            "saving_minor": saving,
        }
        taught = Taught(Said("alike", words, numbers), held[0].ident, tuple(test.ident for test in held))
        found.append((saving, taught))
    return [taught for _, taught in sorted(found, key=lambda pair: -pair[0])][:3]


def _open(contenders: Sequence[Priced], tests: Sequence[Tested], scatter: Mapping[str, Scatter]) -> list[Taught]:
    """What was not tested, and what to record next."""
    found = []
    there = {(take.ident, test.ident) for test in tests for take in test.takes}
    never = [one for one in contenders if all((one.ident, test.ident) not in there for test in tests)]
    if never:
        words = f"Not yet played, so nothing is known of: {', '.join(one.name for one in never)}."
        found.append(Taught(Said("not_played", words, {"count": len(never)})))
    missing = [
        f"{one.name} in {test.name}"
        for test in tests
        for one in contenders
        if one not in never and (one.ident, test.ident) not in there
    ]
    if missing:
        some = ", ".join(missing[:4]) + (f" and {len(missing) - 4} more" if len(missing) > 4 else "")
        words = f"Still to be played, or played again: {some}."
        found.append(Taught(Said("not_tested", words, {"count": len(missing)})))
    if not scatter:
        words = "No take was repeated, so nothing here is more than likely. Record one cell three times to be sure."
        found.append(Taught(Said("record_repeats", words)))
    return found
