"""The reveal: what stood in the glasses, what answers come to, and what that says beside prices."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlmodel import Session

from cata.core.money import exponent, show_price
from cata.core.taste import identify, prefer, rate
from cata.core.taste.against_price import name_costs, not_heard
from cata.core.taste.identify import Identified
from cata.core.taste.rounds import Given, Round, choices, identified, ratings
from cata.core.vocabulary.leaning import HEARD_STEPS
from cata.core.vocabulary.notes import words_in
from cata.errors import Conflict
from cata.said import Said, said
from cata.services.tasting.table import clear
from cata.services.tasting.tastings import answers_of, given, glasses_of, rounds_of, tasters_of, view_of
from cata.services.tasting.views import GlassWas, Revealed, RoundWas, Row, WordHeard
from cata.services.vocabulary.scoring import laid_out, leanings
from cata.services.workspace import Workspace, require
from cata.store.tables import Glass, Take, Tasting

NOBODY = Said("nobody", "Nobody answered this round.")
NOTHING_TOLD = "No word of the notes can be held against what was measured."


def reveal(ws: Workspace, tasting_id: int) -> Revealed:
    """End a tasting and say what was in the glasses. After this nobody can answer."""
    # What was seen cannot be unseen: this is no action that could be undone.
    with ws.writing() as session:
        row = require(session, Tasting, tasting_id)
        if not row.revealed_at:
            row.revealed_at = ws.now()
            session.add(row)
            _keep_measured(session, row)
    clear(ws, row)
    ws.changed("Reveal a tasting")
    return get_revealed(ws, tasting_id)


def get_revealed(ws: Workspace, tasting_id: int) -> Revealed:
    """What a tasting came to. Conflict before the reveal."""
    with ws.reading() as session:
        heard = heard_of(session, tasting_id)
        rounds = [round_of(heard, at) for at in range(len(heard.rounds))]
        currency, decimals = heard.money
        return Revealed(tasting=view_of(session, heard.row), currency=currency, decimals=decimals, rounds=rounds)


@dataclass(frozen=True)
class Heard:
    """A revealed tasting with all that was answered; glasses by their place."""

    row: Tasting
    rounds: Sequence[Round]
    glasses: Sequence[Glass]
    answers: Mapping[str, Sequence[Given]]
    measured: Sequence[Mapping[str, float]]

    @property
    def names(self) -> dict[int, str]:
        """What was poured."""
        return {glass.place: glass.name for glass in self.glasses}

    @property
    def money(self) -> tuple[str, int]:
        """The currency that most of them are priced in, with its decimals."""
        priced = [glass.currency for glass in self.glasses if glass.price_minor]
        currency = max(priced, key=priced.count) if priced else "EUR"
        return currency, exponent(currency)

    @property
    def prices_minor(self) -> dict[int, int]:
        """What those cost that are priced in that currency."""
        currency, _ = self.money
        return {
            glass.place: glass.price_minor for glass in self.glasses
            if glass.price_minor is not None and glass.currency == currency
        }  # fmt: skip

    def of_round(self, at: int) -> dict[str, list[Given]]:
        """What was answered in a round, by taster; only those who answered."""
        found = {name: [one for one in mine if one.round == at] for name, mine in self.answers.items()}
        return {name: mine for name, mine in found.items() if mine}


def heard_of(session: Session, tasting_id: int) -> Heard:
    """A revealed tasting. Conflict before the reveal."""
    row = require(session, Tasting, tasting_id)
    if not row.revealed_at:
        raise Conflict("this tasting is not revealed yet", "not_revealed")
    tasters = tasters_of(session, tasting_id)
    answers, glasses = answers_of(session, tasters), glasses_of(session, row)
    kept = [glass.measured for glass in glasses]
    measured = [one or {} for one in kept] if any(one is not None for one in kept) else _measured(session, row, glasses)
    by_name = {one.name: given(answers[one.id or 0]) for one in tasters}
    return Heard(row, rounds_of(row), glasses, by_name, measured)


def _measured(session: Session, row: Tasting, glasses: Sequence[Glass]) -> list[dict[str, float]]:
    """How much of each word that tasters used is in the takes that were poured, as far as they are there."""
    answers = answers_of(session, tasters_of(session, row.id or 0))
    words = {word for mine in answers.values() for one in mine for text in one.what.get("notes", {}).values()
             for word, _ in words_in(text)}  # fmt: skip
    if row.test_id is None or not words:
        return [{} for _ in glasses]
    laid = laid_out(session, row.test_id)
    digests = {ident: session.get_one(Take, take).digest for ident, take in laid.takes.items()}
    scores = {word: leanings(laid, word) for word in sorted(words)}
    return [
        {word: found[glass.contender_id].steps for word, found in scores.items() if glass.contender_id in found}
        if digests.get(glass.contender_id or 0) == glass.digest else {}
        for glass in glasses
    ]  # fmt: skip


def _keep_measured(session: Session, row: Tasting) -> None:
    """Keep what is measured at the reveal: what the tasting says stays true when takes change."""
    glasses = glasses_of(session, row)
    for glass, measured in zip(glasses, _measured(session, row, glasses), strict=True):
        glass.measured = measured
        session.add(glass)


def round_of(heard: Heard, at: int) -> RoundWas:
    """What a round came to."""
    plan, mine = heard.rounds[at], heard.of_round(at)
    glasses = [_glass(heard, one) for one in plan.of]
    if not mine:
        return RoundWas(kind=plan.kind, said=NOBODY, glasses=glasses)
    worked = {"identify": _identified, "prefer": _preferred, "rate": _rated, "notes": _noted}[plan.kind]
    return worked(heard, plan, mine, glasses)


def _glass(heard: Heard, at: int) -> GlassWas:
    glass = heard.glasses[at]
    price_text = "" if glass.price_minor is None else show_price(glass.price_minor, glass.currency)
    return GlassWas(contender_id=glass.contender_id or 0, gear_id=glass.gear_id, name=glass.name, letter=glass.letter,
                    colour=glass.colour, price_minor=glass.price_minor, price_text=price_text)  # fmt: skip


def _identified(heard: Heard, plan: Round, mine: dict[str, list[Given]], glasses: list[GlassWas]) -> RoundWas:
    first, second = (heard.names[one] for one in plan.of)
    by_taster = {name: identified(plan, answers) for name, answers in mine.items()}
    alone = {name: identify.told(one, first, second) for name, one in by_taster.items()}
    if len(by_taster) == 1:
        whole, told = next(iter(by_taster.values())), next(iter(alone.values()))
    else:
        whole = Identified(*(sum(getattr(one, key) for one in by_taster.values()) for key in ("right", "made", "of")))
        told = identify.told_of_several(by_taster, first, second)
    bought = not_heard(whole, plan.of, heard.names, heard.prices_minor, heard.money[0])
    more = [bought] if bought is not None and told.code == "not_told_apart" else []
    each = [Said(one.code, f"{name}: {one.words}", one.numbers) for name, one in alone.items()]
    return RoundWas(kind=plan.kind, said=told, more=more, by_taster=each if len(each) > 1 else [], glasses=glasses)


def _preferred(heard: Heard, plan: Round, mine: dict[str, list[Given]], glasses: list[GlassWas]) -> RoundWas:
    by_taster = {name: choices(answers) for name, answers in mine.items()}
    everything = [one for answers in by_taster.values() for one in answers]
    if not everything:
        return RoundWas(kind=plan.kind, said=NOBODY, glasses=glasses)
    now, names = prefer.liked(plan.of, everything), heard.names
    more = name_costs(now, names, heard.prices_minor, heard.money[0])
    for a, b, c in prefer.circular(plan.of, everything):
        more.append(said("circular", "In a circle: {a} over {b}, {b} over {c}, {c} over {a}. The order among them is "
                         "not to be trusted.", a=names[a], b=names[b], c=names[c]))  # fmt: skip
    ties = sum(one.tie for one in everything)
    if ties:
        more.append(said("ties", "{ties} of {all} times neither was preferred.", ties=ties, all=len(everything)))
    same, of = prefer.agreement(list(by_taster.values()))
    if of:
        more.append(
            said("agreement", "Tasters agree in {same} of {of} comparisons of the same pair.", same=same, of=of)
        )
    for one, glass in zip(plan.of, glasses, strict=True):
        glass.first, (glass.best, glass.worst) = now.first(one), now.spans[one]
        glass.asked = sum(one in (pair.first, pair.second) for pair in everything)
        glass.chosen = sum(pair.preferred == one for pair in everything)
    order = [plan.of.index(one) for one in now.order]
    each = []
    for name, answers in by_taster.items():
        told = prefer.told(prefer.liked(plan.of, answers), names, len(answers)) if answers else NOBODY
        each.append(Said(told.code, f"{name}: {told.words}", told.numbers))
    return RoundWas(kind=plan.kind, said=prefer.told(now, names, len(everything)), more=more,
                    by_taster=each if len(each) > 1 else [], glasses=[glasses[at] for at in order])  # fmt: skip


def _rated(heard: Heard, plan: Round, mine: dict[str, list[Given]], glasses: list[GlassWas]) -> RoundWas:
    given_points = [one for name, answers in mine.items() for one in ratings(name, answers)]
    if not given_points:
        return RoundWas(kind=plan.kind, said=NOBODY, glasses=glasses)
    others = [one for one in plan.of if one != plan.reference]
    reference = heard.names[plan.reference or 0]
    for near in rate.nearness(given_points, others):
        glass = glasses[plan.of.index(near.ident)]
        glass.points, glass.below, glass.band = near.points, near.below, near.band
    each = []
    for name in mine:
        own = [one for one in given_points if one.taster == name]
        if not own:
            continue
        why, found = rate.why_not_counted(own), rate.told_of_reference(own)
        told = Said(found.code, f"{name} {found.words}.", found.numbers)
        each.append(told if why is None else Said(why.code, f"{name} is not counted: {why.words}.", why.numbers))
    ordered = sorted(glasses, key=lambda glass: -(glass.points if glass.points is not None else -1.0))
    return RoundWas(kind=plan.kind, said=rate.told(given_points, others, heard.names, reference), by_taster=each,
                    glasses=ordered)  # fmt: skip


def _noted(heard: Heard, plan: Round, mine: dict[str, list[Given]], glasses: list[GlassWas]) -> RoundWas:
    agreed = of = 0
    counts: dict[int, Counter[str]] = {at: Counter() for at in range(len(glasses))}
    for name, answers in mine.items():
        for one in answers:
            for key, text in one.what.get("notes", {}).items():
                if text.strip():
                    at = plan.of.index(int(key))
                    glasses[at].notes.append(f"{name}: {text.strip()}")
                    for word, sign in words_in(text):
                        counts[at][word] += sign
    for at, glass in enumerate(glasses):
        for word, times in counts[at].most_common():
            measured = heard.measured[plan.of[at]].get(word)
            glass.words.append(WordHeard(word=word, said=times, measured=measured))
            if times and measured is not None and abs(measured) >= HEARD_STEPS / 2:
                of += 1
                agreed += (times > 0) == (measured > 0)
    words = "Of {of} words that readings can tell, {agreed} agree with what was measured." if of else NOTHING_TOLD
    return RoundWas(kind=plan.kind, said=said("noted", words, of=of, agreed=agreed), glasses=glasses)


def rows_of(ws: Workspace, tasting_id: int) -> list[Row]:
    """Every answer with its time, as a table. Conflict before the reveal."""
    with ws.reading() as session:
        heard = heard_of(session, tasting_id)
        answers = {one.name: answers_of(session, [one])[one.id or 0] for one in tasters_of(session, tasting_id)}
    found = []
    for name, mine in answers.items():
        for one in mine:
            plan = heard.rounds[one.round]
            asked = ", ".join(heard.names[at] for at in _asked(plan, one.what))
            found.append(Row(taster=name, round=one.round + 1, kind=plan.kind, trial=one.trial + 1, asked=asked,
                             answer=_in_words(one.what, heard.names), at=one.at))  # fmt: skip
    return found


def _asked(plan: Round, what: Mapping[str, object]) -> list[int]:
    return [int(str(what[key])) for key in ("first", "second")] if "first" in what else plan.of


def _in_words(what: Mapping[str, object], names: Mapping[int, str]) -> str:
    if "right" in what:
        return "right" if what["right"] else "wrong"
    if "first" in what:
        return "neither" if what["preferred"] is None else names[int(str(what["preferred"]))]
    if what.get("enough"):
        return "enough"
    hidden = {rate.REFERENCE: "hidden reference", rate.ANCHOR: "dulled reference", rate.MILD: "mildly dulled reference"}
    given_to = what.get("points") or what.get("notes") or {}
    assert isinstance(given_to, dict)
    return "; ".join(f"{hidden.get(int(key)) or names[int(key)]}: {value}" for key, value in given_to.items())
