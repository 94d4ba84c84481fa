"""A device's circuit as lines of stops: from the battery, through it, back to earth; and what
switches it.
"""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.circuits.paths import ways
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.nodes import owner_of
from molvik.model.parts import Connector, Device, EarthPoint, Fuse, Part, Splice
from molvik.model.refs import Ref, end_text
from molvik.netlist.branches import Ways, path, reached
from molvik.netlist.circuitgraph import Branch
from molvik.netlist.faults import in_words as in_words_of

Shape = Literal[
    "source",
    "load",
    "fuse",
    "contact",
    "connector",
    "splice",
    "earth",
    "bar",
    "computer",
    "gap",
    "fold",
]

MOST_LINES = 6
PLAIN = ("connector", "splice", "bar")


class CircuitStop(NamedTuple):
    """A place on the way. volts: against the battery's minus where the current leaves it, for a
    load across it; None where it floats. good: live, or joined to earth. closed: lets it through.
    held: the stops that are folded into this one.
    """

    code: str
    title: str
    under: str
    shape: Shape
    volts: float | None
    good: bool
    closed: bool = True
    held: "tuple[CircuitStop, ...]" = ()


class Leg(NamedTuple):
    """What leads from one stop to the next: the codes of its wires, and whether it is all good."""

    wires: tuple[str, ...]
    good: bool


class Line(NamedTuple):
    """A way from the battery to earth. title: what it is the way of. There is one leg less than
    stops. beside: other loads that are fed from its last splice.
    """

    device: str
    title: str
    stops: tuple[CircuitStop, ...]
    legs: tuple[Leg, ...]
    beside: tuple[str, ...] = ()


def route(point: OperatingPoint, code: str) -> tuple[Line, ...]:
    """Return the lines of a device, its own first; none for what is no load."""
    if code not in point.load:
        return ()
    drawing = _Drawing(point)
    lines: list[Line] = []
    waiting = [code]
    seen: set[str] = set()
    while waiting and len(lines) < MOST_LINES:
        one = waiting.pop(0)
        if one in seen or one not in point.load:
            continue
        seen.add(one)
        line, switchers = drawing.line(one, first=not lines)
        lines.append(line)
        waiting += switchers
    return tuple(lines)


def fold(line: Line) -> Line:
    """Return a line with plain stops in a row that let everything through taken together."""
    stops: list[CircuitStop] = []
    legs: list[Leg] = []
    index = 0
    while index < len(line.stops):
        end = index
        while end < len(line.stops) and _is_plain(line.stops[end], line.stops[index]):
            end += 1
        if end - index > 1:
            run = line.stops[index:end]
            last = run[-1]
            words = f"{len(run)} joints", f"{run[0].code} to {last.code}"
            folded = CircuitStop(last.code, *words, "fold", last.volts, last.good, held=run)
            stops.append(folded)
        else:
            end = index + 1
            stops.append(line.stops[index])
        if end < len(line.stops):
            legs.append(line.legs[end - 1])
        index = end
    return line._replace(stops=tuple(stops), legs=tuple(legs))


def _is_plain(stop: CircuitStop, first: CircuitStop) -> bool:
    return stop.shape in PLAIN and stop.closed and stop.good == first.good


def in_words(lines: tuple[Line, ...]) -> str:
    """Return lines as text, one a line, for a screen reader and for copying."""
    said = []
    for line in lines:
        words = []
        for stop in line.stops:
            volts = volts_text(stop.volts) or "floating"
            state = "" if stop.closed else ", open"
            words.append(f"{stop.title} {stop.under}{state} {volts}".replace("  ", " "))
        said.append(f"{line.title}: " + " – ".join(words))
    return "\n".join(said)


def volts_text(volts: float | None) -> str:
    """Return a voltage as it is shown, without a minus before nothing; empty for none."""
    return "" if volts is None else f"{round(volts, 1) + 0.0:.1f} V"


