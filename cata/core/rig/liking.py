"""How parts are liked beside their sound: the person's own scores of how they feel, and what would be nice of them.

In a ranking of one kind both count as they are; in a rig they count as the mean of the places that hold one part, and
what nobody scored or knows speaks neither for a part nor against it. Of pedals neither counts: one that feels well is
no reason to buy another.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from cata.core.brief import Need
from cata.core.choose.checks import Check
from cata.said import Said, said

LEAST_FIT_WEIGHT = 1.0
"""Where the fit hardly counts in the ranking, a rig is still one for its sounds."""
ALONE = ("guitar", "pickup", "amplifier", "speaker")
"""Places of which the person has one part in hand."""


@dataclass(frozen=True)
class Opinion:
    """What is thought of an item: where it stands, its score of feel (0 to 1; None: none), what would be nice of it."""

    place: str
    feel: float | None = None
    wishes: Sequence[Check] = ()

    @property
    def felt(self) -> float:
        """From -½ to ½; 0 where nobody said anything."""
        return 0.0 if self.feel is None else self.feel - 0.5

    @property
    def nice(self) -> float:
        """From -½ (nothing of what would be nice is so) to ½ (all of it); what nobody knows is between."""
        answers = [one.answer for one in self.wishes]
        return (answers.count("yes") - answers.count("no")) / (2 * len(answers)) if answers else 0.0


def liking(need: Need, opinions: Mapping[int, Opinion]) -> dict[int, float]:
    """What the person's liking of every item counts beside the fit of a rig."""
    mine = {item: one for item, one in opinions.items() if one.place in ALONE}
    felt = len({one.place for one in mine.values() if one.feel is not None})
    nice = len({one.place for one in mine.values() if one.wishes})
    fit = max(need.fit_weight, LEAST_FIT_WEIGHT)
    return {
        item: need.feel_weight / fit * one.felt / max(felt, 1) + need.nice_weight / fit * one.nice / max(nice, 1)
        for item, one in mine.items()
    }


def told_liking(one: Opinion) -> list[Said]:
    """What is thought of a part that is alone in its place."""
    if one.place not in ALONE:
        return []
    felt = (
        [] if one.feel is None else [said("feels", "feels {score:.1f} of 10 by your own scores", score=10 * one.feel)]
    )
    return [*felt, *(wish.said for wish in one.wishes)]
