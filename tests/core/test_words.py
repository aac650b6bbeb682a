"""Words that players use: what is said by them is true of takes whose knob was turned, and as they are learnt."""

from __future__ import annotations

import random
import re
from collections import Counter
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cata.core.bench.chain import ChainSettings, record
from cata.core.choose.takes import BAND_SDS
from cata.core.clip import Clip
from cata.core.comparison import LIKELY_TAIL, SUPPOSED_FREEDOM
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Result, Results
from cata.core.vocabulary.asked import Differs, Met, Sought, differs, sought
from cata.core.vocabulary.ears import EVERYBODY, Taught
from cata.core.vocabulary.leaning import Leaning, Lying, apart, differ, doubts, leaning, step_of, told
from cata.core.vocabulary.learned import FROM, KEYS, PER_STEP, Example, agreeing, learn, told_learned
from cata.core.vocabulary.notes import known_word, words_in
from cata.core.vocabulary.wanted import wanted
from cata.core.vocabulary.words import DRIVE, WORD_OF, WORDS, Word
from cata.said import Said
from tests.core.test_together import bell
from tests.corpus.spoken import TAKES, TURNS, spoken

SEED = 2
SILENT = ("word_alike", "word_unknown")
MEANT = [word for word in WORDS if word.signs]


def test_words_have_opposites_and_neighbours_that_are_words() -> None:
    assert len(WORDS) >= 60
    assert len(WORD_OF) == len(WORDS)
    for word in WORDS:
        assert not word.opposite or word.opposite in WORD_OF
        assert set(word.near) <= WORD_OF.keys() - {word.key}
        if word.opposite:
            there = WORD_OF[word.opposite].signs
            assert sum(there.get(key, 0.0) * sign for key, sign in word.signs.items()) <= 0, word.key


def test_words_of_a_note_are_read_with_their_denials() -> None:
    assert words_in("Very BOOMY, not harsh; a bit glasy and less boxy than this") == [
        ("boomy", 1), ("harsh", -1), ("glassy", 1), ("boxy", -1),
    ]  # fmt: skip
    assert words_in("I would not buy it. Nice and warm") == [("warm", 1)]
    assert words_in("The second glass has more bass") == []
    assert words_in("Brighter, boxier and not as thin; over there") == [("bright", 1), ("boxy", 1), ("thin", -1)]
    assert words_in("") == []


@pytest.mark.parametrize("word", WORDS, ids=lambda word: word.key)
def test_a_raised_word_is_that_word(word: Word) -> None:
    raised = f"{word.key[:-1]}ier" if word.key.endswith("y") else f"{word.key}er".replace("eer", "er")
    assert known_word(raised) == word.key


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("less boxy than the mid-hump drive", Sought("boxy", -1, "the mid-hump drive")),
        ("Brighter than Alder", Sought("bright", 1, "Alder")),
        ("not as harsh as Birk 2", Sought("harsh", -1, "Birk 2")),
        ("more tigt than Cask", Sought("tight", 1, "Cask")),
        ("bright as day", None),
        ("louder than Alder", None),
        ("boxy", None),
    ],
)
def test_a_search_by_a_word_is_understood_or_left_to_others(text: str, found: Sought | None) -> None:
    assert sought(text) == found


def test_a_search_takes_what_differs_for_sure_and_nowhere_the_other_way() -> None:
    more, less, open_ = Met(3.0, 1), Met(-2.0, -1), Met(0.4, 0)
    assert differs(1, [more, Met(1.0, 1), open_]) == Differs(2.0, 2)
    assert differs(-1, [less, open_]) == Differs(-2.0, 1)
    assert differs(1, [more, less]) is None
    assert differs(1, [open_]) is None
    assert differs(1, []) is None


def test_what_everybody_says_of_a_take_is_what_most_say() -> None:
    told_by = Taught(WORD_OF["boxy"], {"Ida": {1: True, 2: True, 3: False}, "": {1: True, 2: False}, "Ole": {1: False}})
    assert told_by.ears == [EVERYBODY, "Ida", "Ole"]
    assert told_by.of(EVERYBODY) == {1: True, 3: False}
    assert told_by.of("Ole") == {1: False}
    assert told_by.of("Per") == {}
    assert Taught(WORD_OF["boxy"]).ears == []


