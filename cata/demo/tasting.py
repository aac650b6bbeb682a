"""The demo's finished tasting: two made-up tasters answer what the rounds ask, by their likings and some chance."""

from __future__ import annotations

from math import exp
from typing import Any

from sqlmodel import Session, col, select

from cata.core.taste.pouring import chance_of
from cata.core.taste.rounds import Given, Round, Trial, kept, trial_of
from cata.services.tasting.tastings import set_glasses
from cata.store.tables import Answer, Contender, Take, Taster, Tasting, Test

SEED = "made up"
TEST = "Lead line"
LIKINGS = {"Elder ear": (2.2, 1.0, -0.8, -1.6), "Younger ear": (1.8, 1.4, -0.2, -2.0)}
"""How much each taster likes the four drives, in the order of the flight."""
NOTES = ("warm, sustaining", "clear, dynamic", "gritty, not tight", "fuzzy, boomy")


def taste(session: Session, flight_id: int, now: str) -> None:
    """Lay a revealed tasting of a flight's drives, inside a transaction."""
    test = session.exec(select(Test).where(Test.flight_id == flight_id, Test.name == TEST)).one()
    statement = (
        select(Contender, Take).join(Take, col(Take.contender_id) == Contender.id)
        .where(Take.test_id == test.id, Contender.is_bypass == False)  # noqa: E712
        .order_by(col(Contender.position))
    )  # fmt: skip
    poured = session.exec(statement).all()
    everything = list(range(len(poured)))
    rounds = [Round(kind="prefer", of=everything), Round(kind="notes", of=everything)]
    tasting = Tasting(
        flight_id=flight_id, test_id=test.id or 0, name="Four drives, one melody", seed=SEED, created_at=now,
        test=test.name, rounds=[one.model_dump() for one in rounds], revealed_at=now,
    )  # fmt: skip
    session.add(tasting)
    session.flush()
    # Nothing is read yet: of a tasting that is over nobody pours.
    set_glasses(session, tasting, [(take.id or 0, 0.0, 0.0) for _, take in poured])
    for number, (name, likings) in enumerate(LIKINGS.items()):
        taster = Taster(tasting_id=tasting.id or 0, number=number, name=name, created_at=now)
        session.add(taster)
        session.flush()
        answers: list[Given] = []
        while (trial := trial_of(rounds, SEED, number, answers)) is not None:
            what = kept(trial, _said(trial, likings, number))
            answers.append(Given(trial.round, trial.number - 1, what))
            session.add(Answer(taster_id=taster.id or 0, round=trial.round, trial=trial.number - 1, what=what, at=now))


def _said(trial: Trial, likings: tuple[float, ...], taster: int) -> dict[str, Any]:
    if trial.kind == "notes":
        return {"notes": {glass.label: NOTES[glass.holds] for glass in trial.glasses}}
    first, second = trial.glasses
    more = 1 / (1 + exp(likings[second.holds] - likings[first.holds]))
    chance = chance_of(SEED, "answer", taster, trial.round, trial.number)
    return {"glass": (first if chance.random() < more else second).label}
