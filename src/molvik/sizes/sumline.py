"""A line of a quick sum, as people type it: "14 awg 5'6\\" 12 amps there and back, PVC, 140 °F"."""

import re
from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.model.parts import WireSize
from molvik.numbers import read_number
from molvik.parsing.quantities import (
    QuantityError,
    read_current_a,
    read_length_m,
    read_ohm,
    read_size,
    read_temperature_c,
)
from molvik.reference.insulation import INSULATIONS, Insulation, everyday
from molvik.wording import figures

VERBS = {
    "wire": "wire",
    "drop": "drop",
    "fuse": "fuse",
    "cable": "cable",
    "starter": "cable",
    "crank": "cable",
    "cranking": "cable",
    "charge": "charge",
    "charging": "charge",
    "alternator": "charge",
    "bundle": "bundle",
    "loom": "bundle",
    "twist": "twist",
    "twisted": "twist",
    "resistor": "resistor",
    "power": "power",
    "gauge": "gauge",
    "size": "gauge",
}
"""What may be asked for, with its other names."""

HELP = (
    "14 awg 5 m 12 A · 12 A 5 m 3 % there and back · fuse 1.5 mm2 8 A · starter cable 180 A 1.5 m "
    "· charge cable 130 A 1.2 m · bundle 6x1 mm2 2x2.5 mm2 · twist 2 m 30 mm 2.1 mm · resistor "
    "12 V 2 V 20 mA · power 560 ohm 12 V"
)

_FILLING = frozenset(
    {
        "at",
        "for",
        "over",
        "with",
        "in",
        "and",
        "of",
        "on",
        "air",
        "ambient",
        "insulation",
        "wires",
        "the",
        "a",
        "per",
        "long",
        "mm2",
        "mm²",
        "awg",
        "lamp",
        "load",
    }
)
_ONE_WAY = re.compile(r"\b(?:one[- ]way|single)\b", re.IGNORECASE)
_BACK = re.compile(
    r"\b(?:there and back|both ways|round trip|two[- ]way|and back|with return|return|loop)\b",
    re.IGNORECASE,
)

_DEGREES = r"(?:°|deg(?:rees)?\s?)?\s?"
_UNITS = {
    "A": r"amp(?:ere)?s?|a",
    "mA": r"milliamp(?:ere)?s?|ma",
    "V": r"volts?|v",
    "mV": r"mv",
    "W": r"watts?|w",
    "mm2": r"mm(?:2|²|\^2)|sq\.?\s?mm|qmm|square mm",
    "awg": r"awg|gauge|ga",
    "m": r"met(?:re|er)s?|m",
    "cm": r"cm",
    "mm": r"mm",
    "ft": r"feet|foot|ft|'",
    "in": r"inch(?:es)?|in|\"",
    "share": r"%|per ?cent",
    "C": rf"{_DEGREES}c(?:elsius)?|°",
    "F": rf"{_DEGREES}f(?:ahrenheit)?",
    "mohm": r"mohms?|mΩ",
    "kohm": r"kohms?|kΩ",
    "ohm": r"ohms?|Ω",
}
_NUMBER = r"[-+]?(?:\d+[.,]?\d*|[.,]\d+)"
_NAMED = "|".join(f"(?P<{name}>{pattern})" for name, pattern in _UNITS.items())
_PLAIN = "|".join(_UNITS.values())
_FEET = rf"(?P<ft>{_NUMBER})\s*(?:feet|foot|ft|')\s*(?P<in>{_NUMBER})\s*(?:inch(?:es)?|in\b|\")"
_BARE_FEET = rf"(?P<ft>{_NUMBER})'\s?(?P<in>\d+)(?![\d.,])(?!\s*(?:{_PLAIN})(?![a-z]))"
_AUGHT = (
    r"(?:awg\s*)?(?P<number>[1-4]/0|0{2,4}|0(?=\s*(?:awg|gauge|ga)\b))(?![\d.,x])"
    r"\s*(?:awg|gauge|ga)?(?![a-z])"
)
_TOKENS = tuple(
    (kind, re.compile(pattern, re.IGNORECASE))
    for kind, pattern in (
        ("feet", _FEET),
        ("feet", _BARE_FEET),
        ("count", r"(?P<number>\d[\d,]*)\s*[x×]\s*(?=\d)"),
        ("aught", _AUGHT),
        ("gauge", r"(?:awg|#)\s*(?P<number>\d+)(?![\d.])"),
        ("figure", rf"(?P<number>{_NUMBER})\s*(?:{_NAMED})(?![a-z0-9]|\.\d)"),
        ("word", r"[a-zÀ-ÿ][\w-]*"),
        ("space", r"[\s,;]+"),
    )
)


