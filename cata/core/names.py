"""From file names to cells: which contender and which test a recording belongs to.

Two tasks: placing files into a flight whose rows and columns are known, and finding rows and columns in
a folder of files. People name files "contender - test", in folders, with dates, take numbers and
other things in between; both work on words, not on one pattern. Imports no numpy.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from functools import lru_cache
from itertools import pairwise

from cata.said import Said

SURE, POSSIBLE = 0.75, 0.45
FIELD = re.compile(r"\s+-+\s+|__+|\s*[/\\|;,]\s*|\s*[()\[\]]\s*")
WORD = re.compile(r"[^\W_]+", re.UNICODE)
NOISE = {
    "take",
    "tk",
    "final",
    "mix",
    "master",
    "rec",
    "recording",
    "audio",
    "demo",
    "copy",
    "new",
    "wav",
    "mono",
    "stereo",
}
COUNTER = re.compile(rf"(?<![^\W_])(?:{'|'.join(sorted(NOISE))})[\s_.-]*\d+(?![^\W_])", re.IGNORECASE)
"""A take's number: it says when something was played, not what."""
NUMBERED = re.compile(
    r"^(?:[a-z]{2,5}[\s_.-]*\d{3,}|(?:img|dsc|vid|mov|rec|clip|audio|file|untitled|track|memo|voice memo|aufnahme"
    r"|[a-z ]*recording)?[\s_.-]*\d+)(?:[\s_.-]*\d+)*$",
    re.IGNORECASE,
)
"""A name that a recorder or a camera gave (letters and a number, a date): it says nothing of what is played."""
FUZZY, LIKE = 0.75, 0.85
SHORT, SMALL_SHARE = 3, 0.25

BYPASS_NAMES = ("bypass", "no pedal", "dry", "clean amp", "reference", "off")


def means_bypass(name: str) -> bool:
    """True for what people call the take without the compared piece."""
    return name.strip().casefold() in BYPASS_NAMES


@dataclass(frozen=True)
class Placement:
    """The proposed cell of a file: indices of contender and test (None: cannot tell) and confidence 0 to 1.

    ``why`` says what is lacking where the confidence is below :data:`SURE`.
    """

    contender: int | None
    test: int | None
    confidence: float
    why: Said | None = None


def words(text: str) -> list[str]:
    """The words and numbers of a name, lower case, letters and digits apart."""
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", text)
    found = WORD.findall(spaced)
    return [part for word in found for part in re.findall(r"\d+|[^\W\d_]+", word.casefold())]


def counter_of(filename: str) -> int:
    """The number that a name gives its take, 0 where it gives none."""
    found = COUNTER.search(filename)
    return int(re.findall(r"\d+", found.group())[-1]) if found else 0


def _stem(filename: str) -> str:
    """A path without its ending, with forward slashes and without the numbers of takes."""
    path = re.sub(r"\.[A-Za-z0-9]{2,5}$", "", filename.replace("\\", "/").strip("/"))
    return COUNTER.sub(" ", path)


@lru_cache(maxsize=20_000)
def _fits(label: str, word: str) -> tuple[int, int, float] | None:
    """Where in a word of a file a word of a label is found (from, to), and how well, 0 to 1."""
    if label == word:
        return 0, len(word), 1.0
    if label.isdigit() or word.isdigit() or len(label) < SHORT:
        return None
    # A run-together name holds the word inside another one.
    at = word.find(label)
    if at >= 0:
        return at, at + len(label), 1.0
    if len(word) >= SHORT and label.startswith(word):
        return 0, len(word), 0.9  # cut short: "dist" for "distortion"
    ratio = SequenceMatcher(None, label, word).ratio()
    return (0, len(word), ratio) if ratio > FUZZY else None


@dataclass(frozen=True)
class _Fit:
    """What of a file's name speaks for a label: letters it explains, the weight of it, the share of the label."""

    letters: frozenset[tuple[int, int]]
    weight: float
    share: float
    score: float

    def without(self, used: frozenset[tuple[int, int]]) -> float:
        """The weight that is left where other letters are spoken for."""
        return self.weight * len(self.letters - used) / max(1, len(self.letters))


NO_FIT = _Fit(frozenset(), 0.0, 0.0, 0.0)


