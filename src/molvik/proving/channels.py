"""Which channel of a loom tester each point of a loom is on, and the list its leads are put on by.

Channel 10007 is the seventh point of the loom on the meter's upper side, 20007 on its lower one.
"""

from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.proofplan import ProofPlan
from molvik.proving.validity import loom_fingerprint
from molvik.sheet import Sheet, Table, notes

HIGH, LOW = 10_000, 20_000
"""What is added to the number of a point on the meter's upper side, and on its lower one: room for
more points than any loom has."""


def channels(bench: Bench) -> dict[End, int]:
    """Return the number of each point of a loom, from 1 on, net by net."""
    points = (point for net in bench.nets for point in net.points)
    return {point: number for number, point in enumerate(points, 1)}


def channel_sheet(network: Network, plan: ProofPlan) -> Sheet:
    """Return where each lead of a loom tester goes."""
    rows = tuple(
        (str(HIGH + number), str(LOW + number), str(point), network.end_name(point))
        for point, number in channels(plan.bench).items()
    )
    table = Table(("Upper", "Lower", "Put on", "Which is"), (7, 7, 10, 50), rows)
    below = notes(
        "Channels of the tester's matrix, upper and lower side of its meter, and the cavity or "
        f"stud each is wired to. Of loom {loom_fingerprint(plan)}: after a wire was added, moved "
        "or deleted the numbers may be others; print it again and move the leads."
    )
    return Sheet("tester-points", "Loom tester: where its leads go", (table, *below))
