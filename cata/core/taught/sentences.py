"""Differences in sentences: who, what, by how much, how sure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

from cata.core.drive.words import name_of
from cata.core.measure.regions import REGIONS
from cata.core.measure.registry import BY_KEY
from cata.core.taught.differences import Difference, Taken
from cata.said import Number, Said

WORDS: Mapping[str, tuple[str, str]] = {
    "equivalent_drive": ("is cleaner", "is more driven"),
    "level_spread_db": ("keeps less of the dynamics", "keeps more of the dynamics"),
    "sustain": ("holds a note longer", "lets a note die sooner"),
    "low_tightness_ms": ("stops its lows sooner", "lets its lows ring longer"),
    "noise_floor_dbfs": ("is quieter between the notes", "makes more noise between the notes"),
}
"""What a lower and a higher reading mean."""
COUNTED = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine"}
UNITS = {"equivalent_drive": "points", "level_spread_db": "dB", "sustain": "dB/s", "low_tightness_ms": "ms",
         "noise_floor_dbfs": "dB"}  # fmt: skip


def told(one: Difference, takes: Sequence[Taken], end: str = "") -> Said:
    """A difference as a sentence; ``code`` is its reading and way, "tone_more" for instance.

    ``end`` says where and how surely it holds; without it, how sure it is in these takes.
    """
    names = {take.ident: take.name for take in takes}
    more = one.amount > 0
    than = _than(one, takes)
    numbers: dict[str, Number] = {
        "contender": one.ident, "other": one.other, "reading": one.reading,
        "amount": one.amount, "audible": one.audible, "sure": one.sure,
        "low_hz": one.low_hz, "high_hz": one.high_hz,
    }  # fmt: skip
    code = f"{one.reading}_{'more' if more else 'less'}"
    if one.reading == "tone":
        what, where = _tone(one, more)
        words = f"{names[one.ident]} {what} than {than}{where}, by {abs(one.amount):.0f} dB"
    else:
        decimals = BY_KEY[one.reading].decimals
        amount = f"{abs(one.amount):.{decimals}f} {UNITS[one.reading]}"
        words = f"{names[one.ident]} {WORDS[one.reading][more]} than {than}, by {amount}"
        if one.reading == "equivalent_drive":
            words += _drive(one, takes)
    return Said(code, f"{words}{end or f': {one.sure}'}.", numbers)


def _than(one: Difference, takes: Sequence[Taken]) -> str:
    """Against whom: by name where it is one or two of several, "the other three" where it is all."""
    names = {take.ident: take.name for take in takes}
    others = [take.ident for take in takes if not take.is_bypass and take.ident != one.ident]
    if len(one.against) > 1 and set(one.against) >= set(others):
        return f"the other {COUNTED.get(len(one.against), len(one.against))}"
    return " and ".join(names[ident] for ident in one.against or (one.other,))


def _drive(one: Difference, takes: Sequence[Taken]) -> str:
    share = next(take.results.number("equivalent_drive.percent") for take in takes if take.ident == one.ident)
    return "" if share is None else f" ({share:.0f} %, {name_of(share / 100)})"


def _hz(hz: float) -> str:
    """A frequency to two figures."""
    rounded = float(f"{hz:.2g}")
    return f"{rounded / 1000:g} kHz" if rounded >= 1000 else f"{rounded:g} Hz"


def _tone(one: Difference, more: bool) -> tuple[str, str]:
    """What the tone is, and where."""
    if one.low_hz and not one.high_hz:
        return f"is {'brighter' if more else 'darker'}", f" above {_hz(one.low_hz)}"
    if one.high_hz and not one.low_hz:
        return f"is {'fuller' if more else 'thinner'}", f" below {_hz(one.high_hz)}"
    if not one.low_hz and not one.high_hz:
        return f"is {'stronger' if more else 'weaker'}", " over the whole range"
    centre = (one.low_hz * one.high_hz) ** 0.5
    region = next((region.word for region in REGIONS if region.low_hz <= centre < region.high_hz), "spectrum")
    return f"has {'stronger' if more else 'weaker'} {region}", f" ({_hz(one.low_hz)} to {_hz(one.high_hz)})"


def told_alike(pairs: Sequence[tuple[int, int]], takes: Sequence[Taken]) -> list[Said]:
    """Contenders that cannot be told apart, as groups in which no two can."""
    names = {take.ident: take.name for take in takes}
    joined = {frozenset(pair) for pair in pairs}
    found: list[Said] = []
    left = [take.ident for take in takes]
    while left:
        group = _group(left, joined)
        if len(group) < 2:
            break
        *first, last = (names[ident] for ident in group)
        words = f"{', '.join(first)} and {last}: no difference you can trust."
        found.append(
            Said("alike", words, {"contender": group[0], "other": group[-1], "reading": "alike", "count": len(group)})
        )
        left = [ident for ident in left if ident not in group]
    return found


def _group(idents: Sequence[int], joined: set[frozenset[int]]) -> list[int]:
    """The largest group, begun at each one in turn, in which every two are joined."""
    best: list[int] = []
    for start in range(len(idents)):
        group: list[int] = []
        for ident in idents[start:]:
            if all(frozenset(pair) in joined for pair in combinations([*group, ident], 2)):
                group.append(ident)
        best = max(best, group, key=len)
    return best
