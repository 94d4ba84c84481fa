"""What a fault changes in a network that was solved sound: edges taken out, put in, or worse."""

from collections.abc import Sequence

from molvik.circuits.corrected import Edge
from molvik.circuits.near import Near
from molvik.devices.nodes import METAL
from molvik.devices.states import EARTH, Fault
from molvik.electrical.solve import LEAST_OHM
from molvik.model.parts import End
from molvik.model.refs import Ref
from molvik.netlist.wiring import SHORT_OHM, Wiring


def edges_of(near: Near, ways: Wiring, faults: frozenset[Fault]) -> list[Edge] | None:
    """Return what faults change, None for what is not known here."""
    swaps = [fault for fault in faults if fault.kind == "swap"]
    found = _swapped(near, ways, swaps)
    for fault in faults.difference(swaps) if found is not None else ():
        made = _edges_of(near, ways, fault)
        if made is None or found is None:
            return None
        found += made
    return found


def _edges_of(near: Near, ways: Wiring, fault: Fault) -> list[Edge] | None:
    job = near.point.job
    match fault.kind:
        case "open" if fault.at in near.devices:
            return None if ways.job.part(fault.at) is None else _without(near, fault.at)
        case "open":
            return [near.out(place) for place in near.places(fault.at)]
        case "bad":
            return _worse(near, fault.at, fault.ohm)
        case "stuck":
            return []  # its contacts follow with the states
        case "short" if job.wire(fault.at) is not None:
            return _short(near, fault)
        case _:
            return None


def _without(near: Near, code: str) -> list[Edge]:
    """Return the change that takes a device away: all that is its own, and its plug's pins."""
    device = next(one for one in near.point.job.devices if one.code == code)
    found = []
    for name, place in near.names.items():
        head = name.split(" ")
        own = Ref.parse(head[0]).code == code
        mated = bool(device.plug) and len(head) > 2 and Ref.parse(head[2]).code == code
        if own or mated:
            found.append(near.out(place))
    return found


def _worse(near: Near, at: str, ohm: float) -> list[Edge] | None:
    """Return the change of a joint with ohms too many."""
    if "/" in at:
        places = _mated(near, at)
    elif at in near.devices:
        return None  # its contacts: in full
    else:
        places = near.places(at)
    found = []
    for place in places:
        was = float(near.conductance[place])
        now = 1.0 / max(LEAST_OHM, 1.0 / was + ohm)
        found.append(Edge(int(near.a[place]), int(near.b[place]), now - was, 0.0, place))
    return found


def _mated(near: Near, at: str) -> list[int]:
    """Return where the contact of a cavity with what it is plugged into stands."""
    cavity = Ref.parse(at).cavity
    return [
        place
        for name, place in near.names.items()
        if len(words := name.split(" ")) == 3
        and at in words[1:]
        and all(Ref.parse(word).cavity == cavity for word in words[1:])
    ]


def _short(near: Near, fault: Fault) -> list[Edge] | None:
    """Return the change of a wire that touches metal or another wire, at its middle."""
    import numpy

    places = near.places(fault.at)
    others = [] if fault.other == EARTH else near.places(fault.other)
    metal = near.index.get(METAL)
    if len(places) != 1 or (fault.other == EARTH and metal is None) or len(others) > 1:
        return None
    if fault.other != EARTH and not others:
        return None
    # Middles are nodes of their own, eliminated: what is left is edges between the ends.
    ends: list[int] = []
    parts: list[tuple[int, int, float]] = []  # a middle, an end, siemens
    found = []
    for middle, place in enumerate((*places, *others)):
        half = 2 * float(near.conductance[place])
        found.append(near.out(place))
        for node in (int(near.a[place]), int(near.b[place])):
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


def _swapped(near: Near, ways: Wiring, swaps: Sequence[Fault]) -> list[Edge] | None:
    """Return the change of cavities whose wires are exchanged: one swapped at both ends is moved
    once.
    """
    network = near.point.network
    codes = {
        wire.code
        for fault in swaps
        for place in (fault.at, fault.other)
        for wire in network.wires_at.get(End.of(place), ())
    }
    found: list[Edge] = []
    for code in sorted(codes):
        wire = network.wires[code]
        for place in near.places(code):
            ends = [near.index.get(ways.end(end)) for end in wire.ends]
            if ends[0] is None or ends[1] is None:
                return None
            found.append(near.out(place))
            found.append(Edge(ends[0], ends[1], float(near.conductance[place])))
    return found
