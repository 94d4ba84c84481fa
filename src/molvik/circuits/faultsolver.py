"""One state with faults, settled near the sound network: relays, outputs and fuses follow."""

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from molvik.circuits.behaviour import acts_of, working
from molvik.circuits.corrected import Corrected, Edge
from molvik.circuits.faultedges import edges_of
from molvik.circuits.lowrank import STILL_V, Extra, LowRank, nothing
from molvik.circuits.simulate import OperatingPoint, limits_of
from molvik.devices import kind_of
from molvik.devices.kind import DeviceStates
from molvik.devices.kinds.alternator import Alternator
from molvik.devices.states import Fault, State
from molvik.electrical.elements import Current, Diode, Element, Resistor, Source
from molvik.electrical.solve import LEAST_OHM, Solution
from molvik.lazy import cached_property
from molvik.model.parts import Device
from molvik.netlist.circuitgraph import CircuitGraph

if TYPE_CHECKING:
    from numpy.typing import NDArray

MOST_ROUNDS = 16


class _Volts(Mapping[str, float]):
    """Voltages by node, none for one that floats."""

    def __init__(self, found: Corrected) -> None:
        self._found = found

    def __getitem__(self, node: str) -> float:
        place = self._found.sound.index[node]
        if self._found.floats[place]:
            raise KeyError(node)
        return float(self._found.volts[place])

    def __iter__(self) -> Iterator[str]:
        floats = self._found.floats
        return (node for node, place in self._found.sound.index.items() if not floats[place])

    def __len__(self) -> int:
        return sum(1 for _ in self)


class _Amps(Mapping[str, float]):
    """Currents by element. changed: elements that are others now, None for one taken out."""

    def __init__(
        self, solver: LowRank, found: Corrected, changed: Mapping[str, Element | None]
    ) -> None:
        self._solver, self._volts, self._changed = solver, found.volts, changed
        self._diodes = found.diodes

    def __getitem__(self, name: str) -> float:
        solver = self._solver
        if name in self._changed:
            return self._of(self._changed[name])
        place = solver.names[name]
        across = float(self._volts[solver.a[place]] - self._volts[solver.b[place]])
        flow = across * float(solver.conductance[place])
        if isinstance(solver.elements[place], Resistor):
            return flow
        if isinstance(solver.elements[place], Diode):
            return flow + float(solver.pushed[place]) + self._diodes.get(name, 0.0)
        return float(solver.pushed[place]) - flow

    def _of(self, element: Element | None) -> float:
        if element is None:
            return 0.0
        a, b = self._solver.index[element[1]], self._solver.index[element[2]]
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
        return iter(self._solver.names)

    def __len__(self) -> int:
        return len(self._solver.names)


class Stood(NamedTuple):
    """How a device stands: in words, the places of its nodes, and between which voltages across it
    that is so as long as nothing else works otherwise, V.
    """

    state: str
    a: int
    b: int
    low: float
    high: float


