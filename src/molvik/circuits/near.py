"""A network with a fault, reached from the sound one by small corrections instead of solved anew.

Looking for a cause asks the same network hundreds of times with one thing wrong. The sound network
is inverted once for each state; an edge that a fault takes out or puts in is a correction of low
rank (Sherman, Morrison and Woodbury). Relays, outputs and fuses that then stand otherwise are
further such edges. What does not settle this way is solved in full.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from molvik.circuits.behaviour import WORKING, DeviceStates, elements, standing, working
from molvik.circuits.simulate import Blown, OperatingPoint
from molvik.electrical.solve import (
    LEAST_OHM,
    Current,
    Diode,
    Element,
    Prepared,
    Resistor,
    Solution,
    Source,
    diode_line,
    island_roots,
    solve,
)
from molvik.lazy import cached_property
from molvik.model.parts import End
from molvik.model.refs import Ref
from molvik.netlist.faults import EARTH, Fault
from molvik.netlist.states import State
from molvik.netlist.wiring import METAL, SHORT_OHM, Wiring, owner_of, wiring
from molvik.reference.device_types import type_of
from molvik.reference.devices import value

LEAK_S = 1e-9
"""What holds a node that nothing else does, siemens."""

STILL_V = 2e-3
"""What changes less than this at a device changes nothing about it, V."""

FLOATS_OHM = 2e7
"""From here on a node hangs on leaks only, ohms to the reference: nothing in a vehicle has more."""

MOST_ROUNDS = 16

Extra = Callable[[frozenset[str]], Sequence[Element]]
"""What is in the network beside its own elements, by what works."""


class Edge(NamedTuple):
    """A change between two nodes: of conductance, S, and of the current pushed into the first.
    place: of the element that is changed, -1 for a new one.
    """

    a: int
    b: int
    siemens: float
    amps: float = 0.0
    place: int = -1


def _nothing(_: frozenset[str]) -> Sequence[Element]:
    return ()


class _Intact(OperatingPoint):
    """A state in which no fuse blows."""

    def _overloaded(self, solution: Solution) -> tuple[str, Blown] | None:
        return None


class Near:
    """The sound network of one state, inverted. extra: what is in it beside its own elements; rest:
    the same with the engine at rest, by which alternators are judged that run.
    """

    def __init__(
        self, point: OperatingPoint, extra: Extra = _nothing, rest: "Near | None" = None
    ) -> None:
        import numpy

        if point.blown:  # what blows is found anew with each fault
            point = _Intact(point.network, point.state)
        self.point, self.extra, self.rest = point, extra, rest
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
        matrix = numpy.zeros((size, size))
        numpy.add.at(matrix, (self.a, self.a), conductance)
        numpy.add.at(matrix, (self.b, self.b), conductance)
        numpy.add.at(matrix, (self.a, self.b), -conductance)
        numpy.add.at(matrix, (self.b, self.a), -conductance)
        for root in island_roots(whole):
            matrix[root, root] += LEAK_S
        # The reference is held hard: its row and column are left out.
        matrix[0, :] = matrix[:, 0] = 0.0
        matrix[0, 0] = 1.0
        # What a current through each element does to every node. As a difference of two columns of
        # the inverse it would be lost in rounding where an element is all that holds a node.
        ends = numpy.zeros((size, len(self.elements)))
        every = numpy.arange(len(self.elements))
        numpy.add.at(ends, (self.a, every), 1.0)
        numpy.add.at(ends, (self.b, every), -1.0)
        ends[0, :] = 0.0
        found = numpy.linalg.solve(matrix, numpy.hstack((numpy.eye(size), ends)))
        self.inverse, self.through = found[:, :size], found[:, size:]
        self.inverse[0, :] = self.inverse[:, 0] = 0.0
        flow = numpy.where(self._sources(), pushed, -pushed)
        right = numpy.bincount(self.a, flow, size) - numpy.bincount(self.b, flow, size)
        self.volts = self.inverse @ right

    def _sources(self) -> Any:
        """Which elements push into their first node; a diode's line pushes out of it."""
        import numpy

        return numpy.array([not isinstance(one, Diode) for one in self.elements])

    @cached_property
    def watched(self) -> Any:
        """The nodes of devices that work or do not, by the voltage there."""
        import numpy

        codes = {d.code for d in self.point.job.devices if type_of(d).acts_as in WORKING}
        found = [place for node, place in self.index.items() if owner_of(node) in codes]
        return numpy.array(found or [0])

    @cached_property
    def of_part(self) -> dict[str, list[int]]:
        """The elements of each wire, fuse, earth, plug and device, by their codes."""
        found: dict[str, list[int]] = {}
        for name, place in self.names.items():
            found.setdefault(owner_of(name), []).append(place)
        return found

    @cached_property
    def batteries(self) -> list[str]:
        """The names of the batteries among the elements."""
        return [d.code for d in self.point.job.devices
                if d.kind == "battery" and d.code in self.names]  # fmt: skip

    @cached_property
    def fuses(self) -> list[tuple[int, float]]:
        """Where each fuse stands among the elements, and what it is made for, A."""
        return [
            (place, fuse.rating_a)
            for fuse in self.point.job.fuses
            if (place := self.names.get(f"{fuse.code} {fuse.code}/in {fuse.code}/out")) is not None
        ]

    # with something wrong

    def faulty(self, faults: frozenset[Fault]) -> "OperatingPoint":
        """Return the network with faults: near the sound one, or solved in full."""
        state = self.point.state._replace(faults=faults)
        made = NearPoint(self, state)
        return made if made.settled else OperatingPoint(self.point.network, state)

    def edges_of(self, ways: Wiring, faults: frozenset[Fault]) -> "list[Edge] | None":
        """Return what faults change, None for what is not known here."""
        found: list[Edge] = []
        for fault in faults:
            made = self._edges_of(ways, fault)
            if made is None:
                return None
            found += made
        return found

    def _edges_of(self, ways: Wiring, fault: Fault) -> "list[Edge] | None":
        job = self.point.job
        match fault.kind:
            case "open" if fault.at in self._devices:
                return None if ways.job.part(fault.at) is None else self._without(fault.at)
            case "open":
                return [self._out(place) for place in self._places(fault.at)]
            case "bad":
                return self._worse(fault.at, fault.ohm)
            case "stuck":
                return []  # its contacts follow with the states
            case "short" if job.wire(fault.at) is not None:
                return self._short(fault)
            case "swap":
                return self._swap(ways, fault)
            case _:
                return None

    @cached_property
    def _devices(self) -> frozenset[str]:
        return frozenset(device.code for device in self.point.job.devices)

    def _places(self, code: str) -> list[int]:
        """Return where the elements of a wire, a fuse or an earth point stand."""
        found = []
        for place in self.of_part.get(code, ()):
            element = self.elements[place]
            if element.name.split(" ")[0] == code:
                found.append(place)
        return found

    def _out(self, place: int) -> Edge:
        """Return the change that takes an element out."""
        a, b = int(self.a[place]), int(self.b[place])
        return Edge(a, b, -float(self.conductance[place]), -self._push(place), place)

    def _push(self, place: int) -> float:
        pushed = float(self.pushed[place])
        return -pushed if isinstance(self.elements[place], Diode) else pushed

    def _without(self, code: str) -> list[Edge]:
        """Return the change that takes a device away: all that is its own, and its plug's pins."""
        device = next(one for one in self.point.job.devices if one.code == code)
        found = []
        for name, place in self.names.items():
            head = name.split(" ")
            own = head[0] == code or head[0].startswith(f"{code}/")
            mated = bool(device.plug) and len(head) > 2 and head[2].startswith(f"{code}/")
            if own or mated:
                found.append(self._out(place))
        return found

    def _worse(self, at: str, ohm: float) -> list[Edge] | None:
        """Return the change of a joint with ohms too many."""
        if "/" in at:
            places = self._mated(at)
        elif at in self._devices:
            return None  # its contacts: in full
        else:
            places = self._places(at)
        found = []
        for place in places:
            was = float(self.conductance[place])
            now = 1.0 / max(LEAST_OHM, 1.0 / was + ohm)
            found.append(Edge(int(self.a[place]), int(self.b[place]), now - was, 0.0, place))
        return found

    def _mated(self, at: str) -> list[int]:
        """Return where the contact of a cavity with what it is plugged into stands."""
        cavity = Ref.parse(at).cavity
        return [
            place
            for name, place in self.names.items()
            if len(words := name.split(" ")) == 3 and at in words[1:]
            and all(Ref.parse(word).cavity == cavity for word in words[1:])
        ]  # fmt: skip

    def _short(self, fault: Fault) -> list[Edge] | None:
        """Return the change of a wire that touches metal or another wire, at its middle."""
        import numpy

        places = self._places(fault.at)
        others = [] if fault.other == EARTH else self._places(fault.other)
        metal = self.index.get(METAL)
        if len(places) != 1 or (fault.other == EARTH and metal is None) or len(others) > 1:
            return None
        if fault.other != EARTH and not others:
            return None
        # Middles are nodes of their own, eliminated: what is left is edges between the ends.
        ends: list[int] = []
        parts: list[tuple[int, int, float]] = []  # a middle, an end, siemens
        found = []
        for middle, place in enumerate((*places, *others)):
            half = 2 * float(self.conductance[place])
            found.append(self._out(place))
            for node in (int(self.a[place]), int(self.b[place])):
                ends.append(node)
                parts.append((middle, len(ends) - 1, half))
        bare = 1.0 / SHORT_OHM
        if metal is not None and fault.other == EARTH:
            ends.append(metal)
            parts.append((0, len(ends) - 1, bare))
        middles = 1 + len(others)
        size = len(ends) + middles
        star = numpy.zeros((size, size))
        links = [(len(ends) + middle, end, s) for middle, end, s in parts]
        if others:
            links.append((len(ends), len(ends) + 1, bare))
        for one, other, siemens in links:
            star[one, one] += siemens
            star[other, other] += siemens
            star[one, other] -= siemens
            star[other, one] -= siemens
        outer, inner = slice(0, len(ends)), slice(len(ends), size)
        inside = numpy.linalg.inv(star[inner, inner])
        reduced = star[outer, outer] - star[outer, inner] @ inside @ star[inner, outer]
        for one in range(len(ends)):
            for other in range(one):
                if ends[one] != ends[other]:
                    found.append(Edge(ends[one], ends[other], -float(reduced[one, other])))
        return found

    def _swap(self, ways: Wiring, fault: Fault) -> list[Edge] | None:
        """Return the change of two cavities whose wires are exchanged."""
        network = self.point.network
        codes = {wire.code for place in (fault.at, fault.other)
                 for wire in network.wires_at.get(End.of(place), ())}  # fmt: skip
        found = []
        for code in sorted(codes):
            wire = network.wires[code]
            for place in self._places(code):
                ends = [self.index.get(ways.end(end)) for end in wire.ends]
                if ends[0] is None or ends[1] is None:
                    return None
                found.append(self._out(place))
                found.append(Edge(ends[0], ends[1], float(self.conductance[place])))
        return found

    def edges_between(self, was: Sequence[Element], now: Sequence[Element]) -> list[Edge] | None:
        """Return what changes when some elements become others; None for a node not here."""
        old, new = {one.name: one for one in was}, {one.name: one for one in now}
        found = []
        for name, element in old.items():
            if new.get(name) != element:
                found.append(self._out(self.names[name]))
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
        """Return the voltages of all nodes with some changes, None where there are none."""
        import numpy

        real = [edge for edge in edges if edge.a != edge.b and (edge.siemens or edge.amps)]
        if not real:
            return Corrected(self, self.volts)
        a, b = [edge.a for edge in real], [edge.b for edge in real]
        columns = self.inverse[:, a] - self.inverse[:, b]
        known = [at for at, edge in enumerate(real) if edge.place >= 0]
        columns[:, known] = self.through[:, [real[at].place for at in known]]
        ports = columns[a] - columns[b]
        # An edge that is taken out leaves a leak, so that nothing hangs on nothing.
        siemens = numpy.array([edge.siemens for edge in real]) + LEAK_S
        amps = numpy.array([edge.amps for edge in real])
        across = self.volts[a] - self.volts[b]
        matrix = numpy.eye(len(real)) + ports * siemens
        try:
            found = numpy.linalg.solve(matrix, across + ports @ amps)
        except numpy.linalg.LinAlgError:
            return None
        volts = self.volts + columns @ (amps - siemens * found)
        return Corrected(self, volts, (columns, siemens, matrix)) if (
            numpy.isfinite(volts).all()
        ) else None  # fmt: skip


