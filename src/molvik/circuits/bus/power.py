"""What feeds each module of a bus: at which terminal, behind which fuse, and when."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.circuits.bus.members import Member
from molvik.circuits.bus.topology import Bus
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.kind import terminals_named
from molvik.devices.states import OFF, RUN
from molvik.electrical.elements import SolveError
from molvik.model.parts import Device, End
from molvik.netlist.network import Network

FED_SHARE, EARTH_V = 0.5, 0.5
"""From such a share of the nominal voltage on a terminal is fed; up to so many volts it is earth,
where it hangs on metal (our choice)."""


class Fed(NamedTuple):
    """A terminal that is fed. fuse: what limits it, empty for nothing; always: with the key off."""

    terminal: str
    fuse: str
    always: bool

    @property
    def says(self) -> str:
        """In words."""
        when = "always" if self.always else "in run"
        return f"{self.terminal} {when}, {self.fuse or 'no fuse'}"


class Power(NamedTuple):
    """What feeds a member of a bus. fed, earths: its terminals; known: the job has more of it than
    the two wires of the bus; dead: of those that are wired, and neither fed nor earth.
    """

    code: str
    name: str
    sort: str
    fed: tuple[Fed, ...]
    earths: tuple[str, ...]
    dead: tuple[str, ...]
    known: bool

    @property
    def says(self) -> str:
        """In words."""
        if not self.known:
            return "its supply is not in the job"
        parts = [one.says for one in self.fed] or ["no supply in run"]
        parts.append(f"earth {', '.join(self.earths)}" if self.earths else "no earth")
        return "; ".join(parts)

    @property
    def is_fed(self) -> bool:
        """Whether it has a supply in run and an earth, or nothing is known of them."""
        return not self.known or bool(self.fed and self.earths)


def power(network: Network, bus: Bus) -> tuple[Power, ...]:
    """Return what feeds each member but terminators; nothing where the job cannot be solved."""
    if not any(one.kind == "battery" for one in network.job.devices):
        return ()
    try:
        points = OperatingPoint(network, OFF), OperatingPoint(network, RUN)
    except SolveError:
        return ()
    return tuple(_powers(network, bus, *points))


def _powers(
    network: Network, bus: Bus, off: OperatingPoint, run: OperatingPoint
) -> Iterator[Power]:
    for member in bus.members:
        part = network.parts.get(member.code)
        if member.sort != "terminator" and isinstance(part, Device):
            yield _power(network, member, part, off, run)


def _power(
    network: Network, member: Member, device: Device, off: OperatingPoint, run: OperatingPoint
) -> Power:
    fed, earths, dead, wired = list[Fed](), list[str](), list[str](), False
    for name in terminals_named(device):
        ends = [End(device.code, name), End(device.plug, name)]
        if {member.high, member.low} & set(ends):
            continue
        net = next((network.net_of[end] for end in ends if end in network.net_of), None)
        if net is None:
            continue
        wired = True
        now, then = (_volts(point, ends) for point in (run, off))
        if now is None:
            dead.append(name)
        elif abs(now) >= FED_SHARE * run.nominal:
            feed = network.feeds.get(net)
            always = then is not None and abs(then) >= FED_SHARE * run.nominal
            fed.append(Fed(name, feed.named if feed is not None else "", always))
        elif abs(now) <= EARTH_V and _is_earth(network, ends):
            earths.append(name)
        else:
            dead.append(name)
    return Power(
        member.code, member.name, member.sort, tuple(fed), tuple(earths), tuple(dead), wired
    )


def _volts(point: OperatingPoint, ends: list[End]) -> float | None:
    volts = point.solution.volts
    found = next((volts[str(end)] for end in ends if str(end) in volts), None)
    return None if found is None else found - volts.get(point.reference, 0.0)


def _is_earth(network: Network, ends: list[End]) -> bool:
    """Return whether wires lead from a terminal to an earth point or to a battery."""
    net = next((network.net_of[end] for end in ends if end in network.net_of), None)
    there = {end.at for end, number in network.net_of.items() if number == net}
    earths = {point.code for point in network.job.earths}
    batteries = {one.code for one in network.job.devices if one.kind == "battery"}
    return bool(there & (earths | batteries))
