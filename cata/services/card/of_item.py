"""The card of one item: chosen from the whole shelf, or among the contenders of a flight."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.brief import Need
from cata.core.card.card import Card, CardPart, CardSetting, Other, Point
from cata.core.choose.ranking import Ranked
from cata.core.choose.savings import saving
from cata.core.choose.shown import shown
from cata.core.choose.takes import Ground
from cata.services.card.framing import framed, knobs, nothing_chosen, put_evidence, settings, words
from cata.services.card.views import CardIn
from cata.services.choice import choosing, shelf
from cata.services.choice.choosing import Compared
from cata.services.choice.standing import Standing
from cata.services.choice.views import ChoiceView, RankedView, ShelfChoice, ShelfItem

Entry = ShelfItem | RankedView


def of_shelf(day: str, asked: CardIn, here: Standing) -> Card:
    """The card of an item of the whole shelf."""
    view = shelf.view_of(here)
    entry = _chosen(here.ranked, asked.chosen)
    ident = entry.candidate.ident
    entries: dict[int, Entry] = {one.gear_id: one for one in view.ranked}
    mine = entries[ident]
    assert isinstance(mine, ShelfItem)
    card = framed(day, here.need, here.brief, mine.name)
    _put(card, entry, here.ranked, entries, here.need, here.whole, view)
    card.by_sound = {sound.name: here.whole.fit_for(ident, sound) for sound in here.need.sounds}
    card.parts = [CardPart(
        gear_id=ident, place=view.kind, name=mine.name, price_minor=mine.price_minor, price_text=mine.price_text,
        price_about=mine.price_about, price_old=mine.price_old, settings=settings(mine.settings),
    )]  # fmt: skip
    card.not_tested += [one.said.words for one in view.apart] + _unplayed([one.name for one in view.not_played])
    flights = ", ".join(f"“{here.gathered.names[one]}”" for one in sorted(here.gathered.flights.get(ident, ())))
    card.rests_on = [f"{mine.name}: {mine.grounds.words if mine.grounds else ''}: {flights}.", *card.rests_on]
    return card


def of_flight(day: str, asked: CardIn, here: Compared, chains: Mapping[int, Sequence[str]]) -> Card:
    """The card of a contender of a flight; ``chains`` is what each was played through, in the order of the signal."""
    view = choosing.view_of(here)
    entry = _chosen(here.ranked, asked.chosen)
    ident = entry.candidate.ident
    entries: dict[int, Entry] = {one.contender_id: one for one in view.ranked}
    mine, contender = entries[ident], next(one for one in here.contenders if one.id == ident)
    card = framed(day, here.need, here.brief, mine.name)
    _put(card, entry, here.ranked, entries, here.need, here.ground, view)
    played = [CardSetting(sound="as it was played", knobs=knobs(contender.settings))] if contender.settings else []
    card.parts = [CardPart(
        gear_id=contender.gear_id, place=here.flight.link, name=mine.name, price_minor=mine.price_minor,
        price_text=mine.price_text, price_about=contender.price_about, settings=played,
    )]  # fmt: skip
    card.chain = list(chains.get(ident, ()))
    card.not_tested += _unplayed([one.name for one in view.unplayed])
    card.cautions += words(view.kept)
    card.rests_on = [f"The takes of “{view.flight_name}”.", *card.rests_on]
    return card


def _put(
    card: Card, entry: Ranked, ranked: Sequence[Ranked], entries: Mapping[int, Entry], need: Need, ground: Ground,
    view: ShelfChoice | ChoiceView,
) -> None:  # fmt: skip
    """What a ranking says of one that is chosen."""
    mine, first = entries[entry.candidate.ident], entry is ranked[0]
    count = len(ranked)
    card.sentence = view.sentence if first else f"{mine.name} is chosen, place {mine.place} of {count}."
    card.certainty, card.chance = view.certainty if first else "", mine.best_share
    low = mine.fit if mine.fit_low is None else min(mine.fit_low, mine.fit)
    high = mine.fit_best if mine.fit_high is None else max(mine.fit_high, mine.fit)
    card.fit = low, mine.fit, high
    card.price_minor, card.price_text = mine.price_minor, mine.price_text
    card.left_minor, card.left_text = entry.left_minor, mine.left_text
    rival = next((one for one in ranked if one is not entry), None)
    if rival is not None:
        other = entries[rival.candidate.ident]
        card.runner_up = Other(name=other.name, price_text=other.price_text, fit=other.fit,
                               differs=_differs(need, entry, rival, other))  # fmt: skip
    put_evidence(card, shown(need, ground, entry.candidate.ident, mine.name))
    card.points = [
        Point(name=one.name, price_minor=one.price_minor, fit=one.fit, low=one.fit_low, high=one.fit_high,
              chosen=one is mine)
        for one in entries.values() if one.price_minor is not None
    ]  # fmt: skip
    card.cautions += words(mine.shortfalls)
    card.next_step = view.decide


def _chosen(ranked: Sequence[Ranked], ident: int | None) -> Ranked:
    """The entry that is chosen: the one named, else the first."""
    found = next((entry for entry in ranked if ident is None or entry.candidate.ident == ident), None)
    if found is None:
        raise nothing_chosen("it has no place in this ranking")
    return found


def _differs(need: Need, chosen: Ranked, rival: Ranked, other: Entry) -> list[str]:
    """What the runner-up gives and takes against what is chosen: as a saving, and what falls short."""
    mine, theirs = chosen.candidate.price_minor, rival.candidate.price_minor
    told = []
    if mine is not None and theirs is not None and mine != theirs:
        dearer, cheaper = (chosen, rival) if mine > theirs else (rival, chosen)
        told.append(saving(need, dearer, cheaper).told.words)
    return told + words(other.shortfalls[:2])


def _unplayed(names: Sequence[str]) -> list[str]:
    return [f"nobody has played {', '.join(names)}"] if names else []
