"""Choosing: all items of a kind, from all flights, or the contenders of one flight, within what can be spent."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.choose.answer import UNDECIDED, certainty_of, sentence_of
from cata.core.choose.next import Tells, next_take
from cata.core.choose.ranking import Ranked
from cata.core.choose.savings import front, savings
from cata.core.gear import Control, GearKind
from cata.core.money import exponent, show_price
from cata.core.pool.links import Link
from cata.core.pool.seen import NOTHING, Node
from cata.core.shelf.offers import Offer, best_offer
from cata.core.shelf.prices import current_price
from cata.said import Said
from cata.services.brief.briefs import meant, spendable_text
from cata.services.choice.costs import Costs, costs_of
from cata.services.choice.counting import gathered, gathered_before, gathered_of_flight, keep_ranked
from cata.services.choice.settings import settings_of
from cata.services.choice.standing import Offered, Standing, items_of, rows_of, standing_of
from cata.services.choice.telling import shown_in, where
from cata.services.choice.views import ApartView, ChoiceItem, ChoiceView, ForBrief, OfferView, SavingView
from cata.services.flights.showing import contender_views
from cata.services.match.counted import left_out_of
from cata.services.match.findings import kept_as_it_is
from cata.services.tasting.telling import blind_of
from cata.services.workspace import Workspace, require
from cata.store.database import moved
from cata.store.tables import Brief, Flight

KINDS: tuple[GearKind, ...] = ("pedal", "amplifier", "pickup", "guitar", "speaker", "microphone", "direct box")
DETAILED = 12
"""So many of a ranking are told with reasons, offers and settings; more where somebody asks."""


def kinds_to_choose(session: Session) -> list[str]:
    """Kinds of gear that were compared, the most often compared first."""
    links = Counter(session.exec(select(Flight.link)).all())
    return sorted((kind for kind in KINDS if links[kind]), key=lambda kind: (-links[kind], KINDS.index(kind)))


def stand(
    ws: Workspace, kind: str = "", brief_id: int | None = None, need: Need | None = None, *,
    flight_id: int | None = None, at_once: bool = False,
) -> Standing:  # fmt: skip
    """All items of a kind, the one most often compared where none is named, or the contenders of a flight.

    For a brief, or for another need. ``at_once``: without the newest takes, where it would take time to count them in.
    """
    if flight_id is not None:
        return _stand_in_flight(ws, flight_id, brief_id, need)
    with ws.reading() as session:
        kinds = kinds_to_choose(session)
        brief, wanted = meant(session, brief_id, need)
        kind = kind or _usual(kinds, wanted)
        before = gathered_before(ws, session, kind, wanted) if at_once else None
        told = before or gathered(ws, session, kind, wanted)
        day = ws.now()[:10]
        known: Costs = ws.answers.remember_as_of(
            ("costs", kind, wanted.currency),
            (moved(session, "shelf"), day),
            lambda: costs_of(session, kind, (), wanted, day),
        )
        blind = ws.answers.remember_as_of(("blind", kind), ws.revision(), lambda: blind_of(session, known.items))
    return standing_of(kind, wanted, items_of(known, kind, wanted), known, told, kinds=kinds, brief=brief, blind=blind,
                       of_before=bool(before))  # fmt: skip


def _stand_in_flight(ws: Workspace, flight_id: int, brief_id: int | None, need: Need | None) -> Standing:
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        brief, wanted = meant(session, brief_id if brief_id is not None else flight.brief_id, need)
        rows = contender_views(session, flight_id)
        gear = {row.gear_id for row in rows if row.gear_id is not None}
        known = costs_of(session, flight.link, gear, wanted, ws.now()[:10])
        told = gathered_of_flight(ws, session, flight, wanted)
        blind = blind_of(session, gear)
        kept, left_out = kept_as_it_is(session, flight_id), left_out_of(session, flight_id)
        kinds = kinds_to_choose(session)
    return standing_of(flight.link, wanted, rows_of(rows, known, wanted), known, told, kinds=kinds, flight=flight,
                       brief=brief, blind=blind, kept=kept, left_out=left_out)  # fmt: skip


def choose(
    ws: Workspace, kind: str = "", brief_id: int | None = None, need: Need | None = None, *,
    flight_id: int | None = None, detailed: int = DETAILED, at_once: bool = False,
) -> ChoiceView:  # fmt: skip
    """All items of a kind, or the contenders of a flight, ranked for a brief; ``need`` is tried without keeping it.

    ``at_once``: without the newest takes, where it would take time to count them in; the answer says so.
    """
    with ws.reading() as session:
        if flight_id is not None and brief_id is None:
            brief_id = require(session, Flight, flight_id).brief_id
        brief, wanted = meant(session, brief_id, need)
        kind = "" if flight_id is not None else kind or _usual(kinds_to_choose(session), wanted)
    ident = brief.id if brief is not None else None
    # Of needs that are tried, one after another, only the latest is kept: a large library's answer takes megabytes.
    key, state = (
        ("choice", kind, flight_id, ident, detailed, need is None),
        (wanted.model_dump_json(), ws.revision(), ws.now()[:10]),
    )
    here = stand(ws, kind, ident, wanted, at_once=True) if at_once and flight_id is None else None
    if here is not None and here.of_before:
        return view_of(here, detailed)

    def whole() -> ChoiceView:
        standing = here or stand(ws, kind, ident, wanted, flight_id=flight_id)
        view = view_of(standing, detailed)
        if flight_id is None:
            keep_ranked(ws, kind, wanted, standing.gathered)
        return view

    return ws.answers.remember_as_of(key, state, whole)


def _usual(kinds: Sequence[str], need: Need) -> str:
    """What a brief looks for, else what was compared most often."""
    return need.wants or (kinds[0] if kinds else "pedal")


def view_of(here: Standing, detailed: int = DETAILED) -> ChoiceView:
    """How they stand, as a page shows it; the first so many with reasons, offers, grounds and settings."""
    need, ranked, told = here.need, here.ranked, here.gathered
    played = {entry.candidate.ident for entry in ranked} | set(here.apart)
    sure, (decide, tells) = certainty_of(ranked), next_of(here)
    sentence = sentence_of(ranked, need, here.scope)
    links = told.evidence.links_from(ranked[0].candidate.ident) if ranked else {}
    sounds, tests = shown_in(told, need)
    return ChoiceView(
        kind=here.kind, kinds=list(here.kinds), flight_id=here.flight.id if here.flight else None,
        flight_name=here.flight.name if here.flight else "", brief_id=here.brief.id if here.brief else None,
        brief_name=here.brief.name if here.brief else "",
        spendable_text=spendable_text(need), sentence=sentence.words, code=sentence.code,
        certainty=sure.words, certainty_code=sure.code, decide=decide.words if decide else "",
        next_take=where(told, tells) if tells is not None else None,
        ranked=[_placed(entry, here, links, full=entry.place <= detailed) for entry in ranked],
        apart=[ApartView(ident=ident, name=here.offered[ident].name, said=_link_said(here, ident, link),
                         flight_id=int(link.flight) if link is not None else None)
               for ident, link in sorted(here.apart.items())],
        not_played=[ChoiceItem(**_named(one)) for ident, one in here.offered.items() if ident not in played],
        savings=[SavingView(dearer=one.dearer, cheaper=one.cheaper, saved_minor=one.saved_minor, steps=one.steps,
                            per_step_text=show_price(one.per_step_minor, need.currency) if one.per_step_minor else "",
                            said=one.told) for one in savings(need, ranked)],
        front=[entry.candidate.ident for entry in front(ranked)],
        no_rate=_no_rate(here.known, here.offered.values(), need), sounds=sounds, tests=tests,
        currency=need.currency, decimals=exponent(need.currency), spendable_minor=need.spendable_minor,
        kept=list(here.kept), left_out=list(here.left_out), of_before=here.of_before,
    )  # fmt: skip


def for_every_brief(ws: Workspace, kind: str = "") -> list[ForBrief]:
    """What a shop's customers should have: the first of a kind for each brief."""
    with ws.reading() as session:
        briefs = {brief.id or 0: brief.name for brief in session.exec(select(Brief).order_by(col(Brief.id))).all()}
    found = []
    for ident, name in briefs.items():
        choice = choose(ws, kind, ident)
        found.append(ForBrief(brief_id=ident, brief_name=name, sentence=choice.sentence, certainty=choice.certainty,
                              certainty_code=choice.certainty_code, spendable_text=choice.spendable_text,
                              first=choice.ranked[0] if choice.ranked else None))  # fmt: skip
    return found


