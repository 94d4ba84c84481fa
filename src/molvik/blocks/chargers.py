"""What charges: laid in one of six arrangements, or changed from any of them to any other.

What is there stays where the new arrangement has a use for it: the lamp and its feed, the cable,
the wires to a regulator. What hung on the old regulator goes on working. Terminals are those of
DIN 72552. Figures are common practice, from memory.
"""

from collections.abc import Callable, Iterable
from functools import partial
from typing import NamedTuple

from msgspec.structs import replace

from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.kinds.alternator import FIELD, Alternator, alternators
from molvik.devices.states import RUN
from molvik.electrical.elements import SolveError
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.parts import LOOSE, Device, End, Fuse, Output, Wire, WireSize
from molvik.netlist.network import Network
from molvik.parsing.quantities import read_current_a

ARRANGEMENTS = (
    "lamp",
    "resistor",
    "lamp and sense wire",
    "engine computer",
    "regulator beside it",
    "dynamo",
)
"""How what charges is begun and regulated."""

USUAL_A = {"regulator beside it": 55.0, "dynamo": 22.0}
"""What is laid where no rating is typed, A at 12 V; else ALTERNATOR_A."""

ALTERNATOR_A, MOST_A = 90.0, 400.0

LAMP_OHM, RESISTOR_OHM = 60.0, 100.0
"""A charge lamp of 2.4 W, and what excites in its place, at 12 V."""

SENSE_A, FIELD_A, EARTH_A = 0.05, 3.0, 0.3

ON_LAMP_A = 0.5
"""More than this is not drawn from the lamp terminal of an alternator with a regulator inside."""

CABLE = WireSize("metric", 35)
"""To begin with: it is made to pass afterwards."""

DIODE_KINDS = ("diode", "resistor")
LAMP_KINDS = ("warning lamp", "LED", "lamp")

Drop = Callable[[str], None]
"""Takes a wire out, by its code, or caps it."""


class Place(NamedTuple):
    """Where what charges is, and the regulator beside it, None for none."""

    maker: Device
    regulator: Device | None

    @property
    def is_dynamo(self) -> bool:
        """It gives its current at D+."""
        return self.maker.kind == "dynamo"

    @property
    def output(self) -> End:
        """Where its current comes out, towards the battery."""
        if self.is_dynamo and self.regulator is not None:
            return End(self.regulator.code, "B+")
        return End(self.maker.code, kind_of(self.maker).source(""))

    @property
    def lamps(self) -> tuple[End, ...]:
        """Where its charge lamp may hang."""
        names = ("L", "61", "D+")
        if self.regulator is not None:
            there = [name for name in names[1:] if name in self.regulator.terminals]
            return tuple(End(self.regulator.code, name) for name in there)
        return tuple(End(self.maker.code, name) for name in names if not self.is_dynamo)


def rating_a(typed: str, by: str, system_v: float) -> float:
    """Return a typed rating, A, or the usual one of an arrangement. Raises EditError and
    ValueError for what is none.
    """
    if not typed.strip():
        return USUAL_A.get(by, ALTERNATOR_A) * min(1.0, system_v / 12)
    amps = read_current_a(typed)
    if not 0 < amps <= MOST_A:
        raise EditError(f"What charges gives above zero and up to {MOST_A:g} A.")
    return amps


# Laid anew.


def lay_charger(lay: CircuitBuilder, by: str, amps: float) -> None:
    """Lay what charges, where there is none yet. Raises EditError."""
    made = _machine(lay, by, amps)
    place = Place(made, _regulator(lay, by))
    fuse = lay.fuse("Charging", amps, "bolt-down")
    battery, output = lay.charged_at(), str(place.output)
    lay.wire(battery, f"{fuse}/in", "Battery to charging fuse", "RD", amps, 0.3, "charging", CABLE)
    name = f"{made.name} output"
    lay.wire(f"{fuse}/out", output, name, "RD", amps, 1.0, "charging", CABLE)
    _beside(lay, place, by, amps)
    _excited(lay, place, by)


def _machine(lay: CircuitBuilder, by: str, amps: float) -> Device:
    dynamo = by == "dynamo"
    code = lay.device(
        _name(by),
        "dynamo" if dynamo else "alternator",
        _terminals(by),
        case=lay.earth(),
        values=(("most A", amps),),
    )
    return _device(lay, code)


