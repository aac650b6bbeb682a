"""While a tasting runs, what its flight lets hear or read would give the glasses away: it is shown to who asks for it.

Who set the table knows already. Anybody else is asked first; that somebody looked is kept with the tasting.
"""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.errors import Conflict
from cata.services.tasting.tastings import open_tasting, view_of
from cata.services.tasting.views import TastingView
from cata.services.workspace import Workspace
from cata.store.actor import ACTOR
from cata.store.tables import Tasting

NOBODY = ""


def check_veil(session: Session, flight_id: int | None) -> None:
    """Conflict where a tasting of this flight (of any, with None) runs that this browser may not look behind yet."""
    who = ACTOR.get()
    statement = select(Tasting).where(Tasting.revealed_at == "").order_by(col(Tasting.id))
    if flight_id is not None:
        statement = statement.where(Tasting.flight_id == flight_id)
    for row in session.exec(statement).all():
        if who == NOBODY or who not in (row.set_by, *row.looked):
            raise Conflict(
                f"The tasting “{row.name}” is running: this would give it away.", "tasting_running", tasting=row.id or 0
            )


def look(ws: Workspace, tasting_id: int) -> TastingView:
    """Let this browser look behind a tasting that runs, which then says that somebody did. Conflict once revealed."""
    with ws.writing() as session:
        row = open_tasting(session, tasting_id)
        if ACTOR.get() != NOBODY:
            row.looked = {**row.looked, ACTOR.get(): row.looked.get(ACTOR.get()) or ws.now()}
            session.add(row)
        view = view_of(session, row)
    ws.changed("Somebody looks behind a tasting")
    return view
