"""Choosing: the contenders of a flight ranked for a need."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlmodel import Session, select

from cata.core.brief import Need
from cata.core.choose.checks import Noted, checks, wishes
from cata.core.choose.flight import Shelf
from cata.core.choose.next import next_take
from cata.core.choose.ranking import Candidate, Flown, Ranked, rank, shelf_of
from cata.core.choose.takes import Scatter, TakeReadings, Test
from cata.core.comparison import usual_sd
from cata.core.measure.of_flights import STROKES
from cata.core.measure.results import Results
from cata.core.money import show_price
from cata.core.names import nearest
from cata.said import Said, said
from cata.services.brief.briefs import spendable_text
from cata.services.brief.needs import need_of
from cata.services.choice.costs import Costs, costs_of
from cata.services.choice.views import ChoiceView, RankedView, SoundTests, UnplayedView
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.match.counted import counted, left_out_of
from cata.services.match.findings import kept_as_it_is
from cata.services.match.repeating import flight_repeats
from cata.services.takes.rows import placed_takes
from cata.services.workspace import Workspace, require
from cata.store.tables import Brief, Flight, Gear
from cata.store.tables import Test as Column

CLEAR, LIKELY = 0.95, 0.8
HALF = 0.5
"""Of what a brief weighs: where less is known of the first, the headline says that before anything else."""
UNDECIDED = ("likely", "open", "little_known")
"""Where one more take may change who is first."""
CAN_BE_OFF = ("pedal",)
"""Kinds of gear that a player turns off where they do not help."""
TRIES = "first in {of_100:.0f} of 100 tries in which every reading was moved by as much as it may be off."


def candidates(
    session: Session, flight: Flight, tests: list[Column], contenders: list[ContenderView], need: Need, costs: Costs
) -> list[Candidate]:
    """The contenders with the readings of their takes; a price in another currency counts where a rate leads to it."""
    takes: dict[int, list[TakeReadings]] = {contender.id: [] for contender in contenders}
    names = _names(tests)
    placed = [pair for test in tests for pair in placed_takes(session, test.id or 0)]
    sounds = {test.id: test.sound for test in tests}
    for take, contender, results in counted(session, placed):
        takes[contender.id or 0].append(_readings(names[take.test_id or 0], sounds[take.test_id], results))
    return [
        Candidate(
            ident=one.id,
            name=one.name,
            price_minor=costs.of_contender(one, need),
            takes=tuple(takes[one.id]),
            is_bypass=one.is_bypass,
            checks=checks(need, noted := _noted(costs.items.get(one.gear_id or 0), flight.link)),
            wishes=wishes(need, noted),
            feel=feel.score if (feel := need.feel.get(one.gear_id or 0)) is not None else None,
        )
        for one in contenders
    ]


def sound_tests(need: Need, tests: list[Column]) -> list[SoundTests]:
    """Which tests stand for each sound of a need, and which might by their names."""
    free = [test for test in tests if not test.sound]
    names = [sound.name for sound in need.sounds]
    meant = {test.id: nearest(test.name, names) for test in free}
    found = []
    for index, sound in enumerate(need.sounds):
        own = [test for test in tests if test.sound == sound.key]
        proposed = next((test for test in free if meant[test.id] == index), None) if not own else None
        found.append(
            SoundTests(
                key=sound.key,
                name=sound.name,
                test_ids=[test.id or 0 for test in own or free],
                tests=[test.name for test in own or free],
                given=bool(own),
                proposed_id=proposed.id if proposed else None,
                proposed=proposed.name if proposed else "",
            )
        )
    return found


def _names(tests: list[Column]) -> dict[int, str]:
    """What each test is called; those that are called alike by their number in the flight too."""
    all_names = [test.name for test in tests]
    return {
        test.id or 0: test.name if all_names.count(test.name) == 1 else f"{test.name} ({number})"
        for number, test in enumerate(tests, start=1)
    }


def _readings(test: str, sound: str, results: Results) -> TakeReadings:
    values = {key: value for key, value in results.numbers().items() if not key.startswith(STROKES.key)}
    return TakeReadings(
        test,
        sound,
        values,
        bands={key: band for key in values if (band := results.bands.get(key.partition(".")[0])) is not None},
        bounds={key: bound for key in values if (bound := results[key.partition(".")[0]].bound) is not None},
        scatter={key: sd for key in values if (sd := usual_sd(key, [results])) is not None},
    )


def _noted(item: Gear | None, kind: str) -> Noted:
    return Noted(kind) if item is None else Noted(item.kind, item.name, item.about, item.specs)


def flown(session: Session, flight: Flight, tests: list[Column], need: Need, costs: Costs) -> Flown:
    """What a flight adds to its contenders: tests, repeatability, and what the shelf's items of its kind cost."""
    names = _names(tests)
    repeats = flight_repeats(session, flight.id or 0).bands
    return Flown(
        tests=tuple(Test(names[test.id or 0], test.sound) for test in tests),
        scatter={key: Scatter(one.sd, one.freedom) for key, one in repeats.items()},
        prices_minor=costs.usual(flight.link, need),
        can_be_off=flight.link in CAN_BE_OFF,
    )


def _brief_of(session: Session, flight: Flight) -> Brief | None:
    """The brief a flight stands for: its own, else the oldest."""
    return session.get(Brief, flight.brief_id) if flight.brief_id else session.exec(select(Brief)).first()


