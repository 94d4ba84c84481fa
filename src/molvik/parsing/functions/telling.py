"""What tells one function from another: the words and numbers that must agree in a sure match.

Two names that are alike are a proposal. Only names that say the same, with every number, side,
polarity, direction, level and kind of thing in it, are a sure match (common practice of who has
pushed the fan's lead into the fan relay's cavity once).
"""

import re
from functools import lru_cache
from typing import NamedTuple

from molvik.parsing.functions.reading import our_words
from molvik.parsing.functions.words import INTERCHANGEABLE, phrases, said
from molvik.reference.synonyms import MANY_KINDS, SENSORS
from molvik.reference.telling import DRIVEN, INDUCTIVE, NUMBERS, SAME, SAYS_NOTHING


class Telling(NamedTuple):
    """What must agree. words: in this program's terms; numbers: in their order, ranks and banks
    among the words.
    """

    words: frozenset[str]
    numbers: tuple[str, ...]


_BANK = re.compile(r"\b(?:bank\s*|b)(\d)(?=\b|\s*s\d)")
_SENSOR = re.compile(r"\b(?:sensor|probe|s)\s*(\d)\b")
_RANKS = re.compile(r"(?:bank|probe)\d")
_TOKEN = re.compile(r"\d+(?:\.\d+)?|[^\W\d_]+|[+−](?!\s*\d)|-(?=\s*\)?\s*$)")


@lru_cache(maxsize=8192)
def telling(function: str, circuit: str = "") -> Telling:
    """Return what tells a function from others; nothing for an empty one."""
    text = our_words(function)
    for mark, short in _SHORT:
        text = mark.sub(short, text)
    text = _BANK.sub(r" bank\1 ", text)
    if " bank" in text:
        text = _SENSOR.sub(r" probe\1 ", text)
    found, rest = phrases(text)
    words: set[str] = set(found)
    numbers: list[str] = []
    words.update(_RANKS.findall(rest))
    rest = _RANKS.sub(" ", rest)
    for token in _TOKEN.findall(rest):
        if token[0].isdigit():
            numbers.append(token.lstrip("0") or "0")
        elif token in _LETTERS:
            numbers.append(token.upper())
        elif token in NUMBERS:
            numbers.append(NUMBERS[token])
        else:
            words.update(_spelt(token).split())
    if not words and not numbers:
        words |= set(said("", circuit).words.split())
    return Telling(frozenset(_telling_only(words)), tuple(numbers))


def _telling_only(words: set[str]) -> set[str]:
    """Leave out what says nothing beside the other words."""
    kept = words - SAYS_NOTHING
    things = kept & SENSORS
    if things:
        # A sensor's conductor is its signal unless it is said to be another.
        kept -= {"signal", "input"}
        if things & {"throttle", "pedal"}:
            kept -= {"wiper"}
        if not things & MANY_KINDS:
            kept -= {"sensor"}
        if things & INDUCTIVE:
            kept -= {"+"}  # of others it may be the supply
        if "-" in kept or "earth" in kept:
            kept = kept - {"-", "earth"} | {"return"}
        if "supply" in kept:
            kept = kept - {"supply"} | {"reference"}
    if kept & DRIVEN:
        kept -= {"driver", "control"}
        if not any("relay" in one for one in kept):
            kept -= {"output", "signal"}  # what comes out of a relay is not its coil
    return kept or words


@lru_cache(maxsize=4096)
def _spelt(word: str) -> str:
    """Return a word in this program's terms, a long one that is misspelt as well."""
    if word in SAME:
        return SAME[word]
    if len(word) >= _LONG and word not in _KNOWN:
        from rapidfuzz.distance import DamerauLevenshtein

        near = [one for one in _KNOWN if DamerauLevenshtein.distance(word, one, score_cutoff=1) < 2]
        if len(near) == 1:
            return SAME.get(near[0], near[0])
    return word


_LETTERS = frozenset("abcdefgh")
"""Letters that count like numbers: coil A, sensor B."""

_LONG = 7
"""Words of so many letters may be a letter out; shorter ones are other words then."""

_KNOWN = frozenset(one for one in {*SAME, *SAME.values()} if len(one) >= _LONG - 1)

_SHORT = tuple(
    (re.compile(pattern), word)
    for pattern, word in (
        (r"\bl/?h\b", "left"),
        (r"\br/?h\b", "right"),
        (r"\bn/s\b", "nearside"),
        (r"\bo/s\b", "offside"),
        (r"\bno\.?\s*(?=\d)", ""),
        (r"#\s*(?=\d)", ""),
        (r"\bcyl(?:inder)?s?\.?\s*(?=[\da-h]\b)", ""),
        (r"\bco-?driver\b", "passenger"),
        (r"(?<=\w)\(\+\)|\(\s*\+\s*\)", " + "),
        (r"\(\s*[-−–]\s*\)", " −"),
        (r"\bhi\b", "high"),
        (r"\blo\b", "low"),
        (r"[−–]\s*$", " -"),
    )
)


def same_group(entry: Telling, other: Telling) -> bool:
    """Return whether two pins of an interchangeable group are for the same things: which of
    several does not matter, what else they say does.
    """
    return entry.words - _OF_THE_MODULE == other.words - _OF_THE_MODULE


_OF_THE_MODULE = frozenset({"module", "engine", "main", "supply", "power", *INTERCHANGEABLE})