class FaultSolver(LowRank):
    """The sound network of one state, from which networks with faults are reached. rest: the same
    with the engine at rest, by which alternators are judged that run.
    """

    def __init__(
        self, point: OperatingPoint, extra: Extra = nothing, rest: "FaultSolver | None" = None
    ) -> None:
        super().__init__(point, extra)
        self.rest = rest
        self._stood: dict[str, Stood | None] = {}

    def faulty(self, faults: frozenset[Fault]) -> "OperatingPoint":
        """Return the network with faults: near the sound one, or solved in full."""
        state = self.point.state._replace(faults=faults)
        made = FaultPoint(self, state)
        return made if made.settled else OperatingPoint(self.point.network, state)

    def stood(self, code: str) -> "Stood | None":
        """Return how a device stands, and between which voltages it does; None for what is no
        load, or floats.
        """
        if code not in self._stood:
            self._stood[code] = self._stands(code)
        return self._stood[code]

    def _stands(self, code: str) -> "Stood | None":
        device, sound = self.point.network.parts.get(code), self._sound
        if sound is None or not isinstance(device, Device):
            return None
        state = OperatingPoint.stands(sound, code)
        nodes = kind_of(device).ends(self.point.wiring, device)
        if not state or any(node not in self.index or node in self.floating for node in nodes):
            return None
        a, b = self.index[nodes[0]], self.index[nodes[1]]
        low, high = limits_of(self.point, device, state, abs(float(self.volts[a] - self.volts[b])))
        return Stood(state, a, b, low, high)

    @cached_property
    def _looked_at(self) -> "tuple[NDArray[Any], ...]":
        """The codes of all devices whose nodes have a voltage, the places of their nodes, and
        between which voltages each stands as it does.
        """
        import numpy

        known = [(code, *stood[1:]) for code in self.devices if (stood := self.stood(code))]
        codes, a, b, low, high = zip(*known, strict=True) if known else ((), (), (), (), ())
        return (
            numpy.array(codes, dtype=object),
            numpy.array(a, int),
            numpy.array(b, int),
            numpy.array(low, float),
            numpy.array(high, float),
        )

    def moved(self, found: "Corrected") -> frozenset[str]:
        """Return the devices that may stand otherwise, by what their nodes have."""
        import numpy

        codes, a, b, low, high = self._looked_at
        across = numpy.abs(found.volts[a] - found.volts[b])
        still = (low <= across) & (across < high) & ~found.floats[a] & ~found.floats[b]
        return self.devices.difference(codes[still])

    @cached_property
    def _sound(self) -> OperatingPoint | None:
        """The sound network with what is beside its own elements, by which a sensor may stand; None
        where it does not settle here.
        """
        found = self.faulty(frozenset())
        return None if type(found) is OperatingPoint else found