LEAST_SYSTEM_V = 5.0


class Item(NamedTuple):
    """A figure of a line, as a number in its unit, and as it was typed."""

    value: float
    text: str


class Line:
    """What stands in a line, by its kind. What a sum takes out of it is used."""

    def __init__(self, text: str) -> None:
        self.text = text.strip()
        self.verb = ""
        self.sizes: list[tuple[int, WireSize, str]] = []
        self.figures: dict[str, list[Item]] = {}
        self.back: bool | None = None
        """Whether the way back counts too; None where nothing was said."""
        self.kind: Insulation | None = None
        self._kind_text = ""
        self.unknown: list[str] = []
        self._read()

    @property
    def is_sum(self) -> bool:
        """Whether there is enough in it to be a sum rather than words to look for."""
        return bool(self.sizes or self.figures)

    def take(self, name: str) -> float | None:
        """Take the first figure of a kind out of the line."""
        found = self.figures.get(name, [])
        return found.pop(0).value if found else None

    def take_all(self, name: str) -> list[float]:
        """Take all figures of a kind out of the line."""
        return [item.value for item in self.figures.pop(name, [])]

    def take_size(self) -> WireSize | None:
        """Take the first size out of the line. Raises QuantityError for several wires of it."""
        if not self.sizes:
            return None
        count, size, _ = self.sizes.pop(0)
        if count > 1:
            raise QuantityError(
                f"{count} x {size}: one wire at a time. Side by side they have "
                f"{figures(count * area_mm2(size))} mm² of copper; how thick or hot they are says: "
                f"bundle {count}x{size}."
            )
        return size

    def take_volts(self) -> tuple[float | None, float | None]:
        """Take the voltage of a system out of the line, and one that may be lost: no vehicle has
        less than 5 V. Raises QuantityError.
        """
        volts = self.figures.pop("V", [])
        systems = [item for item in volts if item.value >= LEAST_SYSTEM_V]
        lost = [item for item in volts if item.value < LEAST_SYSTEM_V]
        more = [*systems[1:], *lost[1:]]
        if more:
            raise QuantityError(f"One voltage at a time: {more[0].text}.")
        first = systems[0].value if systems else None
        return first, lost[0].value if lost else None

    def power_as_current(self) -> str:
        """Have the current that a power takes in the place of the power; say so."""
        watts = self.figures.get("W", [])
        if not watts or self.figures.get("A"):
            return ""
        systems = [item.value for item in self.figures.get("V", [])]
        volts = max(systems, default=0.0)
        volts = volts if volts >= LEAST_SYSTEM_V else 12.0
        item = self.figures.pop("W")[0]
        self._add("A", item.value / volts, item.text)
        return f"{item.text} at {volts:g} V take {figures(item.value / volts)} A."

    def take_kind(self, usual: Insulation) -> Insulation:
        """Take the insulation out of the line, or the usual one."""
        self._kind_text = ""
        return self.kind or usual

    def left(self) -> list[str]:
        """Return what nobody took. Raises QuantityError for what would have changed the answer."""
        if self.sizes:
            raise QuantityError(f"{self.sizes[0][2]}: one size at a time.")
        for name, words in (
            ("share", "This sum has no use of"),
            ("A", "One current at a time:"),
            ("m", "One length at a time:"),
        ):
            if self.figures.get(name):
                raise QuantityError(f"{words} {self.figures[name][0].text}.")
        texts = [item.text for items in self.figures.values() for item in items]
        if self._kind_text:
            texts.append(self._kind_text)
        if self.back is not None:
            texts.append("there and back" if self.back else "one way")
        return texts

    def take_back(self) -> bool:
        """Take out whether the way back counts; without a word it does not."""
        back, self.back = self.back, None
        return bool(back)

    # reading

    def _read(self) -> None:
        text = self.text.replace("”", '"').replace("″", '"').replace("’", "'").replace("′", "'")
        if _BACK.search(text) and not _ONE_WAY.search(text):
            self.back = True
        elif _ONE_WAY.search(text):
            self.back = False
        text = _BACK.sub(" ", _ONE_WAY.sub(" ", text))
        for name in ("cross-linked", "cross linked", "crosslinked"):
            text = re.sub(rf"\b{name}\b", "crosslinked", text, flags=re.IGNORECASE)
        index, count = 0, 1
        while index < len(text):
            kind, found = _next(text, index)
            if found is None:
                end = next((n for n in range(index, len(text)) if text[n].isspace()), len(text))
                self.unknown.append(text[index:end])
                index = end
                continue
            index = found.end()
            if kind == "count":
                count = int(found["number"].replace(",", ""))
            elif kind == "word":
                self._word(found.group())
            elif kind != "space":
                self._figure(kind, found, count)
                count = 1

    def _word(self, word: str) -> None:
        small = word.lower()
        if small in VERBS and self.verb in ("", "wire"):
            self.verb = VERBS[small]
            return
        if small in ("wire", "cable"):
            return  # a charge cable is about charging, a fuse for a wire about the fuse
        code = word.upper() if word.upper() in INSULATIONS else everyday(small)
        if code:
            self.kind, self._kind_text = INSULATIONS[code], word
        elif small not in _FILLING:
            self.unknown.append(word)

    def _figure(self, kind: str, found: "re.Match[str]", count: int) -> None:
        text = found.group().strip()
        match kind:
            case "feet":
                self._add("m", read_length_m(f"{found['ft']} ft {found['in']} in"), text)
            case "aught":
                number = found["number"]
                aught = number if "/" in number else f"{len(number)}/0"
                self.sizes.append((count, read_size(f"{aught} awg"), text))
            case "gauge":
                self.sizes.append((count, read_size(f"{found['number']} awg"), text))
            case _:
                unit = next(name for name in _UNITS if found[name])
                self._with_unit(found["number"], unit, text, count)

    def _with_unit(self, number: str, unit: str, text: str, count: int) -> None:
        figure = f"{number} {unit}"
        plain = read_number(number)
        match unit:
            case "mm2" | "awg":
                self.sizes.append((count, read_size(figure), text))
            case "A" | "mA":
                self._add("A", read_current_a(figure), text)
            case "V" | "mV":
                self._add("V", plain / (1000 if unit == "mV" else 1), text)
            case "ohm" | "mohm" | "kohm":
                self._add("ohm", read_ohm(figure) or 0.0, text)
            case "share":
                self._add("share", plain / 100, text)
            case "C" | "F":
                self._add("C", read_temperature_c(figure), text)
            case "W":
                self._add("W", plain, text)
            case _:
                self._add("m", read_length_m(figure), text)

    def _add(self, name: str, value: float, text: str) -> None:
        self.figures.setdefault(name, []).append(Item(value, text))


def _next(text: str, index: int) -> "tuple[str, re.Match[str] | None]":
    """Return what stands at a place of a text, and of what kind it is."""
    for kind, pattern in _TOKENS:
        found = pattern.match(text, index)
        if found and found.end() > index:
            return kind, found
    return "", None