def _name(by: str) -> str:
    return "Dynamo" if by == "dynamo" else "Alternator"


def _terminals(by: str) -> tuple[str, ...]:
    return {
        "dynamo": ("D+", FIELD),
        "regulator beside it": ("B+", "D+", FIELD),
        "lamp and sense wire": ("B+", "L", "S"),
        "engine computer": ("B+", "L", "D+"),
    }.get(by, ("B+", "L"))


def _regulator(lay: CircuitBuilder, by: str) -> Device | None:
    """Lay the regulator of an arrangement that has one."""
    if by not in ("dynamo", "regulator beside it"):
        return None
    return _device(lay, lay.device("Regulator", "regulator", _regulator_terminals(by)))


def _regulator_terminals(by: str) -> tuple[str, ...]:
    return ("D+", FIELD, "B+", "61", "31") if by == "dynamo" else ("D+", FIELD, "31")


def _beside(lay: CircuitBuilder, place: Place, by: str, amps: float) -> None:
    """Wire a regulator to its machine and to earth, with the wires that are not there yet."""
    if place.regulator is None:
        return
    maker, regulator = place.maker.code, place.regulator.code
    if not _joined(lay, End(maker, "D+"), End(regulator, "D+")):
        heavy = (amps, 1.0, "charging") if place.is_dynamo else (FIELD_A, 1.0)
        name = "Dynamo to regulator" if place.is_dynamo else "Regulator feed"
        lay.wire(f"{maker}/D+", f"{regulator}/D+", name, "BN" if place.is_dynamo else "BU", *heavy)
    if not _joined(lay, End(maker, FIELD), End(regulator, FIELD)):
        lay.wire(f"{regulator}/{FIELD}", f"{maker}/{FIELD}", "Field", "BU/BK", FIELD_A)
    if not _at(lay, End(regulator, "31")):
        lay.wire(f"{regulator}/31", lay.earth(), "Regulator earth", "BK", EARTH_A, 0.4)


def _excited(lay: CircuitBuilder, place: Place, by: str) -> None:
    """Give it what excites it, and a lamp that says whether it charges. Raises EditError."""
    end = place.lamps[0]
    if by == "engine computer":
        _by_computer(lay, place)
    elif by == "resistor":
        if not any("resistor" in _chain(lay, one).kinds for one in _outer(lay, place, place.lamps)):
            _by_resistor(lay, str(end))
    elif not _outer(lay, place, place.lamps):
        _by_lamp(lay, str(end))
    if by == "lamp and sense wire":
        _sensed(lay, place.maker.code)


def _by_lamp(lay: CircuitBuilder, end: str) -> None:
    """The diode ends running on through the lamp."""
    ohm = LAMP_OHM * _share(lay)
    lamp = lay.device("Charge lamp", "warning lamp", ("1", "2"), values=(("ohm", ohm),))
    diode = lay.diode("Charge lamp diode")
    lay.wire(lay.key(), f"{lamp}/1", "Charge lamp feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{lamp}/2", diode[0], "Charge lamp", "BU", 0.2, 0.3)
    lay.wire(diode[1], end, "Charge lamp to alternator", "BU", 0.2, 1.5)


def _by_resistor(lay: CircuitBuilder, end: str) -> None:
    ohm = RESISTOR_OHM * _share(lay)
    resistor = lay.device("Excitation resistor", "resistor", ("1", "2"), values=(("ohm", ohm),))
    diode = lay.diode("Excitation diode")
    lay.wire(lay.key(), f"{resistor}/1", "Excitation feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{resistor}/2", diode[0], "Excitation", "BU/WH", 0.2, 0.3)
    lay.wire(diode[1], end, "Excitation to alternator", "BU/WH", 0.2, 1.5)


def excite_by_resistor(lay: CircuitBuilder) -> None:
    """Lay a resistor that excites what charges already, beside its lamp or without one."""
    _by_resistor(lay, str(_place(lay).lamps[0]))


def _share(lay: CircuitBuilder) -> float:
    return (lay.job.settings.system_v / 12) ** 2  # of the same power


