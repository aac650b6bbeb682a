"""What a ranking says in one sentence, of whom it says it, and how sure that is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cata.core.brief import Need
from cata.core.choose.ranking import Ranked, rivals
from cata.core.money import show_price
from cata.said import Said, said

CLEAR, LIKELY = 0.95, 0.8
HALF = 0.5
"""Of what a brief weighs: where less is known of the first, the headline says that before anything else."""
UNDECIDED = ("likely", "open", "little_known")
"""Where one more take may change who is first."""
TRIES = "first in {of_100:.0f} of 100 tries in which every reading was moved by as much as it may be off."
PLURALS = {"direct box": "direct boxes"}


@dataclass(frozen=True)
class Scope:
    """Of whom something is said: how many there are, of which ``kind``; ``one_flight``: of one flight only."""

    count: int
    kind: str
    one_flight: bool

    def of(self, ranked: int) -> str:
        """ "of the 4 in this flight, as they were set"."""
        if self.one_flight:
            return f"of the {ranked} in this flight, as they were set"
        many = PLURALS.get(self.kind, f"{self.kind}s")
        return f"of {ranked} {many if ranked != 1 else self.kind} of the shelf, at their best setting"


def sentence_of(ranked: Sequence[Ranked], need: Need, scope: Scope) -> Said:
    """Who comes first, of whom, and what is left; or why nobody does."""
    if not scope.count:
        words = "No contenders yet." if scope.one_flight else "Nothing of this kind is on the shelf."
        return Said("nothing_there", words)
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so only prices can be compared.")
    if not ranked:
        return Said("no_readings", "None of them was played in a test that shows a sound of the brief.")
    first = ranked[0]
    if all(entry.over_minor for entry in ranked):
        return Said("all_over_budget", "Every one that was played costs more than can be spent.")
    left = f", and leaves {show_price(first.left_minor, need.currency)}" if first.left_minor is not None else ""
    name, of = first.candidate.name, scope.of(len(ranked))
    if not first.fine:
        words = f"{{name}} comes first by sound, but {_lacks(first, need)}."
        return said("ranked_with_doubt", words, name=name)
    if first.fit.coverage < HALF:
        words = f"Only {{percent:.0f}} % of the brief is known yet. So far {{name}} comes first {of}{left}."
        return said("little_known", words, percent=first.fit.coverage * 100, name=name, count=len(ranked))
    return said("ranked", f"{{name}} comes first {of}{left}.", name=name, count=len(ranked))


def _lacks(first: Ranked, need: Need) -> str:
    if first.candidate.price_minor is None and need.spendable_minor is not None:
        return "its price is not known"
    return "a must-have is missing or not known"


def certainty_of(ranked: Sequence[Ranked]) -> Said:
    """How sure the first place is, in words."""
    if not ranked:
        return Said("", "")
    able = rivals(ranked)
    first = able[0]
    if not first.fit.coverage:
        return Said("", "")
    if len(able) == 1:
        return Said("only", "It is the only one that can be judged within the budget.")
    if first.fit.coverage < HALF:
        return said("little_known", "More takes may change the order.", percent=first.fit.coverage * 100)
    numbers = {"of_100": first.best_share * 100}
    if first.best_share >= CLEAR:
        return said("clear", f"Clear: {TRIES}", **numbers)
    if first.best_share >= LIKELY:
        return said("likely", f"Likely: {TRIES}", **numbers)
    level = [entry.candidate.name for entry in able[1:] if entry.ahead < LIKELY]
    told = f"{', '.join(level[:3])}{' and others' if len(level) > 3 else ''} may be just as good. " if level else ""
    return Said("open", f"Open: {told}Let your ears decide.", numbers)
