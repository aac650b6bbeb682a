"""Choosing from the whole shelf: all items of a kind, from all flights, within what can be spent."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.choose.next import Tells, next_take
from cata.core.choose.ranking import Ranked
from cata.core.choose.savings import front, savings
from cata.core.gear import GearKind
from cata.core.money import exponent, show_price
from cata.core.pool.links import Link
from cata.core.pool.seen import NOTHING, Node
from cata.core.shelf.offers import Offer, best_offer
from cata.core.shelf.prices import current_price
from cata.said import Said, said
from cata.services.brief.briefs import meant, spendable_text
from cata.services.choice.choosing import HALF, UNDECIDED, certainty_of
from cata.services.choice.costs import costs_of
from cata.services.choice.counting import gathered, gathered_before, keep_ranked
from cata.services.choice.pooling import Gathered
from cata.services.choice.settings import settings_of
from cata.services.choice.standing import Standing, standing_of
from cata.services.choice.telling import where
from cata.services.choice.views import (
    ApartView,
    ForBrief,
    OfferView,
    SavingView,
    ShelfChoice,
    ShelfItem,
)
from cata.services.tasting.telling import blind_of
from cata.services.workspace import Workspace
from cata.store.database import moved
from cata.store.tables import Brief, Flight, Gear, Price

KINDS: tuple[GearKind, ...] = ("pedal", "amplifier", "pickup", "guitar", "speaker", "microphone", "direct box")
DETAILED = 12
"""So many of a ranking are told with reasons, offers and settings; more where somebody asks."""
GRADES = {"played": "played", "re-amped": "re-amped"}


def kinds_to_choose(session: Session) -> list[str]:
    """Kinds of gear that were compared, the most often compared first."""
    links = Counter(session.exec(select(Flight.link)).all())
    return sorted((kind for kind in KINDS if links[kind]), key=lambda kind: (-links[kind], KINDS.index(kind)))


def stand(
    ws: Workspace, kind: str = "", brief_id: int | None = None, need: Need | None = None, *, at_once: bool = False
) -> Standing:
    """The items of a kind, the one most often compared where none is named, for a brief or for another need.

    ``at_once``: without the newest takes, where it would take time to count them in.
    """
    with ws.reading() as session:
        kinds = kinds_to_choose(session)
        kind = kind or _usual(kinds)
        brief, wanted = meant(session, brief_id, need)
        before = gathered_before(ws, session, kind, wanted) if at_once else None
        told = before or gathered(ws, session, kind, wanted)
        day = ws.now()[:10]
        known = ws.answers.remember_as_of(
            ("costs", kind, wanted.currency),
            (moved(session, "shelf"), day),
            lambda: costs_of(session, kind, (), wanted, day),
        )
        blind = ws.answers.remember_as_of(("blind", kind), ws.revision(), lambda: blind_of(session, known.items))
    return standing_of(kind, wanted, known, told, kinds=kinds, brief=brief, blind=blind, of_before=bool(before))


def choose_from_shelf(
    ws: Workspace, kind: str = "", brief_id: int | None = None, need: Need | None = None, *,
    detailed: int = DETAILED, at_once: bool = False,
) -> ShelfChoice:  # fmt: skip
    """The items of a kind ranked for a brief; ``need`` tries another need without keeping it.

    ``at_once``: without the newest takes, where it would take time to count them in; the answer says so.
    """
    with ws.reading() as session:
        kind = kind or _usual(kinds_to_choose(session))
        brief, wanted = meant(session, brief_id, need)
    ident = brief.id if brief is not None else None
    # Of needs that are tried, one after another, only the latest is kept: a large library's answer takes megabytes.
    key, state = (
        ("choice", kind, ident, detailed, need is None),
        (wanted.model_dump_json(), ws.revision(), ws.now()[:10]),
    )
    here = stand(ws, kind, ident, wanted, at_once=True) if at_once else None
    if here is not None and here.of_before:
        return view_of(here, detailed)

    def whole() -> ShelfChoice:
        standing = here or stand(ws, kind, ident, wanted)
        view = view_of(standing, detailed)
        keep_ranked(ws, kind, wanted, standing.gathered)
        return view

    return ws.answers.remember_as_of(key, state, whole)


def _usual(kinds: Sequence[str]) -> str:
    return kinds[0] if kinds else "pedal"


def view_of(here: Standing, detailed: int = DETAILED) -> ShelfChoice:
    """How items stand, as a page shows it; the first so many with reasons, offers, grounds and settings."""
    need, ranked, items = here.need, here.ranked, here.items
    played = {entry.candidate.ident for entry in ranked} | set(here.apart)
    sure, (decide, tells) = certainty_of(ranked), next_of(here)
    verdict = _verdict(ranked, need, len(items))
    names, told = here.gathered.names, here.gathered
    links = told.evidence.links_from(ranked[0].candidate.ident) if ranked else {}
    return ShelfChoice(
        kind=here.kind, kinds=list(here.kinds), brief_id=here.brief.id if here.brief else None,
        brief_name=here.brief.name if here.brief else "",
        spendable_text=spendable_text(need), sentence=verdict.words, code=verdict.code,
        certainty=sure.words, certainty_code=sure.code, decide=decide.words if decide else "",
        next_take=where(here.gathered, tells) if tells is not None else None,
        ranked=[_view(entry, here, links, full=entry.place <= detailed) for entry in ranked],
        apart=[
            ApartView(gear_id=ident, name=items[ident].name, said=_link_said(items[ident].name, link, told, items),
                      flight_id=int(link.flight) if link is not None else None)
            for ident, link in sorted(here.apart.items())
        ],
        not_played=[ShelfItem(gear_id=ident, name=item.name, offers=_offers(here.costs[ident]))
                    for ident, item in items.items() if ident not in played],
        savings=[SavingView(dearer=one.dearer, cheaper=one.cheaper, saved_minor=one.saved_minor, steps=one.steps,
                            per_step_text=show_price(one.per_step_minor, need.currency) if one.per_step_minor else "",
                            said=one.told) for one in savings(need, ranked)],
        front=[entry.candidate.ident for entry in front(ranked)],
        no_rate=_no_rate(here.known.prices, here.costs, need),
        unnamed=[f"{names[flight]}: {', '.join(tests)}" for flight, tests in told.unnamed.items()],
        assumed=[f"{names[flight]}: {', '.join(tests)}" for flight, tests in told.assumed.items()],
        currency=need.currency, decimals=exponent(need.currency), spendable_minor=need.spendable_minor,
        of_before=here.of_before,
    )  # fmt: skip


def for_every_brief(ws: Workspace, kind: str = "") -> list[ForBrief]:
    """What a shop's customers should have: the first of a kind for each brief."""
    with ws.reading() as session:
        briefs = {brief.id or 0: brief.name for brief in session.exec(select(Brief).order_by(col(Brief.id))).all()}
    found = []
    for ident, name in briefs.items():
        choice = choose_from_shelf(ws, kind, ident)
        found.append(ForBrief(brief_id=ident, brief_name=name, sentence=choice.sentence, certainty=choice.certainty,
                              certainty_code=choice.certainty_code, spendable_text=choice.spendable_text,
                              first=choice.ranked[0] if choice.ranked else None))  # fmt: skip
    return found