def _sensed(lay: CircuitBuilder, maker: str) -> None:
    fuse = lay.fuse("Sense", 2)
    lay.feed(fuse)
    lay.wire(f"{fuse}/out", f"{maker}/S", "Sense", "RD/WH", SENSE_A, 1.2, "sensor")


def _by_computer(lay: CircuitBuilder, place: Place) -> None:
    """The computer excites it while the engine turns, is told that it charges, and has the lamp.

    Raises EditError.
    """
    computer = lay.computer()
    if computer is None:
        raise EditError("There is no engine computer in the job: lay one as a block first.")
    maker, code = place.maker.code, computer.code
    held = _at(lay, End(maker, "L"))
    told = lay.pin(code, "CHG")
    feeds = lay.pin(code, "ALT", Output("", "feeds high", "turning"))
    diode = lay.diode("Excitation diode")
    lay.wire(feeds, diode[0], "Excitation", "BU/WH", 0.5, 0.3)
    lay.wire(diode[1], f"{maker}/L", "Excitation to alternator", "BU/WH", 0.5, 1.2)
    lay.wire(f"{maker}/D+", told, "Alternator charges", "BU/YE", 0.02, 1.2, "sensor")
    pin = lay.pin(code, "LMP", Output("", "pulls low", "input low", End.of(told).cavity))
    for wire in held:
        _end_at(lay, wire, End(maker, "L"), End.of(pin))
    if held:
        return
    lamp = lay.device(
        "Charge lamp", "warning lamp", ("1", "2"), values=(("ohm", LAMP_OHM * _share(lay)),)
    )
    lay.wire(lay.key(), f"{lamp}/1", "Charge lamp feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{lamp}/2", pin, "Charge lamp", "BU", 0.2, 1.2)


# Changed.


def change_charger(lay: CircuitBuilder, by: str, amps: float, *, capped: bool = False) -> None:
    """Put another machine and arrangement in the place of what charges. capped: wires that nothing
    needs any more are cut back, capped and tied, not taken out. Raises EditError.
    """
    was = _place(lay)
    if was.maker.plug:
        raise EditError(
            f"The terminals of {was.maker.name} are cavities of {was.maker.plug}, which the new "
            "one does not have: take the plug off it first, in its field “Plug”."
        )
    drop = partial(_drop, lay, capped=capped)
    _no_computer(lay, was, drop)
    _no_sense(lay, was.maker, drop)
    if by != "resistor":
        _no_resistor(lay, was)
    loads = _hung(lay, was)
    output, lamps = _outer(lay, was, (was.output,)), _outer(lay, was, was.lamps)
    beside = _between(lay, was)
    lay.change(
        was.maker.code,
        name=_name(by),
        kind="dynamo" if by == "dynamo" else "alternator",
        values=(("most A", amps),),
        curve=(),
        terminals=tuple(dict.fromkeys((*_terminals(by), *was.maker.terminals))),
    )
    regulator = _new_regulator(lay, was, by)
    if regulator is not None:
        regulator = replace(regulator, terminals=_regulator_terminals(by))
    now = Place(replace(_device(lay, was.maker.code), terminals=_terminals(by)), regulator)
    if was.regulator is not None and regulator is None:
        _without_regulator(lay, was, now, Meeting(output, lamps, beside), drop)
    else:
        _kept_beside(was, now, beside, drop)
        _all_at(lay, output, now.output)
        _all_at(lay, lamps, now.lamps[0])
    lay.change(was.maker.code, terminals=_terminals(by))
    if regulator is not None:
        lay.change(regulator.code, terminals=_regulator_terminals(by))
    _beside(lay, now, by, amps)
    _excited(lay, now, by)
    _hang(lay, loads, now)
    _fused(lay, now, amps)
    _enough(lay, now)


def _place(lay: CircuitBuilder) -> Place:
    found = alternators(lay.job.devices)
    if not found:
        raise EditError("There is nothing that charges yet: lay “Charging” first.")
    maker, _ = found[0]
    regulator = lay.first("regulator") if FIELD in maker.terminals else None
    return Place(maker, regulator)


def _device(lay: CircuitBuilder, code: str) -> Device:
    found = lay.job.part(code)
    assert isinstance(found, Device)
    return found


def _at(lay: CircuitBuilder, end: End) -> list[Wire]:
    """Return the wires that end at a place."""
    return [wire for wire in lay.job.wires if end in wire.ends]


