"""Places in a job as they are written on labels, in lists and in files: "C3/5", "W12", "B4@0.35".

Written and read here and nowhere else.
"""

import re
from typing import NamedTuple

_POINT = re.compile(r"(.*)@(\d+(?:\.\d+)?)", re.DOTALL)


def end_text(code: str, cavity: str) -> str:
    """Return a cavity of a connector, or a terminal of another part, as it is written."""
    return f"{code}/{cavity}"


class Ref(NamedTuple):
    """A place: a thing of the job by its code, a cavity or terminal of it, or a point along it.

    code: of a part, a wire, a stretch; empty for none. cavity: of a connector, or a terminal of
    another part. at_m: a point of a wire or a stretch, m from its start.
    """

    code: str = ""
    cavity: str = ""
    at_m: float | None = None

    def __str__(self) -> str:
        if self.at_m is not None:
            return f"{self.code}@{self.at_m:.6f}".rstrip("0").rstrip(".")
        return end_text(self.code, self.cavity) if self.cavity else self.code

    @classmethod
    def parse(cls, text: str) -> "Ref":
        """Read a place as it is written."""
        code, slash, cavity = text.partition("/")
        if slash:
            return cls(code, cavity)
        point = _POINT.fullmatch(code)
        return cls(point[1], "", float(point[2])) if point else cls(code)

    @property
    def thing(self) -> "Ref":
        """The whole thing that the place is of."""
        return Ref(self.code)
