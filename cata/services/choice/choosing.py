"""Choosing: the contenders of a flight ranked for a need."""

from __future__ import annotations

from sqlmodel import Session, select

from cata.core.brief import Need
from cata.core.choose.fit import TakeReadings
from cata.core.choose.ranking import Candidate, Ranked, rank
from cata.core.money import show_price
from cata.said import Said, said
from cata.services.choice.briefs import spendable_text
from cata.services.choice.views import ChoiceView, RankedView
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Brief, Flight

CLEAR, LIKELY = 0.9, 0.6


def candidates(session: Session, flight_id: int, contenders: list[ContenderView], currency: str) -> list[Candidate]:
    """The contenders with the readings of their takes; prices in another currency count as unknown."""
    takes: dict[int, list[TakeReadings]] = {contender.id: [] for contender in contenders}
    for test in tests_of(session, flight_id):
        placed = placed_takes(session, test.id or 0)
        readings = readings_of(session, [take.id or 0 for take, _ in placed])
        for take, contender in placed:
            takes[contender.id or 0].append(TakeReadings(test.name, test.sound, readings[take.id or 0].numbers()))
    return [
        Candidate(
            ident=one.id,
            name=one.name,
            price_minor=one.price_minor if one.currency == currency else None,
            takes=tuple(takes[one.id]),
            is_bypass=one.is_bypass,
        )
        for one in contenders
    ]


def need_of(session: Session, flight: Flight) -> Need:
    """The need a flight stands for: that of its brief, else of the oldest brief, else none."""
    brief = session.get(Brief, flight.brief_id) if flight.brief_id else session.exec(select(Brief)).first()
    return Need.model_validate(brief.need) if brief is not None else Need()


def choose(ws: Workspace, flight_id: int, need: Need | None = None) -> ChoiceView:
    """The ranking; ``need`` tries another need without keeping it."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        wanted = need if need is not None else need_of(session, flight)
        contenders = contender_views(session, flight_id)
        ranked = rank(wanted, candidates(session, flight_id, contenders, wanted.currency))
    by_id = {contender.id: contender for contender in contenders}
    verdict, certainty = _verdict(ranked, wanted), _certainty(ranked)
    return ChoiceView(
        flight_id=flight_id,
        flight_name=flight.name,
        ranked=[_view(entry, by_id[entry.candidate.ident], wanted) for entry in ranked],
        sentence=verdict.words,
        code=verdict.code,
        certainty=certainty.words,
        certainty_code=certainty.code,
        spendable_text=spendable_text(wanted),
    )


def _view(entry: Ranked, contender: ContenderView, need: Need) -> RankedView:
    left = "" if entry.left_minor is None else show_price(entry.left_minor, need.currency)
    return RankedView(
        place=entry.place,
        contender_id=contender.id,
        name=contender.name,
        letter=contender.letter,
        colour=contender.colour,
        score=entry.score,
        fit=entry.fit.score,
        coverage=entry.fit.coverage,
        price_score=entry.price_score,
        price_text=contender.price_text,
        price_minor=entry.candidate.price_minor,
        over_minor=entry.over_minor,
        left_text=left,
        strengths=list(entry.strengths),
        shortfalls=list(entry.shortfalls),
        best_share=entry.best_share,
    )


def _verdict(ranked: list[Ranked], need: Need) -> Said:
    able = [entry for entry in ranked if entry.score is not None and not entry.over_minor]
    if not ranked:
        return Said("no_contenders", "No contenders yet.")
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so only prices can be compared.")
    if not able:
        if all(entry.over_minor for entry in ranked):
            return Said("all_over_budget", "Every contender costs more than can be spent.")
        return Said("no_readings", "No take has readings yet.")
    best = able[0]
    left = f" and leaves {show_price(best.left_minor, need.currency)}" if best.left_minor is not None else ""
    return Said("ranked", f"{best.candidate.name} comes first{left}.")


def _certainty(ranked: list[Ranked]) -> Said:
    able = sorted((e for e in ranked if e.score is not None and not e.over_minor), key=lambda e: -e.best_share)
    if not able:
        return Said("", "")
    share = able[0].best_share
    if len(able) == 1:
        return Said("only", "It is the only one that can be judged within the budget.")
    if share >= CLEAR:
        return said("clear", "Clear: first in {of_100:.0f} of 100 draws within what the readings can be off.",
                    of_100=share * 100)  # fmt: skip
    code, word = ("likely", "Likely") if share >= LIKELY else ("open", "Open")
    return Said(
        code,
        f"{word}: {able[0].candidate.name} is first in {share * 100:.0f} of 100 draws, "
        f"{able[1].candidate.name} in {able[1].best_share * 100:.0f}. Let your ears decide.",
        {"of_100": share * 100},
    )
