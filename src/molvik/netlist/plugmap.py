"""Where marked points of a loom lie: the plugs they are in, and the terminals that have no face."""

from collections import defaultdict
from collections.abc import Mapping

from molvik.drawing.face import Cavity
from molvik.drawing.faces import Plug, Terminal, TerminalRow
from molvik.drawing.marks import Marked
from molvik.model.geometry import Face
from molvik.model.job import code_order
from molvik.model.parts import Connector, End
from molvik.netlist.cavities import cavities_of
from molvik.netlist.network import Network

FIRST = ("failed", "touches", "again")
"""What has one of these is shown before the rest."""


class PlugMap:
    """Marked points by plug and part: what has most that failed first, then by code."""

    def __init__(self, network: Network, marks: Mapping[End, Marked]) -> None:
        self._network, self._marks = network, marks
        at: dict[str, list[End]] = defaultdict(list)
        for end in marks:
            at[end.at].append(end)
        self._at = at
        wrong = {code: sum(marks[end].mark in FIRST for end in ends) for code, ends in at.items()}
        self.codes = sorted(at, key=lambda code: (-wrong[code], code_order(code)))
        """What has marked points, in the order in which it is shown."""
        self.wrong = [code for code in self.codes if wrong[code]]
        """Those at which something failed or touches."""

    def plugs(self, face: Face, *, wrong: bool = False) -> tuple[Plug, ...]:
        """Return the plugs as they lie at a face. wrong: only those at which something failed."""
        return tuple(
            self._plug(part, face)
            for code in (self.wrong if wrong else self.codes)
            if isinstance(part := self._network.parts.get(code), Connector)
        )

    def rows(self, *, wrong: bool = False) -> tuple[TerminalRow, ...]:
        """Return what has terminals and no face."""
        return tuple(
            TerminalRow(code, tuple(self._terminal(end) for end in self._at[code]))
            for code in (self.wrong if wrong else self.codes)
            if not isinstance(self._network.parts.get(code), Connector)
        )

    def _plug(self, plug: Connector, face: Face) -> Plug:
        def marked(cavity: Cavity) -> Cavity:
            found = self._marks.get(End(plug.code, cavity.place.cavity), Marked())
            return cavity._replace(mark=found.mark, words=_both(cavity.words, found.words))

        cavities = map(marked, cavities_of(plug, self._network, face))
        return Plug(plug, tuple(cavities), f"{plug.code} {plug.name}")

    def _terminal(self, end: End) -> Terminal:
        found = self._marks[end]
        words = _both(self._network.end_name(end), found.words)
        return Terminal(str(end), end.cavity or "·", found.mark, words)


def _both(one: str, other: str) -> str:
    return f"{one} · {other}" if other else one
