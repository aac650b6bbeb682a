"""The ready sounds of a brief against bench devices of known structure: each prefers what it is meant for."""

from __future__ import annotations

from functools import lru_cache

import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.brief import SOUND_BY_KEY, SOUNDS, Need
from cata.core.choose.fit import TakeReadings, fit
from cata.core.choose.ranking import Candidate, rank, told
from cata.core.measure.analysis import analyse
from cata.core.measure.registry import BY_KEY

DRIVEN = {
    "bypass": {},
    "mid-hump": {"drive": 0.45, "level": 0.3},
    "transparent": {"drive": 0.5},
    "hard-clip": {"distortion": 0.6, "filter": 0.4},
    "fuzz": {"fuzz": 0.7},
}


@lru_cache(maxsize=32)
def values(pedal: str, phrase: str) -> dict[str, float]:
    """Readings of a bench take, parts written reading.part."""
    clip = record(ChainSettings(phrase=phrase, pedal=pedal, pedal_settings=DRIVEN[pedal]))
    found: dict[str, float] = {}
    for key, value in analyse(clip, lead_in_s=0.6).readings.items():
        if isinstance(value, dict):
            found |= {f"{key}.{part}": float(v) for part, v in value.items() if isinstance(v, (int, float))}
        else:
            found[key] = float(value)
    return found


def score(sound: str, pedal: str, phrase: str) -> float:
    need = Need(sounds=[SOUND_BY_KEY[sound].as_sound()])
    found = fit(need, [TakeReadings("t", "", values(pedal, phrase))])
    assert found.score is not None
    assert found.coverage > 0.5
    return found.score


@pytest.mark.certify
@pytest.mark.parametrize(
    ("sound", "phrase", "better", "worse"),
    [
        ("clean-rhythm", "soft-to-hard", "bypass", "fuzz"),
        ("clean-rhythm", "soft-to-hard", "transparent", "hard-clip"),
        ("edge-of-breakup", "soft-to-hard", "transparent", "fuzz"),
        ("crunch", "soft-to-hard", "mid-hump", "bypass"),
        ("fuzz", "soft-to-hard", "fuzz", "bypass"),
        ("fuzz", "soft-to-hard", "hard-clip", "transparent"),
        ("singing-lead", "lead-line", "hard-clip", "bypass"),
        ("tight-riff", "muted-riff", "transparent", "hard-clip"),
    ],
)
def test_a_sound_prefers_what_it_is_meant_for(sound: str, phrase: str, better: str, worse: str) -> None:
    assert score(sound, better, phrase) > score(sound, worse, phrase) + 0.03


def test_every_ready_sound_can_be_judged_on_the_phrase_that_shows_it() -> None:
    shown_by = {"tight-riff": "muted-riff", "singing-lead": "lead-line"}
    for sound in SOUNDS:
        assert 0 < score(sound.key, "transparent", shown_by.get(sound.key, "soft-to-hard")) <= 1
        assert sound.about.endswith(".")


def test_reasons_are_sentences_with_value_and_unit() -> None:
    need = Need(sounds=[SOUND_BY_KEY["fuzz"].as_sound()], budget_minor=10000)
    takes = (TakeReadings("t", "", values("bypass", "soft-to-hard")),)
    entry = rank(need, [Candidate(1, "A", 5000, takes)])[0]
    assert ("less", "drive_density") in {(one.code, one.numbers["reading"]) for one in entry.shortfalls}
    for one in entry.fit.judged:
        judged = told(need, one)
        assert (judged.code == "met") == (one.miss == 0)
        assert (judged.numbers["sound"], judged.numbers["value"]) == ("fuzz", one.value)
        assert BY_KEY[one.target.reading].unit in judged.words
