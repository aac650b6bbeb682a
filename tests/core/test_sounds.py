"""The ready sounds of a brief against bench devices of known structure: each prefers what it is meant for."""

from __future__ import annotations

from functools import lru_cache

import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.brief import Need
from cata.core.choose.ranking import Ranked
from cata.core.choose.told import told
from cata.core.clip import Clip
from cata.core.drive.of_test import share_of_image
from cata.core.measure.analysis import analyse
from cata.core.measure.registry import BY_KEY
from cata.core.resample import downsample
from cata.core.sounds import SOUND_BY_KEY, SOUNDS
from tests.corpus.flown import Played, Stands, rank

DRIVEN: dict[str, dict[str, float]] = {
    "bypass": {},
    "mid-hump": {"drive": 0.45, "level": 0.3},
    "transparent": {"drive": 0.5},
    "hard-clip": {"distortion": 0.6, "filter": 0.4},
    "fuzz": {"fuzz": 0.7},
}


@lru_cache(maxsize=32)
def clip_of(pedal: str, phrase: str) -> Clip:
    kind = pedal.removesuffix(" again")
    return record(ChainSettings(phrase=phrase, pedal=kind, pedal_settings=DRIVEN[kind]))


@lru_cache(maxsize=32)
def values(pedal: str, phrase: str) -> dict[str, float]:
    """Readings of a bench take, its drive among them: the bench re-amps one dry take."""
    dry, wet = (downsample(clip_of(name, phrase).samples[0], 2) for name in ("bypass", pedal))
    drive = {"equivalent_drive.percent": 100 * share_of_image(dry, wet).value}
    return analyse(clip_of(pedal, phrase), lead_in_s=0.6).numbers() | drive


def ranked(sound: str, pedals: tuple[str, ...], phrase: str) -> list[Ranked]:
    standing = [
        Stands(n, pedal, 5000, (Played("t", "", values(pedal, phrase)),), is_bypass=pedal == "bypass")
        for n, pedal in enumerate(("bypass", *pedals))
    ]
    return rank(Need(sounds=[SOUND_BY_KEY[sound].as_sound()], budget_minor=10000, price_weight=0), standing)


@pytest.mark.certify
@pytest.mark.parametrize(
    ("sound", "phrase", "order"),
    [
        ("clean-rhythm", "soft-to-hard", ("bypass again", "transparent", "fuzz")),
        ("fuzz", "soft-to-hard", ("fuzz", "transparent", "bypass again")),
        ("fuzz", "soft-to-hard", ("hard-clip", "mid-hump")),
        ("crunch", "soft-to-hard", ("mid-hump", "bypass again")),
        ("crunch", "offbeat", ("transparent", "fuzz")),
        ("singing-lead", "lead-line", ("hard-clip", "bypass again")),
        ("tight-riff", "muted-riff", ("transparent", "bypass again")),
        ("high-gain-riff", "muted-riff", ("hard-clip", "bypass again")),
        ("dark-lead", "lead-line", ("mid-hump", "bypass again")),
        ("slack-heavy", "soft-to-hard", ("hard-clip", "bypass again")),
        ("funk-offbeats", "offbeat", ("bypass again", "transparent", "fuzz")),
        ("slide", "lead-line", ("mid-hump", "transparent", "fuzz")),
        ("jangle", "offbeat", ("bypass again", "transparent", "fuzz")),
        ("boosted-lead", "lead-line", ("mid-hump", "bypass again")),
        ("warm-clean", "soft-to-hard", ("bypass again", "transparent", "fuzz")),
    ],
)
def test_a_sound_prefers_what_it_is_meant_for(sound: str, phrase: str, order: tuple[str, ...]) -> None:
    found = ranked(sound, order, phrase)
    assert [one.candidate.name for one in found] == list(order)
    assert found[0].score > found[-1].score + 0.03


def test_every_ready_sound_can_be_judged_on_the_phrase_that_shows_it() -> None:
    shown_by = {"tight-riff": "muted-riff", "singing-lead": "lead-line", "crunch": "muted-riff"}
    for sound in SOUNDS:
        (only,) = ranked(sound.key, ("transparent",), shown_by.get(sound.key, "soft-to-hard"))
        assert only.fit.coverage > 0.5
        assert sound.about.endswith(".")


def test_reasons_are_sentences_with_value_and_unit() -> None:
    need = Need(sounds=[SOUND_BY_KEY["fuzz"].as_sound()])
    (entry,) = ranked("fuzz", ("transparent",), "soft-to-hard")
    assert ("less", "equivalent_drive.percent") in {(one.code, one.numbers["reading"]) for one in entry.shortfalls}
    for one in entry.fit.judged:
        judged = told(need, one)
        assert (judged.code == "met") == (one.miss == 0)
        assert (judged.numbers["sound"], judged.numbers["value"]) == ("fuzz", one.value)
        assert BY_KEY[one.target.reading].unit in judged.words
