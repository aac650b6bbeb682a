"""What the measurements of items say together: answers that a page waits for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from cata.core.evidence.answers import Answer
from cata.core.evidence.compare import differences, nearest_pair
from cata.core.evidence.fingerprint import Ray, fingerprint
from cata.core.evidence.knobs import KnobAnswer, foretold, knob_answers
from cata.core.evidence.probe import Probe
from cata.core.evidence.questions import four_questions
from cata.core.gear import Control
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class Known:
    """An item's measurements and its knobs."""

    probes: Sequence[Probe]
    controls: Sequence[Control] = ()


def evidence(item: Known, _desk: Desk) -> dict[str, Any]:
    """Questions, knobs and fingerprint of an item as plain values."""
    knobs = knob_answers(item.probes, item.controls, tonal=False)
    for knob in knobs:
        knob.lowest = knob.highest = None
    return {
        "questions": [_told(answer) for answer in four_questions(item.probes, item.controls)],
        "knobs": [_told(knob) for knob in knobs],
        "fingerprint": [_ray(ray) for ray in fingerprint(item.probes)],
    }


def _told(answer: Answer | KnobAnswer) -> dict[str, Any]:
    return asdict(answer) | {"sentence": answer.sentence, "missing": answer.missing}


def _ray(ray: Ray) -> dict[str, Any]:
    return asdict(ray) | {"text": ray.text}


@dataclass(frozen=True)
class Turned:
    """A knob of an item at a position."""

    probes: Sequence[Probe]
    control: Control
    position: float


def knob_at(wish: Turned, _desk: Desk) -> list[dict[str, Any]]:
    """What a knob gives at a position, measured or drawn between, as plain values for showing."""
    return [
        {
            "name": one.name,
            "text": f"{one.value:+.1f} {'dBFS' if one.name == 'Breakup' else 'dB'}".replace("-", "−"),
            "measured": one.measured,
            "doubt": "" if one.left_out is None else f"± {one.left_out:.1f} when foretold",
        }
        for one in foretold(wish.probes, wish.control, wish.position)
    ]


@dataclass(frozen=True)
class Two:
    """The measurements of two items, and their names."""

    first: Sequence[Probe]
    second: Sequence[Probe]
    names: tuple[str, str]


def comparison(two: Two, _desk: Desk) -> dict[str, Any]:
    """The differences of two items at their nearest settings as plain values."""
    pair = nearest_pair(two.first, two.second)
    return {
        "at": [pair[0].name, pair[1].name] if pair else [],
        "probes": [pair[0].ident, pair[1].ident] if pair else [],
        "differences": [asdict(one) for one in differences(*pair, two.names)] if pair else [],
        "fingerprints": [[_ray(ray) for ray in fingerprint(one)] for one in (two.first, two.second)],
    }


EVIDENCE = Task("evidence of an item", evidence, limit_s=60)
KNOB_AT = Task("a knob at a position", knob_at, limit_s=60)
COMPARISON = Task("compare two items", comparison, limit_s=60)