class Corrected:
    """The voltages of all nodes after some changes. changed: by what, for the ohms to the
    reference.
    """

    def __init__(self, near: Near, volts: Any, changed: tuple[Any, Any, Any] | None = None) -> None:
        self.near, self.volts, self._changed = near, volts, changed

    @cached_property
    def floats(self) -> Any:
        """Which nodes nothing joins to the reference."""
        import numpy

        ohms = numpy.diagonal(self.near.inverse)
        if self._changed is not None:
            columns, siemens, matrix = self._changed
            taken = numpy.linalg.solve(matrix, columns.T)
            ohms = ohms - numpy.einsum("ij,j,ji->i", columns, siemens, taken)
        return ohms > FLOATS_OHM


class _Volts(Mapping[str, float]):
    """Voltages by node, none for one that floats."""

    def __init__(self, found: Corrected) -> None:
        self._found = found

    def __getitem__(self, node: str) -> float:
        place = self._found.near.index[node]
        if self._found.floats[place]:
            raise KeyError(node)
        return float(self._found.volts[place])

    def __iter__(self) -> Iterator[str]:
        floats = self._found.floats
        return (node for node, place in self._found.near.index.items() if not floats[place])

    def __len__(self) -> int:
        return sum(1 for _ in self)


class _Amps(Mapping[str, float]):
    """Currents by element. changed: elements that are others now, None for one taken out."""

    def __init__(self, near: Near, volts: Any, changed: Mapping[str, Element | None]) -> None:
        self._near, self._volts, self._changed = near, volts, changed

    def __getitem__(self, name: str) -> float:
        near = self._near
        if name in self._changed:
            return self._of(self._changed[name])
        place = near.names[name]
        across = float(self._volts[near.a[place]] - self._volts[near.b[place]])
        flow = across * float(near.conductance[place])
        if isinstance(near.elements[place], Resistor):
            return flow
        if isinstance(near.elements[place], Diode):
            return flow + float(near.pushed[place])
        return float(near.pushed[place]) - flow

    def _of(self, element: Element | None) -> float:
        if element is None:
            return 0.0
        a, b = self._near.index[element[1]], self._near.index[element[2]]
        across = float(self._volts[a] - self._volts[b])
        match element:
            case Resistor():
                return across / max(LEAST_OHM, element.ohm)
            case Source():
                return (element.volts - across) / max(LEAST_OHM, element.ohm)
            case Current():
                return element.amps
            case _:
                return 0.0

    def __iter__(self) -> Iterator[str]:
        return iter(self._near.names)

    def __len__(self) -> int:
        return len(self._near.names)


