"""Photos and what is marked on them. The pictures themselves lie in the job's package."""

from typing import Literal

from molvik.model.parts import Value

MarkKind = Literal["arrow", "circle", "length", "trace"]


class Mark(Value, frozen=True):
    """An arrow, a circle, a length, or a leg of a traced loom on a photo.

    x1 to y2: in parts of the photo's width and height, 0 to 1. An arrow points to its second point,
    a circle has its middle at the first and passes the second. length_m: what a length was measured
    to be, m, None when it was not. text: what stands beside it; of a leg the stretch that it is.
    """

    kind: MarkKind
    x1: float
    y1: float
    x2: float
    y2: float
    text: str = ""
    length_m: float | None = None


class Photo(Value, frozen=True):
    """One photo. P7 is a code.

    file: name of the picture in the package. width, height: its pixels, as it is shown. on: the
    code of what it shows, empty for the job. at: when it was taken, local time with its UTC offset,
    ISO 8601. turned: how many quarters it is turned clockwise to be shown, 0 to 3.
    """

    code: str
    file: str
    width: int
    height: int
    at: str
    on: str = ""
    text: str = ""
    by: str = ""
    stage: str = ""
    marks: tuple[Mark, ...] = ()
    turned: int = 0

    def marks_out(self, code: str) -> bool:
        """Return whether something is marked on it: a mark's words begin with its code."""
        return bool(code) and any(mark.text.split(" ", 1)[0] == code for mark in self.marks)