def next_of(here: Standing) -> tuple[Said | None, Tells | None]:
    """The take that would tell most, where the first place is not clear."""
    if certainty_of(here.ranked).code not in UNDECIDED:
        return None, None
    return next_take(here.need, here.whole, here.ranked)


def _named(one: Offered) -> dict[str, Any]:
    """What is shown of something to choose, whatever is known of how it sounds."""
    price, row = one.price, one.row
    return {
        "ident": one.ident, "name": one.name, "gear_id": one.item.id if one.item is not None else None,
        "contender_id": row.id if row else None, "letter": row.letter if row else "",
        "colour": row.colour if row else 0, "offers": _offers(one.offers),
        "price_minor": price.minor if price else None, "price_text": price.text if price else "",
        "price_about": price.about if price else "", "price_old": price.old if price else False,
    }  # fmt: skip


def _placed(entry: Ranked, here: Standing, links: Mapping[Node, int], *, full: bool) -> ChoiceItem:
    ident, need = entry.candidate.ident, here.need
    one = here.offered[ident]
    controls = [Control.model_validate(raw) for raw in one.item.controls] if one.item is not None else []
    return ChoiceItem(
        **_named(one) | ({} if full else {"offers": []}), place=entry.place,
        score=entry.score, fit=entry.fit.score, fit_best=entry.fit.best, fit_low=entry.span[0] if entry.span else None,
        fit_high=entry.span[1] if entry.span else None, coverage=entry.fit.coverage,
        price_score=entry.price_score, over_minor=entry.over_minor, fine=entry.fine,
        left_text=show_price(entry.left_minor, need.currency) if entry.left_minor is not None else "",
        strengths=list(entry.strengths) if full else [], shortfalls=list(entry.shortfalls) if full else [],
        best_share=entry.best_share, ahead=entry.ahead, grounds=_grounds(ident, here, links) if full else None,
        settings=settings_of(ident, controls, need, here.whole, here.gathered) if full else [],
        blind=here.blind.get(one.item.id or 0, []) if one.item is not None else [],
    )  # fmt: skip


