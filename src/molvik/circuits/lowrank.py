"""A network with a fault, reached from the sound one by small corrections instead of solved anew.

Looking for a cause asks the same network hundreds of times with one thing wrong. The sound network
is taken apart into factors once for each state; an edge that a fault takes out or puts in is a
correction of low rank (Sherman, Morrison and Woodbury). Relays, outputs and fuses that then stand
otherwise are further such edges. What does not settle this way is solved in full.
"""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from molvik.circuits.behaviour import standing
from molvik.circuits.bounds import Bounds, bounds_of
from molvik.circuits.corrected import Changed, Corrected, Edge
from molvik.circuits.simulate import Blown, OperatingPoint
from molvik.devices import kind_of
from molvik.devices.kind import DeviceStates
from molvik.devices.nodes import owner_of
from molvik.devices.states import State
from molvik.electrical.elements import (
    Current,
    Diode,
    Element,
    Resistor,
    SolveError,
    Source,
    diode_line,
)
from molvik.electrical.junctions import Curves, currents
from molvik.electrical.solve import LEAST_OHM, Prepared, Solution, factors, island_roots, solve
from molvik.lazy import cached_property
from molvik.netlist.circuitgraph import CircuitGraph

if TYPE_CHECKING:
    from numpy.typing import NDArray

LEAK_S = 1e-9
"""What holds a node that nothing else does, siemens."""

STILL_V = 2e-3
"""What changes less than this at an alternator or a diode changes nothing about it, V."""

OFF_A = 1e-3
"""A diode's straight line holds as long as it is off by less, A."""

JOINS_S = 1e-6
"""What conducts no less than this joins what it lies between, siemens."""

IDLE_A, IDLE_S = 1e-7, 1e-6
"""A diode that carries less is blocked, and is held by such a conductance beside it, siemens: no
way through a vehicle has so many ohms.
"""

MOST_BENT = 60
"""With more diodes off their straight lines the whole solution is as quick."""

Extra = Callable[[frozenset[str]], Sequence[Element]]
"""What is in the network beside its own elements, by what works."""


def nothing(_: frozenset[str]) -> Sequence[Element]:
    """Nothing beside the network's own elements."""
    return ()


class _Intact(OperatingPoint):
    """A state in which no fuse blows."""

    def _overloaded(self, solution: Solution) -> tuple[str, Blown] | None:
        return None


