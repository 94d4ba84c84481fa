"""What readings with the power on can be about: all that is joined to what was seen, or, where that
is too much to be played through, what lies on the ways to it.
"""

from collections import defaultdict
from collections.abc import Sequence

from molvik.devices.kind import terminals_named
from molvik.devices.states import NAMED, Fault, State
from molvik.lazy import cached_property
from molvik.model.parts import Device, End
from molvik.model.refs import end_text
from molvik.proving.causes import Cause
from molvik.proving.connected import connected_parts
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.points import Point
from molvik.proving.scopepaths import ScopePaths

MOST_PLAYED = 1500
"""So many causes are played through with the power on; of more, those near what was seen."""


class SearchScope:
    """points: where something was read with power on; causes: those thought of."""

    def __init__(
        self, simulator: FaultSimulator, points: Sequence[Point], causes: Sequence[Cause]
    ) -> None:
        self._played, self._points, self._causes = simulator, points, causes
        self._network = simulator.network

    def holds(self, fault: Fault) -> bool:
        """Return whether the readings can be about a fault."""
        return not self._played.parts_of(fault).isdisjoint(self._parts)

    @cached_property
    def narrow(self) -> bool:
        """Whether so much is joined to what was seen that only the ways to it are thought of."""
        return sum(not self._joined.isdisjoint(one.on) for one in self._causes) > MOST_PLAYED

    @cached_property
    def _joined(self) -> frozenset[str]:
        found = (
            connected_parts(self._network, state, nodes) for state, nodes in self._starts.items()
        )
        return frozenset[str]().union(*found)

    @cached_property
    def _parts(self) -> frozenset[str]:
        """The codes of the parts that the readings can be about."""
        if not self.narrow:
            return self._joined
        found = (
            ScopePaths(self._network, state).about(nodes) for state, nodes in self._starts.items()
        )
        return frozenset[str]().union(*found)

    @cached_property
    def _starts(self) -> dict[State, list[str]]:
        """The nodes that the readings are of, by the state."""
        found: dict[State, list[str]] = defaultdict(list)
        for point in self._points:
            found[NAMED[point.state]] += self._nodes(point)
        return found

    def _nodes(self, point: Point) -> list[str]:
        """Return the nodes that a reading is of."""
        if point.what == "fuse":
            return [end_text(point.red.at, side) for side in ("in", "out")]
        if point.what == "device":
            return self._terminals(point.red.at)
        if point.what == "code":
            return self._watched_at(point.red)
        return [str(end) for end in (point.red, point.black) if end.at]

    def _watched_at(self, code: End) -> list[str]:
        """Return where what sets a code of a computer is seen: at its plug, and at the part."""
        computer = self._network.parts.get(code.at)
        found = self._terminals(code.at)
        for watch in self._played.watched(code.at):
            if code.cavity in watch.codes[:3] and isinstance(computer, Device):
                found += [end_text(computer.plug, cavity) for cavity in (watch.cavity, watch.back)]
                found += self._terminals(watch.device)
        return found

    def _terminals(self, code: str) -> list[str]:
        part = self._network.parts.get(code)
        if not isinstance(part, Device):
            return []
        return [end_text(code, name) for name in terminals_named(part)]
