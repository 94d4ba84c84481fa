"""What hangs on the two wires of a bus: modules, plugs for reading codes, terminators."""

import math
from collections import Counter
from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.devices import kind_of, value
from molvik.devices.kind import terminals_named
from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model.job import code_order
from molvik.model.parts import Connector, Device, End
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.reference.bus import NODE_OHM, NODE_PF

NAMES = ("network high", "network low")
"""What a pinout calls the two wires, in the program's words."""

OFF_SHARE = 0.1
"""A terminator is off its value by no more than this share (our choice)."""

Sort = Literal["module", "diagnosis", "terminator", "by its wires"]


class Member(NamedTuple):
    """What hangs on a bus. at: its place on the line, the code of a part; high, low: where its two
    wires are. ohm: between them; kbit_s: how fast it talks, None where that is not said. sort: a
    module, a plug to read codes at, a terminator, or what is there by its wires or pinout alone.
    crossed: its two wires are the other way round. half: only one of them gets to the bus.
    """

    code: str
    name: str
    at: str
    high: End
    low: End
    ohm: float
    pf: float
    sort: Sort
    kbit_s: float | None = None
    crossed: bool = False
    half: bool = False

    @property
    def terminates(self) -> bool:
        """Whether it has a terminator."""
        return self.ohm < 2 * TERMINATOR_OHM

    @property
    def is_odd(self) -> bool:
        """Whether it has a terminator of another value than a line wants."""
        return self.terminates and abs(self.ohm - TERMINATOR_OHM) > OFF_SHARE * TERMINATOR_OHM

    @property
    def talks(self) -> bool:
        """Whether it sends and receives."""
        return self.sort in ("module", "by its wires")


class Pair(NamedTuple):
    """Something with two terminals for the wires of a bus."""

    part: Device | Connector
    high: End
    low: End
    sort: Sort

    def nets(self, network: Network) -> set[int]:
        """Return the nets that it is on."""
        return {network.net_of[end] for end in (self.high, self.low) if end in network.net_of}


def pairs(network: Network) -> Iterator[Pair]:
    """Yield what is said to have two wires of a bus: by its kind, or by its pinout."""
    for device in network.job.devices:
        if device.kind == "network node" and len(device.terminals) > 1:
            high, low = device.terminals[:2]
            yield Pair(device, End(device.code, high), End(device.code, low), "module")
        elif device.kind == "diagnostic plug" and {"6", "14"} <= set(device.terminals):
            yield Pair(device, End(device.code, "6"), End(device.code, "14"), "diagnosis")
    plugs = {device.plug for device in network.job.devices if device.kind == "network node"}
    for plug in network.job.connectors:
        if plug.code in network.mates or plug.code in plugs:
            continue  # the line goes on through it, or its module is known
        at = [
            [pin.cavity for pin in plug.pins if name in telling(pin.function).words]
            for name in NAMES
        ]
        if all(len(one) == 1 for one in at):
            ends = End(plug.code, at[0][0]), End(plug.code, at[1][0])
            if any(end in network.wires_at for end in ends):
                yield Pair(plug, *ends, "by its wires")


def two_nets(network: Network, found: list[Pair]) -> tuple[int, int] | None:
    """Return which net is high and which is low, as most say; None where no wire joins any. Both
    are one where the wires touch.
    """
    net_of = network.net_of
    highs = Counter(net_of[pair.high] for pair in found if pair.high in net_of)
    lows = Counter(net_of[pair.low] for pair in found if pair.low in net_of)
    if not highs or not lows:
        return None
    high = highs.most_common(1)[0][0]
    return high, next((net for net, _ in lows.most_common() if net != high), high)


def members(network: Network, found: list[Pair], high: int, low: int) -> tuple[Member, ...]:
    """Return all that hangs on the two nets of a bus, in the order of their codes."""
    made = [_said(network, pair, high, low) for pair in found]
    known = {pair.part.code for pair in found}
    if high != low:
        made += _between(network, high, low, known)
    return tuple(sorted(made, key=lambda one: code_order(one.code)))


def _said(network: Network, pair: Pair, high: int, low: int) -> Member:
    part, first, second, sort = pair
    nets = [network.net_of.get(end) for end in (first, second)]
    ohm, pf, kbit = NODE_OHM, NODE_PF, None
    name = part.name
    if isinstance(part, Connector):
        owner = next((one for one in network.job.devices if one.plug == part.code), None)
        name = owner.name if owner is not None else part.name
    elif sort == "module":
        ohm, pf = value(part, "ohm"), value(part, "pF")
        kbit = dict(part.values).get("kbit/s")
    else:
        ohm, pf = math.inf, 0.0  # nothing is plugged in there
    crossed = high != low and (nets[0] == low or nets[1] == high)
    if crossed:
        first, second = second, first
    half = high == low or {network.net_of.get(first), network.net_of.get(second)} != {high, low}
    return Member(part.code, name, part.code, first, second, ohm, pf, sort, kbit, crossed, half)


def _between(network: Network, high: int, low: int, known: set[str]) -> Iterator[Member]:
    """Yield the devices of which nobody said that they are on the bus, but that have one terminal
    on each of its wires: a resistor ends it, anything else talks.
    """
    for device in network.job.devices:
        if {device.code, device.plug} & known:
            continue
        ends = [End(device.code, name) for name in terminals_named(device)]
        on = {net: [end for end in ends if network.net_of.get(end) == net] for net in (high, low)}
        if any(len(there) != 1 for there in on.values()):
            continue
        (first,), (second,) = on[high], on[low]
        if device.kind == "resistor":
            ohm = kind_of(device).figure(device, "ohm")
            made = Member(
                device.code, device.name, device.code, first, second, ohm, 0.0, "terminator"
            )
        elif kind_of(device).is_computer:
            made = Member(
                device.code,
                device.name,
                device.code,
                first,
                second,
                NODE_OHM,
                NODE_PF,
                "by its wires",
            )
        else:
            continue
        yield made