@given(st.sampled_from(MEANT), st.floats(0.5, 3.0))
def test_what_lies_along_a_word_has_it_and_its_opposite_has_less(word: Word, steps: float) -> None:
    along = {key: steps * sign * step_of(key) for key, sign in word.signs.items()}
    mine, other = (leaning(word, Lying({key: way * value for key, value in along.items()})) for way in (1, -1))
    assert mine is not None
    assert other is not None
    assert mine.steps > 0.4 > 0 > other.steps
    assert mine.sd == other.sd > 0
    assert leaning(word, Lying({})) is None


def said_of(word: Word, lies: dict[int, Lying]) -> Said:
    found = {take: one for take, mine in lies.items() if (one := leaning(word, mine)) is not None}
    names = {take: str(take) for take in lies}
    return told(
        word,
        {take: one.steps for take, one in found.items()},
        names,
        lambda a, b: differ(found[a], found[b], len(found)),
    )


def lies_at(*steps: float) -> dict[int, Lying]:
    """Takes that lie so far along one word of one reading, each known to a tenth of a step."""
    (key,) = WORD_OF["bassy"].signs
    unit = step_of(key)
    return {at: Lying({key: one * unit}, {key: 0.1 * unit}) for at, one in enumerate(steps)}


@pytest.mark.parametrize(
    ("steps", "code", "words"),
    [
        ((3.5, 0, -3.5), "word", "0 is the most bassy of them, 2 the least."),
        ((3.5, 0, 0), "word_most", "0 is the most bassy of them."),
        ((0, 0, -3.5), "word_least", "2 is the least bassy of them."),
        ((3.5, 3.5, 0, 0), "word_groups", "0 and 1 are more bassy than 2 and 3; among themselves that may be chance."),
        ((2.4, 1.2, 0), "word_groups", "0 is more bassy than 2; the rest lies between."),
        ((0.5, 0, -0.5), "word_alike", "None of them is bassy to speak of against the others."),
        ((3.5,), "word_alike", "None of them is bassy to speak of against the others."),
        ((), "word_unknown", "Nothing was measured that says how bassy any of them is."),
    ],
)
def test_only_those_are_named_that_certainly_have_more_of_a_word(
    steps: tuple[float, ...], code: str, words: str
) -> None:
    found = said_of(WORD_OF["bassy"], lies_at(*steps))
    assert (found.code, found.words) == (code, words)


def test_what_differs_by_less_than_playing_it_again_does_is_not_spoken_of() -> None:
    (key,) = WORD_OF["bassy"].signs
    sure, unsure = (
        {at: Lying({key: way * 2 * step_of(key)}, {key: sd * step_of(key)}) for at, way in enumerate((1, -1))}
        for sd in (0.5, 2.0)
    )
    assert said_of(WORD_OF["bassy"], sure).code == "word"
    assert said_of(WORD_OF["bassy"], unsure).code == "word_alike"


def test_what_two_differ_by_is_what_lies_between_them_however_many_there_are() -> None:
    values = {at: {"crest_db": value} for at, value in enumerate((10.0, 16.0, 11.0, 12.0))}
    for some in ((0, 1), (0, 1, 2), (0, 1, 2, 3)):
        off = apart({at: values[at] for at in some})
        assert off[1]["crest_db"] - off[0]["crest_db"] == pytest.approx(6.0)
    # Alone in a reading nothing lies anywhere.
    assert apart({0: {"crest_db": 10.0, "tilt_db_per_oct": 1.0}, 1: {"crest_db": 12.0}})[0] == {"crest_db": -1.0}


def test_of_many_alike_two_must_differ_by_more_to_be_told_apart() -> None:
    one, other = Leaning(4.0, 4.0, 0.75), Leaning(0.0, 0.0, 0.75)
    assert [differ(one, other, among) for among in (2, 3, 4, 6, 100, 1000)] == [True, True, False, False, False, False]
    assert not differ(other, one, 2)
    # What is certain and not heard is not spoken of.
    assert not differ(Leaning(1.4, 1.4, 0.01), Leaning(0.0, 0.0, 0.01), 2)


