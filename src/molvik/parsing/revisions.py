"""The revisions of a board, as they are typed: "A 2026-03-14 by Mirel: first issue; B …"."""

import re
from datetime import date

from molvik.model.routing import Revision

HOW = "A 2026-03-14 by Mirel: first issue; B 2026-04-02: C9 moved"

_LINE = re.compile(
    r"(?P<mark>\w{1,4})\s+(?P<on>\d{4}-\d\d-\d\d)(?:\s+by\s+(?P<by>[^:(]+?))?"
    r"(?:\s*\((?P<state>[0-9a-f]{8})\))?\s*:\s*(?P<what>.+)",
    re.IGNORECASE,
)


def read_revisions(text: str) -> tuple[Revision, ...]:
    """Read revisions, the oldest first, apart by semicolons. Raises ValueError for what is not
    understood, for a day that no calendar has, and for a mark that is there twice.
    """
    found: list[Revision] = []
    for part in filter(None, (one.strip() for one in text.split(";"))):
        read = _LINE.fullmatch(part)
        if read is None:
            raise ValueError(f"“{part}” is not understood. Type {HOW}.")
        try:
            date.fromisoformat(read["on"])
        except ValueError:
            raise ValueError(f"“{read['on']}” is not a day: type year-month-day.") from None
        mark = read["mark"].upper()
        if any(one.mark == mark for one in found):
            raise ValueError(f"Revision {mark} is there twice: each has a mark of its own.")
        state = (read["state"] or "").lower()
        found.append(Revision(mark, read["on"], read["what"].strip(), read["by"] or "", state))
    return tuple(found)


def revisions_text(revisions: tuple[Revision, ...]) -> str:
    """Write revisions as they are typed."""
    return "; ".join(
        f"{one.mark} {one.on}"
        + (f" by {one.by}" if one.by else "")
        + (f" ({one.state})" if one.state else "")
        + f": {one.what}"
        for one in revisions
    )
