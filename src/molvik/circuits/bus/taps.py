"""Where a new module goes on a bus: every place, ranked by what it does to the line."""

from typing import NamedTuple

from msgspec.structs import replace

from molvik.circuits.bus.beginning import with_pair
from molvik.circuits.bus.topology import Bus, Member, by_place
from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Device, End, Splice
from molvik.netlist.network import Network
from molvik.reference.bus import limits_at

LEAD_M = 0.3
"""How long the wires to a new module are, m, where nobody said."""


class Tap(NamedTuple):
    """A place for a new module. stub_m: how far off the line it would be, m; at_end: it makes the
    line longer instead; moves: the member whose terminator has to go to the new end; needs: parts
    and wires, in words; against: what speaks against it, in words; cost: what ranks it, the less
    the better.
    """

    at: str
    name: str
    stub_m: float
    at_end: bool
    moves: str
    needs: tuple[str, ...]
    against: tuple[str, ...]
    cost: float

    @property
    def is_good(self) -> bool:
        """Whether nothing speaks against it."""
        return not self.against


def taps(job: Job, bus: Bus, lead_m: float = LEAD_M) -> tuple[Tap, ...]:
    """Return every place for a new module, the best first. lead_m: how long its wires are, m."""
    names = {part.code: part.name for part in job.parts()}
    at = by_place(bus)
    parts = {part.code: part for part in job.parts()}
    found = []
    for place in bus.places:
        found.append(_tap(bus, place, names.get(place, ""), at.get(place, []), lead_m))
        part = parts.get(place)
        if isinstance(part, Splice):
            found[-1] = found[-1]._replace(
                needs=(*found[-1].needs, "one wire more in each of its two splices")
            )
    return tuple(sorted(found, key=lambda one: (one.cost, one.stub_m, one.at)))


def _tap(bus: Bus, place: str, name: str, there: list[Member], lead_m: float) -> Tap:
    limits = limits_at(bus.kbit_s, screened=bus.screened)
    ends = {bus.trunk[0], bus.trunk[-1]} if bus.trunk else set()
    terminator = next((one for one in there if one.terminates), None)
    at_end = place in ends
    lacks = terminator is None and len(bus.terminators) < 2
    stub = bus.away_m(place) + (0.0 if at_end else lead_m)
    against, cost = [], stub
    needs = [f"a twisted pair of {lead_m:g} m", "its feed and its earth"]
    if at_end:
        if terminator is not None:
            needs.append(f"the terminator of {terminator.code} moved to its end")
            cost += 0.5  # it is work, and easily forgotten
        elif lacks:
            needs.append("a terminator of its own: this end has none")
        if bus.length_m + lead_m > limits.line_m:
            against.append(f"the line would be longer than {limits.line_m:g} m ({limits.source})")
    elif stub > limits.stub_m:
        against.append(
            f"its stub would be {stub:.2g} m, more than {limits.stub_m:.2g} m ({limits.source})"
        )
    if any(one.sort == "diagnosis" for one in there):
        against.append("this plug stays free for reading codes")
    if place in bus.stubs:
        against.append("it lengthens what is a stub already") if bus.away_m(place) > 0 else None
    if limits.nodes is not None and len(bus.talkers) + 1 > limits.nodes:
        against.append(f"there would be more than {limits.nodes} modules ({limits.source})")
    return Tap(
        place,
        name,
        stub,
        at_end,
        terminator.code if at_end and terminator else "",
        tuple(needs),
        tuple(against),
        cost + 10.0 * len(against),
    )


def tapped(job: Job, bus: Bus, tap: Tap, name: str, lead_m: float = LEAD_M) -> Job:
    """Return the job with a new module at a place: its pair of wires, and at an end of the line the
    terminator moved to it. Raises EditError.
    """
    if not name.strip():
        raise EditError("Give the new module a name: what it is on the label.")
    if not 0.01 <= lead_m <= 40:
        raise EditError("Its wires are 10 mm to 40 m long.")
    high, low = _ends_at(bus, job, tap.at)
    node = Device("", name.strip(), "network node", ("high", "low"))
    if tap.at_end and (tap.moves or len(bus.terminators) < 2):
        node = replace(node, values=(("ohm", TERMINATOR_OHM),))
    if tap.moves:
        job = _without_terminator(job, tap.moves)
    before = {device.code for device in job.devices}
    job = edits.add(job, node)
    code = next(device.code for device in job.devices if device.code not in before)
    return with_pair(job, (high, low), code, lead_m, name.strip())


def _without_terminator(job: Job, code: str) -> Job:
    part = job.part(code)
    if not isinstance(part, Device):
        raise EditError(f"{code} has no terminator of its own that could be moved.")
    if part.kind == "resistor":
        raise EditError(
            f"{code} is the terminator itself: unplug it, put the new module there, and plug it in "
            "behind that."
        )
    values = tuple(one for one in part.values if one[0] != "ohm")
    return edits.change_part(job, code, values=values)


def _ends_at(bus: Bus, job: Job, place: str) -> tuple[End, End]:
    """Return where the two wires of a bus can be met at a place. Raises EditError."""
    member = next((one for one in bus.members if one.at == place and not one.half), None)
    if member is not None:
        return member.high, member.low
    wires = {wire.code: wire for wire in job.wires}
    high = next(
        (
            end
            for one in bus.stretches
            if one.wire
            for end in wires[one.wire].ends
            if end.at == place
        ),
        None,
    )
    low = _beside(bus, job, place)
    if high is None or low is None:
        raise EditError(f"At {place} only one of the two wires can be met: choose another place.")
    return high, low


def _beside(bus: Bus, job: Job, place: str) -> End | None:
    """Return where the low wire is met at the place of the high one: at the same part, or at the
    splice that the same parts join.
    """
    network = Network(job)
    low = next((network.net_of.get(one.low) for one in bus.members if not one.half), None)
    near = {
        b if a == place else a for a, b in ((s.a, s.b) for s in bus.stretches) if place in (a, b)
    }
    found = [end for end, net in network.net_of.items() if net == low and end in network.wires_at]
    for end in found:
        if end.at == place:
            return end
    for end in found:
        others = {other.at for wire in network.wires_at[end] for other in wire.ends if other != end}
        if others == near:
            return end
    return None
