"""The parts a loom is made of, as frozen values.

A part is known by its short code, the same on labels, in lists and in pictures: W12 wire,
C3 connector, S4 splice, F7 fuse, D5 device, E1 earth point.
"""

from typing import Annotated, Any, Literal, TypeVar, get_type_hints

import msgspec

from molvik.model.refs import Ref

Corner = Literal["top left", "top right", "bottom left", "bottom right"]
Gender = Literal["", "pin", "socket"]
Identified = Literal["", "seen", "by continuity", "by elimination"]
Side = Literal["", "top", "bottom", "left", "right"]
HousingGender = Literal["", "plug", "receptacle"]
CavityFill = Literal["", "empty", "plugged"]
SizeSystem = Literal["awg", "metric"]
SpliceJoint = Literal["crimped", "soldered"]
Suppression = Literal["", "diode", "resistor"]

Kept = TypeVar("Kept")

Electric = Annotated[Kept, msgspec.Meta(extra={"electric": True})]
"""A field that decides what flows, or is named where that is told."""

Plain = Annotated[Kept, msgspec.Meta(extra={"electric": False})]
"""A field that the electrical side does not read: what was computed stands when it changes."""


class Value(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, gc=False):
    """A fact that never changes; an edit makes a new one."""


def is_electric(kind: type[Value]) -> dict[str, bool | None]:
    """Return of each field of a kind of thing whether the electrical side reads it, None where
    that is not said.
    """
    found: dict[str, bool | None] = {}
    for name, hint in get_type_hints(kind, include_extras=True).items():
        said = [one.extra for one in getattr(hint, "__metadata__", ()) if one.extra]
        found[name] = said[0].get("electric") if said else None
    return found


def plain_fields(kind: type[Value]) -> dict[str, Any]:
    """Return the fields of a kind of thing that the electrical side does not read, each with what
    it holds when nothing is said.
    """
    usual = {field.name: field.default for field in msgspec.structs.fields(kind)}
    return {name: usual[name] for name, said in is_electric(kind).items() if said is False}


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


class CavityPosition(Value, frozen=True):
    """A cavity of an irregular layout. x, y: from the top left at the mating face, in any unit.

    contact: its contact size where it is another than the housing's.
    """

    label: str
    x: float
    y: float
    contact: str = ""


class Grid(Value, frozen=True):
    """Where the cavities of a housing lie and how they are numbered, seen at the mating face.

    by: whether numbers run along rows or along columns first. letters: rows are lettered A, B, …
    (I, O and Q left out) and columns numbered. gaps: grid places (row, column), counted from the
    top left at zero, where the housing has no cavity. spots: the cavities of an irregular layout,
    which the other fields then say nothing about. round: the housing is.
    """

    rows: int
    columns: int
    by: Literal["row", "column"] = "row"
    start: Corner = "top left"
    serpentine: bool = False
    letters: bool = False
    gaps: tuple[tuple[int, int], ...] = ()
    spots: tuple[CavityPosition, ...] = ()
    round: bool = False


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
    name of the table its pins were read from. contacts: cavities whose contact size is another.
    key, lever: on which side, seen at the mating face with its top up, the key and the lock lever
    or clip are. up: how the top is told, in words. wide_mm,
    high_mm: how large the housing is at the mating face with all that sticks out, deep_mm: from
    that face to where its wires leave, mm.
    """

    code: Electric[str]
    name: Electric[str]
    grid: Electric[Grid]
    housing: Electric[HousingGender] = ""
    terminals: Electric[Gender] = ""
    contact: Electric[str] = ""
    plugs_into: Electric[str] = ""
    pins: Plain[tuple[Pin, ...]] = ()
    pinout_from: Plain[str] = ""
    note: Plain[str] = ""
    contacts: Electric[tuple[tuple[str, str], ...]] = ()
    key: Electric[Side] = ""
    lever: Electric[Side] = ""
    up: Plain[str] = ""
    wide_mm: Electric[float | None] = None
    high_mm: Electric[float | None] = None
    deep_mm: Plain[float | None] = None


class End(Value, frozen=True):
    """One end of a wire: the part it goes to and the cavity or terminal there.

    An empty ``at`` is a loose end.
    """

    at: str = ""
    cavity: str = ""

    def __str__(self) -> str:
        return str(Ref(self.at, self.cavity)) if self.at else "loose"

    @classmethod
    def of(cls, place: str) -> "End":
        """Return the end that a place names."""
        ref = Ref.parse(place)
        return cls(ref.code, ref.cavity)


LOOSE = End()


LengthFrom = Literal["typed", "measured", "routed"]
"""Where a length is from: a user's word, the loom as found, the way the wire takes."""