class FaultPoint(OperatingPoint):
    """One state with faults, near the sound one. settled: whether it came to an end this way."""

    def __init__(self, solver: "FaultSolver", state: State) -> None:
        sound = solver.point
        self.network, self.state, self.job = sound.network, state, sound.job
        self._out = frozenset()
        # Not kept by the network, as others are: hundreds of faults are asked once each.
        self.wiring = CircuitGraph(self.network, state.faults, state.temperature_c)
        self.nominal, self.least_v = sound.nominal, sound.least_v
        self.chatter, self.rests, self.problem = (), (), ""
        self.elements: tuple[Element, ...] = ()
        self.device_states, self.blown = sound.device_states, dict(sound.blown)
        self._solver = solver
        self._as_sound = False
        self.solution = Solution({}, {}, frozenset())
        stands = not (sound.problem or sound.chatter or sound.rests)
        self.settled = stands and self._settles()

    def _settles(self) -> bool:
        """Settle from how the sound network stands; where a relay is then held by what would not
        pull it in, from rest, as the whole solution does.
        """
        fault_edges = edges_of(self._solver, self.wiring, self.state.faults)
        if fault_edges is None or not self._comes_to_rest(fault_edges):
            return False
        if not (self._as_sound or self._is_cold()):
            self.device_states, self.blown = DeviceStates(), {}
            if not self._comes_to_rest(fault_edges):
                return False
        return self._begins()

    def stands(self, code: str) -> str:
        """Return how one device stands: as in the sound network where nothing works otherwise and
        its voltage is the same. Hundreds of devices are asked for each fault.
        """
        stood = self._solver.stood(code) if self._as_sound else None
        if stood is not None and code not in self.state.broken:
            now, floats = self._found.volts, self._found.floats
            across = abs(now[stood.a] - now[stood.b])
            if stood.low <= across < stood.high and not (floats[stood.a] or floats[stood.b]):
                return stood.state
        return super().stands(code)

    def otherwise(self, stood: Mapping[str, str]) -> dict[str, str]:
        """Return the devices that stand otherwise than in the sound network, and how."""
        turned = {name.split(" ")[0] for name in self.on ^ self._solver.point.on}
        may = self._solver.moved(self._found) | self.state.broken | turned
        now = {code: self.stands(code) for code in may & stood.keys()}
        return {code: state for code, state in now.items() if state != stood[code]}

    def _comes_to_rest(self, fault_edges: Sequence[Edge]) -> bool:
        """Solve until nothing changes; False where that is not found this way."""
        solver = self._solver
        gone: dict[str, Element | None] = {
            solver.elements[edge.place].name: None for edge in fault_edges if edge.place >= 0
        }
        taken = frozenset(f.at for f in self.state.faults if f.kind == "open")
        sound = solver.point
        at_fault = frozenset(fault.at for fault in self.state.faults) & solver.acting
        for _ in range(MOST_ROUNDS):
            base, now, more = list[Element](), list[Element](), list[Edge]()
            moved = self._moved
            if moved:
                blown = frozenset(self.blown)
                was_so, is_so = (
                    solver.moving(ways, state, states, out, moved)
                    for ways, state, states, out in (
                        (sound.wiring, sound.state, sound.device_states, frozenset[str]()),
                        (self.wiring, self.state, self.device_states, blown),
                    )
                )
                base = [one for part, one in was_so if part not in taken]
                now = [one for part, one in is_so if part not in taken]
                found_edges = solver.edges_between(base, now)
                if found_edges is None:
                    return False
                more = found_edges
            found = solver.corrected([*fault_edges, *more])
            if found is None:
                return False
            self._found = found
            amps = _Amps(solver, found, gone | _changed(base, now))
            self.solution = Solution(_Volts(found), amps, frozenset(), {})
            passed = solver.bounds.passed(found.volts, found.floats)
            self._as_sound = not passed and self._is_still(found)
            if self._as_sound:
                return True
            # Whatever is within its bounds, and stands as it did, goes on so.
            asked = passed | moved | at_fault | solver.unbound
            was = self.device_states
            self.device_states = working(self.wiring, self.state, was, self.solution, asked)
            if self._sources(was) != self._sources(self.device_states):
                return False  # an alternator that finds another voltage: in full
            overloaded = self._overloaded(self.solution)
            if overloaded is not None:
                self.blown[overloaded[0]] = overloaded[1]
            elif self.device_states == was:
                return True
        return False

    @property
    def _moved(self) -> frozenset[str]:
        """The codes of what stands otherwise than in the sound network."""
        now, was = self.device_states, self._solver.point.device_states
        changed = frozenset(map(acts_of, now.on ^ was.on))
        for one, other in ((now.limits, was.limits), (now.sensed, was.sensed)):
            changed |= {code for code, _ in set(one) ^ set(other)}
        return changed | self.blown.keys() | self.wiring.stuck

    def _is_still(self, found: Corrected) -> bool:
        """Whether every device within its bounds stands as in the sound network, and no fuse
        blows.
        """
        import numpy

        solver = self._solver
        if self._moved or any(fault.at in solver.acting for fault in self.state.faults):
            return False
        now = self.device_states
        if working(self.wiring, self.state, now, self.solution, solver.unbound) != now:
            return False  # a battery is charged, or no longer
        turning = solver.turning
        moved = numpy.abs(found.volts[turning] - solver.volts[turning])
        if moved.size and float(moved.max()) >= STILL_V:
            return False
        return not self._overloaded(self.solution)

    def _is_cold(self) -> bool:
        """Whether what is pulled in would be from rest: else it depends on what was before."""
        relays = {d.code for d in self.job.devices if kind_of(d).holds}
        held = self.device_states.on & relays
        if not held:
            return True
        rest = self.device_states._replace(on=self.device_states.on - relays)
        again = working(self.wiring, self.state, rest, self.solution, held)
        return again.on & relays == held

    def _begins(self) -> bool:
        """Whether alternators that charge would begin to: they are excited with the engine at
        rest.
        """
        charging = [
            d for d in self.job.devices if kind_of(d).regulates and d.code in self.device_states.on
        ]
        if not charging or not self.state.faults:
            return True
        if self._solver.rest is None:
            return False
        rest = self._solver.rest.faulty(self.state.faults)
        return all(
            kind.begins(device, rest.solution, self.solution)
            for device in charging
            if isinstance(kind := kind_of(device), Alternator)
        )


def _changed(was: Sequence[Element], now: Sequence[Element]) -> dict[str, Element | None]:
    """Return which elements are others now, None for one that is not there any more."""
    new = {one.name: one for one in now}
    found: dict[str, Element | None] = {one.name: None for one in was if one.name not in new}
    return found | new
