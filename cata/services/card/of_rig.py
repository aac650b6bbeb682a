"""The card of a whole rig."""

from __future__ import annotations

from cata.core.card.card import Card, CardPart, Evidence, Other, Point
from cata.core.choose.shown import shown
from cata.core.gear import Control
from cata.services.card.framing import framed, nothing_chosen, put_evidence, settings, words
from cata.services.card.views import CardIn
from cata.services.choice.rigs import Found, view_of
from cata.services.choice.settings import settings_of
from cata.services.choice.views import RigPart, RigsView, RigView

SIGNAL = ("guitar", "pickup", "pedals", "amplifier", "speaker")


def of_rig(day: str, asked: CardIn, here: Found) -> Card:
    """The card of one of the rigs that were found. Conflict where there is no such rig."""
    view, at = view_of(here), asked.place - 1
    if at >= len(view.rigs):
        raise nothing_chosen(view.verdict.words)
    mine, rig = view.rigs[at], here.answer.rigs[at]
    card = framed(day, here.need, here.brief, _bought(mine))
    card.spendable_minor = here.spendable
    card.sentence = view.verdict.words if at == 0 else f"Buy {_bought(mine)} for {mine.price_text}."
    card.certainty = _certainty(view, at)
    card.chance = mine.chance if len(view.rigs) > 1 else None
    low, high = here.answer.spans[at]
    card.fit, card.by_sound = (min(low, rig.fit), rig.fit, max(high, rig.fit)), mine.by_sound
    card.price_minor, card.price_text = mine.price_minor, mine.price_text
    card.left_minor, card.left_text = mine.left_minor, mine.left_text
    card.parts = [_part(here, part) for part in mine.parts]
    card.chain = [part.name for part in mine.parts if part.place in SIGNAL]
    others = [other for n, other in enumerate(view.rigs) if n != at]
    if others:
        card.runner_up = Other(name=_bought(others[0]), price_text=others[0].price_text, fit=others[0].fit,
                               differs=words(others[0].gives_up))  # fmt: skip
    put_evidence(card, [one for part in mine.parts for one in _evidence(here, part)])
    card.points = [
        Point(name=_bought(one), price_minor=one.price_minor, fit=one.fit, low=span[0], high=span[1], chosen=n == at)
        for n, (one, span) in enumerate(zip(view.rigs, here.answer.spans, strict=True))
    ]
    card.not_tested += [*words(one for one in mine.gives_up if one.code == "not_known"), *words(view.notes)]
    card.next_step = view.decide
    card.cautions += words(mine.pairings)
    card.cautions += [f"{part.name}: {one.words}" for part in mine.parts for one in part.cautions]
    card.rests_on = [*_grounds(here, mine), *([view.liking.words] if view.liking else []), *card.rests_on]
    return card


def _bought(rig: RigView) -> str:
    """What is to be bought of a rig, by name."""
    return " + ".join(part.shown for part in rig.parts if part.price_minor) or "what is owned already"


def _certainty(view: RigsView, at: int) -> str:
    count = len(view.rigs)
    better = "fits noticeably better" if view.liking is None else "is noticeably better, fit and liking together,"
    place = "" if at == 0 else f"It is number {at + 1} of {count} that are really different. "
    proven = f"No rig of this shelf {better} within this sum. " if at == 0 and view.proven else ""
    share = f"Best of these {count} in {view.rigs[at].chance * 100:.0f} of 100 tries." if count > 1 else ""
    return f"{place}{proven}{share}".strip()


def _part(here: Found, part: RigPart) -> CardPart:
    item = here.laid.items[part.gear_id]
    ground, told = here.laid.grounds.get(item.kind), here.laid.gathered.get(item.kind)  # type: ignore[call-overload]
    controls = [Control.model_validate(one) for one in item.controls]
    found = (
        settings_of(part.gear_id, controls, here.need, ground, told) if ground is not None and told is not None else []
    )
    if part.place == "pedals":
        found = [one for one in found if one.sound in part.serves]
    return CardPart(
        gear_id=part.gear_id, place=part.place, name=part.name, price_minor=part.price_minor,
        price_text=part.price_text, price_about=part.price_about, price_old=part.price_old,
        owned=part.gear_id in here.need.own_items, serves=part.serves, settings=settings(found),
    )  # fmt: skip


def _evidence(here: Found, part: RigPart) -> list[Evidence]:
    ground = here.laid.grounds.get(here.laid.items[part.gear_id].kind)  # type: ignore[call-overload]
    if ground is None or part.gear_id not in ground.evidence.nodes:
        return []
    found = shown(here.need, ground, part.gear_id, part.name)
    return [one for one in found if part.place != "pedals" or one.sound in part.serves]


def _grounds(here: Found, rig: RigView) -> list[str]:
    """Which takes each part's place rests on."""
    found = []
    for part in rig.parts:
        told = here.laid.gathered.get(here.laid.items[part.gear_id].kind)  # type: ignore[call-overload]
        if told is not None and part.gear_id in told.takes:
            takes = told.takes[part.gear_id]
            flights = ", ".join(f"“{told.names[one]}”" for one in sorted(told.flights[part.gear_id]))
            found.append(f"{part.name}: {takes} take{'s' if takes != 1 else ''} in {flights}.")
    return found
