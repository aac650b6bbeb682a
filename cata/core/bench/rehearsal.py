"""From a written chain to the bench's: which stand-ins play it, and where a stand-in is only a stand-in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from cata.core.bench.chain import ChainSettings
from cata.core.bench.names import knobs_of, stand_in
from cata.core.bench.standin import pickup_for
from cata.core.gear import Control
from cata.core.plan.chain import Conditions
from cata.core.plan.condition import USUAL_PHRASE
from cata.core.signals.phrase import PHRASES
from cata.said import Said, said

LOUD_AMPLIFIER_GAIN = 0.5
LEAST_VOLUME, VOLUME_TAPER = 0.05, 1.7
"""A guitar's volume knob: how far down it is ever taken, and its audio taper."""
STRAIGHT_THROUGH = ("speaker", "microphone", "direct box")


@dataclass(frozen=True)
class Device:
    """A device of a chain as it is written down; ``text`` is all that is said of it in words."""

    kind: str
    name: str
    text: str = ""
    on: bool = True
    specs: Mapping[str, float | bool | str] = field(default_factory=dict)
    controls: Sequence[Control] = ()
    settings: Mapping[str, float] = field(default_factory=dict)

    @property
    def positions(self) -> dict[str, float]:
        """Every knob's position: as set, else where it starts."""
        return {control.key: control.default for control in self.controls} | dict(self.settings)

    @property
    def stand_in(self) -> str:
        """The bench device for it; empty where the bench has nothing like it."""
        written = (str(self.specs.get(key, "")) for key in ("effect", "topology"))
        return stand_in(self.kind, self.name, self.text, *written)


def rehearsal(
    phrase: str, devices: Sequence[Device], conditions: Conditions, *, player: float, seed: int
) -> tuple[ChainSettings, list[Said]]:
    """What the bench is to play, and where it plays something else than is written."""
    known = phrase if phrase in PHRASES else USUAL_PHRASE
    other = "“{phrase}” is not simulated; soft to hard chords are played instead."
    notes = [] if known == phrase else [said("other_phrase", other, phrase=phrase)]
    neck = conditions.pickup == "neck"
    volume = max(conditions.guitar_volume, LEAST_VOLUME) ** VOLUME_TAPER
    chain = ChainSettings(phrase=known, guitar_volume=volume, player=player, seed=seed)
    if neck:
        chain = replace(chain, pickup="narrow-single-neck")
    for device in devices:
        if device.on:
            chain = _played(chain, device, neck)
            notes += _note(device)
    return chain, notes


def _played(chain: ChainSettings, device: Device, neck: bool) -> ChainSettings:
    key = device.stand_in
    if device.kind == "pedal" and key:
        return replace(chain, pedal=key, pedal_settings=knobs_of(key, device.controls, device.positions))
    if device.kind == "amplifier":
        key = key or "clean"
        # The recorder is set for what it hears: an amplifier that breaks up is louder than the clean one.
        gain = 1.0 if key == "clean" else LOUD_AMPLIFIER_GAIN
        knobs = knobs_of(key, device.controls, device.positions)
        return replace(chain, amplifier=key, amplifier_settings=knobs, input_gain=gain)
    if device.kind == "pickup" and device.name and not neck:
        noted = (device.specs.get(name) for name in ("coils", "inductance_h", "dc_resistance_kohm"))
        return replace(chain, pickup=pickup_for(*(float(one) if one else None for one in noted)))
    return chain


def _note(device: Device) -> list[Said]:
    if not device.name:
        return []
    if device.kind in STRAIGHT_THROUGH:
        return [said("one_speaker", "{name} is not simulated: all takes share one speaker response.", name=device.name)]
    if device.kind == "pedal" and not device.stand_in:
        return [said("straight_wire", "{name} is not simulated: it is played as a straight wire.", name=device.name)]
    if device.kind == "amplifier" and device.text.strip() and not device.stand_in:
        words = "{name} is not simulated: the bench's clean amplifier is played."
        return [said("clean_amplifier", words, name=device.name)]
    return []
