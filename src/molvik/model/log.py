"""The logbook: what was done when, noted as it happens."""

from collections.abc import Iterable
from typing import Literal

from molvik.model.parts import Value

EntryKind = Literal["note", "clock on", "clock off", "done"]
Operation = Literal[
    "open and close covering",
    "terminal out and in",
    "crimp",
    "splice",
    "new wire",
    "clean",
    "test",
]


class LogEntry(Value, frozen=True):
    """One line of the log.

    at: local time with its UTC offset, ISO 8601. stage, subject: what was in view and in hand.
    A "done" entry says how much of an operation took how long: quantity in metres for covering and
    wire, else a count; minutes. was: what it said before it was corrected, in words, the oldest
    first; struck_at: when it was struck out, empty while it counts.
    """

    at: str
    kind: EntryKind = "note"
    stage: str = ""
    subject: str = ""
    text: str = ""
    by: str = ""
    operation: Operation | Literal[""] = ""
    quantity: float = 0.0
    minutes: float = 0.0
    was: str = ""
    struck_at: str = ""

    @property
    def says(self) -> str:
        """What it says, in words: of what was done how much, in how long."""
        if self.kind != "done":
            return self.text
        amount = f"{self.operation}, {self.quantity:g} in {self.minutes:g} min"
        return f"{amount}: {self.text}" if self.text else amount


def counted(log: Iterable[LogEntry]) -> tuple[LogEntry, ...]:
    """Return the lines of a log that were not struck out."""
    return tuple(entry for entry in log if not entry.struck_at)


class Tick(Value, frozen=True):
    """A step ticked off at the bench. list: which list of steps; at: as in ``LogEntry``."""

    list: str
    step: str
    at: str
    by: str = ""
