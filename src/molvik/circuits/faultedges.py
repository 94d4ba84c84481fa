"""What a fault changes in a network that was solved sound: edges taken out, put in, or worse."""

from collections.abc import Sequence

from molvik.circuits.corrected import Edge
from molvik.circuits.lowrank import LowRank
from molvik.devices.nodes import METAL
from molvik.devices.states import EARTH, Fault
from molvik.electrical.solve import LEAST_OHM
from molvik.model.parts import End
from molvik.model.refs import Ref
from molvik.netlist.circuitgraph import SHORT_OHM, CircuitGraph


def edges_of(solver: LowRank, ways: CircuitGraph, faults: frozenset[Fault]) -> list[Edge] | None:
    """Return what faults change, None for what is not known here."""
    swaps = [fault for fault in faults if fault.kind == "swap"]
    found = _swapped(solver, ways, swaps)
    for fault in faults.difference(swaps) if found is not None else ():
        made = _edges_of(solver, ways, fault)
        if made is None or found is None:
            return None
        found += made
    return found


def _edges_of(solver: LowRank, ways: CircuitGraph, fault: Fault) -> list[Edge] | None:
    job = solver.point.job
    match fault.kind:
        case "open" if fault.at in solver.devices:
            return None if ways.job.part(fault.at) is None else _without(solver, fault.at)
        case "open" if fault.at in solver.mated:
            return [solver.out(place) for place in solver.mated[fault.at]]
        case "open":
            return [solver.out(place) for place in solver.places(fault.at)]
        case "bad":
            return _worse(solver, fault.at, fault.ohm)
        case "stuck":
            return []  # its contacts follow with the states
        case "load":
            ends = [solver.index.get(at or ways.reference) for at in (fault.at, fault.other)]
            if ends[0] is None or ends[1] is None:
                return None
            return [Edge(ends[0], ends[1], 1.0 / fault.ohm)]
        case "short" if job.wire(fault.at) is not None:
            return _short(solver, fault)
        case _:
            return None


def _without(solver: LowRank, code: str) -> list[Edge]:
    """Return the change that takes a device away: all that is its own, and its plug's pins."""
    device = next(one for one in solver.point.job.devices if one.code == code)
    found = []
    for name, place in solver.names.items():
        head = name.split(" ")
        own = Ref.parse(head[0]).code == code
        mated = bool(device.plug) and len(head) > 2 and Ref.parse(head[2]).code == code
        if own or mated:
            found.append(solver.out(place))
    return found


def _worse(solver: LowRank, at: str, ohm: float) -> list[Edge] | None:
    """Return the change of a joint with ohms too many."""
    if "/" in at:
        places = _mated(solver, at)
    elif at in solver.devices:
        return None  # its contacts: in full
    else:
        places = solver.places(at)
    found = []
    for place in places:
        was = float(solver.conductance[place])
        now = 1.0 / max(LEAST_OHM, 1.0 / was + ohm)
        found.append(Edge(int(solver.a[place]), int(solver.b[place]), now - was, 0.0, place))
    return found


def _mated(solver: LowRank, at: str) -> list[int]:
    """Return where the contact of a cavity with what it is plugged into stands."""
    cavity = Ref.parse(at).cavity
    return [
        place
        for name, place in solver.names.items()
        if len(words := name.split(" ")) == 3
        and at in words[1:]
        and all(Ref.parse(word).cavity == cavity for word in words[1:])
    ]


def _short(solver: LowRank, fault: Fault) -> list[Edge] | None:
    """Return the change of a wire that touches metal or another wire, at its middle."""
    import numpy

    places = solver.places(fault.at)
    others = [] if fault.other == EARTH else solver.places(fault.other)
    metal = solver.index.get(METAL)
    if len(places) != 1 or (fault.other == EARTH and metal is None) or len(others) > 1:
        return None
    if fault.other != EARTH and not others:
        return None
    # Middles are nodes of their own, eliminated: what is left is edges between the ends.
    ends: list[int] = []
    parts: list[tuple[int, int, float]] = []  # a middle, an end, siemens
    found = []
    for middle, place in enumerate((*places, *others)):
        half = 2 * float(solver.conductance[place])
        found.append(solver.out(place))
        for node in (int(solver.a[place]), int(solver.b[place])):
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


def _swapped(solver: LowRank, ways: CircuitGraph, swaps: Sequence[Fault]) -> list[Edge] | None:
    """Return the change of cavities whose wires are exchanged: one swapped at both ends is moved
    once.
    """
    network = solver.point.network
    codes = {
        wire.code
        for fault in swaps
        for place in (fault.at, fault.other)
        for wire in network.wires_at.get(End.of(place), ())
    }
    found: list[Edge] = []
    for code in sorted(codes):
        wire = network.wires[code]
        for place in solver.places(code):
            ends = [solver.index.get(ways.end(end)) for end in wire.ends]
            if ends[0] is None or ends[1] is None:
                return None
            found.append(solver.out(place))
            found.append(Edge(ends[0], ends[1], float(solver.conductance[place])))
    return found