def next_of(here: Standing) -> tuple[Said | None, Tells | None]:
    """The take that would tell most, where the first place is not clear."""
    if certainty_of(here.ranked).code not in UNDECIDED:
        return None, None
    return next_take(here.need, here.whole, here.ranked)


def _verdict(ranked: Sequence[Ranked], need: Need, items: int) -> Said:
    if not items:
        return Said("no_items", "Nothing of this kind is on the shelf.")
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so only prices can be compared.")
    if not ranked:
        return Said("no_readings", "None of them was played in a test that stands for a sound of the brief.")
    first = ranked[0]
    if all(entry.over_minor for entry in ranked):
        return Said("all_over_budget", "Every one that was played costs more than can be spent.")
    left = f" and leaves {show_price(first.left_minor, need.currency)}" if first.left_minor is not None else ""
    if not first.fine:
        unknown = first.candidate.price_minor is None and need.spendable_minor is not None
        why = "its price is not known" if unknown else "not all that must be is known to be so"
        return Said("ranked_with_doubt", f"{first.candidate.name} comes first by sound, but {why}.")
    if first.fit.coverage < HALF:
        words = f"Only {{percent:.0f}} % of the brief is known yet. So far {{name}} comes first of {{count}}{left}."
        known = first.fit.coverage * 100
        return said("little_known", words, percent=known, name=first.candidate.name, count=len(ranked))
    return said("ranked", f"{{name}} comes first of {{count}}{left}.", name=first.candidate.name, count=len(ranked))


