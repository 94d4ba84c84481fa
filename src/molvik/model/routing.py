"""The looms to build: their ends and breakouts, the stretches between them, what they pass.

Codes: H1 loom, J2 end or breakout (a joint of stretches), R3 stretch (a run of the loom).
"""

from collections.abc import Iterator
from typing import Literal

from molvik.model.parts import Value

RouteFrom = Literal["typed", "measured", "scaled", "as found"]
"""Where the length of a stretch is from: a user's word, a string in the vehicle, a photo, the loom
as found. What is typed wins over what is scaled.
"""

Drawn = Literal["in little room", "as in the vehicle"]

Kind = Literal["", "grommet", "clip", "splice"]

MarkKind = Literal["clip", "tie", "bracket", "label", "shrink"]
"""What holds a stretch, or sits on it."""


class RunMark(Value, frozen=True):
    """Something at a place of a stretch. at_m: from its start, m. text: what a label says."""

    kind: MarkKind
    at_m: float
    text: str = ""


class Revision(Value, frozen=True):
    """A state of a loom's board that was given out. mark: its letter; on: the day, year-month-day;
    what: what changed; by: whom; state: fingerprint of the loom as it was, empty if it was typed.
    """

    mark: str
    on: str
    what: str
    by: str = ""
    state: str = ""


class NewLoom(Value, frozen=True):
    """A loom to build. laid: whether wires lie side by side or are twisted in layers.

    service_m: what is left at each end beyond the terminal, to terminate it again, m. drip_m: more
    of it where it is wet, so that water runs off below the plug, m. wide_m, high_m: of the board it
    is laid on, m, None for one that is large enough. datum: the joint that running dimensions begin
    at, empty for the end that all others hang from. drawn: on the board in little room, or as it
    lies in the vehicle. revisions: of its board, the oldest first.
    """

    code: str
    name: str
    laid: Literal["parallel", "twisted"] = "parallel"
    service_m: float = 0.05
    drip_m: float = 0.05
    note: str = ""
    wide_m: float | None = None
    high_m: float | None = None
    datum: str = ""
    drawn: Drawn = "in little room"
    revisions: tuple[Revision, ...] = ()

    @property
    def room_m(self) -> tuple[float, float] | None:
        """How wide and high the board is, m, None while that is not said."""
        return (self.wide_m, self.high_m) if self.wide_m and self.high_m else None


class LoomNode(Value, frozen=True):
    """A place where stretches of a loom to build meet or end.

    kind: a grommet, clip or splice that it is; else whether it is an end or a breakout follows from
    the stretches. carries: the codes of the parts that sit there: plugs, studs, fuses, splices.
    allowance_m: what is left there beyond the way, in place of the loom's, m. hole_mm: of the hole
    that a grommet sits in, mm; opens: the grommet can be opened and goes on at any time. closed:
    its plug is on already, and stays on. boots: what has to be on the wires before the plug, by
    name: boot, seal, shrink.
    """

    code: str
    loom: str
    name: str
    kind: Kind = ""
    carries: tuple[str, ...] = ()
    allowance_m: float | None = None
    hole_mm: float | None = None
    note: str = ""
    opens: bool = False
    closed: bool = False
    boots: tuple[str, ...] = ()


class Run(Value, frozen=True):
    """A stretch of a loom to build, between two joints; an empty one is not known yet.

    length_m in m. zone: the name of the zone it passes. covering: a key of
    ``reference.coverings``. slack_m: what it has more than its length, across a gap that moves, m.
    bend_mm: radius of the tightest bend on its way, mm, None where it is not known. middle: how
    many wires lie in the middle where the loom is twisted, None for as many as make it thinnest.
    marks: what sits where on it; of its clips and ties the others are spread evenly.
    """

    code: str
    start: str = ""
    finish: str = ""
    length_m: float | None = None
    length_from: RouteFrom = "typed"
    zone: str = ""
    covering: str = ""
    clips: int = 0
    ties: int = 0
    slack_m: float = 0.0
    note: str = ""
    bend_mm: float | None = None
    middle: int | None = None
    marks: tuple[RunMark, ...] = ()


class Pose(Value, frozen=True):
    """How a stretch is turned on the board, where a hand turned it.

    heading_deg: which way it leads from its start, deg, counted from the right downwards, as it
    lies on the board; bent_deg: how much its second half turns off the first, the same way round.
    """

    run: str
    heading_deg: float
    bent_deg: float = 0.0


class Zone(Value, frozen=True):
    """What a stretch passes. place: what air, a key of ``reference.places``.

    hot_c: of a hot surface beside it, deg C, distance_mm from it and wide_mm wide, mm; shielded:
    something bright stands between. moves: one end moves against the other, or it swings. access:
    what must come off to reach it, access_min: how long that takes, minutes.
    """

    name: str
    place: str = ""
    hot_c: float | None = None
    distance_mm: float | None = None
    shielded: bool = False
    wet: bool = False
    moves: bool = False
    access: str = ""
    access_min: float = 0.0
    wide_mm: float | None = None


class Routing(Value, frozen=True):
    """All looms to build."""

    looms: tuple[NewLoom, ...] = ()
    joints: tuple[LoomNode, ...] = ()
    runs: tuple[Run, ...] = ()
    zones: tuple[Zone, ...] = ()

    def things(self) -> Iterator[NewLoom | LoomNode | Run]:
        """Everything with a code, in an order in which each thing's parts come before it."""
        yield from self.looms
        yield from self.joints
        yield from self.runs

    def zone(self, name: str) -> Zone:
        """Return a zone by its name; one in which nothing is known for any other."""
        return next((zone for zone in self.zones if zone.name == name), Zone(name))
