"""The logbook: what was done when, noted as it happens."""

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
    wire, else a count; minutes.
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


class Tick(Value, frozen=True):
    """A step ticked off at the bench. list: which list of steps; at: as in ``LogEntry``."""

    list: str
    step: str
    at: str
    by: str = ""
