"""What hangs on a network's line of two wires."""

from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import Kind, OwnTest, pair_of
from molvik.model.parts import Device
from molvik.reference.bus import LINE_OHM, NODE_OHM, NODE_PF, USUAL_KBIT

TERMINATOR_OHM = LINE_OHM
"""At each of the two ends of a line (ISO 11898-2)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Node(Kind):
    """A module on the line."""

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Its terminator, where it has one."""
        if self.figure(device, "ohm", nominal_v) < 2 * TERMINATOR_OHM:
            yield OwnTest(pair_of(device), "its terminator", "ohm")


# ISO 11898-2: 120 ohms at each of the two ends of the line; others draw next to nothing.
NODE = Node(
    name="network node",
    terminals=("high", "low"),
    figures={"ohm": NODE_OHM, "kbit/s": USUAL_KBIT, "pF": NODE_PF},
    is_load=False,
    by_ohm=True,
)

DIAGNOSTIC_PLUG = Kind(
    name="diagnostic plug",
    terminals=("16", "4", "5", "6", "14"),
    figures={"ohm": 1e6},
    is_load=False,
    by_ohm=True,
)
