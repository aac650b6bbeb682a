"""How much memory a server and all its processes take, at most, while something is done."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


def family(pid: int) -> Iterator[int]:
    yield pid
    for task in Path(f"/proc/{pid}/task").glob("*/children"):  # of any thread
        try:
            children = task.read_text().split()
        except OSError:
            continue
        for child in children:
            yield from family(int(child))


def held_mb(pid: int) -> float:
    """Memory of a process and all below it in MB; what they share counts once."""
    total = 0
    for one in family(pid):
        try:
            lines = Path(f"/proc/{one}/smaps_rollup").read_text().splitlines()
        except OSError:  # it ended meanwhile
            continue
        total += sum(int(line.split()[1]) for line in lines if line.startswith("Pss:"))
    return total / 1024


class Peak:
    """The most that was held."""

    mb = 0.0


@contextmanager
def peak(pid: int) -> Iterator[Peak]:
    found, stop = Peak(), threading.Event()

    def look() -> None:
        while not stop.wait(0.05):
            found.mb = max(found.mb, held_mb(pid))

    thread = threading.Thread(target=look)
    thread.start()
    try:
        yield found
    finally:
        stop.set()
        thread.join()
