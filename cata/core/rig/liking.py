"""How parts are liked beside their sound: the person's own scores of how they feel, and what would be nice of them.

In a ranking of one kind both count as they are; in a rig they count as the mean of the places that hold one part. As
there, what nobody scored or knows counts as bad: nothing is bought for a feel that nobody knows. Of pedals neither
counts: one that is liked is no reason to buy another.
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
"""Places that hold one part of those that make the sound."""
HELD = ("guitar", "amplifier")
"""Those that are in every rig, and in the player's hands."""
OWN_FEEL = 0.5
"""What is owned and not scored can be played at least."""


@dataclass(frozen=True)
class Opinion:
    """What is thought of an item: where it stands, its score of feel (0 to 1; None: none), what would be nice of it."""

    place: str
    feel: float | None = None
    wishes: Sequence[Check] = ()
    own: bool = False

    @property
    def felt(self) -> float:
        """How it feels, 0 to 1, as far as anybody said."""
        return self.feel if self.feel is not None else OWN_FEEL if self.own else 0.0

    @property
    def lacks(self) -> float:
        """The share of what would be nice of it that is not so, or not known."""
        return sum(one.answer != "yes" for one in self.wishes) / len(self.wishes) if self.wishes else 0.0


def liking(need: Need, opinions: Mapping[int, Opinion]) -> dict[int, float]:
    """What the person's liking of every item counts beside the fit of a rig: feel adds, what it lacks takes off."""
    felt = {one.place for one in opinions.values() if one.feel is not None} & set(HELD)
    nice = {one.place for one in opinions.values() if one.wishes} & set(ALONE)
    fit = max(need.fit_weight, LEAST_FIT_WEIGHT)
    return {
        item: (need.feel_weight / fit * one.felt / len(felt) if one.place in felt else 0.0)
        - (need.nice_weight / fit * one.lacks / len(nice) if one.place in nice else 0.0)
        for item, one in opinions.items()
    }


def most_of(liked: Mapping[int, float], opinions: Mapping[int, Opinion]) -> float:
    """How much two rigs can differ by in how they are liked."""
    places = ([by for item, by in liked.items() if opinions[item].place == place] for place in ALONE)
    return sum(max(mine) - min(mine) for mine in places if mine)


def told_liking(one: Opinion) -> list[Said]:
    """What is thought of a part that is alone in its place."""
    if one.place not in ALONE:
        return []
    scored = one.feel is not None and one.place in HELD
    felt = [said("feels", "feels {score:.1f} of 10 by your own scores", score=10 * one.felt)] if scored else []
    return [*felt, *(wish.said for wish in one.wishes)]
