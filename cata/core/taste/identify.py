"""Can it be told apart at all? X is the first or the second; how many were right is held against guessing.

The count of trials is fixed before the first is heard, for a wanted power. A tasting may end early where the rest can
no longer change what is said (curtailed sampling): trials that were not made count as wrong for passing, and as right
for what may have been heard, so that stopping when it pleases gains nobody anything.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import scipy

from cata.said import Said, said

ALPHA = 0.05
POWER = 0.8
FEWEST, MOST = 5, 60
GUESS = 0.5
HEARD = {0.9: "heard nearly always", 0.6: "heard in most trials", 0.4: "heard now and then", 0.3: "heard seldom"}
"""In what share of the trials a difference is really heard that is to be found, and what that is called."""
Outcome = Literal["passed", "not passed", "open"]


def p_value(right: int, of: int) -> float:
    """How often a guesser has so many right, or more (exact binomial)."""
    return _at_least(right, of, GUESS)


def pass_mark(of: int) -> int:
    """The least number right that a guesser reaches in at most one of twenty tastings; more than ``of`` where none."""
    return next((right for right in range(of + 1) if p_value(right, of) <= ALPHA), of + 1)


def power(of: int, heard: float) -> float:
    """How often somebody passes who really hears it in this share of the trials and guesses in the others."""
    return _at_least(pass_mark(of), of, heard + (1 - heard) * GUESS)


def _at_least(right: int, of: int, chance: float) -> float:
    """How often at least so many of independent trials come out right (the binomial as an incomplete beta)."""
    if right <= 0:
        return 1.0
    return float(scipy.special.betainc(right, of - right + 1, chance)) if right <= of else 0.0


def trials_for(heard: float, wanted: float = POWER) -> int:
    """The least number of trials with the wanted power, and no more than anybody can listen to with care."""
    return next((of for of in range(FEWEST, MOST) if power(of, heard) >= wanted), MOST)


def told_of_power(heard: float) -> Said:
    """How many trials are made for a difference that is heard in this share of them, and how often they find it."""
    of = trials_for(heard)
    words = "{trials} trials. Who hears it in {heard:.0f} % of them passes {power:.0f} of 100 tastings."
    return said("power", words, trials=of, heard=100 * heard, power=100 * power(of, heard))


def shown_by(of: int, wanted: float = POWER) -> float:
    """The share of trials that must really be heard to pass as often as wanted, in hundredths, rounded up."""
    return next((percent / 100 for percent in range(1, 101) if power(of, percent / 100) >= wanted), 1.0)


@dataclass(frozen=True)
class Identified:
    """What was right of so many trials that were made, of so many that were planned."""

    right: int
    made: int
    of: int

    @property
    def outcome(self) -> Outcome:
        """Passed or not as soon as nothing can change it."""
        if self.right >= pass_mark(self.of):
            return "passed"
        return "not passed" if self.right + self.of - self.made < pass_mark(self.of) else "open"

    @property
    def p(self) -> float:
        """How often a guesser has so many right of all that were planned: what was not made counts as wrong."""
        return p_value(self.right, self.of)

    @property
    def heard(self) -> tuple[float, float]:
        """Between which shares of the trials it was really heard (nineteen in twenty, each side; Clopper, Pearson)."""
        high = self.right + self.of - self.made
        low = float(scipy.special.betaincinv(self.right, self.of - self.right + 1, ALPHA)) if self.right else 0.0
        top = float(scipy.special.betaincinv(high + 1, self.of - high, 1 - ALPHA)) if high < self.of else 1.0
        return max(0.0, (low - GUESS) / (1 - GUESS)), max(0.0, (top - GUESS) / (1 - GUESS))


def told(one: Identified, first: str, second: str) -> Said:
    """What an identification says at its end; where it was left before it was decided, that nothing can be said."""
    low, high = one.heard
    numbers = {"right": one.right, "made": one.made, "of": one.of, "p": one.p}
    count = f"{one.right} of {one.made} right"
    if one.outcome == "passed":
        words = (
            f"{first} and {second} were told apart: {count}; somebody who only guesses gets there in "
            f"{_often(one.p)}. It was really heard in at least {100 * low:.0f} of 100 trials."
        )
        return Said("told_apart", words, numbers)
    if one.outcome == "open":
        words = f"{first} and {second}: {count}, left before {one.of} trials were made: too few to say anything."
        return Said("left_early", words, numbers)
    words = (
        f"{first} and {second} were not told apart: {count}, {pass_mark(one.of)} of {one.of} were needed. "
        f"That shows no difference; one that is heard in more than {100 * high:.0f} of 100 trials is unlikely."
    )
    return Said("not_told_apart", words, numbers)


def told_of_several(mine: dict[str, Identified], first: str, second: str) -> Said:
    """What several tasters say together: each alone at a level that counts how many tried (Holm 1979)."""
    by_p = sorted(mine, key=lambda name: mine[name].p)
    passed: list[str] = []
    for at, name in enumerate(by_p):
        if mine[name].outcome != "passed" or mine[name].p > ALPHA / (len(mine) - at):
            break
        passed.append(name)
    numbers = {"passed": len(passed), "tasters": len(mine)}
    if passed:
        words = "{passed} of {tasters} tasters told {first} and {second} apart: {names}. That so many tried is counted."
        return said("told_apart", words, first=first, second=second, names=", ".join(sorted(passed)), **numbers)
    words = "None of {tasters} tasters told {first} and {second} apart, counting that so many tried."
    return said("not_told_apart", words, first=first, second=second, **numbers)


def _often(p: float) -> str:
    for of, digits in ((100, 0), (1_000, 0), (10_000, 0)):
        if p * of >= 1:
            return f"{p * of:.{digits}f} of {of:,} tastings"
    return "less than 1 of 10,000 tastings"
