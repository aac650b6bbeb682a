"""What must be so: weight, loudness and must-haves against what is noted of an item. Not known is not no."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from typing import Literal

from cata.core.brief import ROOMS, Need, PickupType, Room
from cata.core.effects import Effect, effects_of
from cata.core.gear import GearKind
from cata.core.spec_fields import FIELDS, Field
from cata.core.specs import Value, fields_of
from cata.core.workshop.loudness import USUAL_SENSITIVITY_DB, level_db, loudness
from cata.said import Said, said

Answer = Literal["yes", "no", "not known"]
DISTANCE_M = 1.0
DENIED_WITHIN = 2
WORDS = re.compile(r"[^\W_]+")
NOT = {"no", "not", "without", "never", "non"}
"""Words that turn a demand round: "no effects loop", "not noisy"."""
KINDS: tuple[GearKind, ...] = ("amplifier", "pedal", "guitar", "microphone", "speaker", "direct box", "pickup")
MOST_KG: Mapping[str, float] = {"pedal": 5.0, "guitar": 8.0, "direct box": 8.0, "power supply": 5.0}
"""What none of a kind weighs."""
WEIGHED = re.compile(r"(\d+(?:[.,]\d+)?)\s*(kg|g)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Check:
    """Something that must be so: whether it is, and why that is said."""

    answer: Answer
    said: Said


@dataclass(frozen=True)
class Noted:
    """What is noted of an item; all empty where a contender is no item of the shelf."""

    kind: str
    name: str = ""
    about: str = ""
    specs: Mapping[str, Value] = field(default_factory=dict)
    does: frozenset[str] = frozenset()
    """By what its takes move, repeat or ring on (core.motion.told.does)."""


def _fields(kind: str) -> tuple[Field, ...]:
    """What may be noted of a kind of gear; nothing of what is no kind of its own, like a whole rig."""
    return FIELDS.get(kind, ())  # type: ignore[call-overload]


def checks(need: Need, item: Noted) -> tuple[Check, ...]:
    """Every demand of a need that concerns an item of this kind."""
    known = {one.key for one in _fields(item.kind)}
    found = []
    if need.carry_limit_kg is not None and "weight_kg" in known:
        found.append(_weight(item, need.carry_limit_kg))
    if need.loudness_limit_dba is not None and "speaker_sensitivity_db" in known:
        found.append(_loudness(item, need.loudness_limit_dba))
    if need.pickup and "coils" in known:
        found.append(_pickup(item, need.pickup))
    if need.room and "speaker_sensitivity_db" in known and (check := _loud_enough(item, ROOMS[need.room])) is not None:
        found.append(check)
    if need.effects and item.kind == "pedal":
        found.append(_effect(item, need.effects))
    return _once([*found, *_demands(item, need.must_haves)])


def wishes(need: Need, item: Noted) -> tuple[Check, ...]:
    """What would be nice of an item of this kind, and whether it is so."""
    return _once(
        Check(one.answer, Said("nice", f"would be nice: {one.said.words}", one.said.numbers))
        for one in _demands(item, need.nice_to_haves)
    )


def _once(found: Iterable[Check]) -> tuple[Check, ...]:
    return tuple({one.said.words: one for one in found}.values())


def _demands(item: Noted, text: str) -> list[Check]:
    demands = (part.strip(" .") for part in re.split(r"[;\n]+", text))
    return [check for demand in demands if demand and (check := _demand(item, demand)) is not None]


def _effect(item: Noted, wanted: Sequence[Effect]) -> Check:
    """Whether a pedal does what is looked for: a chorus is no drive."""
    does, asked = effects_of(item.specs, (item.name, item.about), item.does), " or ".join(wanted)
    if not does:
        return Check("not known", said("effect", "what it does is not noted: {wanted} wanted", wanted=asked))
    told = said("effect", "does {does}, {wanted} wanted", does=" and ".join(sorted(does)), wanted=asked)
    return Check("yes" if does & set(wanted) else "no", told)


def _pickup(item: Noted, wanted: PickupType) -> Check:
    coils = item.specs.get("coils")
    if not isinstance(coils, int | float):
        return Check("not known", said("pickup", "number of coils not known: {wanted} wanted", wanted=wanted))
    fits = coils == 1 if wanted == "one coil" else coils >= 2
    told = said("pickup", "{coils:g} coil{s}, {wanted} wanted", coils=float(coils), s="" if coils == 1 else "s",
                wanted=wanted)  # fmt: skip
    return Check("yes" if fits else "no", told)


def _loud_enough(item: Noted, room: Room) -> Check | None:
    """Whether it reaches the listeners, clean and with all its power; None where a desk does that."""
    watts = item.specs.get("watts")
    if room.needed_dba is None:
        return None
    if not isinstance(watts, int | float) or watts <= 0:
        words = "power not known: {needed:g} dB are wanted at {distance:g} m in {room}"
        return Check("not known", said("loud_enough", words, needed=room.needed_dba, distance=room.distance_m,
                                       room=room.name))  # fmt: skip
    sensitivity = float(item.specs.get("speaker_sensitivity_db") or USUAL_SENSITIVITY_DB)
    speakers = max(1, int(item.specs.get("speaker_count") or 1))
    level = level_db(float(watts), sensitivity, room.distance_m, speakers)
    words = "reaches {level:.0f} dB at {distance:g} m, {needed:g} wanted in {room}"
    told = said("loud_enough", words, level=level, distance=room.distance_m, needed=room.needed_dba, room=room.name)
    return Check("yes" if level >= room.needed_dba else "no", told)


def _weight(item: Noted, limit_kg: float) -> Check:
    kg = item.specs.get("weight_kg")
    if kg is None and limit_kg >= MOST_KG.get(item.kind, inf):
        return Check("yes", said("never_so_heavy", "no such thing weighs {limit:g} kg", limit=limit_kg))
    if not isinstance(kg, int | float):
        words = "weight not known: {limit:g} kg can be carried"
        return Check("not known", said("weight", words, limit=limit_kg))
    words = "weighs {kg:g} kg, {limit:g} can be carried"
    return Check("yes" if kg <= limit_kg else "no", said("weight", words, kg=float(kg), limit=limit_kg))


def _loudness(item: Noted, limit_db: float) -> Check:
    watts = item.specs.get("watts")
    if not isinstance(watts, int | float) or watts <= 0:
        words = "power not known: {limit:g} dB(A) are allowed"
        return Check("not known", said("loudness", words, limit=limit_db))
    sensitivity = float(item.specs.get("speaker_sensitivity_db") or USUAL_SENSITIVITY_DB)
    speakers = max(1, int(item.specs.get("speaker_count") or 1))
    steps = loudness(float(watts), str(item.specs.get("power_positions") or ""), sensitivity, DISTANCE_M, speakers)
    least = steps[-1]
    words = "clean at {watts:g} W it reaches {level:.0f} dB at 1 m, {limit:g} dB(A) are allowed"
    told = said("loudness", words, watts=least.watts, level=least.level_db, limit=limit_db)
    # Turned down it may still do: whether it then sounds as it should is what the takes show.
    loud = least.level_db > limit_db
    return Check("no", told.then(", so it must be turned down")) if loud else Check("yes", told)


def _demand(item: Noted, demand: str) -> Check | None:
    """Whether an item has what a demand in words asks for; None where it is none of its kind's business."""
    if weighed := WEIGHED.search(demand):
        kg = float(weighed.group(1).replace(",", ".")) * (0.001 if weighed.group(2).lower() == "g" else 1.0)
        return _weight(item, kg) if any(one.key == "weight_kg" for one in _fields(item.kind)) else None
    wanted = _words(demand)
    if refused := wanted & NOT:
        return _without(item, demand, wanted - refused)
    for one in _fields(item.kind):
        value = item.specs.get(one.key)
        if one.type == "flag" and wanted >= _words(one.name):
            return _answered(demand, "not known" if value is None else "yes" if value else "no")
        if one.type == "choice" and value is not None and wanted <= {w for c in one.choices for w in _words(c)}:
            return _answered(demand, "yes" if wanted <= _words(str(value)) else "no")
    noted = " ".join([item.name, item.about, *map(str, item.specs.values())])
    if wanted <= _words(noted):
        return _answered(demand, "no" if _denied(noted, wanted) else "yes")
    others = (one for kind in KINDS if kind != item.kind for one in fields_of(kind))
    elsewhere = any(one.type == "flag" and wanted >= _words(one.name) for one in others)
    return None if elsewhere else _answered(demand, "not known")


def _without(item: Noted, demand: str, wanted: set[str]) -> Check | None:
    """Whether an item has not what a demand will not have; nothing said of it is no proof."""
    if not wanted:
        return _answered(demand, "not known")
    plain = _demand(item, " ".join(sorted(wanted)))
    if plain is None:
        return None
    turned: Mapping[Answer, Answer] = {"yes": "no", "no": "yes", "not known": "not known"}
    return _answered(demand, turned[plain.answer])


def _answered(demand: str, answer: Answer) -> Check:
    return Check(answer, Said("must_have", f"{demand}: {answer}", {"demand": demand}))


def _denied(noted: str, wanted: set[str]) -> bool:
    """True where what is noted says that it is not so: "not quiet", "without a loop"."""
    words = [word.casefold() for word in WORDS.findall(noted)]
    places = [at for at, word in enumerate(words) if word in wanted]
    return bool(places) and any(set(words[max(0, at - DENIED_WITHIN) : at]) & NOT for at in places)


def _words(text: str) -> set[str]:
    return {word.casefold() for word in WORDS.findall(text)}