def _grounds(ident: int, here: Standing, links: Mapping[Node, int]) -> Said:
    """What a place rests on: takes, flights, grade, and over how much it is compared with the first."""
    told = here.gathered
    takes, flights = told.takes.get(ident, 0), len(told.flights.get(ident, ()))
    grades = " and ".join(sorted(told.grades.get(ident, ())))
    measured = told.measured[ident]
    words = f"{takes} take{'s' if takes != 1 else ''} in {flights} flight{'s' if flights != 1 else ''}, {grades}"
    if measured:
        at = f"{measured} setting{'s' if measured != 1 else ''} measured with the test file"
        words = f"{words}; {at}" if takes else at
    steps = min((links[node] for node in told.evidence.nodes.get(ident, ()) if node in links), default=0)
    if steps:
        words += f"; compared with the first over {steps} other{'s' if steps > 1 else ''}"
    return Said("grounds", words, {"takes": takes, "flights": flights, "links": steps, "measured": measured})


def _offers(costs: Sequence[Offer]) -> list[OfferView]:
    return [
        OfferView(kind=one.kind, price_minor=one.price_minor, text=one.text, about=one.about, old=one.old)
        for one in costs
    ]


def _link_said(here: Standing, ident: int, link: Link | None) -> Said:
    name, told = here.offered[ident].name, here.gathered
    if link is None:
        return Said("not_comparable", f"{name} is not comparable yet: it never met anything that the others met.")
    flight, test = told.names[int(link.flight)], told.tests[int(link.cell)].name
    who = "a take without anything" if link.node == NOTHING else f"a take of {_node_name(here, link.node)}"
    return Said(
        "not_comparable", f"{name} is not comparable yet: {who} in “{flight}”, {test}, would link it with the others.",
        {"flight": int(link.flight), "test": int(link.cell)},
    )  # fmt: skip


def _node_name(here: Standing, node: str) -> str:
    nodes = here.gathered.evidence.nodes
    owner = next((ident for ident, mine in nodes.items() if node in mine), None)
    return here.offered[owner].name if owner is not None and owner in here.offered else "what was there"


def _no_rate(known: Costs, offered: Iterable[Offered], need: Need) -> list[str]:
    """Currencies of prices that nothing leads from to the brief's: there the price of an item is not known."""
    found = {
        price.currency
        for one in offered
        if one.item is not None and best_offer(one.offers, need.buys) is None
        and (price := current_price(known.prices.get(one.item.id or 0, ()))) is not None
    }  # fmt: skip
    own = {one.row.currency for one in offered if one.row is not None and one.row.own_price and one.price is None}
    return sorted((found | own) - {need.currency})
