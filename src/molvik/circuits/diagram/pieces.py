"""What a diagram is made of: symbols with one or two ends, and the lines that they hang on.

A relay comes apart into its coil and its contacts, a switch into contacts, what has more than two
terminals into its pins. A line is a splice, a stud, an earth, a terminal with several wires, or
just the wire between two terminals; the wires from a terminal to its line, with the plugs they
pass, are written along that.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

from molvik.devices import kind_of
from molvik.devices.kind import terminals_named
from molvik.devices.states import all_joins
from molvik.model.job import code_order
from molvik.model.parts import Connector, Device, EarthPoint, End, Splice, Wire
from molvik.netlist.network import Network

Form = Literal[
    "fuse",
    "coil",
    "contact",
    "battery",
    "lamp",
    "motor",
    "diode",
    "led",
    "resistor",
    "box",
    "pin",
    "plug",
    "loose",
    "wire",
]


class Item(NamedTuple):
    """Something along the way from an end to its line: a wire, or two cavities that meet. ref: by
    which it is taken in hand; words: what is written.
    """

    sort: Literal["wire", "mated"]
    ref: str
    words: str
    colour: str = ""


class Hang(NamedTuple):
    """An end of a piece. place: the terminal; line: the number of the line it hangs on; items: what
    is along the way, from the piece on; label: how the terminal is called there.
    """

    place: End
    line: int
    items: tuple[Item, ...] = ()
    label: str = ""


class Piece(NamedTuple):
    """A symbol. code: of the part; key: by which it is told from others of that part; unit: pieces
    of one unit stand side by side, empty for one that stands alone; name, under: what is written.
    """

    key: str
    code: str
    form: Form
    ends: tuple[Hang, ...]
    name: str = ""
    under: str = ""
    unit: str = ""


class Line(NamedTuple):
    """What wires join. hub: the splice, stud, earth or terminal that it is, None for a wire that
    goes from one terminal to another. name: how it is called, of such a wire its code; earth: it is
    the metal.
    """

    number: int
    hub: End | None
    name: str = ""
    earth: bool = False


class Pieces(NamedTuple):
    """All that is drawn of a job. left_out: wires that go nowhere."""

    pieces: tuple[Piece, ...]
    lines: tuple[Line, ...]
    left_out: tuple[str, ...]


def pieces_of(network: Network) -> Pieces:
    """Return what a job's diagram is made of."""
    return _Work(network).done()


class _Stub(NamedTuple):
    """A piece before its ends are followed: form, its ends, and what is written."""

    key: str
    code: str
    form: Form
    ends: tuple[End, ...]
    labels: tuple[str, ...]
    name: str
    under: str
    unit: str


Edge = tuple[End, Wire | None]
"""Where a wire leads from a place, or what a cavity meets, without a wire."""