class LowRank:
    """The sound network of one state, inverted. extra: what is in it beside its own elements."""

    def __init__(self, point: OperatingPoint, extra: Extra = nothing) -> None:
        import numpy
        from scipy.sparse import coo_matrix

        if point.blown:  # what blows is found anew with each fault
            point = _Intact(point.network, point.state)
        self.point, self.extra = point, extra
        self._kept: dict[int, Any] = {}
        self.inside = tuple(extra(point.on))
        whole = Prepared([*point.elements, *self.inside], point.reference)
        self.index, self.names, self.elements = whole.index, whole.names, whole.elements
        self.a, self.b = whole.a, whole.b
        solution = solve(self.elements, point.reference)
        self.floating = solution.floating
        self.diodes = whole.conducting_diodes()
        conductance, pushed = whole.conductance.copy(), whole.pushed.copy()
        for place, diode in self.diodes:
            volts = solution.volts
            across = volts.get(diode.anode, 0.0) - volts.get(diode.cathode, 0.0)
            amps, slope = diode_line(diode, across)
            conductance[place], pushed[place] = slope, amps - slope * across
        self.conductance, self.pushed = conductance, pushed
        size = len(self.index)
        a, b, roots = self.a, self.b, numpy.array(island_roots(whole), int)
        # What nothing joins to the reference is held by a leak.
        leaks = numpy.full(len(roots), LEAK_S)
        siemens = numpy.concatenate((conductance, conductance, -conductance, -conductance, leaks))
        where = numpy.concatenate((a, b, a, b, roots)), numpy.concatenate((a, b, b, a, roots))
        matrix = coo_matrix((siemens, where), shape=(size, size)).tocsc()
        # The reference is held hard: its row and column, the first, are left out.
        self._factors = factors(matrix[1:, 1:])
        flow = numpy.where(self._sources(), pushed, -pushed)
        right = numpy.bincount(self.a, flow, size) - numpy.bincount(self.b, flow, size)
        self.volts = numpy.concatenate(([0.0], self._factors.solve(right[1:])))

    def columns(self, a: Any, b: Any) -> Any:
        """Return what a current into each of some nodes and out of each of others does to all
        nodes, ohms: a column each. a, b: their places.
        """
        import numpy

        ends = numpy.zeros((len(self.index), len(a)))
        every = numpy.arange(len(a))
        numpy.add.at(ends, (numpy.asarray(a), every), 1.0)
        numpy.add.at(ends, (numpy.asarray(b), every), -1.0)
        ends[1:] = self._factors.solve(ends[1:])
        ends[0] = 0.0
        return ends

    @cached_property
    def ohms(self) -> Any:
        """What lies between each node and the reference, ohms, near enough for what floats: the
        leak that holds it, or next to nothing beside that.
        """
        import numpy

        return numpy.array([1.0 / LEAK_S if node in self.floating else 0.0 for node in self.index])

    def _sources(self) -> Any:
        """Which elements push into their first node; a diode's line pushes out of it."""
        import numpy

        return numpy.array([not isinstance(one, Diode) for one in self.elements])

    @cached_property
    def acting(self) -> frozenset[str]:
        """The codes of the devices that work or do not."""
        devices = self.point.job.devices
        return frozenset(d.code for d in devices if kind_of(d).acts)

    @cached_property
    def bounds(self) -> Bounds:
        """Within what the voltages stay as long as every device stands as it does."""
        point = self.point
        return bounds_of(point.wiring, point.state, point.device_states, point.solution, self.index)

    @cached_property
    def turning(self) -> Any:
        """The nodes of alternators that are driven, which find their voltage by themselves."""
        import numpy

        point = self.point
        codes = {
            d.code
            for d in point.job.devices
            if kind_of(d).regulates and (point.state.running or d.code in point.on)
        }
        found = [place for node, place in self.index.items() if owner_of(node) in codes]
        return numpy.array(found, int)

    @cached_property
    def of_part(self) -> dict[str, list[int]]:
        """The elements of each wire, fuse, earth, plug and device, by their codes."""
        found: dict[str, list[int]] = {}
        for name, place in self.names.items():
            found.setdefault(owner_of(name), []).append(place)
        return found

    @cached_property
    def mated(self) -> dict[str, list[int]]:
        """The contacts of each plug with what it is plugged into, or what is plugged into it."""
        plugs = {plug.code for plug in self.point.job.connectors}
        found: dict[str, list[int]] = {}
        for name, place in self.names.items():
            words = name.split(" ")
            if len(words) == 3 and words[0] in words[1:]:
                for code in plugs.intersection(map(owner_of, words[1:])):
                    found.setdefault(code, []).append(place)
        return found

    def moving(
        self,
        ways: CircuitGraph,
        state: State,
        states: DeviceStates,
        blown: frozenset[str],
        among: frozenset[str],
    ) -> list[tuple[str, Element]]:
        """Return the elements of some fuses and devices that change with what works, where it works
        so, each with the part it is of; among: their codes.
        """
        found: list[tuple[str, Element]] = [
            (link.part, Resistor(link.name, link.a, link.b, link.ohm))
            for link in ways.switched(state, states.on, blown, among)
            if link.closed
        ]
        found += [
            (device.code, one)
            for device in standing(self.point.wiring)[1]
            if device.code in among
            for one in kind_of(device).elements(ways, device, state, states)
        ]
        if among.isdisjoint(self.computers):
            return found
        return found + [(owner_of(one.name), one) for one in self.extra(states.on)]

    @cached_property
    def computers(self) -> frozenset[str]:
        """The codes of the devices beside whose own elements others are in the network."""
        return frozenset(d.code for d in self.point.job.devices if kind_of(d).is_computer)

    @cached_property
    def unbound(self) -> frozenset[str]:
        """The codes of the devices that work or do not and of which no bound of a voltage tells:
        batteries and alternators, which go by currents.
        """
        return self.acting.difference(self.bounds.of)

    # with something wrong

    @cached_property
    def devices(self) -> frozenset[str]:
        """The codes of all devices."""
        return frozenset(device.code for device in self.point.job.devices)

    def places(self, code: str) -> list[int]:
        """Return where the elements of a wire, a fuse or an earth point stand."""
        found = []
        for place in self.of_part.get(code, ()):
            element = self.elements[place]
            if element.name.split(" ")[0] == code:
                found.append(place)
        return found

    def out(self, place: int) -> Edge:
        """Return the change that takes an element out."""
        a, b = int(self.a[place]), int(self.b[place])
        return Edge(a, b, -float(self.conductance[place]), -self._push(place), place)

    def _push(self, place: int) -> float:
        pushed = float(self.pushed[place])
        return -pushed if isinstance(self.elements[place], Diode) else pushed

    def edges_between(self, was: Sequence[Element], now: Sequence[Element]) -> list[Edge] | None:
        """Return what changes when some elements become others; None for a node not here."""
        old, new = {one.name: one for one in was}, {one.name: one for one in now}
        found = []
        for name, element in old.items():
            if new.get(name) != element:
                found.append(self.out(self.names[name]))
        for name, element in new.items():
            if old.get(name) == element:
                continue
            a, b = self.index.get(element[1]), self.index.get(element[2])
            if a is None or b is None or isinstance(element, Diode):
                return None
            match element:
                case Resistor():
                    found.append(Edge(a, b, 1.0 / max(LEAST_OHM, element.ohm)))
                case Source():
                    siemens = 1.0 / max(LEAST_OHM, element.ohm)
                    found.append(Edge(a, b, siemens, siemens * element.volts))
                case Current():
                    found.append(Edge(a, b, 0.0, element.amps))
        return found

    def corrected(self, edges: Sequence[Edge]) -> "Corrected | None":
        """Return the voltages of all nodes with some changes, every diode on its curve; None where
        there are none, or too many diodes are off the straight lines they had.
        """
        real = [edge for edge in edges if edge.a != edge.b and (edge.siemens or edge.amps)]
        if not real:
            return Corrected(self, self.volts)
        changed = self._changed(real)
        taken = {edge.place for edge in real}
        gone = {one for one, (place, _) in enumerate(self.diodes) if place in taken}
        return self._on_curves(changed, gone) if changed is not None else None

    def _on_curves(self, changed: "Changed", gone: set[int]) -> "Corrected | None":
        """Bring the diodes that are off their straight lines onto their curves: what each carries
        beyond its line is found by Newton's method among them. gone: those taken out, which carry
        nothing whatever lies across them.
        """
        import numpy

        volts, beyond, bent = changed.volts, numpy.zeros(0), list[int]()
        answers = numpy.zeros((len(self.index), 0))
        while more := [one for one in self._bent(volts) if one not in bent and one not in gone]:
            bent += more
            if len(bent) > MOST_BENT:
                return None
            answers = numpy.hstack((answers, changed.answered(self._through(more))))
            a, b, slope, pushed = (one[bent] for one in self._lines)
            coupling = answers[a] - answers[b]
            free = changed.volts[a] - changed.volts[b] - coupling @ pushed
            begin = self.volts[a] - self.volts[b]
            try:
                beyond = currents(self._curves[bent], free, coupling, slope, begin) - pushed
                volts = changed.volts + answers @ beyond
                idle = self._idle(bent, volts)
                if idle.any():
                    beside = slope - numpy.where(idle, IDLE_S, 0.0)
                    beyond = currents(self._curves[bent], free, coupling, beside, begin) - pushed
                    volts = changed.volts + answers @ beyond
            except SolveError:
                return None
            if not numpy.isfinite(volts).all():
                return None
        found = {
            self.diodes[one][1].name: float(amps) for one, amps in zip(bent, beyond, strict=True)
        }
        return Corrected(self, volts, changed, found)

    def _idle(self, bent: list[int], volts: Any) -> Any:
        """Return which of some diodes carry no more than the leak that stands for what was taken
        out: it would hold an LED on nothing at more than a volt.
        """
        import numpy

        a, b = (one[bent] for one in self._lines[:2])
        across = volts[a] - volts[b]
        amps, _ = self._curves[bent].lines(across)
        return (numpy.abs(amps) < IDLE_A) & (across > 0)

    def _through(self, diodes: list[int]) -> Any:
        """Return what a current through each of some diodes does to all nodes, ohms: kept, since
        hundreds of faults bend the same ones.
        """
        import numpy

        missing = [one for one in diodes if one not in self._kept]
        if missing:
            a, b = self._lines[:2]
            made = self.columns(b[missing], a[missing])
            self._kept |= {one: made[:, at].copy() for at, one in enumerate(missing)}
        return numpy.stack([self._kept[one] for one in diodes], axis=1)

    def _changed(self, edges: Sequence[Edge]) -> "Changed | None":
        """Return what some edges do to the network, None where it comes to no numbers."""
        import numpy

        a, b = [edge.a for edge in edges], [edge.b for edge in edges]
        columns = self.columns(a, b)
        ports = columns[a] - columns[b]
        # An edge that is taken out leaves a leak, so that nothing hangs on nothing.
        siemens = numpy.array([edge.siemens for edge in edges]) + LEAK_S
        amps = numpy.array([edge.amps for edge in edges])
        across = self.volts[a] - self.volts[b]
        matrix = numpy.eye(len(edges)) + ports * siemens
        try:
            found = numpy.linalg.solve(matrix, across + ports @ amps)
        except numpy.linalg.LinAlgError:
            return None
        volts = self.volts + columns @ (amps - siemens * found)
        return (
            Changed(a, b, columns, siemens, matrix, volts, self._may_part(edges))
            if (numpy.isfinite(volts).all())
            else None
        )

    def _may_part(self, edges: Sequence[Edge]) -> bool:
        """Return whether edges may join or part anything: all but those that get worse only."""
        return any(
            edge.place < 0 or edge.siemens + self.conductance[edge.place] < JOINS_S
            for edge in edges
        )

    @cached_property
    def _curves(self) -> Curves:
        """The curves of the diodes."""
        return Curves([diode for _, diode in self.diodes])

    @cached_property
    def _lines(self) -> "tuple[NDArray[Any], ...]":
        """Of each diode its nodes, and its straight line: how steep, and from where."""
        import numpy

        places = numpy.array([place for place, _ in self.diodes], int)
        return self.a[places], self.b[places], self.conductance[places], self.pushed[places]

    def _bent(self, volts: Any) -> list[int]:
        """Return which diodes are where their straight lines no longer hold."""
        import numpy

        if not self.diodes:
            return []
        a, b, slope, pushed = self._lines
        now, was = volts[a] - volts[b], self.volts[a] - self.volts[b]
        off = numpy.abs(self._curves.lines(now)[0] - (slope * now + pushed))
        moved = numpy.abs(now - was) >= STILL_V
        found: list[int] = numpy.flatnonzero(moved & (off > OFF_A)).tolist()
        return found
