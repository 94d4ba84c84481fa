"""The loom as it lies: nodes, the stretches between them, wires as found and their faults.

Routing builds on the same nodes and segments. Codes: N2 node, B3 segment, L4 wire as found, X5
fault.
"""

from collections.abc import Iterator
from typing import Literal

from molvik.model.parts import Colour, Value, WireSize

NodeState = Literal["unknown", "found", "missing", "cut off"]
Role = Literal["unknown", "supply", "earth", "sensor", "signal"]
Known = Literal["presumed", "traced"]
FaultKind = Literal[
    "not said",
    "burnt",
    "melted together",
    "crumbling",
    "cracked",
    "chafed through",
    "green copper",
    "tarnished",
    "stretched",
    "cut",
    "bad repair",
    "bad terminal",
    "cracked housing",
    "missing seal",
    "sleeve gone",
    "overspray",
    "wrong colour extension",
]
Action = Literal[
    "leave",
    "clean",
    "re-terminate",
    "splice in a piece",
    "replace end to end",
    "replace the covering",
    "replace the part",
    "replace the family",
    "replace the loom",
]


class Node(Value, frozen=True):
    """A place where stretches meet or end. Whether it is an end or a breakout follows from them.

    plugs_into: what an end plugs into, in words. connector: the code of its connector in the job.
    mark: what is written or tied on it. contact: the contact size of a sealed housing, if known.
    loom: the name of the loom it is of, where several were found.
    """

    code: str
    name: str
    state: NodeState = "unknown"
    plugs_into: str = ""
    connector: str = ""
    ways: int | None = None
    mark: str = ""
    note: str = ""
    contact: str = ""
    loom: str = ""


class Segment(Value, frozen=True):
    """A stretch of loom between two nodes; an empty one is not known yet.

    length_m in m, diameter_mm over the covering, mm. covering: a key of ``reference.coverings``; in
    files from before, as it was typed. zone: the name of the zone it passes.
    """

    code: str
    start: str = ""
    finish: str = ""
    length_m: float | None = None
    covering: str = ""
    diameter_mm: float | None = None
    ties: int = 0
    clips: int = 0
    grommet: str = ""
    note: str = ""
    zone: str = ""


class FoundWire(Value, frozen=True):
    """A wire as found. finish is empty when it was cut off in mid-loom.

    left_m: what is left of a cut wire from its start, m. family: the kind of insulation by its
    looks, in the user's words; what crumbles, crumbles by family. fused: whether a fuse protects
    it, None when nobody knows. seen: how its size was measured, as typed. wire: the code of the
    wire that it is in the job.
    """

    code: str
    start: str = ""
    finish: str = ""
    colour: Colour | None = None
    size: WireSize | None = None
    seen: str = ""
    family: str = ""
    role: Role = "unknown"
    fused: bool | None = None
    known: Known = "presumed"
    function: str = ""
    left_m: float | None = None
    note: str = ""
    wire: str = ""


class Fault(Value, frozen=True):
    """Something wrong. on: the code of a wire as found, a segment or a node.

    at_m: how far from the start of what it is on, m. grade: 0 as new to 4 dangerous. decision: the
    user's own, empty for the proposed one, with the reason and when it was taken, ISO 8601.
    """

    code: str
    on: str
    kind: FaultKind = "not said"
    at_m: float | None = None
    grade: int = 2
    note: str = ""
    decision: Action | Literal[""] = ""
    reason: str = ""
    decided_at: str = ""


class Loom(Value, frozen=True):
    """A loom as found."""

    nodes: tuple[Node, ...] = ()
    segments: tuple[Segment, ...] = ()
    wires: tuple[FoundWire, ...] = ()
    faults: tuple[Fault, ...] = ()

    def things(self) -> Iterator[Node | Segment | FoundWire | Fault]:
        """Everything in the loom, in an order in which each thing's parts come before it."""
        yield from self.nodes
        yield from self.segments
        yield from self.wires
        yield from self.faults
