"""What the list of wires is grouped by: how they stand, the fuse before them, the bundle."""

import math
from collections import Counter

from molvik.analysis import Analysis
from molvik.desktop.widgets.worklist import Work
from molvik.model.job import code_order
from molvik.model.parts import Fuse, Wire
from molvik.sizes.assessment import GROUPS, group_of

ALL = "all"
TITLES: dict[str, tuple[str, str]] = {
    ALL: ("All wires", "by what they use of what they may"),
    "fails": ("Wires that fail", "the worst first"),
    "tight": ("Wires that are tight", "less than a tenth to spare"),
    "passes": ("Wires that pass", "the tightest first"),
    "not judged": ("Wires that cannot be judged", "something is not known"),
}
"""Title of a group and what is said of it."""


class Grouped:
    """All wires of a job in their groups; a wire is in several."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis
        self._of: dict[str, tuple[str, str, str]] = {}
        for wire in analysis.job.wires:
            stands = group_of(analysis.electrics.sizings.get(wire.code))
            self._of[wire.code] = stands, _fuse(analysis, wire), f"bundle:{wire.bundle}"
        self.counts = Counter(key for keys in self._of.values() for key in keys)
        self.counts[ALL] = len(self._of)
        self.can_be_set = sum(
            "fails" in keys and not analysis.electrics.sizing_cases[code].bare
            for code, keys in self._of.items()
        )
        """How many fail that another size may mend: none does where nothing protects a wire."""

    def holds(self, key: str, code: str) -> bool:
        """Return whether a wire is in a group."""
        return key == ALL or key in self._of.get(code, ())

    def entries(self) -> list[Work]:
        """Return the groups, each with how many wires it has."""
        found = [
            Work("#show", "SHOW", heading=True),
            Work(ALL, "All", str(self.counts[ALL])),
            *(Work(key, name, str(self.counts[key]), role) for key, name, role in GROUPS),
        ]
        for start, heading in (("fuse:", "BY FUSE"), ("bundle:", "BY BUNDLE")):
            keys = [key for key in self.counts if key.startswith(start) and key != "bundle:"]
            if not keys:
                continue
            found.append(Work(f"#{start}", heading, heading=True))
            ordered = sorted(keys, key=lambda key: (key in ODD, code_order(key.partition(":")[2])))
            found += [
                Work(key, self.name(key), str(self.counts[key]), "stop" if key == BARE else "faint")
                for key in ordered
            ]
        return found

    def name(self, key: str) -> str:
        """Return what a group is called."""
        start, _, code = key.partition(":")
        if key in ODD:
            return ODD[key]
        if start == "fuse":
            part = self._analysis.network.parts.get(code)
            return f"{code} {part.name}, {part.rating_a:g} A" if isinstance(part, Fuse) else code
        return code if start == "bundle" else TITLES[key][0]

    def title(self, key: str) -> tuple[str, str]:
        """Return the title of a group, and how many wires it has."""
        count = f"{self.counts[key]} of {len(self._of)}"
        if key in TITLES:
            return TITLES[key][0], f"{count} · {TITLES[key][1]}"
        if key in ODD:
            return f"Wires {ODD[key]}", count
        start, _, code = key.partition(":")
        return (f"Behind {self.name(key)}" if start == "fuse" else f"In {code}"), count


BARE, UNFED, STARTER = "fuse:~bare", "fuse:~unfed", "fuse:~starter"
ODD = {BARE: "with no fuse", STARTER: "of the starter, no fuse", UNFED: "the battery does not feed"}
"""Wires that no fuse stands before."""


def _fuse(analysis: Analysis, wire: Wire) -> str:
    feed = analysis.network.feed(wire)
    if feed is None:
        return UNFED
    if math.isinf(feed.limit_a):
        return STARTER if wire.use == "starter" else BARE
    return f"fuse:{feed.fuse}"
