"""How the batteries of a job stand: which pole is live, and which stand on one another in series.

A vehicle has one pole at its metal, by the job's settings. Of batteries in series each has its
share of the system's voltage, unless its own is typed.
"""

from collections import defaultdict
from collections.abc import Iterable
from typing import TYPE_CHECKING

from molvik.devices import kind_of, value
from molvik.lazy import cached_property
from molvik.model.parts import Device, End

if TYPE_CHECKING:
    from molvik.netlist.network import Network


class Batteries:
    """The batteries of one network. live, earthed: the names of their poles."""

    def __init__(self, network: "Network") -> None:
        settings = network.job.settings
        self.live, self.earthed = settings.live_pole, settings.earthed_pole
        self.every = tuple(d for d in network.job.devices if d.kind == "battery")
        self._volts = settings.system_v
        self._on = _standing_on(network, self.every, self.live, self.earthed)

    def live_end(self, battery: Device) -> End:
        """Return the pole of a battery that is not at metal."""
        return End(battery.code, self.live)

    def earthed_end(self, battery: Device) -> End:
        """Return the pole of a battery that metal is at, or the battery that it stands on."""
        return End(battery.code, self.earthed)

    @cached_property
    def lowest(self) -> tuple[Device, ...]:
        """The batteries that stand on no other."""
        return tuple(one for one in self.every if not self._on.get(one.code))

    @cached_property
    def highest(self) -> tuple[Device, ...]:
        """The batteries that no other stands on."""
        under = {code for codes in self._on.values() for code in codes}
        return tuple(one for one in self.every if one.code not in under)

    def row(self, lowest: Device) -> tuple[Device, ...]:
        """Return a battery that stands on no other, and all that stand on it."""
        codes = {lowest.code}
        while more := {one for one, under in self._on.items() if under & codes} - codes:
            codes |= more
        return tuple(one for one in self.every if one.code in codes)

    @cached_property
    def in_series(self) -> dict[str, int]:
        """How many batteries each one is in series with, itself counted in."""
        above: dict[str, set[str]] = defaultdict(set)
        for code, under in self._on.items():
            for other in under:
                above[other].add(code)
        return {
            one.code: 1 + _longest(self._on, one.code) + _longest(above, one.code)
            for one in self.every
        }

    def own(self, battery: Device, name: str) -> float:
        """Return a figure of a battery: its own, or the usual one at its share of the voltage."""
        return value(battery, name, self._volts / self.in_series[battery.code])

    @cached_property
    def in_all(self) -> tuple[float, float]:
        """The voltage at rest, V, and the resistance, ohms, of a row of batteries from metal on;
        those side by side with it are left out, as for the largest short they may be flat.
        """
        volts = ohm = 0.0
        code = self.highest[0].code if self.highest else ""
        by_code = {one.code: one for one in self.every}
        while code:
            volts += self.own(by_code[code], "rest V")
            ohm += self.own(by_code[code], "ohm")
            code = min(self._on.get(code, ()), default="")
        return volts, ohm


def _longest(steps: dict[str, set[str]], start: str) -> int:
    """Return how many steps the longest way from a battery has."""
    depth, here = 0, {start}
    while (here := {to for code in here for to in steps.get(code, ())}) and depth < len(steps):
        depth += 1
    return depth


def _standing_on(
    network: "Network", batteries: Iterable[Device], live: str, earthed: str
) -> dict[str, set[str]]:
    """Return the batteries whose live pole each one's earthed pole is joined to, by their codes."""
    batteries = tuple(batteries)
    if len(batteries) < 2:
        return {}
    near: dict[End, list[End]] = defaultdict(list)

    def join(a: End, b: End) -> None:
        near[a].append(b)
        near[b].append(a)

    earths = {earth.code for earth in network.job.earths}
    for wire in network.job.wires:
        if not {end.at for end in wire.ends} & (earths | {""}):
            join(*wire.ends)
    for a, b in network.touching:
        join(a, b)
    for fuse in network.job.fuses:
        join(End(fuse.code, "in"), End(fuse.code, "out"))
    for device in network.job.devices:
        for way in kind_of(device).conduction_paths(device, live):
            if device.kind in ("isolator", "bus bar"):
                join(End(device.code, way.a), End(device.code, way.b))
    poles = {End(one.code, live): one.code for one in batteries}
    found: dict[str, set[str]] = {}
    for battery in batteries:
        start = End(battery.code, earthed)
        seen, left = {start}, [start]
        while left:
            for end in near.get(left.pop(), ()):
                if end not in seen:
                    seen.add(end)
                    left.append(end)
        under = {poles[end] for end in seen if end in poles} - {battery.code}
        if under and End(battery.code, live) not in seen:
            found[battery.code] = under
    # Two that stand on each other are a short, not a row.
    return {
        code: {u for u in under if code not in found.get(u, ())} for code, under in found.items()
    }
