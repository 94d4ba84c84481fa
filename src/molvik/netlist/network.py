"""What is really connected: nets, and the fuse that stands before each of them."""

from collections import defaultdict
from collections.abc import Mapping

from molvik.devices.kind import terminals_named
from molvik.lazy import cached_property, reading, reuse_from
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Fuse, Part, Wire
from molvik.netlist.ahead import UNKNOWN, Ahead, ahead
from molvik.netlist.batteries import Batteries
from molvik.netlist.cache import Cache
from molvik.netlist.feeds import Feed, Feeds, find_feeds
from molvik.netlist.returns import returns

PARTS = ("connectors", "fuses", "splices", "earths", "devices")
"""The lists of the parts of a job."""

NETS = (*PARTS, "places")
"""What nets come from: parts, and where wires end."""


class Network:
    """The connections of one job, found when first asked for."""

    def __init__(self, job: Job, before: "Network | None" = None) -> None:
        self.job = job
        self.cache = Cache()
        if before is not None:
            self._reuse_from(before)

    def _reuse_from(self, before: "Network") -> None:
        """Take what cannot have changed from the network of the job before an edit: what is
        computed from lists that are the same, and from places that are equal.
        """
        self.cache.reuse_from(before.cache, self.job, before.job)
        for name in ("places", "poles"):
            if name in before.__dict__ and before.__dict__[name] == getattr(self, name):
                self.__dict__[name] = before.__dict__[name]
        reuse_from(self, before)

    @cached_property
    def places(self) -> tuple[tuple[str, End, End], ...]:
        """Where each wire ends, by their codes: all that nets take of them."""
        return tuple((wire.code, *wire.ends) for wire in self.job.wires)

    @cached_property
    def poles(self) -> tuple[float, str]:
        """The voltage of the vehicle, V, and which pole is at its metal."""
        return self.job.settings.system_v, self.job.settings.earthed

    @reading(*PARTS)
    def parts(self) -> dict[str, Part]:
        """Every part by its code."""
        return {part.code: part for part in self.job.parts()}

    @reading(*PARTS)
    def longest_code(self) -> int:
        """How long the longest code of a part is."""
        return max(map(len, self.parts), default=0)

    @cached_property
    def wires(self) -> dict[str, Wire]:
        """Every wire by its code."""
        return {wire.code: wire for wire in self.job.wires}

    @cached_property
    def wires_at(self) -> dict[End, list[Wire]]:
        """The wires that end at each cavity or terminal; loose ends are left out."""
        found: dict[End, list[Wire]] = defaultdict(list)
        for wire in self.job.wires:
            for end in dict.fromkeys(wire.ends):
                if end.at:
                    found[end].append(wire)
        return dict(found)

    @reading("connectors")
    def cavities(self) -> dict[str, frozenset[str]]:
        """The names of each connector's cavities."""
        return {
            connector.code: frozenset(cavities(connector.grid)) for connector in self.job.connectors
        }

    @reading(*PARTS)
    def mates(self) -> dict[str, str]:
        """Which connector plugs into which, both ways."""
        pairs: dict[str, str] = {}
        for connector in self.job.connectors:
            if connector.plugs_into and connector.plugs_into in self.parts:
                pairs[connector.code] = connector.plugs_into
                pairs[connector.plugs_into] = connector.code
        return pairs

    def mate(self, end: End) -> End | None:
        """Return the cavity that meets this one when its connector is plugged in."""
        other = self.mates.get(end.at)
        return End(other, end.cavity) if other else None

    @reading(*NETS)
    def touching(self) -> list[tuple[End, End]]:
        """The pairs of ends that meet without a wire, where one goes to either: in plugs."""
        found = []
        for end in self.wires_at if self.mates else ():
            mate = self.mate(end)
            if mate is not None:
                found.append((end, mate))
        known = {*self.wires_at, *(mate for _, mate in found)}
        for device in self.job.devices:
            for name in terminals_named(device) if device.plug else ():
                cavity, terminal = End(device.plug, name), End(device.code, name)
                if cavity in known or terminal in known:
                    found.append((cavity, terminal))
        return found

    @reading(*NETS)
    def net_of(self) -> dict[End, int]:
        """The net of every end that a wire goes to, fuses and devices counted as open."""
        # Every end points to another of its net, or to itself when it speaks for the net. A graph
        # library takes ten times as long, and this is done anew for each edit that moves a wire.
        speaker: dict[End, End] = {end: end for end in self.wires_at}

        def find(end: End) -> End:
            while (above := speaker.setdefault(end, end)) is not end:
                speaker[end] = end = speaker[above]
            return end

        for end, other in self.touching:
            speaker[find(end)] = find(other)
        for wire in self.job.wires:
            if wire.start.at and wire.finish.at:
                speaker[find(wire.start)] = find(wire.finish)
        numbers: dict[End, int] = {}
        return {end: numbers.setdefault(find(end), len(numbers)) for end in list(speaker)}

    @reading(*NETS, "poles")
    def batteries(self) -> Batteries:
        """How the batteries stand."""
        return Batteries(self)

    @reading(*NETS, "poles")
    def every_feed(self) -> Feeds:
        """What can flow into a short on each net, and through wires where that differs."""
        return find_feeds(self.job, self.net_of, self.touching)

    @property
    def feeds(self) -> dict[int, Feed]:
        """What can flow into a short on each net that a supply reaches."""
        return self.every_feed.nets

    @reading(*NETS, "poles")
    def every_ahead(self) -> Mapping[str, Ahead]:
        """What each wire without a fuse before it leads to."""
        return ahead(self)

    def ahead(self, code: str) -> Ahead:
        """Return what a wire without a fuse before it leads to."""
        return self.every_ahead.get(code, UNKNOWN)

    @reading(*NETS, "poles", "wires")
    def returns(self) -> Mapping[str, Feed]:
        """What flows back through the cables that join battery and metal, in a short to it."""
        return returns(self)

    def feed(self, wire: Wire) -> Feed | None:
        """Return what can flow into a short through a wire, None when no supply reaches it."""
        if (own := self.every_feed.wires.get(wire.code)) is not None:
            return own
        for end in wire.ends:
            net = self.net_of.get(end)
            if net is not None and net in self.feeds:
                return self.feeds[net]
        return None

    def end_name(self, end: End) -> str:
        """Return an end in words: "Bulkhead, cavity 6"."""
        if not end.at:
            return "loose end"
        part = self.parts.get(end.at)
        name = (getattr(part, "name", "") or end.at) if part else end.at
        if isinstance(part, Connector):
            return f"{name}, cavity {end.cavity}"
        if isinstance(part, Fuse):
            return f"fuse {part.code} {name}, {end.cavity}"
        return f"{name}, {end.cavity}" if end.cavity else name
