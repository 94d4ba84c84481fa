"""The parts a loom is made of, as frozen values.

A part is known by its short code, the same on labels, in lists and in pictures: W12 wire,
C3 connector, S4 splice, F7 fuse, D5 device, E1 earth point.
"""

from typing import Literal

import msgspec

Corner = Literal["top left", "top right", "bottom left", "bottom right"]
Gender = Literal["", "pin", "socket"]
HousingGender = Literal["", "plug", "receptacle"]
CavityFill = Literal["", "empty", "plugged"]
SizeSystem = Literal["awg", "metric"]


class Value(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A fact that never changes; an edit makes a new one."""


class Colour(Value, frozen=True):
    """A wire's insulation colour.

    base, tracer: colour codes of IEC 60757 (and the few in ``reference.colours`` beyond it);
    an empty tracer means a plain wire.
    """

    base: str
    tracer: str = ""

    def __str__(self) -> str:
        return f"{self.base}/{self.tracer}" if self.tracer else self.base


class WireSize(Value, frozen=True):
    """A conductor size as it is sold.

    value: the AWG number (1/0 is 0, 4/0 is -3) or the nominal section in mm2.
    """

    system: SizeSystem
    value: float

    def __str__(self) -> str:
        if self.system == "metric":
            return f"{self.value:g} mm²"
        number = int(self.value)
        return f"{number} AWG" if number > 0 else f"{1 - number}/0 AWG"


class Grid(Value, frozen=True):
    """Where the cavities of a housing lie and how they are numbered, seen at the mating face.

    by: whether numbers run along rows or along columns first. letters: rows are lettered A, B, …
    (I, O and Q left out) and columns numbered. gaps: grid places (row, column), counted from the
    top left at zero, where the housing has no cavity.
    """

    rows: int
    columns: int
    by: Literal["row", "column"] = "row"
    start: Corner = "top left"
    serpentine: bool = False
    letters: bool = False
    gaps: tuple[tuple[int, int], ...] = ()


class Pin(Value, frozen=True):
    """What a pinout table, or the eye, says of one cavity."""

    cavity: str
    function: str = ""
    circuit: str = ""
    colour: Colour | None = None
    size: WireSize | None = None
    note: str = ""
    fill: CavityFill = ""


class Connector(Value, frozen=True):
    """A housing with its cavities.

    contact: contact size of the terminals, a key of ``reference.contacts``. plugs_into: the code
    of the connector it mates with inside the loom, cavity to cavity, or empty. pinout_from: the
    name of the table its pins were read from.
    """

    code: str
    name: str
    grid: Grid
    housing: HousingGender = ""
    terminals: Gender = ""
    contact: str = ""
    plugs_into: str = ""
    pins: tuple[Pin, ...] = ()
    pinout_from: str = ""
    note: str = ""


class End(Value, frozen=True):
    """One end of a wire: the part it goes to and the cavity or terminal there.

    An empty ``at`` is a loose end.
    """

    at: str = ""
    cavity: str = ""

    def __str__(self) -> str:
        if not self.at:
            return "loose"
        return f"{self.at}/{self.cavity}" if self.cavity else self.at


LOOSE = End()


class Wire(Value, frozen=True):
    """One conductor between two ends.

    length_m: cut length, m. load_a: the current it carries when its load is on, A. ambient_c: air
    temperature where it runs, deg C, None for the job's. use: a key of ``reference.limits``.
    insulation: a key of ``reference.insulation``.
    """

    code: str
    start: End = LOOSE
    finish: End = LOOSE
    function: str = ""
    circuit: str = ""
    colour: Colour | None = None
    size: WireSize | None = None
    insulation: str = ""
    length_m: float | None = None
    load_a: float | None = None
    ambient_c: float | None = None
    use: str = ""
    note: str = ""

    @property
    def ends(self) -> tuple[End, End]:
        """Both ends, start first."""
        return self.start, self.finish


class Fuse(Value, frozen=True):
    """A fuse with its terminals "in" (battery side) and "out" (load side). rating_a in amperes."""

    code: str
    name: str
    rating_a: float
    kind: Literal["blade", "bolt-down"] = "blade"


class Splice(Value, frozen=True):
    """A joint of several wires."""

    code: str
    name: str = ""
    joint: Literal["crimped", "soldered"] = "crimped"


class EarthPoint(Value, frozen=True):
    """A stud on engine, body or chassis where earths end."""

    code: str
    name: str


class Device(Value, frozen=True):
    """Anything else a wire goes to.

    terminals: names of its terminals. joins: pairs of terminals that a supply can pass through
    when the device is on (key switch, relay contact). kind "battery" is the source: terminal "+".
    """

    code: str
    name: str
    kind: Literal["battery", "alternator", "switch", "relay", "load", "sensor", "controller"]
    terminals: tuple[str, ...] = ()
    joins: tuple[tuple[str, str], ...] = ()


Part = Connector | Fuse | Splice | EarthPoint | Device


def terminals_of(part: Part) -> tuple[str, ...]:
    """Return the names a wire may end at on a part that is not a connector."""
    match part:
        case Fuse():
            return ("in", "out")
        case Device():
            return part.terminals
        case _:
            return ("",)
