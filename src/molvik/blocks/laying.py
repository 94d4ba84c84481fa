"""Laying a circuit into a job: parts and wires by name, with sizes and fuses chosen."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from molvik.blocks.settling import settled
from molvik.devices.kind import terminals_named
from molvik.devices.states import is_key
from molvik.electrical.fusing import smallest_carrying_a
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.parts import (
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Output,
    Splice,
    Wire,
    WireSize,
)
from molvik.netlist.ends import read_end
from molvik.netlist.network import Network
from molvik.sizes.sizing_case import sizing_case
from molvik.sizes.wire import smallest

LEAST_MM2 = 0.75
"""Thinnest wire that is laid for anything but a signal, mm2 (our choice)."""

TIMER_TERMINALS = 4
"""A controller with no more is a timer or a relay with a mind of its own (our choice)."""

MAIN_A = 80.0
BAR_M = 0.1
INSULATION = "C125"


class CircuitBuilder:
    """A job to which a circuit is being added. Ends are written "F3/in"; codes are returned."""

    def __init__(self, job: Job, earth: str = "", supply: str = "", key: str = "") -> None:
        self.job = self._before = job
        self._new: list[str] = []
        self._amps: dict[str, float] = {}
        self._earth, self._supply, self._key = earth, supply, key
        self.live, self.earthed = job.settings.live_pole, job.settings.earthed_pole

    # parts

    def _add(self, part: Any) -> str:
        before = {part.code for part in self.job.parts()}
        self.job = edits.add(self.job, part)
        return next(part.code for part in self.job.parts() if part.code not in before)

    def fuse(self, name: str, amps: float, kind: Any = "blade") -> str:
        """Add the smallest fuse that carries a load for hours. Raises EditError."""
        rating = smallest_carrying_a(amps, kind)
        if rating is None:
            raise EditError(f"No {kind} fuse carries {amps:g} A. Share {name} out over two.")
        return self._add(Fuse("", name, rating, kind))

    def relay(self, name: str) -> str:
        """Add a relay that makes, with a resistor across its coil."""
        return self.device(
            name, "relay", ("30", "87", "86", "85"), joins=(("30", "87"),), suppression="resistor"
        )

    def device(self, name: str, kind: Any, terminals: tuple[str, ...] = (), **fields: Any) -> str:
        """Add a device. terminals: its live one and its earthed one without them. Raises EditError
        for an engine computer where plus is at metal.
        """
        if kind == "controller" and self.live != "+":
            raise EditError(
                f"{name} needs minus at metal, and this vehicle has plus there: turn the "
                "vehicle's poles round first, in the job's settings and at its battery."
            )
        return self._add(Device("", name, kind, terminals or (self.live, self.earthed), **fields))

    def diode(self, name: str) -> tuple[str, str]:
        """Add a diode; return the end a feed goes in at, and the one it comes out of."""
        code = self.device(name, "diode", ("A", "K"))
        ends = f"{code}/A", f"{code}/K"
        return ends if self.live == "+" else ends[::-1]

    def change(self, code: str, **fields: Any) -> None:
        """Change fields of a part. Raises EditError."""
        self.job = edits.change_part(self.job, code, **fields)

    def remove(self, code: str) -> None:
        """Take a part or a wire out, where it is there still. Raises EditError."""
        if any(wire.code == code for wire in self.job.wires):
            self.job = edits.remove_wires(self.job, frozenset([code]))
            self._new = [one for one in self._new if one != code]
        elif self.job.part(code) is not None:
            self.job = edits.remove_part(self.job, code)

    def splice(self, name: str) -> str:
        """Add a splice."""
        return self._add(Splice("", name))

    def first(self, kind: str) -> Device | None:
        """Return the first device of a kind that is there already."""
        return next((device for device in self.job.devices if device.kind == kind), None)

    def computer(self) -> Device | None:
        """Return the engine computer: the controller with the most terminals, or with a plug; a
        timer with a handful of them is none.
        """
        found = [
            one
            for one in self.job.devices
            if one.kind == "controller"
            and (one.needed or one.plug or len(terminals_named(one)) > TIMER_TERMINALS)
        ]
        return max(found, key=lambda one: (one.needed, len(terminals_named(one))), default=None)

    def connector(self, made: Connector) -> str:
        """Add a connector."""
        return self._add(made)

    # places that every job has, or is given

    def battery(self) -> str:
        """Return where heavy cables are fed: the battery's live pole, or behind its isolator."""
        battery, isolator = self.first("battery"), self.first("isolator")
        if battery is None:
            code = self.device("Battery", "battery")
            self.wire(
                f"{code}/{self.earthed}",
                self.earth(),
                "Battery earth",
                "BK",
                180,
                0.5,
                "starter",
                size=WireSize("metric", 50),
            )
            return f"{code}/{self.live}"
        if isolator:
            return f"{isolator.code}/{isolator.terminals[1]}"
        return f"{battery.code}/{self.live}"

    def charged_at(self) -> str:
        """Return where what charges is put: as heavy cables are, but before an isolator of a single
        pair of contacts, which would leave it feeding the engine.
        """
        place, isolator = self.battery(), self.first("isolator")
        if isolator is not None and len(isolator.terminals) == 2:
            battery = self.first("battery")
            return f"{battery.code}/{self.live}" if battery else place
        return place

    def supply(self) -> str:
        """Return the stud fuses are fed from, behind the main fuse."""
        if self._supply:
            return self._given(self._supply)
        bar = next((device for device in self.job.devices if device.kind == "bus bar"), None)
        if bar is not None:
            return f"{bar.code}/{bar.terminals[0]}"
        battery = self.battery()
        main = self._add(Fuse("", "Main fuse", MAIN_A, "bolt-down"))
        stud = self.device("Fuse box stud", "bus bar", ("M8",))
        heavy = WireSize("metric", 16)
        self.wire(battery, f"{main}/in", "Battery to main fuse", "RD", 50, 0.3, size=heavy)
        self.wire(f"{main}/out", f"{stud}/M8", "Main fuse to fuse box", "RD", 50, 0.5, size=heavy)
        return f"{stud}/M8"

    def feed(self, fuse: str) -> None:
        """Feed a fuse from the stud by a bar."""
        self.wire(
            self.supply(),
            f"{fuse}/in",
            "Fuse box bar",
            "RD",
            20,
            BAR_M,
            size=WireSize("metric", 16),
        )

    def earth(self) -> str:
        """Return the earth point."""
        if self._earth:
            return self._given(self._earth)
        if not self.job.earths:
            self._add(EarthPoint("", "Engine block"))
        return self.job.earths[0].code

    def key(self, terminal: str = "15") -> str:
        """Return a contact of the key switch: 15 in run and crank, 50 start, 75 accessory.

        Raises EditError.
        """
        if self._key and terminal == "15":
            return self._given(self._key)
        switch = next((device for device in self.job.devices if is_key(device)), None)
        if switch is None:
            fuse = self.fuse("Key switch", 12)
            self.feed(fuse)
            code = self.device(
                "Key switch",
                "switch",
                ("30", "15", "50", "75"),
                joins=(("30", "15"), ("30", "50"), ("30", "75")),
            )
            self.wire(f"{fuse}/out", f"{code}/30", "Key switch feed", "RD", 10)
            return f"{code}/{terminal}"
        if terminal not in switch.terminals:
            raise EditError(f"{switch.name} ({switch.code}) has no contact {terminal}.")
        return f"{switch.code}/{terminal}"

    def pin(self, computer: str, name: str, output: Output | None = None) -> str:
        """Return a free place of a controller: a new terminal, or a free cavity of its plug."""
        device = self.job.part(computer)
        assert isinstance(device, Device)
        place = name
        if device.plug:
            place = self._free_cavity(device)
        fields: dict[str, Any] = {}
        if not device.plug and place not in device.terminals:
            fields["terminals"] = (*device.terminals, place)
        if output is not None:
            made = Output(place, output.acts, output.when, output.input)
            fields["outputs"] = (*device.outputs, made)
        if fields:
            self.job = edits.change_part(self.job, computer, **fields)
        return f"{device.plug or computer}/{place}"

    def _free_cavity(self, device: Device) -> str:
        plug = self.job.connector(device.plug)
        assert isinstance(plug, Connector)
        used = {end.cavity for wire in self.job.wires for end in wire.ends if end.at == plug.code}
        used |= {pin.cavity for pin in plug.pins if pin.function and "not used" not in pin.function}
        used |= {*device.supplies, *device.earths, *(output.terminal for output in device.outputs)}
        filled = {pin.cavity for pin in plug.pins if pin.fill}
        free = [cavity for cavity in cavities(plug.grid) if cavity not in used]
        if not free:
            raise EditError(f"{plug.name} ({plug.code}) has no free cavity.")
        chosen = min(free, key=lambda one: one in filled)
        if chosen in filled:  # what closes it comes out
            pins = tuple(replace(p, fill="") if p.cavity == chosen else p for p in plug.pins)
            self.job = edits.change_part(self.job, plug.code, pins=pins)
        return chosen

    def place(self, text: str) -> str:
        """Return a place that a question named; wires may be there already. Raises EditError."""
        end = End.of(text.strip())
        part = self.job.part(end.at) if end.at else None
        known = isinstance(part, Device) and end.cavity in part.terminals
        if not known and not isinstance(part, Splice):
            raise EditError(f"There is no place {text.strip() or 'without a name'} in the job.")
        return str(end)

    def _given(self, text: str) -> str:
        """Return a place the user named; it must exist, and a cavity must be empty."""
        end = read_end(text, Network(self.job))
        if not end.at:
            raise EditError("Name a place that is there, not a loose end.")
        part = self.job.part(end.at)
        held = [w.code for w in self.job.wires if end in w.ends]
        if isinstance(part, Connector) and held:
            raise EditError(f"{end} is full: it holds {', '.join(held)}.")
        return str(end)

    # wires

    def wire(
        self,
        start: str,
        finish: str,
        function: str,
        colour: str,
        amps: float,
        length_m: float = 1.0,
        use: str = "",
        size: WireSize | None = None,
        cable: str = "",
        lay_length_mm: float | None = None,
    ) -> str:
        """Add a wire; without a size the smallest that passes is chosen at the end."""
        base, _, tracer = colour.partition("/")
        code = edits.free_code(self.job, Wire)
        ends = (End(*one.split("/", 1)) for one in (start, finish))
        a, b = ends
        made = Wire(
            code,
            a,
            b,
            function,
            "",
            Colour(base, tracer),
            size,
            INSULATION,
            length_m,
            None,
            None,
            use,
            cable=cable,
            lay_length_mm=lay_length_mm,
        )
        self.job = edits.add(self.job, made)
        self._amps[code] = amps
        if size is None:
            self._new.append(code)
        return code

    def move(self, begin: str, end: str, but: str = "") -> bool:
        """Move the wires that end at a place to another; say whether there were any. but: those of
        this use stay.
        """
        at, to = (End(*one.split("/", 1)) for one in (begin, end))
        found = [w for w in self.job.wires if at in w.ends and not (but and w.use == but)]
        for wire in found:
            fields = {"start": to} if wire.start == at else {"finish": to}
            self.job = edits.change_wire(self.job, wire.code, **fields)
        return bool(found)

    def finished(self, stop: Callable[[], bool] = lambda: False) -> Job:
        """Return the job, its new wires sized, what was laid made to pass its own check.

        stop: whether nobody waits for it any more; then it is left as it is. Raises EditError.
        """
        network = Network(self.job)
        wires = {wire.code: wire for wire in self.job.wires}
        for code in self._new:
            wire = replace(wires[code], load_a=self._amps[code])
            size = smallest(sizing_case(network, wire), "metric")
            if size is None:
                raise EditError(f"No standard size passes for {wire.function}.")
            least = 0.5 if wire.use in ("sensor", "screen") else LEAST_MM2
            if size.value < least:
                size = WireSize("metric", least)
            self.job = edits.change_wire(self.job, code, size=size)
        there = {one.code for one in (*self._before.parts(), *self._before.wires)}
        new = {one.code for one in (*self.job.parts(), *self.job.wires)} - there
        return settled(self._before, self.job, new, self._amps, stop)