class _Drawing:
    """The lines of one solution; it keeps what they share."""

    def __init__(self, point: OperatingPoint) -> None:
        self.point = point
        self.ways: Ways = ways(point)
        self.parts: dict[str, Part] = {part.code: part for part in point.job.parts()}
        self.earthed = reached(self.ways, [point.reference], closed=True)

    def line(self, code: str, *, first: bool) -> tuple[Line, list[str]]:
        """Return a device's line, and the devices that switch it."""
        point, load = self.point, self.point.load[code]
        device = next(device for device in point.job.devices if device.code == code)
        supply = path(self.ways, load.plus, point.wiring.live) if point.wiring.live else None
        back = path(self.ways, load.minus, point.reference)
        stops: list[CircuitStop] = []
        legs: list[Leg] = []
        beside: tuple[str, ...] = ()
        if supply is None:
            stops.append(_gap("nothing feeds it"))
            legs.append(Leg((), good=False))
        else:
            nodes = _nodes(load.plus, supply)[::-1]
            self._walk(nodes, supply[::-1], stops, legs, feed=True)
            beside = self._beside(stops, code)
        # The device's own terminals are part of its stop.
        shape: Shape = "computer" if kind_of(device).is_computer else "load"
        under = "coil" if device.kind == "relay" else load.state
        own = CircuitStop(code, device.name, under, shape, load.volts, load.state == "alive")
        self._join(stops, legs, own)
        if back is None:
            legs.append(Leg((), good=False))
            stops.append(_gap("no path to earth"))
        else:
            after: list[CircuitStop] = []
            more: list[Leg] = []
            self._walk(_nodes(load.minus, back), back, after, more, feed=False)
            if after[0].code == code:
                after = after[1:]
            else:  # bolted to it
                legs.append(Leg((), load.minus in self.earthed))
            stops += after
            legs += more
        title = "FEED AND RETURN" if first else f"WHAT SWITCHES OR FEEDS {device.name.upper()}"
        line = Line(code, title, tuple(stops), tuple(legs), beside)
        way = (*(supply or ())[::-1], *(back or ()))
        # What interrupts it is asked for first.
        switchers = [
            link.part
            for link in sorted(way, key=lambda one: one.closed)
            if link.what in ("relay", "driver") and link.part != code
        ]
        return line, list(dict.fromkeys(switchers))

    def _join(self, stops: list[CircuitStop], legs: list[Leg], own: CircuitStop) -> None:
        """Put a device after its feed; a stop that is only its own plug becomes the device."""
        if stops and stops[-1].code == own.code:
            stops[-1] = own
            return
        if stops and len(legs) < len(stops):
            legs.append(Leg((), stops[-1].good))
        stops.append(own)

    def _walk(
        self,
        nodes: list[str],
        links: list[Branch],
        stops: list[CircuitStop],
        legs: list[Leg],
        *,
        feed: bool,
    ) -> None:
        """Turn a way into stops, with the wires between them."""
        for number, (group, inside, before) in enumerate(_groups(nodes, links)):
            stop = self._stop(group, inside, feed=feed)
            if number:
                assert before is not None
                far = self._good(group[0], feed=feed)
                near = self._good(before.a if before.b == group[0] else before.b, feed=feed)
                wires = (before.part,) if before.what == "wire" else ()
                legs.append(Leg(wires, before.closed and far and near))
            stops.append(stop)

    def _good(self, node: str, *, feed: bool) -> bool:
        if not feed:
            return node in self.earthed
        return self.point.solution.volts.get(node, 0.0) >= self.point.least_v

    def _stop(self, nodes: list[str], links: list[Branch], *, feed: bool) -> CircuitStop:
        """Return the stop that nodes of one place make."""
        point = self.point
        volts = point.solution.volts.get(nodes[-1])
        closed = all(link.closed for link in links)
        good = self._good(nodes[-1], feed=feed)
        codes = list(dict.fromkeys(owner_of(node) for node in nodes))
        parts = [self.parts[code] for code in codes if code in self.parts]
        places = [place for node in nodes if (place := Ref.parse(node).cavity)]
        # A device's plug is the device; a connector by itself is a stop of its own.
        order = sorted(
            parts, key=lambda one: (not isinstance(one, Device), isinstance(one, Connector))
        )
        lead = order[0] if order else None
        code = lead.code if lead else codes[0]
        name = (lead.name or lead.code) if lead else codes[0].capitalize()
        fault = next((f for f in point.state.faults if f"{f.at} middle" in nodes), None)
        if fault is not None:
            words = in_words_of(fault, point.job).removeprefix(fault.at).strip()
            return CircuitStop(fault.at, fault.at, words, "gap", volts, good)
        match lead:
            case Fuse() if len(nodes) == 1:
                shape: Shape = "bar"  # passed by, at its stud
                under = f"{code} {places[0]}"
            case Fuse():
                shape, under = "fuse", f"{code}, {lead.rating_a:g} A"
            case Splice():
                shape, under = "splice", code
            case EarthPoint():
                shape = "earth"
                under = " ".join(code for code in codes if code in self.parts)
            case Connector():
                shape, under = "connector", f"{'·'.join(codes)}, cavity {places[-1]}"
            case Device(kind="battery"):
                shape, under = "source", "plus" if nodes[0].endswith("+") else "minus"
            case Device(kind="relay" | "switch" | "isolator"):
                shape, under = "contact", f"{places[0]} to {places[-1]}"
            case Device(kind="controller"):
                plug = lead.plug or code
                shape, under = "computer", end_text(plug, places[0])
            case Device(kind="bus bar"):
                shape, under = "bar", code
            case Device():
                shape, under = "load", places[0] if places else ""
            case _:
                shape, under = "earth", ""
        return CircuitStop(code, name, under, shape, volts, good, closed)

    def _beside(self, stops: list[CircuitStop], code: str) -> tuple[str, ...]:
        """Return the other loads that hang on the last splice of a feed."""
        splice = next(
            (circuit_stop.code for circuit_stop in stops[::-1] if circuit_stop.shape == "splice"),
            "",
        )
        if not splice:
            return ()
        plain: Ways = {
            node: [link for link in links if link.what in ("wire", "contact")]
            for node, links in self.ways.items()
        }
        near = reached(plain, [splice], closed=True)
        return tuple(
            load.name for load in self.point.loads if load.plus in near and load.device != code
        )


def _gap(words: str) -> CircuitStop:
    return CircuitStop("", words, "", "gap", None, good=False, closed=False)


def _nodes(begin: str, links: list[Branch]) -> list[str]:
    nodes = [begin]
    for link in links:
        nodes.append(link.b if link.a == nodes[-1] else link.a)
    return nodes


def _groups(
    nodes: list[str], links: list[Branch]
) -> Iterator[tuple[list[str], list[Branch], Branch | None]]:
    """Yield the nodes of each place with the links inside it and the wire that led there."""
    group, inside = [nodes[0]], list[Branch]()
    led: Branch | None = None
    for link, node in zip(links, nodes[1:], strict=True):
        if link.what in ("wire", "swap"):
            yield group, inside, led
            group, inside, led = [node], [], link
        else:
            group.append(node)
            inside.append(link)
    yield group, inside, led
