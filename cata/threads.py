"""How many threads the numerical libraries take for themselves."""

from __future__ import annotations

from collections.abc import MutableMapping

THREAD_VARIABLES = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")


def one_each(environment: MutableMapping[str, str]) -> None:
    """One, where nobody said otherwise, and before they are loaded.

    The cores are the workers': threads that wait for one another on a busy core take a hundred times as long.
    """
    for variable in THREAD_VARIABLES:
        environment.setdefault(variable, "1")
