"""What a card would say otherwise if it were made today."""

from __future__ import annotations

from cata.core.card.card import Card, CardPart
from cata.said import Said, said

FIT_STEP = 0.02
"""Two points of fit are what a card speaks of; less is the last digit of a reading."""
CHANCE_STEP = 0.1


def changes(before: Card, after: Card) -> list[Said]:
    """What is different today: another choice first, then money, then how sure it is. Empty: nothing is."""
    found: list[Said] = []
    old, new = _keys(before), _keys(after)
    if new != old:
        names = " and ".join(part.name for part in after.parts if not part.owned) or "nothing that is not owned"
        found.append(said("another", "today it would be {name}, fit {fit:.0f} %, {price}", name=names,
                          fit=after.fit[1] * 100, price=after.price_text or "no price known"))  # fmt: skip
    for part in after.parts:
        earlier = next((one for one in before.parts if _key(one) == _key(part)), None)
        if earlier is not None:
            found += _price(earlier, part)
    if new == old and abs(after.fit[1] - before.fit[1]) >= FIT_STEP:
        found.append(said("fit", "its fit is {after:.0f} % now, it was {before:.0f} %",
                          after=after.fit[1] * 100, before=before.fit[1] * 100))  # fmt: skip
    if new == old and before.left_text != after.left_text:
        found.append(said("left", "{after} would be left, it was {before}", after=after.left_text or "nothing known",
                          before=before.left_text or "nothing known"))  # fmt: skip
    if (
        new == old and before.chance is not None and after.chance is not None
        and abs(after.chance - before.chance) >= CHANCE_STEP
    ):  # fmt: skip
        found.append(said("chance", "it is first in {after:.0f} of 100 tries now, it was in {before:.0f}",
                          after=after.chance * 100, before=before.chance * 100))  # fmt: skip
    rival = after.runner_up
    if new == old and rival is not None and before.runner_up is not None and rival.name != before.runner_up.name:
        found.append(said("runner_up", "{name} comes second now, it was {before}", name=rival.name,
                          before=before.runner_up.name))  # fmt: skip
    return found


def _key(part: CardPart) -> tuple[str, int | str]:
    return part.place, part.gear_id if part.gear_id is not None else part.name


def _keys(card: Card) -> set[tuple[str, int | str]]:
    return {_key(part) for part in card.parts}


def _price(before: CardPart, after: CardPart) -> list[Said]:
    if before.price_minor == after.price_minor:
        return []
    numbers = {"name": after.name, "after": after.price_text or "without a price",
               "before": before.price_text or "without a price", "about": after.price_about}  # fmt: skip
    words = (
        "{name} is {after} now ({about}), it was {before}"
        if after.price_about
        else "{name} is {after} now, it was {before}"
    )
    return [said("price", words, **numbers)]
