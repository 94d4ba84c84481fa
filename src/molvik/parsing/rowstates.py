"""How a row of a table was read, and how that is said."""

from typing import Literal

from molvik.wording import counted

RowState = Literal["fine", "needs you", "cannot be read"]

STATE_WORDS: dict[RowState, str] = {
    "fine": "OK",
    "needs you": "to check",
    "cannot be read": "unreadable",
}
"""The states as they are said; JSON has their names."""


def said_counts(fine: int, needs_you: int, unread: int) -> str:
    """Say how many rows are of each state."""
    return f"{counted(fine, 'row')} OK, {needs_you} to check, {unread} unreadable"