def test_the_farthest_two_of_many_alike_are_hardly_ever_told_apart() -> None:
    chance = np.random.default_rng(4)
    for among in (2, 4, 8, 20):
        # Another player scatters by more or less than is supposed.
        player = np.sqrt(SUPPOSED_FREEDOM / chance.chisquare(SUPPOSED_FREEDOM, (40_000, 1)))
        drawn = np.sort(10 * player * chance.standard_normal((40_000, among)), axis=1)
        told_of = [differ(Leaning(row[-1], row[-1], 10.0), Leaning(row[0], row[0], 10.0), among) for row in drawn]
        assert np.mean(told_of) == pytest.approx(LIKELY_TAIL, rel=0.25), among


def test_how_driven_something_is_decides_whether_a_word_can_be_said_of_it() -> None:
    more = {key: 3 * sign * step_of(key) for key, sign in WORD_OF["glassy"].signs.items()}
    driven = {DRIVE: 3 * step_of(DRIVE)}
    for word, off, said_at in (("glassy", more, (0.5, 8.0, None)), ("crunchy", driven, (4.0, 18.0, None))):
        for drive in said_at:
            found = leaning(WORD_OF[word], Lying(off, drive=drive))
            assert found is not None
            assert found.steps > 1.5
        # A fuzz is neither glassy nor crunchy, however bright or driven it is beside others.
        assert leaning(WORD_OF[word], Lying(off, drive=30.0)) is None
    assert leaning(WORD_OF["fuzzy"], Lying(driven | {"level_spread_db": -3.0}, drive=60.0)) is not None


def test_what_a_phrase_leaves_open_counts_for_all_who_play_it() -> None:
    takes = [Results(crest_db=Result(value=10.0, band=band)) for band in (0.0, BAND_SDS * 4.0)]
    assert doubts(takes, {"crest_db": 1.0})["crest_db"] == pytest.approx(3.0)
    # A reading that playing moves by much counts for less than one that it hardly moves.
    off = {key: 2 * step_of(key) for key in ("regions_db.mids", "sustain.db_per_s")}
    weights = [
        leaning(Word("made", "", {key: 1.0}), Lying({key: value})) for key, value in off.items()
    ]  # fmt: skip
    assert [one.steps for one in weights if one is not None] == [pytest.approx(2.0)] * 2
    both = leaning(Word("made", "", dict.fromkeys(off, 1.0)), Lying({**off, "sustain.db_per_s": 0.0}))
    assert both is not None
    assert both.steps > 1.4


KNOBS = {"boxy": (600, 9.0), "bright": (3_500, 9.0), "bassy": (90, 9.0), "dull": (5_000, -12.0)}


@pytest.mark.certify
@pytest.mark.parametrize("phrase", ["soft-to-hard", "lead-line", "offbeat"])
def test_a_word_finds_the_take_whose_knob_was_turned_that_way(phrase: str) -> None:
    plain = record(ChainSettings(phrase=phrase)).samples[0].astype(float)
    heard = {0: plain} | {at: bell(plain, hz, db) for at, (hz, db) in enumerate(KNOBS.values(), start=1)}
    off = apart({at: analyse_material(Material(Clip.of(one, 48_000))).numbers() for at, one in heard.items()})
    told_of = 0
    for at, word in enumerate(KNOBS, start=1):
        found = {who: leaning(WORD_OF[word], Lying(mine)) for who, mine in off.items()}
        known = {who: one.steps for who, one in found.items() if one is not None}
        if at not in known:
            # A reading that is refused says nothing, and so does its word.
            assert set(WORD_OF[word].signs) - set(off[at])
            continue
        best = max(known, key=known.__getitem__)
        told_of += best == at
        # What has lost its top is boxier than it was, too.
        assert best == at or not differ(found[best], found[at], len(found)), (word, known)
    # A lead line has no lows that a knob could raise.
    assert told_of >= (2 if phrase == "lead-line" else 3)


def named(found: Said, side: str) -> list[str]:
    """Who is said to have most or least of a word, by number."""
    alone = found.numbers.get({"above": "most", "below": "least"}[side], "")
    return re.findall(r"\d", str(alone or found.numbers.get(side, "")))


