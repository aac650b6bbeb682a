"""Liking held against price: where the dearer is not what ears choose, the rest of its price is for something else."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import permutations

from cata.core.money import show_price
from cata.core.taste.identify import Identified
from cata.core.taste.prefer import SURE, Liked
from cata.said import Said

MOST_TOLD = 3


def name_costs(now: Liked, names: Mapping[int, str], prices_minor: Mapping[int, int], currency: str) -> list[Said]:
    """Every dearer one that is liked less than a cheaper one, blind and surely; the greatest saving first."""
    found = []
    for dear, cheap in permutations(now.idents, 2):
        more = prices_minor.get(dear, 0) - prices_minor.get(cheap, 0)
        if dear not in prices_minor or cheap not in prices_minor or more <= 0:
            continue
        ahead = now.ahead(cheap, dear)
        if ahead >= SURE:
            words = (
                f"{names[dear]} costs {show_price(more, currency)} more than {names[cheap]} and is liked less, blind: "
                f"the name costs that, or something that this test does not show."
            )
            found.append((more, Said("name_costs", words, {"dear": dear, "cheap": cheap, "more": more, "sure": ahead})))
    return [one for _, one in sorted(found, key=lambda pair: -pair[0])[:MOST_TOLD]]


def not_heard(
    one: Identified, pair: Sequence[int], names: Mapping[int, str], prices_minor: Mapping[int, int], currency: str
) -> Said | None:
    """What a difference in price buys that nobody told apart; None where it was told, or prices are not known."""
    first, second = pair
    if one.outcome != "not passed" or first not in prices_minor or second not in prices_minor:
        return None
    dear, cheap = (first, second) if prices_minor[first] > prices_minor[second] else (second, first)
    more = prices_minor[dear] - prices_minor[cheap]
    if more <= 0:
        return None
    words = f"{names[dear]} costs {show_price(more, currency)} more than {names[cheap]}, and no difference was shown."
    return Said("not_heard", words, {"dear": dear, "cheap": cheap, "more": more})
