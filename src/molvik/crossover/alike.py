"""How alike two functions are by their words, 0 to 100.

Words weigh by what they say: the thing most, what is measured of it and the kind of part less, a
word like "output" hardly anything. What one name has more than the other counts against them, but a
name that is part of another is worth a look. Words that exclude one another, left and right, lamp
and valve, bank 1 and bank 2, keep two names apart however much else agrees. A word that no list has
is compared by its letters: as a misspelling, and as a short form of another.
"""

from collections.abc import Iterable, Sequence
from functools import cache, lru_cache
from typing import TYPE_CHECKING

from molvik.reference.synonyms import SYNONYMS
from molvik.reference.telling import (
    APART,
    EXCLUDING,
    FILLER,
    KINDRED,
    MEASURED,
    PARTS,
    SAME,
)

if TYPE_CHECKING:
    import numpy
    from numpy.typing import NDArray

THING, UNSEEN, MEASURE, PART, LITTLE = 2.0, 1.5, 1.5, 1.0, 0.25
"""What kinds of words weigh (our choice, set on names that were made up for it)."""

WITHIN = 0.72
"""What a name that is part of another counts for (our choice)."""

KEPT_APART = 45.0
"""At most this for names with words that exclude one another (our choice)."""

SHORT_FORM = 0.75
"""What a word counts for that may be short for another: its letters stand there in their order."""


def parted(words: Iterable[str]) -> frozenset[str]:
    """Return the words of a telling, those that stand for several taken apart."""
    given = set(words)
    found: set[str] = set()
    measured = bool(given & MEASURED)
    for word in given:
        parts = APART.get(word, word).split() if word in APART or " " in word else [word]
        found |= {part for part in parts if not (part in MEASURED and part != word and measured)}
    if found & MEASURED:
        found.discard("sensor")  # what is measured, a sensor measures
    return frozenset(found)


def weight(word: str) -> float:
    """Return what a word weighs."""
    if word in FILLER:
        return LITTLE
    if word in PARTS:
        return PART
    if word in MEASURED:
        return MEASURE
    return THING if is_known(word) else UNSEEN


@lru_cache(maxsize=4096)
def is_known(word: str) -> bool:
    """Return whether any list has a word."""
    return word in _known() or word[:-1] in ("bank", "probe") or not word.isalpha()


@cache
def _known() -> frozenset[str]:
    from molvik.parsing.functions.reading import tongue_words

    every = (*SAME, *SAME.values(), *SYNONYMS, *APART.values(), *tongue_words())
    return frozenset(part for one in every for part in (one, *one.split()))


@lru_cache(maxsize=32768)
def kinship(one: str, other: str) -> float:
    """Return how far two words say the same, 0 to 1."""
    if one == other:
        return 1.0
    near = KINDRED.get(frozenset((one, other)))
    if near is not None:
        return near
    if is_known(one) and is_known(other):
        return 0.0
    short, long = sorted((one, other), key=len)
    if len(short) < 3 or not (short.isalpha() and long.isalpha()):
        return 0.0
    if len(short) >= 5:
        from rapidfuzz.distance import OSA

        alike = OSA.normalized_similarity(one, other)
        if alike >= 0.75:
            return float(alike)
    return SHORT_FORM if _is_short_for(short, long) else 0.0


def _is_short_for(short: str, long: str) -> bool:
    """Return whether a word may be short for another: it begins it, or has its letters in order
    with none of its vowels after the first.
    """
    if len(short) < 3 or len(long) - len(short) < 2:
        return False
    if long.startswith(short):
        return True
    if short[0] != long[0] or any(letter in "aeiou" for letter in short[1:]):
        return False
    rest = iter(long)
    return all(letter in rest for letter in short)


def alike(
    first: "Sequence[frozenset[str]]", second: "Sequence[frozenset[str]]"
) -> "NDArray[numpy.float64]":
    """Return how alike each two names are, 0 to 100. first, second: the words of each."""
    import numpy

    ones, others = [parted(words) for words in first], [parted(words) for words in second]
    rows, columns = _numbered(ones), _numbered(others)
    weights_a = numpy.array([weight(word) for word in rows])
    weights_b = numpy.array([weight(word) for word in columns])
    has_a, has_b = _table(ones, rows), _table(others, columns)
    kin = numpy.array([[kinship(a, b) for b in columns] for a in rows]).reshape(
        len(rows), len(columns)
    )
    # What of each name the other has as well, the best of its words for each.
    found_a = numpy.zeros((len(ones), len(others)))
    found_b = numpy.zeros_like(found_a)
    for number, words in enumerate(others):
        places = [columns[word] for word in words]
        best = kin[:, places].max(axis=1) if places else numpy.zeros(len(rows))
        found_a[:, number] = has_a @ (weights_a * best)
    for number, words in enumerate(ones):
        places = [rows[word] for word in words]
        best = kin[places].max(axis=0) if places else numpy.zeros(len(columns))
        found_b[number] = has_b @ (weights_b * best)
    whole_a = (has_a @ weights_a)[:, None]
    whole_b = (has_b @ weights_b)[None, :]
    with numpy.errstate(invalid="ignore", divide="ignore"):
        both = (found_a + found_b) / (whole_a + whole_b)
        within = numpy.maximum(found_a / whole_a, found_b / whole_b) * WITHIN
    # A word that says little in common makes no name part of another.
    within[numpy.minimum(found_a, found_b) < MEASURE] = 0.0
    made: NDArray[numpy.float64] = numpy.nan_to_num(numpy.maximum(both, within)) * 100.0
    excluded = _excluded(ones, others)
    made[excluded] = numpy.minimum(made[excluded], KEPT_APART)
    return made


def _numbered(names: Sequence[frozenset[str]]) -> dict[str, int]:
    words = sorted({word for name in names for word in name})
    return {word: number for number, word in enumerate(words)}


def _table(names: Sequence[frozenset[str]], words: dict[str, int]) -> "NDArray[numpy.float64]":
    import numpy

    table = numpy.zeros((len(names), len(words)))
    for row, name in enumerate(names):
        table[row, [words[word] for word in name]] = 1.0
    return table


def _excluded(
    ones: Sequence[frozenset[str]], others: Sequence[frozenset[str]]
) -> "NDArray[numpy.bool_]":
    """Return which names have words that exclude one another."""
    import numpy

    found = numpy.zeros((len(ones), len(others)), dtype=bool)
    for group in EXCLUDING:
        a = numpy.array([_which(group, name) for name in ones], dtype=object)
        b = numpy.array([_which(group, name) for name in others], dtype=object)
        said_a, said_b = a != "", b != ""
        found |= said_a[:, None] & said_b & (a[:, None] != b)
    return found


def _which(group: dict[str, str], name: frozenset[str]) -> str:
    """Return which of a group of words a name has, empty for none or several."""
    had = {group[word] for word in name if word in group}
    return had.pop() if len(had) == 1 else ""