@pytest.mark.grid(0, 1)
@pytest.mark.parametrize("part", range(4))
def test_what_is_said_by_a_word_is_true_of_takes_that_were_played_anew(part: int) -> None:
    right, among, silent = Counter[str](), Counter[str](), Counter[str]()
    untrue, told_of = list[tuple[str, str, str]](), 0
    turns = list(TURNS)[part::4]
    for turn in turns:
        flight = spoken(turn, SEED)
        turned = str(flight.turned)
        for word in WORDS:
            found = said_of(word, dict(flight.lies))
            above, below = named(found, "above"), named(found, "below")
            told_of += found.code not in SILENT
            if word.key == turn:
                tally = right if above == [turned] else among if turned in above else silent
                tally[turn] += 1
                assert turned not in below, found.words
            # All but the turned one are one and the same thing: nothing may lie between them.
            if (found.code not in SILENT and turned not in above + below) or (above and below and found.code == "word"):
                untrue.append((turn, word.key, found.words))
    assert len(untrue) <= 0.01 * told_of, untrue
    assert right.total() >= 0.44 * len(turns), silent
    assert right.total() + among.total() >= 0.44 * len(turns), silent


@pytest.mark.certify
def test_of_takes_of_one_and_the_same_thing_hardly_a_word_is_said() -> None:
    flights = [dict(spoken(None, seed).lies) for seed in range(6)]
    told_of = [word.key for lies in flights for word in WORDS if said_of(word, lies).code not in SILENT]
    assert len(told_of) <= 0.005 * len(flights) * len(WORDS), told_of


def ranges(text: str) -> dict[str, tuple[float | None, float | None]]:
    return {f"{one.reading}.{one.part}".rstrip("."): (one.low, one.high) for one in wanted(text).targets}


def test_a_sound_in_words_asks_for_what_they_stand_for() -> None:
    assert ranges("bassy and clean, please") == {
        "regions_db.lows": (3.0, None),
        "equivalent_drive.percent": (None, 3.0),
    }
    # What is not boxy has no more of the mids than the reference; how much less is not asked.
    assert ranges("not boxy") == {"regions_db.mids": (None, 0.0)}
    assert ranges("fuzzy")["equivalent_drive.percent"] == (20.0, None)
    # What is not said of what is driven more is not asked of it either.
    assert ranges("crunchy")["equivalent_drive.percent"] == (5.0, 20.0)
    assert ranges("glassy")["equivalent_drive.percent"] == (None, 10.0)
    assert "equivalent_drive.percent" not in ranges("not glassy")
    assert ranges("not dirty") == {"equivalent_drive.percent": (None, 10.0), "chord_dirt_db": (None, 0.0)}
    assert ranges("loud") == {}
    assert wanted("loud").said.code == "no_words"
    assert wanted("warm, tight and not fizzy").said.words == "Understood: warm, tight, not fizzy."


def test_words_that_contradict_each_other_leave_the_first() -> None:
    found = wanted("clean, tight, saturated")
    assert (found.words, found.against) == (("clean", "tight"), ("saturated",))
    assert found.said.code == "contradict"
    assert ranges("thin but fat") == ranges("thin")


@pytest.mark.parametrize("word", MEANT, ids=lambda word: word.key)
def test_every_word_can_be_asked_for_and_its_opposite_asks_for_the_other_side(word: Word) -> None:
    mine = ranges(word.key)
    assert mine
    if word.opposite and WORD_OF[word.opposite].signs:
        other = ranges(word.opposite)
        for key in mine.keys() & other.keys():
            assert (mine[key][0] is None) != (other[key][0] is None), key


class Person:
    """Somebody who uses a word along a direction of their own; one in five means something else by it."""

    def __init__(self, word: Word, chance: np.random.Generator) -> None:
        self.chance, signs = chance, np.array([word.signs.get(key, 0.0) for key in KEYS])
        usual = PER_STEP * signs / np.linalg.norm(signs)
        own = usual + np.where(signs != 0, 0.4, 0.2) * chance.standard_normal(len(KEYS))
        other = 0.4 * chance.standard_normal(len(KEYS))
        self.direction = other if chance.random() < 0.2 else own
        self.starts = FROM + chance.standard_normal()

    def says(self, steps: np.ndarray) -> bool:
        return bool(self.chance.random() < 1 / (1 + np.exp(self.starts - self.direction @ steps)))


