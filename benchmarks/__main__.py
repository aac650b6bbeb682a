"""Run the comparison: medians of paired ratios, one thread pinned to one core."""

from __future__ import annotations

import os

for variable in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS"):
    os.environ[variable] = "1"

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from benchmarks import choosing, material, peers

ROUNDS = 9
LIMITS = {"full analysis / bound": ("<=", 3.0), "peer stack / full analysis": (">=", 15.0)}
BESIDE = {
    "grain of a take": peers.cata_grain,
    "ladder of a test (20 s of it)": peers.cata_ladder,
    "perceived loudness": peers.cata_hearing,
}
"""What is not part of the full analysis, told against the bound: once a take, once a test, in the background."""


def seconds(call: Callable[[Path], Any], path: Path) -> float:
    """One timed call."""
    start = time.perf_counter()
    call(path)
    return time.perf_counter() - start


def timed(call: Callable[[], Any]) -> float:
    """One timed call of what needs nothing."""
    return seconds(lambda _: call(), Path())


def import_seconds(statement: str) -> float:
    """A fresh interpreter running a statement."""
    start = time.perf_counter()
    subprocess.run([sys.executable, "-c", statement], check=True)
    return time.perf_counter() - start


def choices() -> dict[str, tuple[Callable[[], Any], Callable[[], Any]]]:
    """What choosing takes against its peers."""
    return {
        "ranking 200 x 40 with certainty, first time / its normal deviates in numpy":
            (choosing.first_time, choosing.deviates),
        "the same for another weight / its normal deviates in numpy": (choosing.other_weight(), choosing.deviates),
        "rig of 300 items / the plain model in HiGHS": (choosing.rig, choosing.plain_solver),
    }  # fmt: skip


def main() -> int:
    """Print the ratios; exit 1 where one misses its limit."""
    if hasattr(os, "sched_setaffinity"):
        os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    ratios: dict[str, list[float]] = {name: [] for name in LIMITS}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "take.wav"
        material.write(path)
        for call in (peers.bound, peers.cata_full, peers.peer_stack):
            call(path)
        for number in range(ROUNDS):
            bound, full = seconds(peers.bound, path), seconds(peers.cata_full, path)
            ratios["full analysis / bound"].append(full / bound)
            if number < 3:
                ratios["peer stack / full analysis"].append(seconds(peers.peer_stack, path) / full)
        for name, call in BESIDE.items():
            call(path)
            times = [seconds(call, path) / seconds(peers.bound, path) for _ in range(3)]
            print(f"{name} / bound: {statistics.median(times):.1f}")
    for name, (ours, peer) in choices().items():
        ours(), peer()
        times = [timed(ours) / timed(peer) for _ in range(3)]
        print(f"{name}: {statistics.median(times):.2f}")
    starts = [
        import_seconds("from cata.api.app import create_app") / import_seconds("import fastapi, sqlmodel")
        for _ in range(3)
    ]
    failed = False
    for name, values in ratios.items():
        sign, limit = LIMITS[name]
        value = statistics.median(values)
        met = value <= limit if sign == "<=" else value >= limit
        failed |= not met
        print(f"{name}: {value:.2f} (wanted {sign} {limit:g}) {'met' if met else 'MISSED'}")
    print(f"web import / bare import of fastapi and sqlmodel: {statistics.median(starts):.2f}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