def _view(entry: Ranked, here: Standing, links: Mapping[Node, int], *, full: bool) -> ShelfItem:
    ident, need = entry.candidate.ident, here.need
    mine = here.costs[ident]
    chosen = best_offer(mine, need.buys)
    return ShelfItem(
        gear_id=ident, name=entry.candidate.name, offers=_offers(mine) if full else [], place=entry.place,
        score=entry.score, fit=entry.fit.score, fit_best=entry.fit.best, fit_low=entry.span[0] if entry.span else None,
        fit_high=entry.span[1] if entry.span else None, coverage=entry.fit.coverage,
        price_score=entry.price_score, price_minor=entry.candidate.price_minor,
        price_text=chosen.text if chosen else "", price_about=chosen.about if chosen else "",
        price_old=chosen.old if chosen else False,
        over_minor=entry.over_minor, fine=entry.fine,
        left_text=show_price(entry.left_minor, need.currency) if entry.left_minor is not None else "",
        strengths=list(entry.strengths) if full else [], shortfalls=list(entry.shortfalls) if full else [],
        best_share=entry.best_share, ahead=entry.ahead, grounds=_grounds(ident, here, links) if full else None,
        settings=settings_of(here.items[ident], need, here.whole, here.gathered) if full else [],
        blind=here.blind.get(ident, []),
    )  # fmt: skip


def _grounds(ident: int, here: Standing, links: Mapping[Node, int]) -> Said:
    """What a place rests on: takes, flights, grade, and over how much it is compared with the first."""
    told = here.gathered
    takes, flights = told.takes.get(ident, 0), len(told.flights.get(ident, ()))
    grades = " and ".join(sorted(GRADES.get(one, one) for one in told.grades.get(ident, ())))
    measured = told.measured[ident]
    words = f"{takes} take{'s' if takes != 1 else ''} in {flights} flight{'s' if flights != 1 else ''}, {grades}"
    if measured:
        at = f"{measured} setting{'s' if measured != 1 else ''} measured with the test file"
        words = f"{words}; {at}" if takes else at
    steps = min((links[node] for node in told.evidence.nodes[ident] if node in links), default=0)
    if steps:
        words += f"; compared with the first over {steps} other{'s' if steps > 1 else ''}"
    return Said("grounds", words, {"takes": takes, "flights": flights, "links": steps, "measured": measured})


def _offers(costs: Sequence[Offer]) -> list[OfferView]:
    return [
        OfferView(kind=one.kind, price_minor=one.price_minor, text=one.text, about=one.about, old=one.old)
        for one in costs
    ]


def _link_said(name: str, link: Link | None, gathered: Gathered, items: Mapping[int, Gear]) -> Said:
    if link is None:
        return Said("not_comparable", f"{name} is not comparable yet: it never met anything that the others met.")
    flight, test = gathered.names[int(link.flight)], gathered.tests[link.cell]
    who = "a take without anything" if link.node == NOTHING else f"a take of {_node_name(link.node, gathered, items)}"
    return Said(
        "not_comparable", f"{name} is not comparable yet: {who} in “{flight}”, {test}, would link it with the others.",
        {"flight": int(link.flight), "test": int(link.cell)},
    )  # fmt: skip


def _node_name(node: str, gathered: Gathered, items: Mapping[int, Gear]) -> str:
    owner = next((ident for ident, nodes in gathered.evidence.nodes.items() if node in nodes), None)
    return items[owner].name if owner is not None and owner in items else "what was there"


def _no_rate(prices: Mapping[int, Sequence[Price]], costs: Mapping[int, Sequence[Offer]], need: Need) -> list[str]:
    """Currencies of prices that nothing leads from to the brief's: there the price of an item is not known."""
    found = {
        price.currency
        for ident, mine in prices.items()
        if best_offer(costs[ident], need.buys) is None and (price := current_price(mine)) is not None
    }
    return sorted(found - {need.currency})
