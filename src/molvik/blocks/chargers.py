"""What charges: laid in one of six arrangements. Terminals are those of DIN 72552; figures are
common practice, from memory.
"""

from typing import NamedTuple

from molvik.blocks.laying import CircuitBuilder
from molvik.blocks.tracing import Held, are_joined, chain_of, device_at, end_at, run_of, wires_at
from molvik.devices import kind_of
from molvik.devices.kinds.alternator import FIELD, alternators
from molvik.model.edits import EditError
from molvik.model.parts import Device, End, Output, WireSize
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

CABLE = WireSize("metric", 35)
"""To begin with: it is made to pass afterwards."""


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


def lay_charger(lay: CircuitBuilder, by: str, amps: float) -> None:
    """Lay what charges, where there is none yet. Raises EditError."""
    made = _machine(lay, by, amps)
    place = Place(made, lay_regulator(lay, by))
    fuse = lay.fuse("Charging", amps, "bolt-down")
    battery, output = lay.charged_at(), str(place.output)
    lay.wire(battery, f"{fuse}/in", "Battery to charging fuse", "RD", amps, 0.3, "charging", CABLE)
    name = f"{made.name} output"
    lay.wire(f"{fuse}/out", output, name, "RD", amps, 1.0, "charging", CABLE)
    wire_beside(lay, place, by, amps)
    excite(lay, place, by)


def _machine(lay: CircuitBuilder, by: str, amps: float) -> Device:
    dynamo = by == "dynamo"
    code = lay.device(
        name_of(by),
        "dynamo" if dynamo else "alternator",
        terminals_of(by),
        case=lay.earth(),
        values=(("most A", amps),),
    )
    return device_at(lay, code)


def name_of(by: str) -> str:
    """Return what the machine of an arrangement is called."""
    return "Dynamo" if by == "dynamo" else "Alternator"


def terminals_of(by: str) -> tuple[str, ...]:
    """Return the terminals of an arrangement's machine."""
    return {
        "dynamo": ("D+", FIELD),
        "regulator beside it": ("B+", "D+", FIELD),
        "lamp and sense wire": ("B+", "L", "S"),
        "engine computer": ("B+", "L", "D+"),
    }.get(by, ("B+", "L"))


def lay_regulator(lay: CircuitBuilder, by: str) -> Device | None:
    """Lay the regulator of an arrangement that has one."""
    if by not in ("dynamo", "regulator beside it"):
        return None
    return device_at(lay, lay.device("Regulator", "regulator", regulator_terminals(by)))


def regulator_terminals(by: str) -> tuple[str, ...]:
    """Return the terminals of an arrangement's regulator."""
    return ("D+", FIELD, "B+", "61", "31") if by == "dynamo" else ("D+", FIELD, "31")


def wire_beside(lay: CircuitBuilder, place: Place, by: str, amps: float) -> None:
    """Wire a regulator to its machine and to earth, with the wires that are not there yet."""
    if place.regulator is None:
        return
    maker, regulator = place.maker.code, place.regulator.code
    if not are_joined(lay, End(maker, "D+"), End(regulator, "D+")):
        heavy = (amps, 1.0, "charging") if place.is_dynamo else (FIELD_A, 1.0)
        name = "Dynamo to regulator" if place.is_dynamo else "Regulator feed"
        lay.wire(f"{maker}/D+", f"{regulator}/D+", name, "BN" if place.is_dynamo else "BU", *heavy)
    if not are_joined(lay, End(maker, FIELD), End(regulator, FIELD)):
        lay.wire(f"{regulator}/{FIELD}", f"{maker}/{FIELD}", "Field", "BU/BK", FIELD_A)
    if not wires_at(lay, End(regulator, "31")):
        lay.wire(f"{regulator}/31", lay.earth(), "Regulator earth", "BK", EARTH_A, 0.4)


def excite(lay: CircuitBuilder, place: Place, by: str) -> None:
    """Give it what excites it, and a lamp that says whether it charges. Raises EditError."""
    end = place.lamps[0]
    if by == "engine computer":
        _by_computer(lay, place)
    elif by == "resistor":
        held = outer(lay, place, place.lamps)
        if not any("resistor" in chain_of(lay, one).kinds for one in held):
            lay_resistor(lay, str(end))
    elif not outer(lay, place, place.lamps):
        _by_lamp(lay, str(end))
    if by == "lamp and sense wire":
        _sensed(lay, place.maker.code)


