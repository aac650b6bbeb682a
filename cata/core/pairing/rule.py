"""The shape of a rule of pairing: two aspects of two parts, and what is lost where certain values of them meet.

An aspect is read off what was measured of a part or is written about it; where neither says anything the part has no
value of it, and the rule is silent. How much is lost is a convention in three steps, not a measurement.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from cata.core.brief import Sound
from cata.core.pairing import rules as room
from cata.core.rig.parts import Clash
from cata.core.rig.roles import wants_drive
from cata.core.specs import Value
from cata.said import Said

A_LITTLE, CLEARLY, SPOILS = 0.05, 0.1, 0.2


@dataclass(frozen=True)
class Piece:
    """A part as rules see it: where it stands, what is written of it, and what was measured (reading to value)."""

    item: int
    name: str
    place: str
    specs: Mapping[str, Value] = field(default_factory=dict)
    figures: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Aspect:
    """One thing about a part that pairing asks for: its value as a word, and whether it was measured."""

    key: str
    place: str
    of: Callable[[Piece], tuple[str, bool] | None]

    def label(self, piece: Piece) -> str | None:
        """The label of a part in this aspect."""
        found = self.of(piece) if piece.place == self.place else None
        return None if found is None else f"{self.key}={found[0]}"


@dataclass(frozen=True)
class Meeting:
    """What is lost where two values meet, in clean and in driven sounds; ``words`` tell it of {first} and {second}."""

    words: str
    clean: float = 0.0
    driven: float = 0.0
    never: bool = False


@dataclass(frozen=True)
class Rule:
    """A rule of pairing: its name, the school it comes from, its reason, and what meets.

    ``safety``: it keeps from harm, so nobody can switch it off.
    """

    key: str
    title: str
    school: str
    reason: str
    first: Aspect
    second: Aspect
    meetings: Mapping[tuple[str, str], Meeting] = field(default_factory=dict)
    others: Callable[[str, str], Meeting | None] | None = None
    safety: bool = False

    def meets(self, first: str, second: str) -> Meeting | None:
        """What happens where two values meet; None: nothing."""
        known = self.meetings.get((first, second))
        return known if known is not None or self.others is None else self.others(first, second)

    def clashes(self, pieces: Sequence[Piece], sounds: Iterable[Sound], weight: float = 1.0) -> list[Clash]:
        """What parts of these values lose together in each sound."""
        values: list[list[str]] = []
        for aspect in (self.first, self.second):
            labels = {label for piece in pieces if (label := aspect.label(piece)) is not None}
            values.append(sorted(label.partition("=")[2] for label in labels))
        found = []
        wanted = list(sounds)
        for one in values[0]:
            for other in values[1]:
                meeting = self.meets(one, other)
                if meeting is not None:
                    losses = {
                        sound.key: weight * loss
                        for sound in wanted
                        if (loss := meeting.driven if wants_drive(sound) else meeting.clean) > 0
                    }
                    labels_of = (f"{self.first.key}={one}", f"{self.second.key}={other}")
                    found.append(Clash(*labels_of, losses, never=meeting.never))
        return found

    def told(self, first: Piece, second: Piece) -> Said | None:
        """What is said of two parts, and whether both sides were measured; None where they get on."""
        if (first.place, second.place) != (self.first.place, self.second.place):
            return None
        here, there = self.first.of(first), self.second.of(second)
        if here is None or there is None or (meeting := self.meets(here[0], there[0])) is None:
            return None
        words = meeting.words.format(first=first.name, second=second.name)
        return Said(
            self.key, words, {"first": first.item, "second": second.item, "measured": int(here[1] and there[1])}
        )


@cache
def pairing_rules() -> tuple[Rule, ...]:
    """All rules, by their file's name."""
    files = (import_module(f"{room.__name__}.{file.name}") for file in iter_modules(room.__path__))
    return tuple(file.RULE for file in files if hasattr(file, "RULE"))


def labels_of(piece: Piece) -> frozenset[str]:
    """All labels of a part."""
    aspects = [aspect for rule in pairing_rules() for aspect in (rule.first, rule.second)]
    return frozenset(label for aspect in aspects if (label := aspect.label(piece)) is not None)


def clashes_of(pieces: Sequence[Piece], sounds: Sequence[Sound], weights: Mapping[str, float]) -> list[Clash]:
    """What all rules say of some parts; ``weights`` 0 to 2 by rule, 1 where none is given."""
    found = []
    for rule in pairing_rules():
        if counts(rule, weights):
            found += rule.clashes(pieces, sounds, weights.get(rule.key, 1.0))
    # What costs nothing is advice, and no matter of choosing.
    return [clash for clash in found if clash.losses or clash.never]


def pair_for(rule: Rule, pieces: Sequence[Piece]) -> Said | None:
    """Two parts of a shelf that show a rule, in its words; None where none do."""
    sides: list[dict[str, Piece]] = []
    for aspect in (rule.first, rule.second):
        mine: dict[str, Piece] = {}
        for piece in pieces:
            label = aspect.label(piece)
            if label is not None:
                mine.setdefault(label, piece)
        sides.append(mine)
    found = (rule.told(one, other) for one in sides[0].values() for other in sides[1].values() if one != other)
    return next((one for one in found if one is not None), None)


def counts(rule: Rule, weights: Mapping[str, float]) -> bool:
    """True where a rule was not switched off, or cannot be."""
    return rule.safety or weights.get(rule.key, 1.0) > 0


def told_of(pieces: Sequence[Piece], weights: Mapping[str, float]) -> list[Said]:
    """What the rules that count say of the parts of one rig."""
    rules = [rule for rule in pairing_rules() if counts(rule, weights)]
    found = (rule.told(first, second) for rule in rules for first in pieces for second in pieces if first != second)
    return [one for one in found if one is not None]
