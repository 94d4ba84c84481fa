"""A function in whatever words it was written, in this program's words.

Short forms and other languages are looked up, the longest phrase first; what German joins into one
word is taken apart. A word that is in no list is left as it stands, and judged by its letters.
"""

import re
import unicodedata
from collections.abc import Iterator
from functools import cache, lru_cache

from molvik.reference.synonyms import DIN_TERMINALS, SYNONYMS
from molvik.reference.telling import SAME
from molvik.reference.tongues import PARTICLES, TOGETHER, TONGUES, entries

LONGEST = 7
"""So many tokens has the longest phrase that is looked for."""

JOINERS = ("", "s", "n", "en", "es", "e")
"""What German puts between two words that it joins."""

_TOKEN = re.compile(r"[a-z]+|\d+|[+-]")
_LETTERS = {
    "ß": "ss",
    "œ": "oe",
    "æ": "ae",
    "−": "-",
    "–": "-",
    "—": "-",
    "’": "'",
    "°": " ",
    "º": " ",
}
_BETWEEN = re.compile(r"(?<=[a-z0-9])-(?=[a-z0-9])|(?<=\s)-(?=\s*[a-z0-9(])")
_PLUS_BETWEEN = re.compile(r"(?<=\d)\s*[+]\s*(?=\d)")
_ELIDED = re.compile(r"\b(?:[dl]|dell|all|nell|qu)'(?=[a-z])")
_RANK = re.compile(r"\bb(?:ank)?\s?(\d)\s?[,/ ]?\s?s(?:ensor)?\s?(\d)\b")
_HEATED = re.compile(r"\b(h?o2s?)[ -]?(\d)[ /]?(\d)\b")
_UMLAUT = re.compile(r"([aou])e")


def plain(text: str) -> str:
    """Return a text in small letters without marks on them: ü as u, é as e."""
    text = "".join(_LETTERS.get(letter, letter) for letter in text.lower())
    parted = unicodedata.normalize("NFKD", text)
    return "".join(letter for letter in parted if not unicodedata.combining(letter))


def tokens(text: str) -> tuple[str, ...]:
    """Return the words, numbers and signs of a text: "inj1" is two, "k-line" is two."""
    text = _ELIDED.sub(" ", plain(text))
    text = _PLUS_BETWEEN.sub(" ", _BETWEEN.sub(" ", text))
    return tuple(word for word in _TOKEN.findall(text) if word not in PARTICLES)


@cache
def _phrases() -> tuple[dict[tuple[str, ...], str], dict[tuple[str, ...], str]]:
    """Return what stands for each phrase: anywhere, and where it is all there is."""
    anywhere: dict[tuple[str, ...], str] = {}
    alone: dict[tuple[str, ...], str] = {}
    for ours, same in SYNONYMS.items():
        for other in (ours, *same):
            anywhere.setdefault(tokens(other), ours)
    for tongue in TONGUES:
        for ours, others in entries(tongue):
            for other in (ours, *others):
                phrase = tokens(other.removeprefix("="))
                if not other.startswith("="):
                    anywhere.setdefault(phrase, ours)
                elif phrase not in anywhere:
                    alone.setdefault(phrase, ours)
    return anywhere, alone


def tongue_words() -> Iterator[str]:
    """Yield all that phrases are read as."""
    for tongue in TONGUES:
        yield from (ours for ours, _ in entries(tongue))


@cache
def _stems() -> dict[str, str]:
    """Return the German words that others can be made of."""
    found: dict[str, str] = {}
    for ours, others in entries("german"):
        for other in others:
            words = tokens(other.removeprefix("="))
            if len(words) == 1 and len(words[0]) >= 3:
                found.setdefault(words[0], ours)
    return found


@lru_cache(maxsize=8192)
def taken_apart(word: str) -> tuple[str, ...] | None:
    """Return the words that a long German one is made of, in this program's words; None for one
    that is not made of known ones.
    """
    stems = _stems()
    # The fewest parts win: of two ways to read a word the one with longer parts.
    best: dict[int, tuple[str, ...]] = {0: ()}
    for begin in range(len(word)):
        if begin not in best:
            continue
        for end in range(begin + 3, len(word) + 1):
            ours = stems.get(word[begin:end])
            if ours is None:
                continue
            made = (*best[begin], ours)
            for joiner in JOINERS if end < len(word) else ("",):
                after = end + len(joiner)
                if word[end:after] == joiner and (
                    after not in best or len(made) < len(best[after])
                ):
                    best[after] = made
    return best.get(len(word))


@lru_cache(maxsize=8192)
def our_words(text: str) -> str:
    """Return a function in this program's words, with its numbers and signs in their order."""
    short = plain(text)
    short = _HEATED.sub(r"\1 bank \2 sensor \3 ", _RANK.sub(r" bank \1 sensor \2 ", short))
    read = tokens(short)
    anywhere, alone = _phrases()
    if terminal := DIN_TERMINALS.get("".join(read).upper()):
        return terminal
    begin, end = _bare(read)
    for form in (read[begin:end], _shortened(read[begin:end])):
        if form in alone:
            return " ".join((*read[:begin], _numbered(alone[form], read[end:]), *read[end:]))
    found: list[str] = []
    place = 0
    while place < len(read):
        for many in range(min(LONGEST, len(read) - place), 0, -1):
            phrase = read[place : place + many]
            ours = (
                anywhere.get(phrase)
                or anywhere.get(_shortened(phrase))
                or _by_singular().get(_singular(phrase))
            )
            if ours is not None and not (many == 1 and _is_sign(read, place)):
                found.append(ours)
                place += many
                break
        else:
            found.append(_one(read, place))
            place += 1
    return " ".join(_joined(" ".join(found).split()))


