"""What a function's words say of it: which signal, of what kind, and what it needs."""

import re
from functools import lru_cache
from typing import Literal, NamedTuple

from molvik.parsing.functions.reading import our_words
from molvik.reference.synonyms import DIN_TERMINALS, NOISE, SENSORS, SYNONYMS

Kind = Literal[
    "", "earth", "permanent", "key", "relay", "reference", "return", "screen", "network", "signal"
]

KINDS: dict[str, Kind] = {
    "screen": "screen",
    "return": "return",
    "reference": "reference",
    "network high": "network",
    "network low": "network",
    "permanent supply": "permanent",
    "key supply": "key",
    "relay supply": "relay",
    "earth": "earth",
}
"""Words that settle of what kind a conductor is, the first that is there: a sensor's earth is a
return."""

SUPPLIES: tuple[Kind, ...] = ("permanent", "key", "relay")
INTERCHANGEABLE: tuple[Kind, ...] = ("earth", *SUPPLIES, "reference")
"""Kinds of which one pin is as good as another."""

_PHRASES = sorted(
    ((other, word) for word, others in SYNONYMS.items() for other in (word, *others)),
    key=lambda pair: -len(pair[0]),
)
_BY_PHRASE = dict(_PHRASES)
_PATTERN = re.compile(
    r"(?<![\w+])(?:" + "|".join(re.escape(phrase) for phrase, _ in _PHRASES) + r")(?![\w+])"
)


def phrases(text: str) -> tuple[list[str], str]:
    """Return what is known in a text by this program's words, and what is left of it."""
    found: list[str] = []

    def take(match: re.Match[str]) -> str:
        found.append(_BY_PHRASE[match.group()])
        return " "

    return found, _PATTERN.sub(take, text)


class Said(NamedTuple):
    """What a function says.

    words: its words in this program's terms, sorted. number: which of several (cylinder, coil,
    sensor), as digits or a letter. needs: figures by which two signals of one name may differ.
    """

    words: str
    kind: Kind
    number: str
    needs: tuple[tuple[str, str], ...]

    @property
    def group(self) -> str:
        """The interchangeable group it belongs to, empty for none."""
        if self.kind not in INTERCHANGEABLE:
            return ""
        if self.kind == "reference":
            return f"reference {self.number}".strip()
        return self.kind


@lru_cache(maxsize=8192)
def said(function: str, circuit: str = "", note: str = "") -> Said:
    """Return what a function, its circuit number and its note say."""
    written = re.sub(r"\s+", " ", function.lower()).strip()
    text = our_words(function)
    found, rest = phrases(text)
    if SENSORS & set(found):
        # A power earth pushed into a sensor's return makes every reading wrong.
        found = ["return" if word == "earth" else word for word in found]
        if re.search(r"\b(supply|feed|power|vcc)\b", rest) and not {*found} & {*KINDS}:
            found.append("reference")
            rest = re.sub(r"\b(supply|feed|power|vcc)\b", " ", rest)
    kind: Kind = next((KINDS[word] for word in KINDS if word in found), "")
    terminal = DIN_TERMINALS.get(circuit.strip().upper())
    if not kind and terminal in KINDS and not found:
        kind = KINDS[terminal]
        found.append(terminal)
    elif terminal and not found:
        found.append(terminal)
    if not kind and any(word for word in found):
        kind = "signal"
    number = _number(rest)
    left = [w for w in re.findall(r"[a-z]{2,}", rest) if w not in NOISE]
    polarity = re.search(r"[+−-]\s*$", text)
    if polarity and kind == "signal":
        if polarity.group().strip() == "+":
            found.append("signal")
        else:
            found, kind = [*found, "return"], "return"
    # "Signal" is what a sensor's conductor is unless it is said to be another.
    words = sorted({*found, *left} - {"signal"}) or sorted({*found, *left})
    return Said(" ".join(words), kind, number, _needs(f"{written} {note.lower()}"))


_NUMBER = re.compile(r"(?<![\w.])(\d{1,2})(?:\s*[-+&/]\s*\d{1,2})?(?!\s*(?:v|ohm|ω|%)\b)(?![\w.])")


def _number(rest: str) -> str:
    """Return which of several: 2, 1-4, A; coils in pairs are told by their first cylinder."""
    match = _NUMBER.search(rest)
    if match:
        return match.group(1)
    letter = re.search(r"(?<!\w)([a-h])(?!\w)", rest)
    return letter.group(1).upper() if letter else ""


_NEEDS: tuple[tuple[str, str], ...] = (
    ("pulses", r"(\d+)\s*(?:pulses?|teeth|ppr|p/rev)"),
    ("sender", r"(\d+\s*(?:to|-|–)\s*\d+)\s*(?:ohms?|ω)"),
    ("wires", r"(one|two|three|four|1|2|3|4)[- ]wire"),
)
_TO_EARTH = re.compile(
    r"to earth|to ground|switch(?:es|ed)? earth|pulls low|low side|active low|earths when"
)
_TO_PLUS = re.compile(
    r"to 12 ?v|to plus|to battery|feeds high|high side|active high|switch(?:es|ed)? plus"
)
_FIGURES = {"one": "1", "two": "2", "three": "3", "four": "4"}


def _needs(text: str) -> tuple[tuple[str, str], ...]:
    found = []
    for name, pattern in _NEEDS:
        match = re.search(pattern, text)
        if match:
            figure = re.sub(r"\s*(?:to|-|–)\s*", " to ", match.group(1))
            found.append((name, _FIGURES.get(figure, figure)))
    device = re.search(r"\b(sender|switch)\b", text)
    if device:
        found.append(("device", device.group(1)))
    if _TO_EARTH.search(text):
        found.append(("polarity", "switches earth"))
    elif _TO_PLUS.search(text):
        found.append(("polarity", "switches plus"))
    return tuple(found)


def is_earth(function: str) -> bool:
    """Return whether a function is a power earth: not a sensor's return, nor what is switched to
    earth.
    """
    return said(function).kind == "earth"


def is_return(function: str) -> bool:
    """Return whether a function is the earth of sensors."""
    return said(function).kind == "return"


def is_supply(function: str) -> bool:
    """Return whether a function is a supply from the battery."""
    meant = said(function)
    if meant.kind in ("", "signal"):
        return "supply" in our_words(function).split()
    return meant.kind in SUPPLIES


def differences(entry: Said, other: Said) -> tuple[str, ...]:
    """Return in what two signals of one name differ, so that they need a converter."""
    wanted = dict(other.needs)
    return tuple(
        f"{name}: {figure} against {wanted[name]}"
        for name, figure in entry.needs
        if name in wanted and wanted[name] != figure
    )
