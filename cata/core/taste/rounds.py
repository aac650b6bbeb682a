"""The rounds of a tasting, and what stands in the glasses of each trial.

Contenders are counted from 0 in the order in which the tasting has them; what a glass holds is said by that count, or
as the hidden reference, the anchor, or X. What is in a glass follows from the tasting's seed, the round, the taster and
what was answered before; nothing of it is kept, so there is nothing to find.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, Field, model_validator

from cata.core.taste.identify import Identified, trials_for
from cata.core.taste.pouring import chance_of, numbered
from cata.core.taste.prefer import Choice, next_pair
from cata.core.taste.rate import ANCHOR, MILD, REFERENCE, Rated

Kind = Literal["identify", "prefer", "rate", "notes"]
MOST_TRIALS, MOST_GLASSES = 60, 8
OPEN, X = "reference", "X"
"""Labels of glasses that have no number: the open reference, and what is to be told."""
MOST_NOTE = 500
FEWEST_PAIRS, AGAIN, SETS = 8, 2.4, 2
"""By rule: so many pairs at least, each so often on average, and so many sets to rate."""


class Round(BaseModel):
    """One round: what is asked of which contenders, in how many trials; ``reference`` what others are held against.

    ``trials`` 0 stands for as many as the question wants. ``heard``: the share of trials in which somebody hears the
    difference who is to be found out.
    """

    kind: Kind
    of: list[int] = Field(min_length=1, max_length=MOST_GLASSES)
    trials: int = Field(default=0, ge=0, le=MOST_TRIALS)
    heard: float = Field(default=0.6, ge=0.3, le=1.0)
    reference: int | None = None

    @model_validator(mode="after")
    def _fits(self) -> Round:
        if len(set(self.of)) != len(self.of) or min(self.of) < 0:
            raise ValueError("a contender is in the round twice")
        if self.kind == "identify" and len(self.of) != 2:
            raise ValueError("two can be told apart: choose exactly two")
        if self.kind in ("prefer", "rate") and len(self.of) < 2:
            raise ValueError("there must be two at least to choose from")
        if self.kind == "rate" and self.reference not in self.of:
            raise ValueError("the reference must be one of them")
        if not self.trials:
            self.trials = self._usual
        return self

    @property
    def _usual(self) -> int:
        count = len(self.of)
        pairs = min(MOST_TRIALS, max(FEWEST_PAIRS, round(AGAIN * count * (count - 1) / 2)))
        return {"identify": trials_for(self.heard), "prefer": pairs, "rate": SETS, "notes": 1}[self.kind]

    @property
    def rated(self) -> list[int]:
        """What stands in the numbered glasses of a rating: the others, the hidden reference, both anchors."""
        return [*(one for one in self.of if one != self.reference), REFERENCE, ANCHOR, MILD]


@dataclass(frozen=True)
class Glass:
    """What a person sees of a glass, and what is in it."""

    label: str
    holds: int


@dataclass(frozen=True)
class Trial:
    """What is asked next: the how-manieth of how many, and its glasses in the order in which they stand."""

    round: int
    kind: Kind
    number: int
    of: int
    glasses: tuple[Glass, ...]

    def holds(self, label: str) -> int:
        """What is in a glass."""
        return next(glass.holds for glass in self.glasses if glass.label == label)


@dataclass(frozen=True)
class Given:
    """One answer as it is kept: in which trial of which round, and what; contenders by their count."""

    round: int
    trial: int
    what: Mapping[str, Any]


def trial_of(rounds: Sequence[Round], seed: str, taster: int, answers: Sequence[Given]) -> Trial | None:
    """What this taster (counted from 0) is asked next; None where all is answered."""
    for at, plan in enumerate(rounds):
        mine = [one for one in answers if one.round == at]
        if any(one.what.get("enough") for one in mine) or len(mine) >= plan.trials:
            continue
        return _trial(plan, at, seed, taster, mine)
    return None


def _trial(plan: Round, at: int, seed: str, taster: int, mine: Sequence[Given]) -> Trial:
    number, chance = len(mine), chance_of(seed, at, taster, len(mine))
    if plan.kind == "identify":
        first, second = plan.of if chance.random() < 0.5 else plan.of[::-1]
        glasses = [Glass("1", first), Glass("2", second), Glass(X, first if chance.random() < 0.5 else second)]
    elif plan.kind == "prefer":
        first, second = next_pair(plan.of, choices(mine), chance)
        named = {one: str(glass) for glass, one in enumerate(numbered(seed, at, taster, plan.of), start=1)}
        glasses = [Glass(named[first], first), Glass(named[second], second)]
    elif plan.kind == "rate":
        order = numbered(f"{seed}/{number}", at, taster, plan.rated)
        glasses = [Glass(OPEN, plan.reference or 0), *_glasses(order)]
    else:
        glasses = _glasses(numbered(seed, at, taster, plan.of))
    return Trial(at, plan.kind, number + 1, plan.trials, tuple(glasses))


def _glasses(order: Sequence[int]) -> list[Glass]:
    return [Glass(str(number), one) for number, one in enumerate(order, start=1)]


def kept(trial: Trial, said: Mapping[str, Any]) -> dict[str, Any]:
    """An answer that names glasses, as it is kept: by what they hold. ValueError where it is no answer to that."""
    if said.get("enough") is True and trial.kind in ("identify", "prefer"):
        return {"enough": True}
    labels = {glass.label for glass in trial.glasses}
    numbers = labels - {OPEN, X}
    if trial.kind in ("identify", "prefer"):
        chosen = said.get("glass")
        if chosen not in numbers and not (trial.kind == "prefer" and chosen == ""):
            raise ValueError("the answer names no glass of this trial")
        if trial.kind == "identify":
            return {"right": trial.holds(str(chosen)) == trial.holds(X)}
        first, second = (glass.holds for glass in trial.glasses)
        return {"first": first, "second": second, "preferred": trial.holds(chosen) if chosen else None}
    given = said.get("points" if trial.kind == "rate" else "notes")
    if not isinstance(given, dict) or not set(given) <= numbers:
        raise ValueError("the answer names other glasses than there are")
    if trial.kind == "rate":
        if set(given) != numbers or not all(isinstance(v, int | float) and 0 <= v <= 100 for v in given.values()):
            raise ValueError("every glass wants points from 0 to 100")
        return {"points": {str(trial.holds(label)): float(value) for label, value in given.items()}}
    return {"notes": {str(trial.holds(label)): str(text)[:MOST_NOTE] for label, text in given.items()}}


def check_kept(plan: Round, what: Mapping[str, Any]) -> None:
    """ValueError where this is nothing that :func:`kept` answers for a trial of the round."""
    if plan.kind in ("identify", "prefer") and what == {"enough": True}:
        return
    good = {"identify": _is_identified, "prefer": _is_preferred, "rate": _is_rated, "notes": _is_noted}[plan.kind]
    if not good(plan, what):
        raise ValueError("this is no answer to what was asked")


def _is_identified(_plan: Round, what: Mapping[str, Any]) -> bool:
    return set(what) == {"right"} and isinstance(what["right"], bool)


def _is_preferred(plan: Round, what: Mapping[str, Any]) -> bool:
    if set(what) != {"first", "second", "preferred"}:
        return False
    pair = [what["first"], what["second"]]
    named = pair if what["preferred"] is None else [*pair, what["preferred"]]
    return all(_counts(one, plan.of) for one in named) and len(set(pair)) == 2 and len(set(named)) == 2


def _is_rated(plan: Round, what: Mapping[str, Any]) -> bool:
    points = what.get("points")
    if set(what) != {"points"} or not isinstance(points, dict):
        return False
    # Before there were two anchors there was one.
    if set(points) not in (whole := set(map(str, plan.rated)), whole - {str(MILD)}):
        return False
    return all(_is_number(value) and 0 <= value <= 100 for value in points.values())


def _is_noted(plan: Round, what: Mapping[str, Any]) -> bool:
    notes = what.get("notes")
    if set(what) != {"notes"} or not isinstance(notes, dict) or not set(notes) <= set(map(str, plan.of)):
        return False
    return all(isinstance(text, str) and len(text) <= MOST_NOTE for text in notes.values())


def _counts(one: Any, of: Sequence[int]) -> bool:
    return isinstance(one, int) and not isinstance(one, bool) and one in of


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def identified(plan: Round, mine: Sequence[Given]) -> Identified:
    """What one taster had right."""
    made = [one for one in mine if "right" in one.what]
    return Identified(sum(bool(one.what["right"]) for one in made), len(made), plan.trials)


def choices(mine: Sequence[Given]) -> list[Choice]:
    """What was preferred, pair by pair."""
    return [Choice(one.what["first"], one.what["second"], one.what["preferred"]) for one in mine if "first" in one.what]


def ratings(taster: str, mine: Sequence[Given]) -> list[Rated]:
    """What one taster gave, trial by trial, by contender with the hidden reference and the anchor."""
    return [
        Rated(taster, {int(key): value for key, value in one.what["points"].items()})
        for one in mine
        if "points" in one.what
    ]
