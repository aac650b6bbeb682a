"""What is known of a contender on every range of a need: value, band, and whether it is met. Imports no numpy."""

from __future__ import annotations

from cata.core.brief import Need, Sound, Target
from cata.core.card.card import Evidence, State
from cata.core.choose.takes import BAND_SDS, Ground, Known, slack_of
from cata.core.choose.told import MINUS, part_name
from cata.core.choose.words import range_in_words
from cata.core.measure.registry import BY_KEY

MET_JNDS = 1.0
"""Less than is just noticed outside a range is inside it for the ear."""


def shown(need: Need, ground: Ground, ident: int, name: str) -> list[Evidence]:
    """Every range of every sound that counts, as the contender shows it."""
    found = []
    for sound in need.sounds:
        if sound.weight <= 0:
            continue
        for target in sound.targets:
            if target.weight > 0:
                values = ground.values(sound.key, target)
                found.append(_shown(sound, target, ground.known(ident, sound.key, target), values, name))
    return found


def _shown(sound: Sound, target: Target, known: Known | None, values: list[float], name: str) -> Evidence:
    reading = BY_KEY[target.reading]
    wanted = range_in_words(target).words
    ends = [end for end in (target.low, target.high) if end is not None]
    if known is None:
        axis = [*values, *ends] or [0.0, 1.0]
        return Evidence(part=name, sound=sound.name, reading=part_name(target), wanted=wanted, shown="not known",
                        state="not known", wanted_low=target.low, wanted_high=target.high, least=min(axis),
                        most=max(axis))  # fmt: skip
    band = BAND_SDS * known.sd
    low, high = known.value - band, known.value + band
    axis = [*values, *ends, low, high]
    unit = reading.step_unit if target.against else reading.unit
    sign = "+" if target.against else ""
    limit = {"at_most": "at most ", "at_least": "at least "}.get(known.bound or "", "")
    around = "" if known.bound else f" ± {band:.{reading.decimals}f}"
    words = f"{limit}{known.value:{sign}.{reading.decimals}f}{around} {unit}".strip().replace("-", MINUS)
    return Evidence(part=name, sound=sound.name, reading=part_name(target), wanted=wanted, shown=words,
                    state=_state(target, known), value=known.value, low=low, high=high, wanted_low=target.low,
                    wanted_high=target.high, least=min(axis), most=max(axis))  # fmt: skip


def _state(target: Target, known: Known) -> State:
    if known.bound is not None and not _bound_tells(target, known):
        return "not known"
    slack = max(slack_of(target), MET_JNDS * known.jnd)
    misses = [miss for miss in (_below(target, known), _above(target, known)) if miss > 0]
    if not misses:
        return "met"
    return "near" if max(misses) < slack else "missed"


def _bound_tells(target: Target, known: Known) -> bool:
    """True where all that lies beyond a bound is inside the range."""
    if known.bound == "at_most":
        return target.low is None and target.high is not None and known.value <= target.high
    return target.high is None and target.low is not None and known.value >= target.low


def _below(target: Target, known: Known) -> float:
    return 0.0 if target.low is None else target.low - known.value


def _above(target: Target, known: Known) -> float:
    return 0.0 if target.high is None else known.value - target.high
