"""Where a new module goes on a bus: every place, ranked by what it does to the line."""

from typing import Literal, NamedTuple

from msgspec.structs import replace

from molvik.circuits.bus.beginning import with_pair
from molvik.circuits.bus.members import Member
from molvik.circuits.bus.topology import Bus, by_place
from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End, Splice
from molvik.model.wire_edits import split
from molvik.netlist.network import Network
from molvik.reference.bus import limits_at

LEAD_M = 0.3
"""How long the wires to a new module are, m, where nobody said."""

BESIDE_M = 0.05
"""How far from a plug its wires are spliced, m (common practice: clear of the plug)."""

Way = Literal["joined", "plugged in", "spliced"]
"""How a new module gets to a place: its wires join those that are there, at a splice or a terminal;
it is plugged into a plug with nothing in it; a cavity takes one wire, so splices beside a plug."""


class Tap(NamedTuple):
    """A place for a new module. way: how it gets there; stub_m: how far off the line it would be,
    m; at_end: it makes the line longer instead; moves: the member whose terminator has to go to the
    new end; needs: parts and wires, in words; against: what speaks against it, in words; cost: what
    ranks it, the less the better.
    """

    at: str
    name: str
    way: Way
    stub_m: float
    at_end: bool
    moves: str
    needs: tuple[str, ...]
    against: tuple[str, ...]
    cost: float


def taps(job: Job, bus: Bus, lead_m: float = LEAD_M) -> tuple[Tap, ...]:
    """Return every place for a new module, the best first. lead_m: how long its wires are, m."""
    names = {part.code: part.name for part in job.parts()}
    at = by_place(bus)
    found = [
        _tap(bus, place, names.get(place, ""), at.get(place, []), way_to(job, bus, place), lead_m)
        for place in bus.places
    ]
    return tuple(sorted(found, key=lambda one: (one.cost, one.stub_m, one.at)))


def way_to(job: Job, bus: Bus, place: str) -> Way:
    """Return how a new module gets to a place."""
    part = job.part(place)
    if isinstance(part, Device) and part.plug:
        return "spliced"
    if isinstance(part, Connector):
        return "plugged in" if is_empty(job, bus, place) else "spliced"
    return "joined"


def is_empty(job: Job, bus: Bus, place: str) -> bool:
    """Return whether a place is a plug that has the two wires of the bus and nothing in it."""
    return (
        isinstance(job.part(place), Connector)
        and not bus.is_joint(place)
        and not any(device.plug == place for device in job.devices)
        and not any(one.at == place for one in bus.members)
    )


def _tap(bus: Bus, place: str, name: str, there: list[Member], way: Way, lead_m: float) -> Tap:
    limits = limits_at(bus.kbit_s, screened=bus.screened)
    terminator = next((one for one in there if one.terminates), None)
    at_end = place in (*bus.trunk[:1], *bus.trunk[-1:])
    lead_m = 0.0 if way == "plugged in" else lead_m
    stub = bus.away_m(place) + (0.0 if at_end else lead_m)
    against, cost = [], stub
    needs = _needs(way, lead_m)
    if at_end and terminator is not None:
        needs.append(f"the terminator of {terminator.code} moved to its end")
        cost += 0.5  # it is work, and easily forgotten
    elif at_end and len(bus.terminators) < 2:
        needs.append("a terminator of its own: this end has none")
    if at_end and bus.length_m + lead_m > limits.line_m:
        against.append(f"the line would be longer than {limits.line_m:g} m ({limits.source})")
    if not at_end and stub > limits.stub_m:
        against.append(
            f"its stub would be {stub:.2g} m, more than {limits.stub_m:.2g} m ({limits.source})"
        )
    if any(one.sort == "diagnosis" for one in there):
        against.append("this plug stays free for reading codes")
    if bus.away_m(place) > 0 and way != "plugged in":
        against.append("it lengthens what is a stub already")
    if limits.nodes is not None and len(bus.talkers) + 1 > limits.nodes:
        against.append(f"there would be more than {limits.nodes} modules ({limits.source})")
    if way == "spliced":
        cost += 0.3  # two splices more
    return Tap(
        place,
        name,
        way,
        stub,
        at_end,
        terminator.code if at_end and terminator else "",
        tuple(needs),
        tuple(against),
        cost + 10.0 * len(against),
    )


