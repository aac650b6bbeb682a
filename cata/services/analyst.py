"""The analyst: keeps readings and audits current in the background.

There is no queue to lose. A take without current readings is due; so is a test whose takes are not
those its audit stands for. After a crash the analyst looks, finds what is due, and goes on.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, select

from cata.core.measure.registry import METHOD
from cata.services import work
from cata.services.derived import (
    due_audits,
    due_takes,
    placed_takes,
    readings_of,
    store_analysis,
    store_flight_audit,
    store_test_audit,
    tests_of,
)
from cata.services.probing import bench_task, due_probes, reading_task, store_bench, store_probe
from cata.services.setups import turns_knobs
from cata.services.upkeep import sweep
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Audited, Contender, Finding, Flight, Reading, Take, Test

log = logging.getLogger(__name__)

IDLE_LOOK_S = 3.0
DIED = "the analysis of this file failed; the file itself is safe"


@dataclass(frozen=True)
class _Due:
    """One task: analyse a take, or audit a test or a flight."""

    kind: str
    ident: int
    flight_id: int
    state: str = ""


@dataclass(frozen=True)
class _Task:
    """What a worker is to do, and the takes that the indices of its answer stand for."""

    function: Callable[..., Any]
    arguments: tuple[Any, ...]
    takes: list[int]


class Analyst:
    """A thread that finds what is due, has the workers do it, and stores what they answer."""

    def __init__(self, workspace: Workspace) -> None:
        self.ws = workspace
        self._wake = threading.Event()
        self._stop = threading.Event()
        self._paused: set[int] = set()
        self._running: dict[Future[Any], tuple[_Due, list[int]]] = {}
        self._failed: dict[_Due, int] = {}
        self._measuring = True
        self._thread = threading.Thread(target=self._run, name="analyst", daemon=True)
        self._told: dict[int, tuple[int, int]] = {}
        workspace.on_due = self.wake

    def start(self) -> None:
        """Begin working."""
        self._thread.start()

    def wake(self) -> None:
        """Look for due work now."""
        self._wake.set()

    def stop(self) -> None:
        """Stop; what was begun and not stored is due again at the next start."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=10)

    def pause(self, flight_id: int) -> None:
        """Cancel the work on a flight until :meth:`resume`."""
        self._paused.add(flight_id)
        for future, (due, _) in list(self._running.items()):
            if due.flight_id == flight_id:
                future.cancel()
        self.ws.bus.publish({"kind": "progress", "flight_id": flight_id, "state": "paused"})

    def resume(self, flight_id: int) -> None:
        """Go on with a flight."""
        self._paused.discard(flight_id)
        self.wake()

    def is_paused(self, flight_id: int) -> bool:
        """True while a flight's work is cancelled."""
        return flight_id in self._paused

    def run_until_idle(self, *, measuring: bool = True) -> None:
        """Do all that is due in the calling thread (command line, tests).

        Without ``measuring`` only takes and audits: measurements of the bench take longer than anybody waits.
        """
        self._measuring = measuring
        while self._step() or self._running:
            self._collect(timeout=IDLE_LOOK_S)
        self._measuring = True

    def _run(self) -> None:
        try:
            # The workers' libraries take a second to load: meanwhile the server answers already.
            self.ws.pool.submit(work.ready)
            self.ws.pool.ask(work.ready)
            sweep(self.ws)
        except Exception:  # house-keeping is no reason to leave the work undone
            log.exception("at the start")
        while not self._stop.is_set():
            try:
                busy = self._step() or bool(self._running)
                if busy:
                    self._collect(timeout=0.5)
            except Exception:  # the thread must outlive any single failure
                log.exception("analyst")
                busy = False
            if not busy:
                self._wake.wait(IDLE_LOOK_S)
                self._wake.clear()

    def _step(self) -> bool:
        """Hand out due work as far as workers are free; True where any was handed out."""
        room = self.ws.pool.workers + 1 - len(self._running)
        if room <= 0:
            return False
        taken = {due for due, _ in self._running.values()}
        with self.ws.reading() as session:
            due = [d for d in self._due(session) if d not in taken and self._failed.get(d, 0) < 2]
            tasks = [(d, self._task(session, d)) for d in due[:room]]
        for item, task in tasks:
            self._running[self.ws.pool.submit(task.function, *task.arguments)] = (item, task.takes)
        return bool(tasks)

    def _due(self, session: Session) -> list[_Due]:
        takes = [_Due("take", take, flight) for take, flight in due_takes(session) if flight not in self._paused]
        self._tell(session, {due.flight_id for due in takes})
        probes = [_Due(kind, ident, 0, state) for kind, ident, state in due_probes(session)] if self._measuring else []
        if takes or probes:
            return takes + probes
        return [_Due(*due) for due in due_audits(session) if due[2] not in self._paused]

    def _tell(self, session: Session, flights: set[int]) -> None:
        """Publish how far the analysis of each flight has come."""
        for flight_id in flights | set(self._told):
            total = len(session.exec(select(Take.id).where(Take.flight_id == flight_id)).all())
            statement = (
                select(Analysed.take_id).join(Take).where(Take.flight_id == flight_id, Analysed.method == METHOD)
            )
            done = len(session.exec(statement).all())
            if self._told.get(flight_id) != (done, total):
                self._told[flight_id] = (done, total)
                self.ws.bus.publish(
                    {"kind": "progress", "flight_id": flight_id, "state": "analysing", "done": done, "total": total}
                )
            if done == total:
                self._told.pop(flight_id, None)

    def _task(self, session: Session, due: _Due) -> _Task:
        if due.kind == "take":
            take = session.get_one(Take, due.ident)
            path, copy = self.ws.vault.path(take.digest), self.ws.vault.copy_path(take.digest)
            return _Task(work.analyse_file, (str(path), str(copy), take.lead_in_s), [due.ident])
        if due.kind == "probe":
            return _Task(*reading_task(self.ws, session, due.ident), [])
        if due.kind == "bench":
            return _Task(*bench_task(self.ws, session, due.ident), [])
        if due.kind == "test":
            takes = placed_takes(session, due.ident, repeats=True)
            prefer = next((i for i, (_, c) in enumerate(takes) if c.is_bypass), None)
            payload = [self._payload(session, take, contender) for take, contender in takes]
            return _Task(work.audit_takes, (payload, prefer), [take.id or 0 for take, _ in takes])
        cells = self._cells(session, due.ident)
        return _Task(work.audit_flight, ([cell for _, cell in cells],), [take for take, _ in cells])

    def _payload(self, session: Session, take: Take, contender: Contender) -> dict[str, Any]:
        rows = readings_of(session, [take.id or 0])[take.id or 0].values()
        return {
            "name": f"{contender.name} (again, {take.repeat + 1})" if take.repeat else contender.name,
            "path": str(self.ws.vault.path(take.digest)),
            "lead_in_s": take.lead_in_s,
            "readings": {row.key: row.value for row in rows if row.value is not None},
            "refusals": {row.key: row.refusal for row in rows if row.refusal},
        }

    def _cells(self, session: Session, flight_id: int) -> list[tuple[int, dict[str, Any]]]:
        """The cells whose tone can be compared: those no other fault has spoilt already."""
        cells = []
        spoilt = set(
            session.exec(
                select(Finding.take_id).where(
                    Finding.flight_id == flight_id, Finding.severity == "fault", Finding.rule != "tone_moved"
                )
            )
        )
        statement = select(Contender).where(Contender.flight_id == flight_id)
        rows = {contender.id: index for index, contender in enumerate(session.exec(statement))}
        for column, test in enumerate(tests_of(session, flight_id)):
            if turns_knobs(test):
                continue
            for take, contender in placed_takes(session, test.id or 0):
                bands = session.exec(
                    select(Reading).where(Reading.take_id == take.id, Reading.key == "third_octaves_db")
                ).first()
                if take.id not in spoilt and bands is not None and bands.value is not None:
                    name = f"{contender.name} in {test.name}"
                    cell = {"row": rows[contender.id], "column": column, "name": name, "bands": bands.value}
                    cells.append((take.id or 0, cell))
        return cells

    def _collect(self, timeout: float) -> None:
        """Store what the workers have finished."""
        if not self._running:
            return
        done, _ = wait(list(self._running), timeout=timeout, return_when=FIRST_COMPLETED)
        for future in done:
            due, takes = self._running.pop(future)
            if future.cancelled():
                continue
            try:
                result = future.result()
            except BrokenProcessPool:
                self.ws.pool.renew()
                self._give_up(due)
            except Exception:
                log.exception("task %s", due)
                self._give_up(due)
            else:
                self._store(due, takes, result)

    def _give_up(self, due: _Due) -> None:
        """Count a failure; after the second, a take is refused so that the rest goes on."""
        self._failed[due] = self._failed.get(due, 0) + 1
        if self._failed[due] >= 2 and due.kind in ("take", "probe", "bench"):
            kept = _Due("probe", due.ident, 0, due.state) if due.kind == "bench" else due
            self._store(kept, [due.ident], {"refused": DIED})

    def _store(self, due: _Due, takes: list[int], result: Any) -> None:
        with self.ws.writing() as session:
            if due.kind == "take":
                if session.get(Take, due.ident) is not None:
                    store_analysis(session, due.ident, result)
            elif due.kind == "bench":
                store_bench(self.ws, session, due.ident, result)
            elif due.kind == "probe":
                store_probe(session, due.ident, due.state, result)
            elif session.get(Test if due.kind == "test" else Flight, due.ident) is not None:
                if due.kind == "test":
                    store_test_audit(session, due.ident, due.flight_id, takes, result)
                else:
                    store_flight_audit(session, due.ident, takes, result)
                session.merge(Audited(scope=f"{due.kind}:{due.ident}", flight_id=due.flight_id, state=due.state))
        self.ws.bus.publish({"kind": "analysed", "flight_id": due.flight_id, "what": due.kind})
