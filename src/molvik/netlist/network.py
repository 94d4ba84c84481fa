"""What is really connected: nets, and the fuse that stands before each of them."""

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from molvik.lazy import cached_property
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Fuse, Part, Wire
from molvik.netlist.ahead import UNKNOWN, Ahead, ahead
from molvik.netlist.batteries import Batteries
from molvik.netlist.feeds import Feed, Feeds, find_feeds
from molvik.netlist.passing import terminals_named
from molvik.netlist.returns import returns


class Network:
    """The connections of one job, found when first asked for."""

    def __init__(self, job: Job, before: "Network | None" = None) -> None:
        self.job = job
        self.kept: dict[str, Any] = {}
        """What modules that build on the network compute once of it, by their names."""
        if before is not None:
            self._take_over(before)

    def _take_over(self, before: "Network") -> None:
        """Take what cannot have changed from the network of the job before an edit.

        Contacts come from the devices alone, cavities and mates from the connectors. Nets and feeds
        come from the parts and from where wires end: with the same parts, and wires in the same
        places, they are the same.
        """
        job, was, known = self.job, before.job, before.__dict__
        if job.devices is was.devices and "contacts" in before.kept:
            self.kept["contacts"] = before.kept["contacts"]
        if job.connectors is was.connectors:
            for name in ("cavities", "mates"):
                if name in known:
                    self.__dict__[name] = known[name]
        same_parts = all(
            getattr(job, kind) is getattr(was, kind)
            for kind in ("connectors", "fuses", "splices", "earths", "devices")
        ) and all(
            getattr(job.settings, name) == getattr(was.settings, name)
            for name in ("system_v", "earthed")
        )
        if not same_parts or len(job.wires) != len(was.wires) or "wires_at" not in known:
            return
        changed = [
            (new, old) for new, old in zip(job.wires, was.wires, strict=True) if new is not old
        ]
        if any(new.code != old.code or new.ends != old.ends for new, old in changed):
            return
        for name in (
            "parts",
            "longest_code",
            "touching",
            "net_of",
            "batteries",
            "every_feed",
            "every_ahead",
            "returns",
        ):
            if name in known:
                self.__dict__[name] = known[name]
        at = dict(known["wires_at"])
        for new, old in changed:
            for end in dict.fromkeys(new.ends):
                if end.at:
                    at[end] = [new if one is old else one for one in at[end]]
        self.__dict__["wires_at"] = at

    @cached_property
    def parts(self) -> dict[str, Part]:
        """Every part by its code."""
        return {part.code: part for part in self.job.parts()}

    @cached_property
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

    @cached_property
    def cavities(self) -> dict[str, frozenset[str]]:
        """The names of each connector's cavities."""
        return {
            connector.code: frozenset(cavities(connector.grid)) for connector in self.job.connectors
        }

    @cached_property
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

    @cached_property
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

    @cached_property
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

    @cached_property
    def batteries(self) -> Batteries:
        """How the batteries stand."""
        return Batteries(self)

    @cached_property
    def every_feed(self) -> Feeds:
        """What can flow into a short on each net, and through wires where that differs."""
        return find_feeds(self.job, self.net_of, self.touching)

    @property
    def feeds(self) -> dict[int, Feed]:
        """What can flow into a short on each net that a supply reaches."""
        return self.every_feed.nets

    @cached_property
    def every_ahead(self) -> Mapping[str, Ahead]:
        """What each wire without a fuse before it leads to."""
        return ahead(self)

    def ahead(self, code: str) -> Ahead:
        """Return what a wire without a fuse before it leads to."""
        return self.every_ahead.get(code, UNKNOWN)

    @cached_property
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
