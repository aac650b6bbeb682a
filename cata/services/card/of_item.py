"""The card of one thing that is chosen: an item of the whole shelf, or a contender of a flight."""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.brief import Need
from cata.core.card.card import Card, CardPart, Other, Point
from cata.core.choose.ranking import Ranked
from cata.core.choose.savings import saving
from cata.core.choose.shown import shown
from cata.services.card.framing import framed, nothing_chosen, put_evidence, settings, words
from cata.services.card.views import CardIn
from cata.services.choice.choosing import view_of
from cata.services.choice.standing import Standing
from cata.services.choice.views import ChoiceItem


def of_item(day: str, asked: CardIn, here: Standing, chain: Sequence[str] = ()) -> Card:
    """The card of what is chosen, the first where nothing is named; ``chain``: what it was played through."""
    view, entry = view_of(here), _chosen(here.ranked, asked.chosen)
    items = {one.ident: one for one in view.ranked}
    ident = entry.candidate.ident
    mine, first, count = items[ident], entry is here.ranked[0], len(here.ranked)
    card = framed(day, here.need, here.brief, mine.name)
    card.sentence = view.sentence if first else f"{mine.name} is chosen, place {mine.place} {here.scope.of(count)}."
    card.certainty, card.chance = view.certainty if first else "", mine.best_share
    low = mine.fit if mine.fit_low is None else min(mine.fit_low, mine.fit)
    high = mine.fit_best if mine.fit_high is None else max(mine.fit_high, mine.fit)
    card.fit = low, mine.fit, high
    card.by_sound = {sound.name: here.whole.fit_for(ident, sound) for sound in here.need.sounds}
    card.price_minor, card.price_text = mine.price_minor, mine.price_text
    card.left_minor, card.left_text = entry.left_minor, mine.left_text
    card.parts = [CardPart(
        gear_id=mine.gear_id, place=view.kind, name=mine.name, price_minor=mine.price_minor, price_text=mine.price_text,
        price_about=mine.price_about, price_old=mine.price_old, settings=settings(mine.settings),
        owned=mine.gear_id in here.need.own_items,
    )]  # fmt: skip
    card.chain = list(chain)
    rival = next((one for one in here.ranked if one is not entry), None)
    if rival is not None:
        other = items[rival.candidate.ident]
        card.runner_up = Other(name=other.name, price_text=other.price_text, fit=other.fit,
                               differs=_differs(here.need, entry, rival, other))  # fmt: skip
    put_evidence(card, shown(here.need, here.whole, ident, mine.name))
    card.points = [
        Point(name=one.name, price_minor=one.price_minor, fit=one.fit, low=one.fit_low, high=one.fit_high,
              chosen=one is mine)
        for one in view.ranked if one.price_minor is not None
    ]  # fmt: skip
    card.cautions += words(mine.shortfalls) + words(view.kept)
    card.next_step = view.decide
    card.not_tested += [one.said.words for one in view.apart]
    if view.not_played:
        card.not_tested.append(f"nobody has played {', '.join(one.name for one in view.not_played)}")
    flights = ", ".join(f"“{here.gathered.names[one]}”" for one in sorted(here.gathered.flights.get(ident, ())))
    card.rests_on = [f"{mine.name}: {mine.grounds.words if mine.grounds else ''}: {flights}.", *card.rests_on]
    return card


def _chosen(ranked: Sequence[Ranked], ident: int | None) -> Ranked:
    """The entry that is chosen: the one named, else the first."""
    found = next((entry for entry in ranked if ident is None or entry.candidate.ident == ident), None)
    if found is None:
        raise nothing_chosen("it has no place in this ranking")
    return found


def _differs(need: Need, chosen: Ranked, rival: Ranked, other: ChoiceItem) -> list[str]:
    """What the runner-up gives and takes against what is chosen: as a saving, and what falls short."""
    mine, theirs = chosen.candidate.price_minor, rival.candidate.price_minor
    told = []
    if mine is not None and theirs is not None and mine != theirs:
        dearer, cheaper = (chosen, rival) if mine > theirs else (rival, chosen)
        told.append(saving(need, dearer, cheaper).told.words)
    return told + words(other.shortfalls[:2])
