"""A finding: what is wrong, why it matters, what to do, and where."""

from typing import Literal, NamedTuple

from molvik.model.job import code_order

Severity = Literal["stop", "look", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "look", "note")
"""stop: will hurt, burn or not work. look: judge it. note: good to know."""

Stage = Literal["survey", "pinouts", "crossover", "circuits", "sizes", "proving"]


class Finding(NamedTuple):
    """One finding. subject: the code, or code/cavity, it is about, where a click leads."""

    rule: str
    severity: Severity
    stage: Stage
    subject: str
    what: str
    why: str
    remedy: str

    @property
    def key(self) -> str:
        """A name that stays the same while the finding does, for accepting it."""
        return f"{self.rule} {self.subject}"

    @property
    def order(self) -> tuple[str, tuple[str, int, str]]:
        """Sort key within a severity."""
        return self.rule, code_order(self.subject)