def _joined(lay: CircuitBuilder, one: End, other: End) -> bool:
    net_of = Network(lay.job).net_of
    return one in net_of and net_of.get(one) == net_of.get(other)


class Held(NamedTuple):
    """A wire that ends at a place."""

    wire: Wire
    end: End


def _outer(lay: CircuitBuilder, was: Place, ends: tuple[End, ...]) -> list[Held]:
    """Return the wires at some places that do not go from the machine to its regulator."""
    own = {was.maker.code, was.regulator.code if was.regulator else ""}
    return [
        Held(wire, end)
        for end in ends
        for wire in _at(lay, end)
        if not {one.at for one in wire.ends} <= own
    ]


def _between(lay: CircuitBuilder, was: Place) -> list[Wire]:
    """Return the wires from a machine to its regulator."""
    if was.regulator is None:
        return []
    own = {was.maker.code, was.regulator.code}
    return [wire for wire in lay.job.wires if {end.at for end in wire.ends} == own]


def _end_at(lay: CircuitBuilder, wire: Wire, old: End, new: End) -> None:
    """Put the end of a wire somewhere else."""
    side = "start" if wire.start == old else "finish"
    lay.job = edits.change_wire(lay.job, wire.code, **{side: new})


def _all_at(lay: CircuitBuilder, held: list[Held], to: End) -> None:
    for one in held:
        if one.end != to:
            _end_at(lay, one.wire, one.end, to)


def _new_regulator(lay: CircuitBuilder, was: Place, by: str) -> Device | None:
    """Return the regulator of the new arrangement: another in the place of the old, or a new one.

    It has the old one's terminals too until the wires have moved.
    """
    if by not in ("dynamo", "regulator beside it"):
        return None
    if was.regulator is None:
        return _regulator(lay, by)
    terminals = dict.fromkeys((*_regulator_terminals(by), *was.regulator.terminals))
    lay.change(was.regulator.code, terminals=tuple(terminals))
    return _device(lay, was.regulator.code)


def _kept_beside(was: Place, now: Place, beside: list[Wire], drop: Drop) -> None:
    """Of the wires between machine and regulator the feed of D+ goes where its size is another."""
    if was.regulator is None or was.is_dynamo == now.is_dynamo:
        return
    for wire in beside:
        if all(end.cavity == "D+" for end in wire.ends):
            drop(wire.code)


class Meeting(NamedTuple):
    """What meets at a regulator. output, lamps: wires from the battery and from the lamp; beside:
    those to its machine.
    """

    output: list[Held]
    lamps: list[Held]
    beside: list[Wire]


def _without_regulator(
    lay: CircuitBuilder, was: Place, now: Place, met: Meeting, drop: Drop
) -> None:
    """The regulator goes: what met there is joined there, and reaches the machine by the wires that
    are there already.
    """
    assert was.regulator is not None
    code = was.regulator.code
    feed, field = (
        next((w for w in met.beside if all(e.cavity == name for e in w.ends)), None)
        for name in ("D+", FIELD)
    )
    if was.is_dynamo:
        stud = lay.device("Stud where the regulator was", "bus bar", ("M6",))
        _all_at(lay, met.output, End(stud, "M6"))
        if feed is not None:
            _rejoin(lay, feed, was, (End(stud, "M6"), now.output), "Alternator output")
        else:
            lay.wire(f"{stud}/M6", str(now.output), "Alternator output", "RD", 20, 1.0, "charging")
        feed = field
    if met.lamps:
        splice = End(lay.splice("Charge lamp, where the regulator was"))
        _all_at(lay, met.lamps, splice)
        if feed is not None:
            _rejoin(lay, feed, was, (splice, now.lamps[0]), "Charge lamp to alternator")
        else:
            lamp = "Charge lamp to alternator"
            lay.wire(str(splice), str(now.lamps[0]), lamp, "BU", FIELD_A, 1.5)
    # Its earth, a second feed, the field: what still ends there is of no use.
    for wire in [one for one in lay.job.wires if code in {end.at for end in one.ends}]:
        drop(wire.code)
    lay.remove(code)