def _fit(label: str, name: Sequence[str]) -> _Fit:
    letters: set[tuple[int, int]] = set()
    found: list[tuple[int, float, int]] = []
    parts = words(label)
    for part in parts:
        fits = [(index, fit) for index, word in enumerate(name) if (fit := _fits(part, word)) is not None]
        if not fits:
            continue
        # Of two places alike, the one next to the word before: in "c3 - t3" the second 3 is the t's.
        before = found[-1][2] if found else -1
        index, (start, end, well) = max(fits, key=lambda one: (one[1][2], one[0] - before in (0, 1), -one[0]))
        # What of the label the word has: "Tweeds" has less of a file called "Tweed" than "Tweed" itself.
        found.append((min(len(part), end - start), well, index))
        letters |= {(index, at) for at in range(start, end)}
    if not found:
        return NO_FIT
    known = sum(length for length, _, _ in found)
    score = sum(length * well for length, well, _ in found) / known
    # Words that stand one after the other as in the label say more than the same words apart.
    together = sum(1 for (_, _, one), (_, _, other) in pairwise(found) if other - one in (0, 1))
    return _Fit(frozenset(letters), known * score + together, known / sum(map(len, parts)), score)


Labels = Sequence[str | tuple[str, ...]]
"""Names of rows or columns; with a tuple other names of the same, which count where nobody is named outright."""


def _fits_of(labels: Labels, name: Sequence[str]) -> list[_Fit]:
    own = [_fit(label if isinstance(label, str) else label[0], name) for label in labels]
    if any(one.weight for one in own):
        return own
    others = [() if isinstance(label, str) else label[1:] for label in labels]
    return [max((_fit(one, name) for one in more), key=lambda fit: fit.weight, default=NO_FIT) for more in others]


def _rivals(fits: Sequence[_Fit], best: int, used: frozenset[tuple[int, int]]) -> list[int]:
    """Labels that the name speaks for as well, or with words that the best does not explain."""
    winner = fits[best]
    mine = winner.letters - used
    rivals = []
    for index, fit in enumerate(fits):
        theirs = fit.letters - used
        if index == best or not theirs:
            continue
        if len(theirs - mine) >= SHORT or (theirs == mine and not (winner.share > 0.99 > fit.share)):
            rivals.append(index)
    return rivals


def _sure(fit: _Fit) -> float:
    """How sure a fit without rivals is."""
    whole = 1.0 if fit.share > SURE else 0.8 if fit.share > SMALL_SHARE else 0.6
    return whole if fit.score >= LIKE else min(whole, 0.7) * fit.score


def place(filename: str, contenders: Labels, tests: Labels) -> Placement:
    """Propose the cell of a file among known contenders and tests, from its path and name.

    A word counts once: "clean riff" is a riff through the clean boost, where there is also a test called clean chords.
    """
    name = words(_stem(filename))
    rows, columns = _fits_of(contenders, name), _fits_of(tests, name)
    row, column = _best_pair(rows, columns)
    sure, why = 1.0, None
    spoken = (
        (rows, row, columns[column].letters if column is not None else frozenset(), contenders, "contender"),
        (columns, column, rows[row].letters if row is not None else frozenset(), tests, "test"),
    )
    chosen: list[int | None] = []
    for fits, best, used, labels, noun in spoken:
        if best is None:
            # With one row or column there is nothing to tell apart; other words may still mean something else.
            alone = len(labels) == 1
            chosen.append(0 if alone else None)
            sure = min(sure, 0.0 if not alone else POSSIBLE if _unexplained(name, used) else 0.8)
            if sure < SURE:
                why = why or Said(f"no_{noun}", f"No {noun} is named in it.", {"noun": noun})
            continue
        rivals = _rivals(fits, best, used)
        if rivals:
            both = [_shown(labels[one]) for one in sorted((best, *rivals))][:3]
            why = why or Said(f"either_{noun}", f"It may be {' or '.join(both)}.", {"noun": noun})
            chosen.append(None)
            sure = 0.0
            continue
        chosen.append(best)
        sure = min(sure, _sure(fits[best]))
        if sure < SURE:
            why = why or Said("guessed", f"Only a part of the name speaks for {_shown(labels[best])}.")
    if row is None and column is None:
        why = Said("nothing_named", "Its name says neither contender nor test.")
    return Placement(chosen[0], chosen[1], round(sure, 3), why if sure < SURE else None)


def nearest(text: str, labels: Labels) -> int | None:
    """The one label that a text speaks for; None where there is none, or more than one."""
    fits = _fits_of(labels, words(text))
    best = max(range(len(fits)), key=lambda i: fits[i].weight, default=None)
    if best is None or not fits[best].weight or _rivals(fits, best, frozenset()):
        return None
    return best if _sure(fits[best]) >= SURE else None


