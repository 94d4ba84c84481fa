"""The words of an American workshop, where a job asks for them: ground, harness, firewall.

All texts are written in one English, the British one, and are put into the other as a whole where
they are shown: in the window, on sheets, on cards and on the command line. What somebody typed into
the job, names and notes, is left as it was typed.
"""

import json
import re
from collections.abc import Iterator

import msgspec

from molvik.model.job import Job

AMERICAN: tuple[tuple[str, str], ...] = (
    ("unearthed", "ungrounded"),
    ("earthed", "grounded"),
    ("earthing", "grounding"),
    ("earths", "grounds"),
    ("earth", "ground"),
    ("looms", "harnesses"),
    ("loom's", "harness's"),
    ("loom", "harness"),
    ("bulkheads", "firewalls"),
    ("bulkhead", "firewall"),
    ("headlamps", "headlights"),
    ("headlamp", "headlight"),
    ("rev counter", "tachometer"),
    ("windscreen", "windshield"),
    ("screens", "shields"),
    ("screen", "shield"),
    ("battery isolator", "battery disconnect"),
    ("isolators", "disconnects"),
    ("isolator", "disconnect"),
    ("dynamo", "generator"),
    ("gearbox", "transmission"),
    ("colours", "colors"),
    ("coloured", "colored"),
    ("colour", "color"),
    ("grey", "gray"),
    ("licence", "license"),
)
"""British words with the American ones of the trade (from memory), longer ones first."""

_TO = dict(AMERICAN)
_WORDS = re.compile(rf"\b(?:{'|'.join(re.escape(word) for word, _ in AMERICAN)})\b", re.IGNORECASE)
_STRINGS = re.compile(r'"(?:[^"\\]|\\.)*":?')
"""The texts in a job as it is written; a colon follows the name of a field."""

_STEMS = (
    "earth",
    "loom",
    "bulkhead",
    "headlamp",
    "rev counter",
    "screen",
    "isolator",
    "dynamo",
    "gearbox",
    "colour",
    "grey",
    "licence",
)
"""What one of the words has in it: looked for first, since few texts have any."""

_KEPT = re.compile(r"virtual screen", re.IGNORECASE)
"""What is not about a vehicle."""


_BACK = {american: british for british, american in reversed(AMERICAN)}
_OTHERS = re.compile(rf"\b(?:{'|'.join(map(re.escape, _BACK))})\b", re.IGNORECASE)


def as_written(text: str) -> str:
    """Return a word of ours that somebody typed as it is shown, as we write it."""
    return _OTHERS.sub(lambda match: _BACK[match.group(0).lower()], text)


class Spoken:
    """Says texts as a job wants them said."""

    def __init__(self, job: Job) -> None:
        self.is_plain = job.settings.earth_word != "ground"
        """Whether texts are said as they are written."""
        self._known: dict[str, str] = {}
        self._find = _WORDS
        self._alone: frozenset[str] = frozenset()
        """Names that are nothing but a word of the table: they stay where they stand alone, or
        behind a code, and are the word everywhere else.
        """
        if not self.is_plain:
            typed = set(_typed(job))
            self._alone = frozenset(name for name in typed if name.lower() in _TO)
            own = sorted(typed - self._alone, key=lambda text: (-len(text), text))
            if own:
                names = "|".join(re.escape(name) for name in own)
                self._find = re.compile(rf"(?P<own>(?:{names})(?!\w))|(?i:{_WORDS.pattern})")

    def say(self, text: str) -> str:
        """Return a text in the words of the job."""
        if (
            self.is_plain
            or not text
            or text.partition(" ")[2] in self._alone
            or text in self._alone
        ):
            return text
        if text not in self._known:
            self._known[text] = (
                self._find.sub(self._other, text) if not _KEPT.search(text) else text
            )
        return self._known[text]

    def _other(self, match: re.Match[str]) -> str:
        word = match.group(0)
        if match.groupdict().get("own") is not None:
            return word
        said = _TO[word.lower()]
        if word.isupper():
            return said.upper()
        return said.capitalize() if word[:1].isupper() else said


def _typed(job: Job) -> Iterator[str]:
    """Yield what was typed into a job and has one of the words in it.

    By the job as it is written: of two thousand wires that is looked through after each edit.
    """
    for one in set(_STRINGS.findall(msgspec.json.encode(job).decode())):
        low = one.lower()
        if not one.endswith(":") and any(stem in low for stem in _STEMS) and _WORDS.search(one):
            yield json.loads(one)