def _rejoin(
    lay: CircuitBuilder, wire: Wire, was: Place, ends: tuple[End, End], function: str
) -> None:
    """Put both ends of a wire from the machine to the old regulator at others, there and at the
    machine; it serves something else from now on.
    """
    there, machine = ends
    assert was.regulator is not None
    start_is_machine = wire.start.at == was.maker.code
    start, finish = (machine, there) if start_is_machine else (there, machine)
    fields = {"start": start, "finish": finish, "function": function}
    lay.job = edits.change_wire(lay.job, wire.code, **fields)


# What else hangs on it.


def _drop(lay: CircuitBuilder, code: str, *, capped: bool) -> None:
    """Take a wire out, or cut it back at both ends, cap it and tie it."""
    if not capped:
        lay.remove(code)
        return
    lay.job = edits.change_wire(
        lay.job, code, start=LOOSE, finish=LOOSE, stowed=True, note="capped: nothing needs it"
    )


def _no_resistor(lay: CircuitBuilder, was: Place) -> None:
    """A resistor that excited in place of a lamp goes, with its diode and its wires."""
    for held in _outer(lay, was, was.lamps):
        chain = _chain(lay, held)
        if "resistor" in chain.kinds and not chain.kinds & set(LAMP_KINDS):
            _take_out(lay, chain.codes)


class Chain(NamedTuple):
    """What is in a row from a place on: wires and devices by code, the kinds of those devices, and
    where it ends.
    """

    codes: tuple[str, ...]
    kinds: frozenset[str]
    end: End


def _chain(lay: CircuitBuilder, held: Held) -> Chain:
    """Follow a wire from a place on through diodes, resistors and lamps."""
    codes, kinds, (wire, end) = list[str](), set[str](), held
    while True:
        codes.append(wire.code)
        far = next((one for one in wire.ends if one != end), end)
        device = lay.job.part(far.at)
        in_row = (*DIODE_KINDS, *LAMP_KINDS)
        if not isinstance(device, Device) or device.kind not in in_row:
            break
        codes.append(device.code)
        kinds.add(device.kind)
        others = [End(device.code, name) for name in device.terminals if name != far.cavity]
        beyond = [(one, end) for end in others for one in _at(lay, end)]
        if len(beyond) != 1 or beyond[0][0].code in codes:
            break
        wire, end = beyond[0]
    return Chain(tuple(codes), frozenset(kinds), far)


def _take_out(lay: CircuitBuilder, codes: Iterable[str]) -> None:
    """Take wires out, then what they went to."""
    for code in sorted(codes, key=lambda one: not one.startswith("W")):
        lay.remove(code)


def _no_computer(lay: CircuitBuilder, was: Place, drop: Drop) -> None:
    """A computer that excited it lets go: its lamp comes back to the machine."""
    lamp = End(was.maker.code, "L")
    for at in (End(was.maker.code, "D+"), lamp):
        for wire in _at(lay, at):
            chain = _chain(lay, Held(wire, at))
            computer = _computer_at(lay, chain.end)
            if computer is None:
                continue
            drop(wire.code)
            _take_out(lay, chain.codes[1:])
            pins = {one.terminal for one in computer.outputs if one.input == chain.end.cavity}
            for one in pins:
                pin = End(chain.end.at, one)
                for held in _at(lay, pin):
                    _end_at(lay, held, pin, lamp)
                    _with_diode(lay, held.code, lamp)
            gone = pins | {chain.end.cavity}
            outputs = tuple(one for one in computer.outputs if one.terminal not in gone)
            terminals = tuple(one for one in computer.terminals if one not in gone)
            lay.change(computer.code, outputs=outputs, terminals=terminals)


def _with_diode(lay: CircuitBuilder, code: str, lamp: End) -> None:
    """Give a lamp that a computer pulled low the diode that ends running on, now that it hangs on
    the machine.
    """
    wire = next(one for one in lay.job.wires if one.code == code)
    if "diode" in _chain(lay, Held(wire, lamp)).kinds:
        return
    diode = lay.diode("Charge lamp diode")
    _end_at(lay, wire, lamp, End.of(diode[0]))
    lay.wire(diode[1], str(lamp), "Charge lamp to alternator", "BU", 0.2, 0.3)


def _computer_at(lay: CircuitBuilder, pin: End) -> Device | None:
    for device in lay.job.devices:
        if kind_of(device).is_computer and pin.at in (device.code, device.plug):
            return device
    return None


