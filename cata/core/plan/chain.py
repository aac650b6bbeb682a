"""Chains: guitar, pedals, amplifier, effects loop, speaker, microphone, each with its settings.

Links stand in the order of the signal. A pedal's place is in front of the amplifier, in its effects loop, or after the
speaker simulation. Conditions of playing (strings, tuning, where the pick strikes) belong to the chain, for they are
held constant or varied like any knob. Imports no numpy.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from cata.core.gear import Control, GearKind, show_position
from cata.core.plan.setup import Change, Part, PartKind, Setup, changes
from cata.said import Said

Place = Literal["front", "loop", "after"]
Pickup = Literal["bridge", "both", "neck", "middle", "bridge and middle", "neck and middle"]
Picking = Literal["at the bridge", "between bridge and neck", "at the neck"]
PLACE_WORDS: Mapping[Place, str] = {
    "front": "in front of the amplifier", "loop": "in the effects loop", "after": "after the speaker",
}  # fmt: skip
SIGNAL_ORDER: tuple[GearKind, ...] = (
    "pickup", "guitar", "strings", "cable", "pedal", "power supply", "amplifier", "speaker", "direct box",
    "microphone", "accessory",
)  # fmt: skip
CHAIN_ORDER: tuple[GearKind, ...] = (
    "guitar", "pickup", "strings", "cable", "pedal", "amplifier", "speaker", "direct box", "microphone", "power supply",
    "accessory",
)  # fmt: skip
"""As people read a chain: what is in the hand first, what only feeds it last."""
COMPARED: tuple[GearKind, ...] = (
    "pedal", "pickup", "guitar", "amplifier", "speaker", "microphone", "direct box", "strings", "cable",
)  # fmt: skip
"""What a flight may compare, the most usual first."""
PART_KINDS: Mapping[GearKind, PartKind] = {"direct box": "speaker", "accessory": "other"}
BEFORE_THE_AMPLIFIER, IN_THE_LOOP, AT_THE_END = 4.0, 6.5, 8.5
MAX_LINKS = 24


class Link(BaseModel):
    """One device of a chain; ``key`` names it within the chain, ``settings`` are positions (0 to 1) by control key."""

    model_config = ConfigDict(frozen=True)

    key: str = Field(min_length=1, max_length=40, pattern=r"^[\w-]+$")
    kind: GearKind
    gear_id: int | None = Field(default=None, ge=1, le=2**53)
    name: str = Field(default="", max_length=120)
    place: Place = "front"
    on: bool = True
    settings: dict[str, float] = Field(default_factory=dict, max_length=40)


class Conditions(BaseModel):
    """What the hands and the guitar do, besides the gear; an empty word means not said."""

    model_config = ConfigDict(frozen=True)

    pickup: Pickup = "bridge"
    guitar_volume: float = Field(default=1.0, ge=0, le=1)
    guitar_tone: float = Field(default=1.0, ge=0, le=1)
    strings: str = Field(default="", max_length=80)
    tuning: str = Field(default="standard", max_length=80)
    picking: Picking = "between bridge and neck"
    space: Literal["dry", "a little room"] = "dry"
    power: str = Field(default="", max_length=40)


class Chain(BaseModel):
    """Links in any order (:func:`in_signal_order` sorts them) and the conditions of playing."""

    model_config = ConfigDict(frozen=True)

    links: tuple[Link, ...] = Field(default=(), max_length=MAX_LINKS)
    conditions: Conditions = Conditions()

    def link(self, key: str) -> Link | None:
        """The link of a key."""
        return next((link for link in self.links if link.key == key), None)

    def compared(self, kind: str) -> Link | None:
        """The link that a flight of this kind varies: the one it began with, else the nearest the amplifier."""
        if (first := self.link(kind.replace(" ", "-"))) is not None and first.kind == kind:
            return first
        return next((link for link in reversed(in_signal_order(self.links)) if link.kind == kind), None)

    def with_link(self, link: Link) -> Chain:
        """The chain with a link in place of the one of its key, or added."""
        if self.link(link.key) is None:
            return self.model_copy(update={"links": (*self.links, link)})
        return self.model_copy(update={"links": tuple(link if one.key == link.key else one for one in self.links)})


ControlsOf = Mapping[str, Sequence[Control]]
"""Controls by the key of their link."""


def _place(link: Link) -> float:
    if link.kind == "pedal":
        return {"front": BEFORE_THE_AMPLIFIER, "loop": IN_THE_LOOP, "after": AT_THE_END}[link.place]
    return float(SIGNAL_ORDER.index(link.kind))


NOT_WRITTEN = "not written down"


def in_signal_order(links: Sequence[Link]) -> list[Link]:
    """Links from the string to the recorder; pedals of one place keep their order."""
    return sorted(links, key=_place)


def new_key(chain: Chain, kind: GearKind) -> str:
    """A key for another link of a kind."""
    base = re.sub(r"\W+", "-", kind)
    taken = {link.key for link in chain.links}
    return next(key for key in (base, *(f"{base}-{n}" for n in range(2, MAX_LINKS + 2))) if key not in taken)


def setup_of(chain: Chain, controls: ControlsOf) -> dict[str, Part]:
    """The chain as parts that can differ; a stage that is off keeps its place but not its knobs."""
    parts: dict[str, Part] = {}
    for link in in_signal_order(chain.links):
        kind: PartKind = PART_KINDS.get(link.kind, link.kind)  # type: ignore[arg-type]
        name = link.name or f"no {link.kind}"
        parts[link.key] = Part(kind, link.kind, name, written=bool(link.name))
        if link.kind == "pedal":
            parts[f"{link.key}/on"] = Part("switch", name, "on" if link.on else "off", link.key)
            parts[f"{link.key}/place"] = Part("routing", f"place of {name}", PLACE_WORDS[link.place])
        if not link.on:
            continue
        for control in controls.get(link.key, ()):
            position = link.settings.get(control.key, control.default)
            kind = "switch" if control.scale == "labels" else "guitar knob" if link.kind == "guitar" else "knob"
            parts[f"{link.key}/{control.key}"] = Part(
                kind, f"{control.name} of {name}", show_position(control, position), link.key
            )
    return parts | _condition_parts(chain.conditions)


def _condition_parts(conditions: Conditions) -> dict[str, Part]:
    parts: list[tuple[str, PartKind, str, str]] = [
        ("pickup", "position", "pickup position", conditions.pickup),
        ("guitar_volume", "guitar knob", "guitar volume", f"{conditions.guitar_volume * 10:g}"),
        ("guitar_tone", "guitar knob", "guitar tone", f"{conditions.guitar_tone * 10:g}"),
        ("strings_are", "strings", "strings", conditions.strings),
        ("tuning", "tuning", "tuning", conditions.tuning),
        ("picking", "playing", "place of picking", conditions.picking),
        ("space", "switch", "room", conditions.space),
        ("power", "power", "power switch", conditions.power or "as it is"),
    ]
    return {
        f"condition/{key}": Part(kind, name, value or NOT_WRITTEN, written=bool(value))
        for key, kind, name, value in parts
    }


def differences(a: Setup, b: Setup) -> list[Change]:
    """What differs between two chains, the weightiest first."""
    return changes(a, b)


def in_words(change: Change) -> str:
    """A difference as a phrase: "Treble of the amplifier: 5 → 9.5"."""
    if not change.before:
        return f"{change.name}: {change.after} is added"
    if not change.after:
        return f"{change.name}: {change.before} is taken out"
    return f"{change.name}: {change.before} → {change.after}"


def missing_settings(chain: Chain, controls: ControlsOf) -> list[str]:
    """Knobs that nobody wrote down and conditions not said, in words."""
    found = [
        f"{control.name} of {link.name or link.kind}"
        for link in in_signal_order(chain.links)
        if link.on
        for control in controls.get(link.key, ())
        if control.key not in link.settings
    ]
    if not chain.conditions.strings:
        found.append("strings")
    if not chain.conditions.tuning:
        found.append("tuning")
    return found


def chain_problems(chain: Chain) -> list[Said]:
    """What cannot be played as it is written."""
    kinds = [link.kind for link in chain.links]
    found = []
    if kinds.count("amplifier") > 1:
        words = "Two amplifiers stand in one chain; compare them as contenders, or record them as two chains."
        found.append(Said("two_amplifiers", words))
    if "amplifier" not in kinds and any(link.kind == "pedal" and link.place == "loop" for link in chain.links):
        found.append(Said("loop_without_amplifier", "A pedal is in the effects loop, but there is no amplifier."))
    if "amplifier" in kinds and not {"speaker", "direct box", "microphone"} & set(kinds):
        words = "Nothing is written down between the amplifier and the recorder: speaker and microphone, or load."
        found.append(Said("nothing_behind_amplifier", words))
    return found
