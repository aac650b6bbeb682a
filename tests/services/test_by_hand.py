"""Lining up by hand: kept with undo, used wherever takes are heard, forgotten where it no longer holds."""

from __future__ import annotations

import pytest

from cata.errors import Conflict, Invalid, NotFound
from cata.services.background import runner_for
from cata.services.listen import tray
from cata.services.match import findings, lags
from cata.services.standing import flight as standing
from cata.services.takes import placing
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace
from cata.store.tables import Finding
from tests.services.test_flow import afternoon, data_dir, imported

__all__ = ["afternoon", "data_dir", "imported"]


def lying(ws: Workspace, flight: int, take_id: int) -> tuple[float, bool]:
    test = next(t.test_id for t in standing.get_flight(ws, flight).takes if t.id == take_id)
    one = next(t for t in tray.get_tray(ws, flight, test or 0).takes if t.take_id == take_id)
    return one.lag_s, one.by_hand


def two_takes(ws: Workspace, flight: int) -> tuple[int, int]:
    """The reference of the first test and a take that is held against it."""
    poured = tray.get_tray(ws, flight, standing.get_flight(ws, flight).tests[0].id).takes
    return next(t.take_id for t in poured if t.reference) or 0, next(t.take_id for t in poured if not t.reference) or 0


def test_a_hand_moves_a_take_and_undo_and_redo_follow(ws: Workspace, imported: int) -> None:
    _, other = two_takes(ws, imported)
    measured = lying(ws, imported, other)
    assert not measured[1]
    lags.line_up_by_hand(ws, other, 0.25)
    assert lying(ws, imported, other) == (0.25, True)
    texts = {one.take_id: one.lag_text for one in findings.get_match(ws, imported).alignments}
    assert texts[other] == "+250 ms, by hand"
    undoing.undo(ws)
    assert lying(ws, imported, other) == measured
    undoing.redo(ws)
    assert lying(ws, imported, other) == (0.25, True)
    lags.line_up_by_hand(ws, other, None)
    assert lying(ws, imported, other) == measured


def test_what_cannot_be_meant_is_refused_with_its_reason(ws: Workspace, imported: int) -> None:
    reference, other = two_takes(ws, imported)
    with pytest.raises(Conflict) as moved:
        lags.line_up_by_hand(ws, reference, 0.1)
    assert moved.value.code == "is_reference"
    with pytest.raises(Invalid) as far:
        lags.line_up_by_hand(ws, other, 900.0)
    assert far.value.code == "too_far"
    with pytest.raises(NotFound):
        lags.line_up_by_hand(ws, 10_000, 0.1)


def test_a_hand_holds_only_against_the_take_it_was_set_against(ws: Workspace, imported: int) -> None:
    reference, other = two_takes(ws, imported)
    lags.line_up_by_hand(ws, other, 0.25)
    placing.place_take(ws, reference, None, None)
    runner_for(ws).run_until_idle()
    assert lying(ws, imported, other) == (0.0, False)


def test_a_take_that_was_open_and_is_lined_up_by_hand_no_longer_asks(ws: Workspace, imported: int) -> None:
    _, other = two_takes(ws, imported)
    with ws.writing() as session:
        session.add(Finding(flight_id=imported, take_id=other, rule="lag", severity="check", text="open", advice=""))

    def asks() -> bool:
        return any(f.rule == "lag" and not f.accepted for f in findings.get_match(ws, imported).findings)

    assert asks()
    lags.line_up_by_hand(ws, other, 0.1)
    assert not asks()
    undoing.undo(ws)
    assert asks()
