"""The kinds of devices there are: one entry says all that is particular to a kind.

Figures are typical values from common practice, from memory; a device may have its own. They are
for 12 V. In a vehicle of another voltage, voltages go with it and resistances of windings with its
square, so that a lamp has the same power. Words are common practice, with no source.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from molvik.model.parts import Device, DeviceKind

Model = Literal[
    "battery", "alternator", "starter", "contacts", "relay", "bar", "diode", "LED", "controller",
    "load", "sensor", "gauge", "thermistor",
]  # fmt: skip
"""How a device is computed (``circuits.behaviour``, ``netlist.passing``)."""

Field = Literal["joins", "positions", "supplies", "earths", "outputs", "suppression", "case"]
"""Fields of a device that only some kinds have."""

Figures = Mapping[str, float]


class DeviceType(NamedTuple):
    """All that is particular to a kind of device.

    terminals, joins: those it begins with. figures: usual ones by name: V, A, ohms, K, or a share
    of the nominal voltage. acts_as: how current passes it, and when it works. ohm_goes: how its
    resistance "ohm" goes with the nominal voltage. fields: what else the user can say of it.

    is_load: it is alive or dead itself. by_ohm: what it draws follows from its resistance, not from
    the current typed at its wires. passes: a current for another device can go through it.
    either_way: a current that enters it from behind is a fault. has_coil: its winding kicks when it
    is let go. is_needed: an engine runs only with it, where nobody said otherwise. is_engine: it
    belongs to an engine that is kept. is_supply: it only hands on what others use. use: what its
    circuit is for, a key of ``reference.limits``, where no wire says. inrush: how many times its
    running current it begins with, and for how long, s, that would heat a fuse as much as the whole
    of it, which dies away. elsewhere: what it needs at another voltage, in words; lower: at a lower
    one, where that is something else.
    """

    terminals: tuple[str, ...]
    figures: Figures = MappingProxyType({})
    acts_as: Model = "load"
    joins: tuple[tuple[str, str], ...] = ()
    fields: tuple[Field, ...] = ()
    ohm_goes: Literal["", "with it", "with its square"] = ""
    is_load: bool = True
    by_ohm: bool = False
    passes: bool = False
    either_way: bool = False
    has_coil: bool = False
    is_needed: bool = False
    is_engine: bool = False
    is_supply: bool = False
    use: str = ""
    inrush: tuple[float, float] | None = None
    elsewhere: str = ""
    lower: str = ""


PAIR = ("+", "-")

_TYPES: dict[DeviceKind, DeviceType] = {
    # A lead-acid starter battery, charged: 12.4 to 12.7 V at rest. Full, it takes a dozen amperes
    # from an alternator, not the hundred its inner resistance would let in. Half the cells, half
    # the resistance.
    "battery": DeviceType(
        PAIR,
        {"rest V": 12.6, "ohm": 0.012, "charge ohm": 0.15, "Ah": 60.0},
        "battery",
        ohm_goes="with it",
        is_load=False,
        is_supply=True,
        elsewhere="another battery: {cells} cells for {volts:g} V, with as many watt-hours.",
    ),
    # 13.8 to 14.8 V, 14.4 typical; needs some tens of milliamperes through L to begin. Pulleys make
    # it turn 2.5 times as fast as the engine. The regulator gives way by some tenths of a volt.
    "alternator": DeviceType(
        ("B+", "L"),
        {"set V": 14.4, "ohm": 0.004, "excite A": 0.02, "field ohm": 9.0, "most A": 90.0,
         "pulleys": 2.5},
        "alternator",
        fields=("case",),
        is_engine=True,
        use="charging",
        elsewhere="another machine, or its regulator and windings: it sets the voltage.",
    ),
    "starter": DeviceType(
        ("30", "50"),
        {"coil ohm": 1.2, "pull V": 7.5, "motor ohm": 0.05},
        "starter",
        fields=("case",),
        is_engine=True,
        use="starter",
        elsewhere="it gets {share}: one made for {volts:g} V, or new windings.",
    ),
    "switch": DeviceType(
        ("in", "out"), {"contact ohm": 0.01}, "contacts", (("in", "out"),),
        ("joins", "positions", "case"), is_load=False,
    ),
    "isolator": DeviceType(
        ("1", "2"), {"contact ohm": 0.001}, "contacts", (("1", "2"),), ("joins", "positions"),
        is_load=False, is_supply=True,
    ),
    "relay": DeviceType(
        ("30", "87", "86", "85"),
        {"coil ohm": 90.0, "pull share": 0.6, "drop share": 0.2, "contact ohm": 0.005,
         "across ohm": 680.0},
        "relay",
        (("30", "87"),),
        ("joins", "suppression"),
        has_coil=True,
        is_supply=True,
        elsewhere="another coil: its pull-in voltage goes with the system.",
    ),
    "bus bar": DeviceType(("M8",), {"ohm": 0.0001}, "bar", is_load=False, is_supply=True),
    "load": DeviceType(
        PAIR, {"A": 2.0}, fields=("case",), passes=True, either_way=True,
        elsewhere="whether it stands {volts:g} V.",
    ),
    "lamp": DeviceType(
        PAIR, {"A": 1.75}, fields=("case",), passes=True, either_way=True, use="lighting",
        inrush=(8.0, 0.01),  # a cold filament
        elsewhere="another bulb of as many watts for {volts:g} V.",
    ),
    # 1.2 to 3 W behind an instrument.
    "warning lamp": DeviceType(
        PAIR, {"A": 0.2}, fields=("case",), passes=True, either_way=True,
        elsewhere="another bulb for {volts:g} V; mind what an alternator needs through it.",
    ),
    # It starts with five times its running current, for tenths of a second.
    "motor": DeviceType(
        PAIR, {"A": 8.0, "inrush times": 5.0}, either_way=True, use="pump", inrush=(5.0, 0.08),
        elsewhere="another motor for {volts:g} V.",
    ),
    "solenoid": DeviceType(
        PAIR, {"A": 1.5}, fields=("case",), either_way=True, has_coil=True,
        elsewhere="another winding.",
    ),
    # High resistance 12 to 16 ohms; low resistance 2 to 5, and then with a resistor before it.
    "injector": DeviceType(
        PAIR, {"ohm": 14.0}, ohm_goes="with its square", by_ohm=True, either_way=True,
        has_coil=True, is_needed=True, is_engine=True,
        elsewhere="another, or a resistor before it.",
        lower="one made for {volts:g} V: a resistor cannot raise the voltage.",
    ),
    "coil": DeviceType(
        PAIR, {"ohm": 2.4}, ohm_goes="with its square", by_ohm=True, is_needed=True, is_engine=True,
        elsewhere="another coil, or a ballast resistor that leaves it its own voltage.",
        lower="a coil made for {volts:g} V: a resistor cannot raise the voltage.",
    ),
    "heater": DeviceType(
        PAIR, {"A": 5.0}, either_way=True, inrush=(2.0, 3.0),  # one that regulates itself
        elsewhere="an element for {volts:g} V: the old one would give {square} the heat.",
    ),
    "resistor": DeviceType(
        PAIR, {"ohm": 560.0}, ohm_goes="with its square", by_ohm=True, passes=True,
        elsewhere="{square} its ohms for the same power; a ballast is chosen by what it feeds.",
    ),
    "diode": DeviceType(
        PAIR, {"saturation A": 1e-9, "emission": 1.8}, "diode", is_load=False, passes=True,
    ),
    # What it holds at 20 mA, and a resistor that is part of it; none where "ohm" is 0.
    "LED": DeviceType(
        PAIR, {"drop": 2.0, "ohm": 560.0}, "LED", ohm_goes="with its square", passes=True,
        elsewhere="another resistor before it.",
    ),
    "gauge": DeviceType(
        ("+", "S", "-"), {"A": 0.1}, "gauge", passes=True, either_way=True,
        elsewhere="another, or a voltage limiter before it.",
        lower="one made for {volts:g} V: a limiter cannot raise the voltage.",
    ),
    # Three wires: supply, signal, return; the wiper stands at this share.
    "sensor": DeviceType(
        ("5V", "signal", "return"), {"ohm": 2500.0, "wiper share": 0.15}, "sensor",
        fields=("case",), by_ohm=True, is_engine=True,
    ),
    # 2.5 kilohms at 20 deg C, falling with temperature as exp(beta / T).
    "thermistor": DeviceType(
        ("signal", "return"), {"ohm": 2500.0, "beta K": 3400.0}, "thermistor", fields=("case",),
        is_load=False, by_ohm=True, is_engine=True,
    ),
    "pickup": DeviceType(
        ("signal", "return", "screen"), {"ohm": 900.0}, is_load=False, by_ohm=True, is_engine=True,
    ),
    # ISO 11898-2: 120 ohms at each of the two ends of the line; others draw next to nothing.
    "network node": DeviceType(("high", "low"), {"ohm": 30_000.0}, is_load=False, by_ohm=True),
    "diagnostic plug": DeviceType(
        ("16", "4", "5", "6", "14"), {"ohm": 1e6}, is_load=False, by_ohm=True,
    ),
    # Wakes at about half its nominal voltage and draws about an ampere itself.
    "controller": DeviceType(
        ("30", "15", "31"),
        {"least V": 6.5, "A": 1.0, "asleep A": 0.01, "driver ohm": 0.2, "live V": 4.0,
         "input ohm": 10_000.0, "sleeps min": 10.0},
        "controller",
        fields=("supplies", "earths", "outputs"),
        is_needed=True,
        is_engine=True,
        use="ecu",
        elsewhere="it must be made for {volts:g} V.",
    ),
}  # fmt: skip

TYPES: Mapping[str, DeviceType] = MappingProxyType(
    {str(kind): device_type for kind, device_type in _TYPES.items()}
)
"""By kind. Of the figures, what ends in " V" goes with the nominal voltage; the "drop" of a
light-emitting diode in V does not."""


def type_of(device: Device) -> DeviceType:
    """Return what is particular to a device's kind."""
    return TYPES[device.kind]
