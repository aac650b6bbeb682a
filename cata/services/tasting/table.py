"""The table of a tasting: what is poured lies ready before a trial is shown, so that no glass is known by its time.

Every take is filled into a file of one length as soon as anybody sits down. From these each trial pours its glasses
anew; a pouring takes the same time whatever is in it, and all of a trial are there before the first can be fetched.
"""

from __future__ import annotations

import shutil
import threading
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from cata.core.taste.glass import Stretch, common
from cata.core.taste.rate import ANCHOR_HZ, REFERENCE
from cata.core.taste.rounds import Round
from cata.errors import Conflict
from cata.services.tasting.tastings import glasses_of
from cata.services.workspace import Workspace
from cata.store.tables import Tasting
from cata.tasks.glasses import FILL, POUR, ToFill, ToPour

FOLDER = "poured"
MOST_POURED = 40
"""Glasses kept of a tasting; older ones are poured again when somebody comes back to them."""
_FILLING = threading.Lock()


class Table:
    """What one tasting pours, in files of its own below the data directory. Conflict where a recording is gone."""

    def __init__(self, ws: Workspace, row: Tasting) -> None:
        self._ws, self._row = ws, row
        self._folder = ws.data_dir / FOLDER / str(row.uid)
        with ws.reading() as session:
            self._glasses = glasses_of(session, row)
        if any(one.duration_s <= 0 or not ws.vault.copy_path(one.digest).exists() for one in self._glasses):
            raise Conflict("a recording of this tasting is not here any more: set up another", "no_recording")
        self.stretch: Stretch = common([(one.lag_s, one.duration_s) for one in self._glasses])

    def pour(self, plan: Round, tickets: Mapping[str, int]) -> None:
        """Have a file for each ticket, by what its glass holds."""
        self._fill()
        # All of a trial or none: a file that is missing alone would be known by its time.
        if not all(self._poured(ticket).exists() for ticket in tickets):
            wanted = [ToPour(self._name(self._holds(plan, holds)), self._inside(self._poured(ticket)))
                      for ticket, holds in tickets.items()]  # fmt: skip
            self._ws.ask(POUR, wanted)
            self._tidy(keep=set(tickets))

    def glass(self, ticket: str) -> bytes:
        """What is in a glass, as a WAV file."""
        return self._poured(ticket).read_bytes()

    def _holds(self, plan: Round, holds: int) -> str:
        reference = plan.reference or 0
        return _dulled(holds, reference) if holds in ANCHOR_HZ else str(reference if holds == REFERENCE else holds)

    def _fill(self) -> None:
        """Fill all that any round pours, whichever is asked for: then nothing is known by who comes first."""
        rounds = [Round.model_validate(one) for one in self._row.rounds]
        dull = {plan.reference or 0 for plan in rounds if plan.kind == "rate"}
        wanted = [(str(place), place, 0.0) for place in range(len(self._glasses))]
        wanted += [(_dulled(anchor, place), place, hz) for place in sorted(dull) for anchor, hz in ANCHOR_HZ.items()]
        with _FILLING:
            if all((self._folder / f"{name}.f32").exists() for name, _, _ in wanted):
                return
            self._ws.ask(FILL, [self._to_fill(*one) for one in wanted])

    def _to_fill(self, name: str, place: int, below_hz: float) -> ToFill:
        glass = self._glasses[place]
        copy = self._inside(self._ws.vault.copy_path(glass.digest))
        return ToFill(copy, glass.lag_s, glass.gain_db, self.stretch, self._name(name), below_hz)

    def _name(self, name: str) -> str:
        return f"{FOLDER}/{self._row.uid}/{name}.f32"

    def _poured(self, ticket: str) -> Path:
        return self._folder / f"{ticket}.wav"

    def _inside(self, path: Path) -> str:
        return self._ws.inside(path)

    def _tidy(self, keep: set[str]) -> None:
        with suppress(OSError):
            left = sorted(self._folder.glob("*.wav"), key=lambda path: path.stat().st_mtime, reverse=True)
            for path in left[MOST_POURED:]:
                if path.stem not in keep:
                    path.unlink(missing_ok=True)


def clear(ws: Workspace, row: Tasting) -> None:
    """Pour away what is left of a tasting."""
    shutil.rmtree(ws.data_dir / FOLDER / str(row.uid), ignore_errors=True)


def _dulled(anchor: int, reference: int) -> str:
    """What a dulled reference is filled as."""
    return f"dull{anchor}-{reference}"
