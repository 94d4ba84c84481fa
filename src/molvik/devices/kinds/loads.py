"""What takes a current and does something with it."""

from molvik.devices.kind import Kind

LOAD = Kind(
    name="load",
    figures={"A": 2.0},
    fields=("case",),
    passes=True,
    either_way=True,
    elsewhere="whether it stands {volts:g} V.",
)

LAMP = Kind(
    name="lamp",
    figures={"A": 1.75},
    fields=("case",),
    passes=True,
    either_way=True,
    use="lighting",
    inrush=(8.0, 0.01),  # a cold filament
    elsewhere="another bulb of as many watts for {volts:g} V.",
)

# 1.2 to 3 W behind an instrument.
WARNING_LAMP = Kind(
    name="warning lamp",
    figures={"A": 0.2},
    fields=("case",),
    passes=True,
    either_way=True,
    elsewhere="another bulb for {volts:g} V; mind what an alternator needs through it.",
)

# It starts with five times its running current, for tenths of a second.
MOTOR = Kind(
    name="motor",
    figures={"A": 8.0, "inrush times": 5.0},
    either_way=True,
    use="pump",
    inrush=(5.0, 0.08),
    elsewhere="another motor for {volts:g} V.",
)

SOLENOID = Kind(
    name="solenoid",
    figures={"A": 1.5},
    fields=("case",),
    either_way=True,
    has_coil=True,
    elsewhere="another winding.",
)

HEATER = Kind(
    name="heater",
    figures={"A": 5.0},
    either_way=True,
    inrush=(2.0, 3.0),  # one that regulates itself
    elsewhere="an element for {volts:g} V: the old one would give {square} the heat.",
)

# High resistance 12 to 16 ohms; low resistance 2 to 5, and then with a resistor before it.
INJECTOR = Kind(
    name="injector",
    figures={"ohm": 14.0},
    ohm_goes="with its square",
    by_ohm=True,
    either_way=True,
    has_coil=True,
    is_needed=True,
    is_engine=True,
    winding="its winding",
    elsewhere="another, or a resistor before it.",
    lower="one made for {volts:g} V: a resistor cannot raise the voltage.",
)

COIL = Kind(
    name="coil",
    figures={"ohm": 2.4, "cylinders": 4.0, "cylinders a coil": 4.0, "strokes": 4.0},
    ohm_goes="with its square",
    by_ohm=True,
    is_needed=True,
    is_engine=True,
    winding="its winding",
    elsewhere="another coil, or a ballast resistor that leaves it its own voltage.",
    lower="a coil made for {volts:g} V: a resistor cannot raise the voltage.",
)