def lying_at(steps: np.ndarray) -> Lying:
    return Lying({key: float(one) * step_of(key) for key, one in zip(KEYS, steps, strict=True)},
                 dict.fromkeys(KEYS, 1e-6))  # fmt: skip


@pytest.mark.grid(2)
@pytest.mark.parametrize("takes", [4, 16, 60])
def test_a_word_that_is_taught_is_as_sure_as_it_is_right(takes: int) -> None:
    chance = np.random.default_rng(takes)
    said, right = [], []
    for _ in range(150):
        word = MEANT[chance.integers(len(MEANT))]
        person = Person(word, chance)
        heard = 1.4 * chance.standard_normal((takes, len(KEYS)))
        use = learn(word, [Example(lying_at(one).off, person.says(one)) for one in heard])
        for one, other in 1.4 * chance.standard_normal((12, 2, len(KEYS))):
            more = use.more(lying_at(one), lying_at(other))
            said.append(max(more, 1 - more))
            right.append((more > 0.5) == (person.direction @ one > person.direction @ other))
    bins = np.digitize(said, [0.6, 0.75, 0.9])
    for at in range(4):
        mine = bins == at
        if mine.sum() >= 150:
            assert abs(np.mean(np.array(said)[mine]) - np.mean(np.array(right)[mine])) < 0.07, (at, mine.sum())
    assert (bins == 3).mean() > (0.2 if takes == 60 else 0.0)


@pytest.mark.parametrize("key", ["dynamic", "boxy", "harsh"])
def test_of_takes_that_are_alike_a_taught_word_says_nothing(key: str) -> None:
    chance, word = np.random.default_rng(5), WORD_OF[key]
    signs = np.array([word.signs.get(one, 0.0) for one in KEYS])
    use = learn(word, [Example(lying_at(way * 2.0 * np.sign(signs)).off, way > 0) for way in (-1, 1, -1, 1, 1, -1)])
    units, told_of = np.array([step_of(one) for one in KEYS]), 0
    for _ in range(1000):
        # All that lies between them is that each was played anew.
        takes = [
            Lying(dict(zip(KEYS, (units * row).tolist(), strict=True)), dict(zip(KEYS, units.tolist(), strict=True)))
            for row in chance.standard_normal((4, len(KEYS)))
        ]
        told_of += any(use.certainly(one, other, 4) for one, other in permutations(takes, 2))
    assert told_of <= 0.065 * 1000
    far, near = lying_at(3.0 * np.sign(signs)), lying_at(-1.0 * np.sign(signs))
    assert use.certainly(far, near, 4)
    assert not use.certainly(near, far, 4)


def test_who_means_something_else_by_a_word_is_followed_and_told() -> None:
    chance, word = random.Random(1), WORD_OF["boxy"]
    # To this person boxy is what has no lows, whatever the mids do.
    lows = KEYS.index("regions_db.lows")
    examples = []
    for _ in range(40):
        steps = np.array([chance.gauss(0, 1.5) for _ in KEYS])
        examples.append(Example(lying_at(steps).off, bool(steps[lows] < -0.5)))
    thin, full = (lying_at(np.where(np.arange(len(KEYS)) == lows, way, 0.0)) for way in (-3.0, 3.0))
    before, after = learn(word, []), learn(word, examples)
    assert before.more(thin, full) == pytest.approx(0.5, abs=0.2)
    assert after.more(thin, full) > 0.95
    assert (after.parts[0].key, after.parts[0].weight < 0) == ("regions_db.lows", True)
    foretold = agreeing(word, examples)
    assert foretold is not None
    assert foretold >= 32
    told_of = told_learned(after, foretold)
    assert told_of.words.startswith("Learnt from 40 takes: less ")
    assert agreeing(word, examples[:3]) is None
    assert told_learned(learn(WORD_OF["balanced"], examples[:1]), None).words.startswith("Learnt from one take")


def test_what_lies_where_nothing_is_known_is_neither_more_nor_less() -> None:
    use = learn(WORD_OF["boxy"], [])
    assert use.steps({}) is None
    assert use.more(Lying({}), Lying({})) == 0.5
    assert len(KEYS) == len(set(KEYS)) == 15
    assert TAKES > 2