KNOWN = frozenset({"B+", "L", "D+", "61", FIELD, "S"})
"""Terminals that arrangements differ in. Others stay whatever comes: W for a tachometer, 31."""


def with_others(terminals: tuple[str, ...], old: tuple[str, ...]) -> tuple[str, ...]:
    """Return terminals with those of an older machine that no arrangement knows of."""
    return tuple(dict.fromkeys((*terminals, *(one for one in old if one not in KNOWN))))


def _by_lamp(lay: CircuitBuilder, end: str) -> None:
    """The diode ends running on through the lamp."""
    ohm = LAMP_OHM * _share(lay)
    lamp = lay.device("Charge lamp", "warning lamp", ("1", "2"), values=(("ohm", ohm),))
    diode = lay.diode("Charge lamp diode")
    lay.wire(lay.key(), f"{lamp}/1", "Charge lamp feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{lamp}/2", diode[0], "Charge lamp", "BU", 0.2, 0.3)
    lay.wire(diode[1], end, "Charge lamp to alternator", "BU", 0.2, 1.5)


def lay_resistor(lay: CircuitBuilder, end: str) -> None:
    """Lay a resistor that excites, with its diode, from the key to a place."""
    ohm = RESISTOR_OHM * _share(lay)
    resistor = lay.device("Excitation resistor", "resistor", ("1", "2"), values=(("ohm", ohm),))
    diode = lay.diode("Excitation diode")
    lay.wire(lay.key(), f"{resistor}/1", "Excitation feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{resistor}/2", diode[0], "Excitation", "BU/WH", 0.2, 0.3)
    lay.wire(diode[1], end, "Excitation to alternator", "BU/WH", 0.2, 1.5)


def excite_by_resistor(lay: CircuitBuilder) -> None:
    """Lay a resistor that excites what charges already, beside its lamp or without one."""
    lay_resistor(lay, str(place_of(lay).lamps[0]))


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
    held = [one.wire for one in outer(lay, place, (End(maker, "L"),))]
    told = lay.pin(code, "CHG")
    feeds = lay.pin(code, "ALT", Output("", "feeds high", "turning"))
    diode = lay.diode("Excitation diode")
    lay.wire(feeds, diode[0], "Excitation", "BU/WH", 0.5, 0.3)
    lay.wire(diode[1], f"{maker}/L", "Excitation to alternator", "BU/WH", 0.5, 1.2)
    lay.wire(f"{maker}/D+", told, "Alternator charges", "BU/YE", 0.02, 1.2, "sensor")
    pin = lay.pin(code, "LMP", Output("", "pulls low", "input low", End.of(told).cavity))
    for wire in held:
        end_at(lay, wire, End(maker, "L"), End.of(pin))
    if held:
        return
    lamp = lay.device(
        "Charge lamp", "warning lamp", ("1", "2"), values=(("ohm", LAMP_OHM * _share(lay)),)
    )
    lay.wire(lay.key(), f"{lamp}/1", "Charge lamp feed", "BK/RD", 0.2, 0.5)
    lay.wire(f"{lamp}/2", pin, "Charge lamp", "BU", 0.2, 1.2)


def place_of(lay: CircuitBuilder) -> Place:
    """Return where what charges is. Raises EditError where nothing does."""
    found = alternators(lay.job.devices)
    if not found:
        raise EditError("There is nothing that charges yet: lay “Charging” first.")
    maker, _ = found[0]
    regulator = lay.first("regulator") if FIELD in maker.terminals else None
    return Place(maker, regulator)


def outer(lay: CircuitBuilder, was: Place, ends: tuple[End, ...]) -> list[Held]:
    """Return the wires at some places that do not lead from the machine to its regulator."""
    own = {was.maker.code, was.regulator.code if was.regulator else ""}
    held = [Held(wire, end) for end in ends for wire in wires_at(lay, end)]
    return [one for one in held if run_of(lay, one).end.at not in own]