def _no_sense(lay: CircuitBuilder, maker: Device, drop: Drop) -> None:
    """The sense wire goes, and its fuse where that feeds nothing else."""
    end = End(maker.code, "S")
    for wire in _at(lay, end):
        far = next((one for one in wire.ends if one != end), end)
        drop(wire.code)
        fuse = lay.job.part(far.at)
        if isinstance(fuse, Fuse) and not _at(lay, far):
            for feed in _at(lay, End(fuse.code, "in" if far.cavity == "out" else "out")):
                lay.remove(feed.code)
            lay.remove(fuse.code)


class Hung(NamedTuple):
    """What is fed from the lamp's side of a machine: a wire, and the load's end of it."""

    wire: Wire
    load: End
    name: str
    amps: float


def _hung(lay: CircuitBuilder, was: Place) -> list[Hung]:
    """Return what lives on the regulator, or on the lamp terminal, and draws a current to earth: a
    choke, a relay, an hour meter.
    """
    found = []
    nominal = lay.job.settings.system_v
    for held in _outer(lay, was, was.lamps):
        far = next((one for one in held.wire.ends if one != held.end), held.end)
        device = lay.job.part(far.at)
        if not isinstance(device, Device) or device.kind in (*LAMP_KINDS, *DIODE_KINDS):
            continue
        kind = kind_of(device)
        if kind.is_computer or kind.is_supply or kind.regulates or kind.alters:
            continue
        other = [name for name in device.terminals if name != far.cavity]
        grounded = device.case or any(
            _joined(lay, End(device.code, name), End.of(lay.earth())) for name in other
        )
        if grounded:
            own = dict(device.values)
            amps = own.get("A") or nominal / own["ohm"] if own.keys() & {"A", "ohm"} else 1.0
            found.append(Hung(held.wire, far, device.name, amps))
    return found


def _hang(lay: CircuitBuilder, loads: list[Hung], now: Place) -> None:
    """What draws more than a lamp terminal gives gets a fuse, and a relay that the machine pulls in
    when it charges.
    """
    if now.regulator is not None:
        return  # three diodes of their own feed D+, as they did
    for load in loads:
        if load.amps <= ON_LAMP_A:
            continue
        wire = next(one for one in lay.job.wires if one.code == load.wire.code)
        near = next(one for one in wire.ends if one != load.load)
        relay, fuse = lay.relay(f"{load.name} relay"), lay.fuse(load.name, load.amps)
        _end_at(lay, wire, near, End(relay, "87"))
        lay.feed(fuse)
        lay.wire(f"{fuse}/out", f"{relay}/30", f"{load.name} relay feed", "RD", load.amps, 0.4)
        lay.wire(str(near), f"{relay}/86", f"{load.name} relay coil", "BU", 0.2, 0.4)
        lay.wire(f"{relay}/85", lay.earth(), f"{load.name} relay earth", "BK", 0.2, 0.6)


def _fused(lay: CircuitBuilder, now: Place, amps: float) -> None:
    """Put a fuse at the battery's end of a cable that has none."""
    network = Network(lay.job)
    batteries = network.batteries
    live = batteries.live_end(batteries.highest[0])
    net_of = network.net_of
    if now.output not in net_of or net_of[now.output] != net_of.get(live):
        return
    held = _at(lay, now.output)
    if not held:
        return
    wire = next((one for one in held if live in one.ends), held[0])
    far = next(one for one in wire.ends if one != now.output)
    fuse = lay.fuse("Charging", amps, "bolt-down")
    _end_at(lay, wire, far, End(fuse, "out"))
    lay.wire(str(far), f"{fuse}/in", "Battery to charging fuse", "RD", amps, 0.3, "charging", CABLE)


def _enough(lay: CircuitBuilder, now: Place) -> None:
    """Lay a resistor beside a lamp that does not excite it, as a light-emitting diode."""
    kind = kind_of(now.maker)
    assert isinstance(kind, Alternator)
    if now.is_dynamo or {"L", "D+"} <= set(now.maker.terminals):
        return
    try:
        point = OperatingPoint(Network(lay.job), RUN)
    except SolveError:
        return
    if not kind.is_excited(now.maker, point.solution):
        _by_resistor(lay, str(now.lamps[0]))
