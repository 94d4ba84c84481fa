"""What holds a stretch of a loom, or sits on it, and how far along it."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.model.routing import MarkKind, Run


class Held(NamedTuple):
    """Something on a stretch. at_m: from its start, m; words: what is on it, of a label; typed:
    whether its place was, or follows from how many there are.
    """

    kind: MarkKind
    at_m: float
    words: str
    typed: bool


def holds(run: Run, length_m: float) -> Iterator[Held]:
    """Yield what is on a stretch that is drawn so long. Clips and ties of which only the number is
    known are spread evenly.
    """
    left: list[MarkKind] = ["clip" for _ in range(run.clips)]
    left += ["tie" for _ in range(run.ties)]
    for mark in run.marks:
        if mark.kind in left:
            left.remove(mark.kind)
        yield Held(mark.kind, min(mark.at_m, length_m), mark.text, typed=True)
    for number, kind in enumerate(left, 1):
        yield Held(kind, length_m * number / (len(left) + 1), "", typed=False)