def _unexplained(name: Sequence[str], used: frozenset[tuple[int, int]]) -> bool:
    """Whether a name holds words that nothing stands for."""
    spoken = {index for index, _ in used}
    return any(i not in spoken and not word.isdigit() and word not in NOISE for i, word in enumerate(name))


def _shown(label: str | tuple[str, ...]) -> str:
    return label if isinstance(label, str) else label[0]


def _best_pair(rows: Sequence[_Fit], columns: Sequence[_Fit]) -> tuple[int | None, int | None]:
    """The row and the column that together explain most of a name, no letter of it twice."""
    best: tuple[float, int | None, int | None] = (0.0, None, None)
    some_rows = [None, *(i for i, fit in enumerate(rows) if fit.weight)]
    some_columns = [None, *(i for i, fit in enumerate(columns) if fit.weight)]
    for row in some_rows:
        for column in some_columns:
            one = rows[row] if row is not None else NO_FIT
            other = columns[column] if column is not None else NO_FIT
            left = one.without(other.letters), other.without(one.letters)
            if (row is not None and not left[0]) or (column is not None and not left[1]):
                continue  # what explains the one leaves nothing to speak for the other
            weight = max(one.weight + left[1], other.weight + left[0]) + (one.share + other.share) / 2
            if weight > best[0]:
                best = (weight, row, column)
    return best[1], best[2]


Found = tuple[int, int] | None


@dataclass(frozen=True)
class Grid:
    """Rows and columns found in a set of names; ``cells`` is (contender, test) of each file in the order given.

    None is a file whose name says nothing (a camera's), or speaks for the cell of one before it.
    """

    contenders: tuple[str, ...]
    tests: tuple[str, ...]
    cells: tuple[Found, ...]


def _fields(filename: str) -> list[str]:
    """The parts of a path that may name something: folders, then what separators divide."""
    stem = _stem(filename)
    parts = [part.strip() for part in FIELD.split(stem) if part.strip()]
    if len(parts) == 1:
        parts = [part for part in re.split(r"\s+-\s*|\s*-\s+|_|\s*–\s*", stem) if part.strip()]
    if len(parts) == 1:
        parts = [part for part in re.split(r"-|\s+", stem) if part.strip()]
    return [part.strip(" _-") for part in parts if part.strip(" _-")]


def _pretty(field: str) -> str:
    text = re.sub(r"[_\s]+", " ", field).strip()
    return text[:1].upper() + text[1:]


def _is_noise(field: str) -> bool:
    meaningful = [word for word in words(field) if word not in NOISE]
    return not meaningful or all(word.isdigit() for word in meaningful) or NUMBERED.match(field.strip()) is not None


def find_grid(filenames: Sequence[str]) -> Grid:
    """Contenders and tests from the names alone.

    Every name is split into fields; the two fields that vary, in the order they are written, are
    contender and test. With one field that varies there is one test, "Take". Numbers of takes are no names.
    """
    every = [[] if all(map(_is_noise, _stem(name).split("/"))) else _fields(name) for name in filenames]
    rows = [row for row in every if row]
    width = Counter(len(row) for row in rows).most_common(1)[0][0] if rows else 0
    varying = [
        i
        for i in range(width)
        if len({row[i].casefold() for row in rows if len(row) > i}) > 1
        and not all(_is_noise(row[i]) for row in rows if len(row) > i)
    ]
    first = varying[0] if varying else 0
    # Where all played the same, what stands after the contender names it.
    alike = (i for i in range(first + 1, width) if not all(_is_noise(row[i]) for row in rows if len(row) > i))
    second = varying[1] if len(varying) > 1 else next(alike, None)
    contenders: list[str] = []
    tests: list[str] = []
    cells: list[Found] = []
    for row in every:
        if not row:
            cells.append(None)
            continue
        contender = _pretty(row[first]) if len(row) > first else _pretty(" ".join(row)) or "Unnamed"
        test = _pretty(row[second] if second is not None and len(row) > second else "") or "Take"
        cell = (_index(contenders, contender), _index(tests, test))
        cells.append(None if cell in cells else cell)
    return Grid(tuple(contenders), tuple(tests), tuple(cells))


def _index(labels: list[str], label: str) -> int:
    for i, known in enumerate(labels):
        if known.casefold() == label.casefold():
            return i
    labels.append(label)
    return len(labels) - 1
