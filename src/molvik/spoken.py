"""The words of an American workshop, where a job asks for them: ground, harness, firewall.

All texts are written in one English, the British one, and are put into the other as a whole where
they are shown: in the window, on sheets, on cards and on the command line. What somebody typed into
the job, names and notes, is left as it was typed.
"""

import re
from collections.abc import Iterator
from typing import Any

import msgspec

from molvik.model.job import Job

AMERICAN: tuple[tuple[str, str], ...] = (
    ("unearthed", "ungrounded"), ("earthed", "grounded"), ("earthing", "grounding"),
    ("earths", "grounds"), ("earth", "ground"), ("looms", "harnesses"), ("loom's", "harness's"),
    ("loom", "harness"), ("bulkheads", "firewalls"), ("bulkhead", "firewall"),
    ("headlamps", "headlights"), ("headlamp", "headlight"), ("rev counter", "tachometer"),
    ("windscreen", "windshield"), ("screens", "shields"), ("screen", "shield"),
    ("battery isolator", "battery disconnect"), ("isolators", "disconnects"),
    ("isolator", "disconnect"), ("dynamo", "generator"), ("gearbox", "transmission"),
    ("colours", "colors"), ("coloured", "colored"), ("colour", "color"), ("grey", "gray"),
    ("licence", "license"), ("multimetre", "multimeter"),
)  # fmt: skip
"""British words with the American ones of the trade (from memory), longer ones first."""

_TO = dict(AMERICAN)
_WORDS = re.compile(rf"\b(?:{'|'.join(re.escape(word) for word, _ in AMERICAN)})\b", re.IGNORECASE)
_KEPT = re.compile(r"virtual screen", re.IGNORECASE)
"""What is not about a vehicle."""


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
    """Yield what was typed into a job and has one of the words in it."""
    stack: list[Any] = [msgspec.to_builtins(job)]
    while stack:
        one = stack.pop()
        if isinstance(one, dict):
            stack += one.values()
        elif isinstance(one, list | tuple):
            stack += one
        elif isinstance(one, str) and _WORDS.search(one):
            yield one