class _Work:
    def __init__(self, network: Network) -> None:
        self.network, job = network, network.job
        self.job = job
        self.at: dict[End, list[Edge]] = defaultdict(list)
        self.left_out: list[str] = []
        loose = 0
        self.loose: list[End] = []
        for wire in job.wires:
            if not any(end.at for end in wire.ends):
                self.left_out.append(wire.code)
                continue
            ends = []
            for end in wire.ends:
                if not end.at:
                    loose += 1
                    end = End("", f"loose {loose}")
                    self.loose.append(end)
                ends.append(end)
            self.at[ends[0]].append((ends[1], wire))
            self.at[ends[1]].append((ends[0], wire))
        self.mated: set[End] = set()
        for pair in sorted({tuple(sorted(pair, key=_order)) for pair in network.touching}, key=str):
            a, b = pair
            if a in self.at and b in self.at:
                self.at[a].append((b, None))
                self.at[b].append((a, None))
                self.mated |= {a, b}
        self.of_part: dict[str, list[End]] = defaultdict(list)
        for end in sorted(self.at, key=_order):
            self.of_part[end.at].append(end)
        self.lines: list[Line] = []
        self.line_of: dict[End, int] = {}
        self.implicit: dict[frozenset[End], int] = {}
        self.along: dict[End, tuple[Item, ...]] = {}
        self.used: set[str] = set()
        self.pieces: list[Piece] = []

    def done(self) -> Pieces:
        """Return what was found."""
        stubs = list(self._stubs())
        pins = Counter(end for stub in stubs for end in stub.ends)
        # What is a line of its own: a place of several wires, and all that only joins.
        for end in sorted(self.at, key=_order):
            part = self.network.parts.get(end.at) if end.at else None
            joins = isinstance(part, Splice | EarthPoint) or self._is_stud(part)
            many = len(self.at[end]) > (1 if pins[end] else 2)
            if joins:
                self._add_line(end, part)
            elif many or pins[end] > 1:
                self.line_of[end] = _OPEN
        self._add_rows()
        for stub in stubs:
            hangs = tuple(
                self._hang(end, label) for end, label in zip(stub.ends, stub.labels, strict=True)
            )
            self.pieces.append(
                Piece(stub.key, stub.code, stub.form, hangs, stub.name, stub.under, stub.unit)
            )
        self._between()
        return Pieces(tuple(self.pieces), tuple(self.lines), tuple(self.left_out))

    def _is_stud(self, part: object) -> bool:
        return isinstance(part, Device) and part.kind == "bus bar" and len(part.terminals) < 2

    def _add_line(self, hub: End | None, part: object = None, name: str = "") -> int:
        number = len(self.lines)
        earth = isinstance(part, EarthPoint)
        if hub is not None:
            name = hub.at if earth or isinstance(part, Splice) else str(hub)
            self.line_of[hub] = number
        self.lines.append(Line(number, hub, name, earth))
        return number

    def _add_rows(self) -> None:
        """Make one line of terminals that stand in a row, as fuses on a bar do: each but the first
        has the wire to its neighbour along its own way.
        """
        for first in sorted(self.line_of, key=_order):
            if self.line_of[first] != _OPEN:
                continue
            number = self._add_line(first)
            queue = [first]
            while queue:
                now = queue.pop(0)
                for far, wire in sorted(self.at[now], key=lambda one: _order(one[0])):
                    items, last = self._way(now, far, wire)
                    if self.line_of.get(last) == _OPEN and items:
                        self.line_of[last] = number
                        self.along[last] = tuple(items)
                        self.used.add(_key(items))
                        queue.append(last)

    # pieces

    def _stubs(self) -> Iterator[_Stub]:
        for fuse in sorted(self.job.fuses, key=lambda one: code_order(one.code)):
            ends = End(fuse.code, "in"), End(fuse.code, "out")
            if any(end in self.at for end in ends):
                under = f"{fuse.rating_a:g} A"
                yield _Stub(
                    fuse.code,
                    fuse.code,
                    "fuse",
                    ends,
                    ("", ""),
                    fuse.code,
                    f"{fuse.name} {under}",
                    "",
                )
        plugs = {device.plug for device in self.job.devices if device.plug}
        for device in sorted(self.job.devices, key=lambda one: code_order(one.code)):
            if not self._is_stud(device):
                yield from self._of_device(device)
        for connector in self.job.connectors:
            for end in self.of_part.get(connector.code, ()):
                if connector.code not in plugs and end not in self.mated:
                    yield _Stub(
                        str(end),
                        connector.code,
                        "plug",
                        (end,),
                        ("",),
                        str(end),
                        connector.name,
                        "",
                    )
        for end in self.loose:
            yield _Stub(end.cavity, "", "loose", (end,), ("",), "loose end", "", "")

    def _of_device(self, device: Device) -> Iterator[_Stub]:
        kind, code = kind_of(device), device.code
        pairs: list[tuple[str, str]] = []
        if device.kind == "relay":
            coil = tuple(self._end(device, name) for name in ("86", "85"))
            if any(end in self.at for end in coil):
                yield _Stub(f"{code} coil", code, "coil", coil, ("86", "85"), code, device.name, "")
            pairs = list(kind.contacts(device))
        elif device.kind in ("switch", "isolator"):
            pairs = list(all_joins(device))
        for a, b in pairs:
            ends = self._end(device, a), self._end(device, b)
            if any(end in self.at for end in ends):
                key = f"{code} {a}-{b}"
                yield _Stub(key, code, "contact", ends, (a, b), code, device.name, "")
        if pairs:
            used = {name for pair in pairs for name in pair} | {"86", "85"}
            names = [name for name in self._names(device) if name not in used]
            yield from self._pins(device, names)
            return
        names = [name for name in self._names(device) if self._end(device, name) in self.at]
        body = ["case"] if device.case and "31" not in device.terminals else []
        if len(names) + len(body) == 2 and not kind.is_computer:
            both = [*names, *body]
            ends = self._end(device, both[0]), self._end(device, both[1])
            form = _FORMS.get(device.kind, "box")
            yield _Stub(code, code, form, ends, (both[0], both[1]), code, device.name, "")
        elif names:
            yield from self._pins(device, [*names, *body])

    def _names(self, device: Device) -> list[str]:
        """Return its terminals, and every cavity of its plug that has a wire."""
        cavities = self.of_part.get(device.plug, []) if device.plug else []
        return list(dict.fromkeys((*terminals_named(device), *(end.cavity for end in cavities))))

    def _pins(self, device: Device, names: list[str]) -> Iterator[_Stub]:
        alone = kind_of(device).is_computer
        for name in names:
            end = self._end(device, name)
            if end in self.at:
                key = f"{device.code}/{name}"
                unit = "" if alone else device.code
                yield _Stub(
                    key, device.code, "pin", (end,), (name,), device.code, device.name, unit
                )

    def _end(self, device: Device, name: str) -> End:
        if name == "case":
            # Each body has a foot of its own on the metal.
            foot = End(device.code, "case")
            if foot not in self.at and device.case:
                self.at[foot].append((End(device.case, ""), None))
                self.at[End(device.case, "")].append((foot, None))
            return foot
        own = End(device.code, name)
        return End(device.plug, name) if device.plug and own not in self.at else own

    # ends and lines

    def _hang(self, end: End, label: str) -> Hang:
        """Follow an end to its line."""
        if end in self.line_of:
            return Hang(end, self.line_of[end], self.along.pop(end, ()), label)
        items, far = self._follow(end)
        if far in self.line_of:
            return Hang(end, self.line_of[far], items, label)
        # Another end, with nothing in between: both hang on a line without a name.
        key = frozenset((end, far))
        if key not in self.implicit:
            wires = [one.ref for one in items if one.sort == "wire"]
            self.implicit[key] = self._add_line(None, name=" ".join(wires[:1]))
            return Hang(end, self.implicit[key], (), label)
        return Hang(end, self.implicit[key], items, label)

    def _follow(self, end: End) -> tuple[tuple[Item, ...], End]:
        """Return what is along the way from a place to a line or to another end."""
        items: list[Item] = []
        before, now = None, end
        while now == end or (now not in self.line_of and len(self.at[now]) == 2):
            steps = [step for step in self.at.get(now, []) if step != before]
            if not steps:
                break
            far, wire = steps[0]
            items.append(self._item(now, far, wire))
            before, now = (now, wire), far
        return tuple(one for one in items if one.words), now

    def _item(self, near: End, far: End, wire: Wire | None) -> Item:
        if wire is None:
            both = (near, far)
            meets = all(isinstance(self.network.parts.get(end.at), Connector) for end in both)
            return Item("mated", str(near), f"{near} · {far}" if meets else "")
        colour = str(wire.colour) if wire.colour else ""
        size = (
            "" if wire.size is None else str(wire.size).replace(" mm²", "").replace(" AWG", " awg")
        )
        words = " ".join(filter(None, (wire.code, colour, size)))
        return Item("wire", wire.code, words, wire.colour.base if wire.colour else "")

    def _between(self) -> None:
        """Add the wires that go from one line to another."""
        seen = set(self.used)
        for hub in sorted(self.line_of, key=_order):
            for far, wire in self.at[hub]:
                items, last = self._way(hub, far, wire)
                key = _key(items) or " ".join(sorted(map(str, (hub, last))))
                if last not in self.line_of or key in seen:
                    continue
                seen.add(key)
                ends = (
                    Hang(hub, self.line_of[hub]),
                    Hang(last, self.line_of[last], tuple(items)),
                )
                code = next((one.ref for one in items if one.sort == "wire"), hub.at)
                self.pieces.append(Piece(f"{key} way", code, "wire", ends))

    def _way(self, hub: End, far: End, wire: Wire | None) -> tuple[list[Item], End]:
        """Follow a wire from a line to another, or to an end."""
        items, before, now = [self._item(hub, far, wire)], (hub, wire), far
        while now not in self.line_of and len(self.at[now]) == 2:
            step = next(one for one in self.at[now] if one != before)
            items.append(self._item(now, *step))
            before, now = (now, step[1]), step[0]
        return [one for one in items[::-1] if one.words], now


_OPEN = -1
"""The line of a terminal with several wires, before it has one."""


def _key(items: Iterable[Item]) -> str:
    """Return by what a way is the same from either end."""
    return " ".join(sorted(one.ref for one in items if one.sort == "wire"))


def _order(end: End) -> tuple[object, ...]:
    return (*code_order(end.at), end.cavity)


_FORMS: dict[str, Form] = {
    "battery": "battery",
    "lamp": "lamp",
    "warning lamp": "lamp",
    "LED": "led",
    "diode": "diode",
    "resistor": "resistor",
    "motor": "motor",
    "starter": "motor",
}
