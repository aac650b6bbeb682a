"""Rules about what was declared, before anything is heard: chains that differ, knobs a contender lacks, drifts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from cata.core.match.finding import Severity
from cata.core.words import plural

SHOWN = 4


@dataclass(frozen=True)
class Declared:
    """A finding of the plan itself; what it is about is known to whoever asked."""

    rule: str
    severity: Severity
    text: str
    advice: str


def differs(name: str, unwanted: Sequence[tuple[str, str]], voiced: Collection[str]) -> list[Declared]:
    """What stands otherwise for one contender though nobody said that it is meant.

    ``unwanted`` as ("device" or "device/knob", words). Knobs of the ``voiced`` devices, which shape every contender
    alike, are the mistake with a name of its own: the amplifier was turned to flatter one of them.
    """
    rules: dict[str, list[str]] = {}
    for key, text in unwanted:
        device, _, knob = key.partition("/")
        rules.setdefault("voiced_for_one" if knob and device in voiced else "differs", []).append(text)
    return [
        Declared(
            rule,
            "fault" if rule == "voiced_for_one" else "check",
            f"{name}: {'; '.join(mine[:SHOWN])}.",
            "Set it as for the others, or say on the plan that this difference is meant.",
        )
        for rule, mine in rules.items()
    ]


def _listed(things: Sequence[str], more: str = "") -> str:
    """The first few of many; ``more`` is what the others are called."""
    left = len(things) - SHOWN
    rest = f" and {plural(left, more) if more else f'{left} more'}" if left > 0 else ""
    return ", ".join(things[:SHOWN]) + rest


def not_written_down(missing: Sequence[str]) -> list[Declared]:
    """What nobody will be able to repeat."""
    advice = "Write it down on the plan while the room still stands: later nobody can check or repeat it."
    return [Declared("not_written_down", "note", f"Not written down: {_listed(missing)}.", advice)] if missing else []


def no_answer(name: str, test: str, knobs: Sequence[str]) -> list[Declared]:
    """A test turns knobs that a contender has not."""
    if not knobs:
        return []
    return [
        Declared(
            "no_answer",
            "note",
            f"{name} has no {' and no '.join(knobs)} knob, which “{test}” turns.",
            "Its take repeats another one; leave the cell empty, or compare it in the other tests.",
        )
    ]


def used_otherwise(name: str, used: Mapping[str, str]) -> list[Declared]:
    """A take was played with other settings than planned; ``used`` by "device/knob"."""
    if not used:
        return []
    told = "; ".join(f"{key.split('/')[-1]} {text}" for key, text in list(used.items())[:SHOWN])
    return [
        Declared(
            "used_otherwise",
            "check",
            f"{name} was played with {told}.",
            "Record it again as planned, or keep it and remember what it is.",
        )
    ]


def drifted(changes: Sequence[str]) -> list[Declared]:
    """The anchor is not at the end what it was at the beginning; what changed in words, the most first."""
    text = f"The anchor moved from its first to its last take: {_listed(changes, 'more reading')}."
    advice = "Something changed meanwhile (valves, strings, hands, microphone): compare takes close in time, or redo."
    return [Declared("drift", "check", text, advice)] if changes else []