def _joined(words: list[str]) -> list[str]:
    """Return words with those that are said in one brought together, wherever they stood."""
    if "oxygen" in words:  # in front of the catalyst, and behind it
        words = [{"front": "before", "rear": "after"}.get(word, word) for word in words]
        if not any(word.isdigit() for word in words):
            # The first is the one that the engine is governed by.
            words += [
                figure for place, figure in (("before", "1"), ("after", "2")) if place in words
            ]
    if words[-1:] in (["high"], ["low"]) and {"crank", "cam", "knock"} & set(words):
        words[-1] = "+" if words[-1] == "high" else "-"
    if "earth" in words and (_DRIVES.search(" ".join(words)) or "relay" in words):
        # What is switched to earth is driven, and no earth.
        words = ["control" if word == "earth" else word for word in words]
    if "relay" in words:
        words = [word for word in words if word != "coil"]
    for needed, ours, unless in TOGETHER:
        had = set(words)
        if needed <= had and not unless & had and ours not in " ".join(words):
            first = min(words.index(word) for word in needed)
            words = [word for word in words if word not in needed]
            words[first:first] = ours.split()
    return words


_DRIVES = re.compile(r"\bearth (?:side|control|switch\w*)|\b(?:to|via|switch\w*) earth|low side")


_BESIDE = frozenset({"signal", "sig", "in", "input", "ctrl", "control", "drv", "driver"})


def _bare(read: tuple[str, ...]) -> tuple[int, int]:
    """Return where the name of a thing begins and ends, without numbers and words about it."""
    begin, end = 0, len(read)
    while begin < end and read[begin] in _BESIDE:
        begin += 1
    while end > begin and (read[end - 1] in _BESIDE or read[end - 1].isdigit()):
        end -= 1
    return begin, end


def _numbered(ours: str, rest: tuple[str, ...]) -> str:
    """Return what a name stands for with what follows: one of several ignitions is a coil."""
    of_several = any(word.isdigit() for word in rest)
    return "coil" if of_several and ours == "key supply" else ours


def _shortened(words: tuple[str, ...]) -> tuple[str, ...]:
    """Return words with German vowels that were spelt out as they are looked up: zuendspule."""
    return tuple(_UMLAUT.sub(r"\1", word) if len(word) > 3 else word for word in words)


def _singular(words: tuple[str, ...]) -> tuple[str, ...]:
    """Return words without what makes several of one in English, French and Spanish."""
    return tuple(
        word[:-1] if len(word) > 4 and word[-1] in "sx" and word[-2] != "s" else word
        for word in words
    )


@cache
def _by_singular() -> dict[tuple[str, ...], str]:
    """Return what stands for each phrase, whether it speaks of one or of several."""
    found: dict[tuple[str, ...], str] = {}
    for phrase, ours in _phrases()[0].items():
        found.setdefault(_singular(_shortened(phrase)), ours)
    return found


_SIGNS = {
    "+": "+",
    "-": "-",
    "plus": "+",
    "positiv": "+",
    "positif": "+",
    "positivo": "+",
    "positive": "+",
    "pos": "+",
    "minus": "-",
    "moins": "-",
    "negativ": "-",
    "negativo": "-",
    "negatif": "-",
    "negative": "-",
    "neg": "-",
}
"""What tells the two wires of a thing apart, where it stands last."""


def _is_sign(read: tuple[str, ...], place: int) -> bool:
    return read[place] in _SIGNS and 0 < place == len(read) - 1


def _one(read: tuple[str, ...], place: int) -> str:
    """Return a word that no phrase begins with."""
    word = read[place]
    if _is_sign(read, place):
        return _SIGNS[word]
    if "can" in read and word in ("h", "l"):
        return "high" if word == "h" else "low"
    if word in ("+", "-"):
        return word if place else ""  # before all else it says that it is a supply
    return _guessed(word)


@lru_cache(maxsize=8192)
def _guessed(word: str) -> str:
    """Return what a word that is in no list may be: a German one that is made of known ones,
    several of a thing, two words run together, the beginning of one known word; else itself.
    """
    anywhere = _phrases()[0]
    if len(word) >= 7:
        parts = taken_apart(word) or taken_apart(_shortened((word,))[0])
        if parts:
            return " ".join(parts)
    if len(word) < 4 or word in SAME or (word,) in _ours():
        return word
    for form in (word[:-1], word[:-2]) if len(word) >= 5 and word.endswith("s") else ():
        if (form,) in anywhere:
            return anywhere[form,]
    for at in range(3, len(word) - 2):
        halves = (word[:at],), (word[at:],)
        if all(half in anywhere or half in _ours() for half in halves):
            return " ".join(anywhere.get(half, half[0]) for half in halves)
    begun = {known for (known,) in _ours() if known.startswith(word)}
    return begun.pop() if len(begun) == 1 else word


@cache
def _ours() -> frozenset[tuple[str]]:
    """The words that this program uses itself."""
    words = {part for ours in (*SYNONYMS, *tongue_words()) for part in tokens(ours)}
    return frozenset((word,) for word in words)
