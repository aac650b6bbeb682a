"""Which tests show which sounds of a brief: as the brief has it, as the test says for all, as its name says, or open.

A test may show several sounds. A sound for which no test speaks is looked for in all that speak for none.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from cata.core.brief import Need
from cata.core.names import nearest

By = Literal["brief", "test", "name", "nobody"]


@dataclass(frozen=True)
class Column:
    """A test as it is looked at here: its number, its name, and the sound it says it shows (empty: none said)."""

    ident: int
    name: str
    sound: str


@dataclass(frozen=True)
class Shows:
    """The sounds that a test shows, by their keys, and who says so."""

    sounds: tuple[str, ...]
    by: By


def shown_by(tests: Sequence[Column], need: Need) -> Mapping[int, Shows]:
    """Which sounds of a need each test shows."""
    keys, names = [sound.key for sound in need.sounds], [sound.name for sound in need.sounds]
    found = {test.ident: _said_of(test, need, keys, names) for test in tests}
    spoken_for = {key for shows in found.values() for key in shows.sounds}
    open_sounds = tuple(key for key in keys if key not in spoken_for)
    return {ident: Shows(open_sounds, "nobody") if shows.by == "nobody" else shows for ident, shows in found.items()}


def _said_of(test: Column, need: Need, keys: Sequence[str], names: Sequence[str]) -> Shows:
    if test.ident in need.shows:
        return Shows(tuple(key for key in keys if key in need.shows[test.ident]), "brief")
    if test.sound:
        return Shows((test.sound,) if test.sound in keys else (), "test")
    meant = nearest(test.name, names)
    return Shows((), "nobody") if meant is None else Shows((keys[meant],), "name")