class NearPoint(OperatingPoint):
    """One state with faults, near the sound one. settled: whether it came to an end this way."""

    def __init__(self, near: Near, state: State) -> None:
        sound = near.point
        self.network, self.state, self.job = sound.network, state, sound.job
        self.wiring = wiring(self.network, state)
        self.nominal, self.least_v = sound.nominal, sound.least_v
        self.chatter, self.problem = (), ""
        self.elements: tuple[Element, ...] = ()
        self.device_states, self.blown = sound.device_states, dict(sound.blown)
        self._near = near
        self.solution = Solution({}, {}, frozenset())
        self.settled = not sound.problem and not sound.chatter and self._settles()

    def _settles(self) -> bool:
        near = self._near
        fault_edges = near.edges_of(self.wiring, self.state.faults)
        if fault_edges is None:
            return False
        gone: dict[str, Element | None] = {
            near.elements[edge.place].name: None for edge in fault_edges if edge.place >= 0
        }
        taken = frozenset(f.at for f in self.state.faults if f.kind == "open")
        base: list[Element] | None = None
        for _ in range(MOST_ROUNDS):
            now, more = [], list[Edge]()
            if self._moved:
                if base is None:
                    base = self._moving(near.point.wiring, near.point.state,
                                        near.point.device_states, frozenset(), taken)  # fmt: skip
                now = self._moving(self.wiring, self.state, self.device_states,
                                   frozenset(self.blown), taken)  # fmt: skip
                found_edges = near.edges_between(base, now)
                if found_edges is None:
                    return False
                more = found_edges
            edges = [*fault_edges, *more]
            found = near.corrected(edges)
            if found is None or self._bent(found.volts):
                return False
            amps = _Amps(near, found.volts, gone | _changed(base or (), now))
            self.solution = Solution(_Volts(found), amps, frozenset(), {})
            if self._is_still(found.volts):
                return self._begins()
            was = self.device_states
            self.device_states = working(self.wiring, self.state, was, self.solution)
            if self._sources(was) != self._sources(self.device_states):
                return False  # an alternator that finds another voltage: in full
            blown = self._overloaded(self.solution)
            if blown is not None:
                self.blown[blown[0]] = blown[1]
            elif self.device_states == was:
                return self._is_cold()
        return False

    @property
    def _moved(self) -> bool:
        """Whether anything stands otherwise than in the sound network."""
        same = self.device_states == self._near.point.device_states
        return not same or bool(self.blown) or bool(self.wiring.stuck)

    def _moving(
        self, ways: Wiring, state: State, states: DeviceStates, blown: frozenset[str],
        taken: frozenset[str],
    ) -> list[Element]:  # fmt: skip
        """Return the elements that change with what works; none of what is taken away."""
        found: list[Element] = [
            Resistor(link.name, link.a, link.b, link.ohm)
            for link in ways.switched(state, states.on, blown)
            if link.closed and link.part not in taken
        ]
        sound = self._near.point.wiring
        for device in standing(sound)[1]:
            if device.code not in taken:
                found += elements(ways, device, state, states)
        found += [one for one in self._near.extra(states.on) if owner_of(one.name) not in taken]
        return found

    def _is_still(self, volts: Any) -> bool:
        """Whether nothing changed at any device, nor past what a fuse bears."""
        import numpy

        near = self._near
        if self._moved:
            return False
        for battery in near.batteries:
            was, now = _flow(near, battery, near.volts), self.solution.amps[battery]
            if (was < -1e-3) != (now < -1e-3):
                return False  # it charges, or no longer
        moved = numpy.abs(volts[near.watched] - near.volts[near.watched])
        if float(moved.max()) >= STILL_V:
            return False
        return not any(abs(self.solution.amps[near.elements[place].name]) > most
                       for place, most in near.fuses)  # fmt: skip

    def _bent(self, volts: Any) -> bool:
        """Whether a diode is where its straight line no longer holds."""
        near = self._near
        for place, diode in near.diodes:
            a, b = near.a[place], near.b[place]
            was = float(near.volts[a] - near.volts[b])
            now = float(volts[a] - volts[b])
            if abs(now - was) < STILL_V:
                continue
            amps, _ = diode_line(diode, now)
            line = float(near.conductance[place]) * now + float(near.pushed[place])
            if abs(amps - line) > 1e-3:
                return True
        return False

    def _is_cold(self) -> bool:
        """Whether what is pulled in, and what charges, would be from rest: else it depends on what
        was before.
        """
        if not self._begins():
            return False
        relays = {d.code for d in self.job.devices if type_of(d).acts_as in ("relay", "starter")}
        held = self.device_states.on & relays
        if not held:
            return True
        rest = self.device_states._replace(on=self.device_states.on - relays)
        again = working(self.wiring, self.state, rest, self.solution)
        return again.on & relays == held

    def _begins(self) -> bool:
        """Whether alternators that charge would begin to: they are excited with the engine at
        rest.
        """
        charging = [d for d in self.job.devices
                    if d.kind == "alternator" and d.code in self.device_states.on]  # fmt: skip
        if not charging or not self.state.faults:
            return True
        if self._near.rest is None:
            return False
        rest = self._near.rest.faulty(self.state.faults)
        return all(
            "L" not in device.terminals
            or rest.solution.amps.get(f"{device.code} field", 0.0) >= value(device, "excite A")
            for device in charging
        )


def _flow(near: Near, name: str, volts: Any) -> float:
    """Return the current of an element of the sound network at some voltages."""
    return _Amps(near, volts, {})[name]


def _changed(was: Sequence[Element], now: Sequence[Element]) -> dict[str, Element | None]:
    """Return which elements are others now, None for one that is not there any more."""
    new = {one.name: one for one in now}
    found: dict[str, Element | None] = {one.name: None for one in was if one.name not in new}
    return found | new
