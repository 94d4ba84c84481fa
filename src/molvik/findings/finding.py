"""A finding: what is wrong, why it matters, what to do, and where."""

from typing import Literal, NamedTuple

from molvik.findings.kinds import KINDS, SEVERITY_WORDS, Severity, Stage
from molvik.model.job import code_order
from molvik.wording import figures

Worse = Literal["more", "less", "other"]


ENDLESS = 1e9
"""Stands for a figure without end, which files cannot hold."""


class Figure(NamedTuple):
    """A figure that a finding rests on, and which way it gets worse. unit: "%" for a share.
    endless: what to say of it from ``ENDLESS`` on.
    """

    name: str
    value: float
    unit: str = ""
    worse: Worse = "more"
    endless: str = ""

    def text(self, value: float) -> str:
        """Return a value of it as it is told."""
        if self.endless and value >= ENDLESS:
            return self.endless
        if self.unit == "%":
            return f"{figures(value * 100)} %"
        return f"{figures(value)} {self.unit}".strip()


def share(part: float, whole: float) -> float:
    """Return a share of a whole, which may be nothing."""
    return min(part / whole, ENDLESS) if whole > 0 else ENDLESS


class Finding(NamedTuple):
    """One finding. subject: the code, or code/cavity, it is about, where a click leads. rests_on:
    the figures whose change for the worse makes it another finding to whoever accepted it.
    """

    rule: str
    severity: Severity
    subject: str
    what: str
    why: str
    remedy: str
    rests_on: tuple[Figure, ...] = ()

    @property
    def key(self) -> str:
        """A name that stays the same while the finding does, for accepting it."""
        return f"{self.rule} {self.subject}"

    @property
    def word(self) -> str:
        """How bad it is, in a word: to fix, to check, or to note."""
        return SEVERITY_WORDS[self.severity]

    @property
    def leads_to(self) -> str:
        """Where a click goes: of a wire in a cavity, which is about both, to the wire."""
        return self.subject.split(" ")[0]

    @property
    def stage(self) -> Stage:
        """Where it is put right."""
        return KINDS[self.rule].stage

    @property
    def order(self) -> tuple[str, tuple[str, int, str]]:
        """Sort key within a severity."""
        return self.rule, code_order(self.subject)