@dataclass(frozen=True)
class Compared:
    """The contenders of a flight as they stand for a need."""

    flight: Flight
    brief: Brief | None
    need: Need
    contenders: Sequence[ContenderView]
    tests: Sequence[Column]
    standing: Sequence[Candidate]
    about: Flown
    ranked: Sequence[Ranked]
    kept: Sequence[Said]
    left_out: Sequence[Said]

    @property
    def ground(self) -> Shelf:
        """What fits and chances stand on."""
        return shelf_of(self.standing, self.about)


def compare(ws: Workspace, flight_id: int, need: Need | None = None, *, brief: int | None = None) -> Compared:
    """The contenders of a flight for its brief, for another ``brief``, or for a ``need`` that is not kept."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        meant = require(session, Brief, brief) if brief is not None else _brief_of(session, flight)
        wanted = need or (need_of(session, meant) if meant is not None else Need())
        contenders = contender_views(session, flight_id)
        tests = list(tests_of(session, flight_id))
        costs = costs_of(session, flight.link, (one.gear_id or 0 for one in contenders), wanted, ws.now())
        standing = candidates(session, flight, tests, contenders, wanted, costs)
        about = flown(session, flight, tests, wanted, costs)
        kept, left_out = kept_as_it_is(session, flight_id), left_out_of(session, flight_id)
    ranked = rank(wanted, standing, about)
    return Compared(flight, meant, wanted, contenders, tests, standing, about, ranked, kept, left_out)


def choose(ws: Workspace, flight_id: int, need: Need | None = None, *, brief: int | None = None) -> ChoiceView:
    """The ranking of a flight as a page shows it."""
    return view_of(compare(ws, flight_id, need, brief=brief))


def view_of(here: Compared) -> ChoiceView:
    """How contenders stand, as a page shows it."""
    need, ranked, contenders = here.need, here.ranked, here.contenders
    by_id = {contender.id: contender for contender in contenders}
    verdict, sure = _verdict(ranked, here.standing, need), certainty_of(ranked)
    decide = next_take(need, here.ground, ranked)[0] if sure.code in UNDECIDED else None
    seen = {entry.candidate.ident for entry in ranked}
    return ChoiceView(
        flight_id=here.flight.id or 0,
        flight_name=here.flight.name,
        ranked=[_view(entry, by_id[entry.candidate.ident], need) for entry in ranked],
        unplayed=[
            UnplayedView(contender_id=one.id, name=one.name, letter=one.letter, colour=one.colour,
                         price_text=one.price_text)
            for one in contenders
            if one.id not in seen and not one.is_bypass
        ],
        sentence=verdict.words,
        code=verdict.code,
        certainty=sure.words,
        certainty_code=sure.code,
        decide=decide.words if decide else "",
        spendable_text=spendable_text(need),
        kept=list(here.kept),
        left_out=list(here.left_out),
        sounds=sound_tests(need, list(here.tests)),
    )  # fmt: skip


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
        fit_best=entry.fit.best,
        coverage=entry.fit.coverage,
        price_score=entry.price_score,
        price_text=contender.price_text,
        price_minor=entry.candidate.price_minor,
        over_minor=entry.over_minor,
        left_text=left,
        fine=entry.fine,
        strengths=list(entry.strengths),
        shortfalls=list(entry.shortfalls),
        best_share=entry.best_share,
        ahead=entry.ahead,
        fit_low=entry.span[0] if entry.span else None,
        fit_high=entry.span[1] if entry.span else None,
    )


def _verdict(ranked: Sequence[Ranked], standing: Sequence[Candidate], need: Need) -> Said:
    if all(one.is_bypass for one in standing):
        return Said("no_contenders", "No contenders yet.")
    if not need.sounds:
        return Said("no_sounds", "The brief names no sounds yet, so only prices can be compared.")
    if not ranked:
        return Said("no_readings", "No take has readings yet.")
    best = ranked[0]
    if all(entry.over_minor for entry in ranked):
        return Said("all_over_budget", "Every contender costs more than can be spent.")
    left = f" and leaves {show_price(best.left_minor, need.currency)}" if best.left_minor is not None else ""
    if not best.fine:
        unknown = best.candidate.price_minor is None and need.spendable_minor is not None
        why = "its price is not known" if unknown else "not all that must be is known to be so"
        return Said("ranked_with_doubt", f"{best.candidate.name} comes first by sound, but {why}.")
    if best.fit.coverage < HALF:
        words = "Only {percent:.0f} % of the brief is known yet. So far {name} comes first{left}."
        return said("little_known", words, percent=best.fit.coverage * 100, name=best.candidate.name, left=left)
    return Said("ranked", f"{best.candidate.name} comes first{left}.")


def certainty_of(ranked: Sequence[Ranked]) -> Said:
    """How sure the first place is, in words."""
    if not ranked:
        return Said("", "")
    able = [entry for entry in ranked if entry.fine == ranked[0].fine]
    if not able or not ranked[0].fit.coverage:
        return Said("", "")
    if len(able) == 1:
        return Said("only", "It is the only one that can be judged within the budget.")
    first = able[0]
    if first.fit.coverage < HALF:
        return said("little_known", "More takes may change the order.", percent=first.fit.coverage * 100)
    numbers = {"of_100": first.best_share * 100}
    if first.best_share >= CLEAR:
        return said("clear", f"Clear: {TRIES}", **numbers)
    if first.best_share >= LIKELY:
        return said("likely", f"Likely: {TRIES}", **numbers)
    level = [entry.candidate.name for entry in able[1:] if entry.ahead < LIKELY]
    told = f"{', '.join(level[:3])}{' and others' if len(level) > 3 else ''} may be just as good. " if level else ""
    return Said("open", f"Open: {told}Let your ears decide.", numbers)
