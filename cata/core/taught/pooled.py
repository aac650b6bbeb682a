"""All tests of a flight as one: what each contender differs by from the others on the average of its tests.

A difference too small for one test stands out of several, for each was played by itself.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from statistics import fmean

from cata.core.measure.of_flights import STROKES
from cata.core.measure.results import Result, Results
from cata.core.taught.differences import HEARD_DB, TOLD, Taken, number_of

BANDS = "third_octaves_db"
OWN_TEST = ("equivalent_drive",)
"""What is told over all tests by itself."""


def pooled(tests: Sequence[Sequence[Taken]]) -> list[Taken]:
    """The contenders that every test has, each with the means of its readings over the tests.

    Empty with fewer than two tests or contenders.
    """
    common = set.intersection(*({take.ident for take in takes} for takes in tests)) if tests else set()
    rows = [{take.ident: take for take in takes if take.ident in common} for takes in tests]
    if len(tests) < 2 or len([one for one in rows[0].values() if not one.is_bypass]) < 2:
        return []
    bands = _means([_heard({ident: take.results.parts(BANDS) for ident, take in row.items()}) for row in rows])
    numbers = {}
    for key, part in TOLD:
        if key not in OWN_TEST:
            name = f"{key}.{part}" if part else key
            each = [{ident: number_of(take, name) for ident, take in row.items()} for row in rows]
            if all(value is not None for row in each for value in row.values()):
                numbers[key, part] = _means([{i: {"": v or 0.0} for i, v in row.items()} for row in each])
    found = []
    for ident, take in rows[0].items():
        results = Results({BANDS: Result(value={**bands[ident]})})
        for (key, part), means in numbers.items():
            worst = [row[ident].results.bands.get(key, 0.0) for row in rows]
            value = means[ident][""]
            band = fmean(one**2 for one in worst) ** 0.5 / len(worst) ** 0.5
            results[key] = Result(value={part: value} if part else value, band=band or None)
        strokes = _strokes([row[ident].results.parts(STROKES.key) for row in rows])
        if strokes:
            results[STROKES.key] = Result(value={**strokes})
        found.append(Taken(ident, take.name, results, take.is_bypass))
    return found


def _heard(bands: Mapping[int, Mapping[str, float]]) -> dict[int, dict[str, float]]:
    """The bands of a test that all contenders have and somebody can hear."""
    shared = set.intersection(*(set(one) for one in bands.values()))
    loudest = max((max(one.values()) for one in bands.values() if one), default=0.0)
    heard = {hz for hz in shared if max(one[hz] for one in bands.values()) > loudest - HEARD_DB}
    return {ident: {hz: one[hz] for hz in heard} for ident, one in bands.items()}


def _strokes(tests: Sequence[Mapping[str, float]]) -> dict[str, float]:
    """What strokes leave open over some tests, as the root of the mean square; of what all of them tell."""
    keys = set.intersection(*(set(one) for one in tests))
    return {key: fmean(one[key] ** 2 for one in tests) ** 0.5 for key in sorted(keys)}


def _means(tests: Sequence[Mapping[int, Mapping[str, float]]]) -> dict[int, dict[str, float]]:
    """The mean over the tests of each one's values, of the keys that all have in every test."""
    keys = set.intersection(*(set(one) for test in tests for one in test.values()))
    return {ident: {key: fmean(test[ident][key] for test in tests) for key in keys} for ident in tests[0]}
