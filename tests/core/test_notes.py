"""Other notes in one place, and a phrase played an octave away: told through any device, never of a right take."""

from dataclasses import replace

import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.match.audit import audit_test
from cata.core.match.features import features_of
from cata.core.match.pair import PairMatch, match_pair
from cata.core.measure.material import Material
from cata.core.signals.phrase import PHRASES
from tests.core.test_match import evidence

CHAINS = [("offbeat", "bypass"), ("lead-line", "fuzz"), ("soft-to-hard", "transparent"), ("muted-riff", "compressor")]
# Whole chords through these fill every pitch class: a wrong one cannot be seen, a right one must not be called wrong.
FILLED = [("offbeat", "fuzz"), ("soft-to-hard", "scooped"), ("muted-riff", "hard-clip")]


def moved(monkeypatch: pytest.MonkeyPatch, phrase: str, semitones: int, from_s: float = 0, to_s: float = 99) -> str:
    """The key of a phrase whose notes of a stretch are moved."""
    right = PHRASES[phrase]
    notes = tuple(replace(n, midi=n.midi + semitones * (from_s <= n.start_s < to_s)) for n in right.notes)
    key = f"{phrase} {semitones} {from_s} {to_s}"
    monkeypatch.setitem(PHRASES, key, replace(right, key=key, notes=notes))
    return key


def against(phrase: str, other: str, pedal: str) -> PairMatch:
    first = record(ChainSettings(phrase=phrase, player=1.0))
    second = record(ChainSettings(phrase=other, pedal=pedal, player=1.0, seed=2))
    return match_pair(features_of(Material(first)), features_of(Material(second)))


@pytest.mark.grid(2)
@pytest.mark.parametrize(("phrase", "pedal"), FILLED + CHAINS)
def test_right_notes_are_never_called_others(phrase: str, pedal: str) -> None:
    match = against(phrase, phrase, pedal)
    assert match.astray == ()
    assert match.octaves == 0


@pytest.mark.grid(2)
@pytest.mark.parametrize(("phrase", "pedal"), CHAINS)
@pytest.mark.parametrize("semitones", [-5])
def test_a_wrong_chord_is_told_with_its_place(
    phrase: str, pedal: str, semitones: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    times = sorted({note.start_s for note in PHRASES[phrase].notes})
    start, end = times[len(times) // 2], times[3 * len(times) // 4]
    match = against(phrase, moved(monkeypatch, phrase, semitones, start, end), pedal)
    worst = max(match.astray, key=lambda place: place.margin)
    assert worst.semitones == semitones
    assert start - 0.5 < worst.start_s < worst.end_s < end + 1.2


@pytest.mark.grid(2)
@pytest.mark.parametrize(("phrase", "pedal"), [("lead-line", "hard-clip"), ("lead-line", "fuzz")])
@pytest.mark.parametrize("up", [1, -1])
def test_an_octave_is_told(phrase: str, pedal: str, up: int, monkeypatch: pytest.MonkeyPatch) -> None:
    high = moved(monkeypatch, phrase, 12)
    match = against(phrase, high, pedal) if up > 0 else against(high, phrase, pedal)
    assert match.octaves == up
    assert match.same_phrase != "no"


def test_where_the_reference_has_the_wrong_chord_it_is_the_one_to_do_again(monkeypatch: pytest.MonkeyPatch) -> None:
    wrong = moved(monkeypatch, "offbeat", 3, 2.0, 4.0)
    clips = [record(ChainSettings(phrase=wrong))]
    clips += [record(ChainSettings(phrase="offbeat", player=1.0, seed=seed)) for seed in (2, 3, 4)]
    found = [
        f for f in audit_test([evidence(i, str(i), c) for i, c in enumerate(clips)]).findings if f.severity != "note"
    ]
    assert [(f.rule, f.take, f.severity) for f in found] == [("other_notes", 0, "fault")]
    assert [name for _, name in found[0].picture.marks] != []  # type: ignore[union-attr]