def _needs(way: Way, lead_m: float) -> list[str]:
    """Return the parts and wires that a way takes, in words."""
    match way:
        case "plugged in":
            return ["a plug that fits", "its feed and its earth"]
        case "spliced":
            first = "a splice in each of the two wires beside the plug"
            return [first, f"a twisted pair of {lead_m:g} m", "its feed and its earth"]
        case _:
            return [f"a twisted pair of {lead_m:g} m", "its feed and its earth"]


def tapped(job: Job, bus: Bus, tap: Tap, name: str, lead_m: float = LEAD_M) -> Job:
    """Return the job with a new module at a place: with its pair of wires, or plugged in; at an end
    of the line the terminator moved to it. Raises EditError.
    """
    if not name.strip():
        raise EditError("Give the new module a name: what it is on the label.")
    if not 0.01 <= lead_m <= 40:
        raise EditError("Its wires are 10 mm to 40 m long.")
    high, low = _ends_at(job, bus, tap.at)
    node = Device("", name.strip(), "network node", ("high", "low"))
    if tap.at_end and (tap.moves or len(bus.terminators) < 2):
        node = replace(node, values=(("ohm", TERMINATOR_OHM),))
    if tap.moves:
        job = _without_terminator(job, tap.moves)
    if tap.way == "plugged in":
        node = replace(node, terminals=(high.cavity, low.cavity), plug=tap.at)
        return edits.add(job, node)
    if tap.way == "spliced":
        job, high = _spliced_beside(job, high)
        job, low = _spliced_beside(job, low)
    before = {device.code for device in job.devices}
    job = edits.add(job, node)
    code = next(device.code for device in job.devices if device.code not in before)
    return with_pair(job, (high, low), code, lead_m, name.strip())


def _spliced_beside(job: Job, end: End) -> tuple[Job, End]:
    """Return the job with a splice in the wire that ends at a cavity, beside it, and the splice."""
    wire = next(wire for wire in job.wires if end in wire.ends)
    share = min(0.5, BESIDE_M / wire.length_m) if wire.length_m else 0.5
    before = {splice.code for splice in job.splices}
    job = split(job, wire.code, share if wire.start == end else 1 - share)
    made = next(splice.code for splice in job.splices if splice.code not in before)
    return job, End(made)


def _without_terminator(job: Job, code: str) -> Job:
    part = job.part(code)
    if not isinstance(part, Device) or part.kind == "resistor":
        raise EditError(
            f"{code} is the terminator itself: unplug it, put the new module there, and plug it in "
            "behind that."
        )
    values = tuple(one for one in part.values if one[0] != "ohm")
    return edits.change_part(job, code, values=values)


def _ends_at(job: Job, bus: Bus, place: str) -> tuple[End, End]:
    """Return where the two wires of a bus end at a place. Raises EditError."""
    network = Network(job)
    part = job.part(place)
    where = part.plug if isinstance(part, Device) and part.plug else place
    sound = next((one for one in bus.members if not one.half), None)
    if sound is not None:
        nets = [network.net_of.get(end) for end in (sound.high, sound.low)]
        wired = [end for end, net in network.net_of.items() if end in network.wires_at]
        high = _one_at(where, [end for end in wired if network.net_of[end] == nets[0]])
        low = _one_at(where, [end for end in wired if network.net_of[end] == nets[1]])
        if high is not None and low is None:
            low = _beside(network, bus, place, nets[1])
        if high is not None and low is not None:
            return high, low
    raise EditError(f"At {place} only one of the two wires can be met: choose another place.")


def _one_at(place: str, ends: list[End]) -> End | None:
    return next((end for end in ends if end.at == place), None)


def _beside(network: Network, bus: Bus, place: str, low: int | None) -> End | None:
    """Return the splice of the low wire that joins what a splice of the high one joins."""
    if not isinstance(network.parts.get(place), Splice):
        return None
    pairs = [(one.a, one.b) for one in bus.stretches]
    near = {b if a == place else a for a, b in pairs if place in (a, b)}
    for end, net in network.net_of.items():
        wires = network.wires_at.get(end, [])
        others = {other.at for wire in wires for other in wire.ends if other != end}
        if net == low and wires and others == near:
            return end
    return None