class Wire(Value, frozen=True):
    """One conductor between two ends.

    length_m: cut length, m. load_a: the current it carries when its load is on, A. ambient_c: air
    temperature where it runs, deg C, None for the job's. use: a key of ``reference.limits``.
    insulation: a key of ``reference.insulation``. stowed: kept but unused, cut back, capped and
    tied. identified: how it became known what the wire is, empty while it is not. group: a name the
    user sorts loose wires by. cable: the name of the cable it is a core of; a screen is a core used
    as "screen". lay_mm: length of one turn of the twist with the other cores, mm, None when
    straight. place: where it runs, a key of ``reference.places``. bundle: the name of the bundle it
    lies in. on_s, rest_s: how long its load is on at a time and off in between, s, None as usual
    for its use. length_from: where its length is from.
    through, avoid: the joints of a loom to build that it is sent through, and kept out of.
    """

    code: Electric[str]
    start: Electric[End] = LOOSE
    finish: Electric[End] = LOOSE
    function: Plain[str] = ""
    circuit: Plain[str] = ""
    colour: Plain[Colour | None] = None
    size: Electric[WireSize | None] = None
    insulation: Electric[str] = ""
    length_m: Electric[float | None] = None
    load_a: Electric[float | None] = None
    ambient_c: Electric[float | None] = None
    use: Electric[str] = ""
    note: Plain[str] = ""
    stowed: Electric[bool] = False
    identified: Plain[Identified] = ""
    group: Plain[str] = ""
    cable: Electric[str] = ""
    lay_length_mm: Electric[float | None] = msgspec.field(default=None, name="lay_mm")
    place: Electric[str] = ""
    bundle: Electric[str] = ""
    on_s: Electric[float | None] = None
    rest_s: Electric[float | None] = None
    length_from: Plain[LengthFrom] = "typed"
    through: Electric[tuple[str, ...]] = ()
    avoid: Electric[tuple[str, ...]] = ()

    @property
    def ends(self) -> tuple[End, End]:
        """Both ends, start first."""
        return self.start, self.finish


class Bundle(Value, frozen=True):
    """What is known of the wires that lie together under one name.

    place: where it runs, a key of ``reference.places``, for wires that do not say. covering: a key
    of ``reference.coverings``.
    """

    name: str
    place: str = ""
    covering: str = ""


class Fuse(Value, frozen=True):
    """A fuse, breaker or fusible link with its terminals "in" (battery side) and "out" (load side).

    rating_a in amperes.
    """

    code: Electric[str]
    name: Electric[str]
    rating_a: Electric[float]
    kind: Electric[Literal["blade", "bolt-down", "glass", "breaker", "fusible link"]] = "blade"


class Splice(Value, frozen=True):
    """A joint of several wires."""

    code: Electric[str]
    name: Electric[str] = ""
    joint: Electric[SpliceJoint] = "crimped"


class EarthPoint(Value, frozen=True):
    """A stud on engine, body or chassis where earths end."""

    code: Electric[str]
    name: Electric[str]


class Position(Value, frozen=True):
    """A position of a switch and the pairs of terminals it joins.

    momentary: it springs back when let go. A switch that the engine moves, as for oil pressure, has
    positions called "standing" and "running".
    """

    name: str
    joins: tuple[tuple[str, str], ...] = ()
    momentary: bool = False


class Output(Value, frozen=True):
    """What a controller does with one of its terminals, and when.

    acts: pulls it to earth, feeds it from its supply, or holds it at 5 V. when: while it is
    powered, in its first seconds, with the key on, with the engine turning, cranking or running, or
    while its terminal ``input`` is live, or is low.
    """

    terminal: str
    acts: Literal["pulls low", "feeds high", "5 V"] = "pulls low"
    when: Literal[
        "powered",
        "first seconds",
        "first seconds and turning",
        "key on",
        "turning",
        "cranking",
        "running",
        "input live",
        "input low",
    ] = "powered"
    input: str = ""


class Device(Value, frozen=True):
    """Anything else a wire goes to.

    kind: one of ``molvik.devices.KINDS``; a file that holds another is refused when it is opened.
    terminals: names of its terminals. joins: pairs of terminals that a supply can pass through
    when the device is on (key switch, relay contact). kind "battery" is the source: terminal "+".
    plug: the connector that plugs into it, whose cavities are its terminals. values: figures of its
    own by name (its kind tells which, and has the usual ones). positions: of a switch,
    where its terminals do not tell. supplies, earths: a controller's terminals that it needs.
    outputs: what a controller does. case: the earth point its body is bolted to. needed: the engine
    starts only when it is alive while cranking. suppression: what sits across a relay's coil; a
    diode has its cathode at 86. curve: of a sender the ohms it has at a temperature, level or
    pressure, of a gauge those at which it shows that: (value, ohms).
    """

    code: Electric[str]
    name: Electric[str]
    kind: Electric[str]
    terminals: Electric[tuple[str, ...]] = ()
    joins: Electric[tuple[tuple[str, str], ...]] = ()
    plug: Electric[str] = ""
    values: Electric[tuple[tuple[str, float], ...]] = ()
    positions: Electric[tuple[Position, ...]] = ()
    supplies: Electric[tuple[str, ...]] = ()
    earths: Electric[tuple[str, ...]] = ()
    outputs: Electric[tuple[Output, ...]] = ()
    case: Electric[str] = ""
    needed: Electric[bool] = False
    suppression: Electric[Suppression] = ""
    curve: Electric[tuple[tuple[float, float], ...]] = ()


class Scenario(Value, frozen=True):
    """States gone through in order, each by its name."""

    name: str
    steps: tuple[str, ...]


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
