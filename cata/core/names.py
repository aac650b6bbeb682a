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
from pathlib import PurePosixPath

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


BYPASS_NAMES = ("bypass", "no pedal", "dry", "clean amp", "reference", "off")


def means_bypass(name: str) -> bool:
    """True for what people call the take without the compared piece."""
    return name.strip().casefold() in BYPASS_NAMES


@dataclass(frozen=True)
class Placement:
    """The proposed cell of a file: indices of contender and test (None: cannot tell) and confidence 0 to 1."""

    contender: int | None
    test: int | None
    confidence: float


def words(text: str) -> list[str]:
    """The words and numbers of a name, lower case, letters and digits apart."""
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", text)
    found = WORD.findall(spaced)
    return [part for word in found for part in re.findall(r"\d+|[^\W\d_]+", word.casefold())]


def _similarity(label: Sequence[str], name: Sequence[str]) -> float:
    """How much of a label's words a name holds, 0 to 1, near misses of spelling included."""
    if not label:
        return 0.0
    total = 0.0
    for word in label:
        best = max((SequenceMatcher(None, word, other).ratio() for other in name), default=0.0)
        # A run-together name holds the word inside another one.
        inside = len(word) > 2 and any(word in other for other in name)
        total += len(word) * (1.0 if inside else best if best > 0.75 else 0.0)
    return total / sum(len(word) for word in label)


def _best(labels: Sequence[str], name: Sequence[str]) -> tuple[int | None, float]:
    scores = [_similarity(words(label), name) for label in labels]
    if not scores:
        return None, 0.0
    order = sorted(range(len(scores)), key=lambda i: (-scores[i], -len(labels[i])))
    first = order[0]
    if scores[first] < POSSIBLE:
        return None, 0.0
    # Two labels that fit alike: the longer one says more ("soft chords" against "chords"), unless they are as long.
    rivals = [i for i in order[1:] if scores[i] >= scores[first] and len(words(labels[i])) == len(words(labels[first]))]
    return (None, 0.0) if rivals else (first, scores[first])


def place(filename: str, contenders: Sequence[str], tests: Sequence[str]) -> Placement:
    """Propose the cell of a file among known contenders and tests, from its path and name."""
    name = words(str(PurePosixPath(filename.replace("\\", "/")).with_suffix("")))
    contender, sure_contender = _best(contenders, name)
    test, sure_test = _best(tests, name)
    # With one row or column there is nothing to tell apart.
    if contender is None and len(contenders) == 1:
        contender, sure_contender = 0, POSSIBLE
    if test is None and len(tests) == 1:
        test, sure_test = 0, POSSIBLE
    return Placement(contender, test, round(min(sure_contender, sure_test), 3))


@dataclass(frozen=True)
class Grid:
    """Rows and columns found in a set of names; ``cells`` is (contender, test) for each file, in the order given."""

    contenders: tuple[str, ...]
    tests: tuple[str, ...]
    cells: tuple[tuple[int, int], ...]


def _fields(filename: str) -> list[str]:
    """The parts of a path that may name something: folders, then what separators divide."""
    path = filename.replace("\\", "/").strip("/")
    stem = re.sub(r"\.[A-Za-z0-9]{2,5}$", "", path)
    parts = [part.strip() for part in FIELD.split(stem) if part.strip()]
    if len(parts) == 1:
        parts = [part for part in re.split(r"\s+-\s*|\s*-\s+|_|\s*–\s*", stem) if part.strip()]
    if len(parts) == 1:
        parts = [part for part in re.split(r"-|\s+", stem) if part.strip()]
    return [part.strip() for part in parts]


def _pretty(field: str) -> str:
    text = re.sub(r"[_\s]+", " ", field).strip()
    return text[:1].upper() + text[1:]


def _is_noise(field: str) -> bool:
    meaningful = [word for word in words(field) if word not in NOISE]
    return not meaningful or all(word.isdigit() for word in meaningful)


def find_grid(filenames: Sequence[str]) -> Grid:
    """Contenders and tests from the names alone.

    Every name is split into fields; the two fields that vary, in the order they are written, are
    contender and test. With one field that varies there is one test, "Take". A cell that would be
    used twice becomes a test of its own ("... 2").
    """
    rows = [_fields(name) for name in filenames]
    width = Counter(len(row) for row in rows).most_common(1)[0][0] if rows else 0
    varying = [
        i
        for i in range(width)
        if len({row[i].casefold() for row in rows if len(row) > i}) > 1
        and not all(_is_noise(row[i]) for row in rows if len(row) > i)
    ]
    first = varying[0] if varying else 0
    second = varying[1] if len(varying) > 1 else None
    contenders: list[str] = []
    tests: list[str] = []
    cells: list[tuple[int, int]] = []
    for row in rows:
        contender = _pretty(row[first]) if len(row) > first else _pretty(" ".join(row)) or "Unnamed"
        rest = row[second] if second is not None and len(row) > second else ""
        test = _pretty(rest) or "Take"
        cell = (_index(contenders, contender), _index(tests, test))
        count = 2
        while cell in cells:
            cell = (cell[0], _index(tests, f"{test} {count}"))
            count += 1
        cells.append(cell)
    return Grid(tuple(contenders), tuple(tests), tuple(cells))


def _index(labels: list[str], label: str) -> int:
    for i, known in enumerate(labels):
        if known.casefold() == label.casefold():
            return i
    labels.append(label)
    return len(labels) - 1
