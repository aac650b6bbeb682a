"""What a test asks for: the phrase, how it is played, and what is set differently from the base chain for it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from cata.core.gear import Control
from cata.core.plan.chain import Chain, ControlsOf, Pickup
from cata.core.signals.phrase import PHRASES

Stage = Literal["as is", "off", "alone", "stacked"]
Playing = Literal["", "softly", "hard", "soft to hard"]
Role = Literal["gain", "level", "tone", "bass", "mids", "treble", "presence", "blend", "compression", "depth", "speed"]

ROLE_WORDS: dict[Role, tuple[str, ...]] = {
    "gain": ("gain", "drive", "distortion", "fuzz", "overdrive", "dirt", "preamp", "boost", "input", "saturation"),
    "level": ("level", "volume", "output", "master", "loudness", "make up"),
    "presence": ("presence", "cut", "resonance"),
    "bass": ("bass", "low", "lows", "body"),
    "mids": ("mid", "mids", "middle", "contour"),
    "treble": ("treble", "high", "highs", "bright", "brightness"),
    "tone": ("tone", "filter", "colour", "voice", "bias"),
    "blend": ("blend", "mix", "dry", "wet"),
    "compression": ("compression", "sustain", "threshold", "ratio", "sensitivity"),
    "depth": ("depth", "intensity", "width"),
    "speed": ("speed", "rate", "time"),
}
TONE_ROLES: tuple[Role, ...] = ("tone", "bass", "mids", "treble", "presence")
USUAL_PHRASE, UNKNOWN_S = "soft-to-hard", 15.0


class Condition(BaseModel):
    """A test's demands; what is None or empty stays as the chain has it.

    ``knobs`` are positions (0 to 1) by role, for the compared link; ``phrase`` is a phrase's key or free words;
    ``bpm`` and ``length_s`` are for the count-in and the clock.
    """

    model_config = ConfigDict(frozen=True)

    phrase: str = Field(default=USUAL_PHRASE, max_length=120)
    bpm: float = Field(default=104.0, ge=30, le=300)
    length_s: float = Field(default=0.0, ge=0, le=600)
    playing: Playing = ""
    pickup: Pickup | None = None
    guitar_volume: float | None = Field(default=None, ge=0, le=1)
    guitar_tone: float | None = Field(default=None, ge=0, le=1)
    stage: Stage = "as is"
    knobs: dict[Role, float] = Field(default_factory=dict)
    power: str = Field(default="", max_length=40)
    in_the_mix: bool = False
    space: Literal["", "dry", "a little room"] = ""

    @property
    def seconds(self) -> float:
        """How long the phrase lasts."""
        return self.length_s or (PHRASES[self.phrase].length_s if self.phrase in PHRASES else UNKNOWN_S)


def role_of(control: Control) -> Role | None:
    """What a control does, by its name; None where its name does not say."""
    words = re.split(r"[\W_\d]+", f"{control.name} {control.key}".casefold())
    for role, names in ROLE_WORDS.items():
        if any(name in words or (name in " ".join(words) and " " in name) for name in names):
            return role
    return None


def turned(settings: Mapping[str, float], controls: Sequence[Control], condition: Condition) -> dict[str, float]:
    """Positions of knobs as a test asks for them, those that it says nothing of as they stand."""
    settings = dict(settings)
    for control in controls:
        role = role_of(control)
        if role in condition.knobs and control.scale != "labels":
            settings[control.key] = condition.knobs[role]
        elif role in TONE_ROLES and "tone" in condition.knobs and control.scale != "labels":
            # A pedal with bass and treble instead of one tone knob: both go where the tone is asked to go.
            settings[control.key] = condition.knobs["tone"]
    return settings


def applied(condition: Condition, chain: Chain, compared: str, controls: ControlsOf) -> Chain:
    """The chain as the test wants it; ``compared`` is the key of the compared link."""
    said = {
        key: value
        for key in ("pickup", "guitar_volume", "guitar_tone")
        if (value := getattr(condition, key)) is not None
    }
    said |= {key: value for key in ("power", "space") if (value := getattr(condition, key))}
    links = []
    for link in chain.links:
        mine = link.key == compared
        if mine:
            settings = turned(link.settings, controls.get(link.key, ()), condition)
            link = link.model_copy(update={"settings": settings})
        if link.kind == "pedal" and condition.stage != "as is":
            on = {"off": not mine and link.on, "alone": mine, "stacked": True}[condition.stage]
            link = link.model_copy(update={"on": on})
        links.append(link)
    return Chain(links=tuple(links), conditions=chain.conditions.model_copy(update=said))


def unanswered(condition: Condition, controls: Sequence[Control]) -> list[str]:
    """Roles a test turns that none of the controls has, in words: such a take repeats another."""
    roles = {role_of(control) for control in controls}
    has_tone = bool(roles & set(TONE_ROLES))
    return [role for role in condition.knobs if role not in roles and not (role == "tone" and has_tone)]
