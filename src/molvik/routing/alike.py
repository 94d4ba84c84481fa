"""Plugs that can be swapped: alike as far as is known, and each reaches the other's mate.

How far a plug reaches is its branch, from where the loom is held last: a breakout, a clip, a tie, a
grommet. What a swap would do is told by the solution of the network with the wires of both plugs
exchanged, reached from the job as it is by small corrections.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator
from itertools import combinations
from typing import TYPE_CHECKING, Literal, NamedTuple

from molvik.circuits.faultsolver import FaultSolver
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.symptoms import symptoms
from molvik.devices.nodes import terminal
from molvik.devices.states import CRANK, RUN, RUNNING, Fault, State
from molvik.lazy import cached_property
from molvik.model.geometry import places
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End
from molvik.netlist.network import Network
from molvik.routing.ways import Ways
from molvik.stopping import look_up

if TYPE_CHECKING:
    import networkx

STATES = (RUN, CRANK, RUNNING)

HURTS = 1.3
"""A sensor that gets this many times what it had is hurt (our choice)."""

FRAGILE = ("sensor", "thermistor", "pickup")
FED_V = 6.0
"""What is made for the 5 V of a controller bears no more than this (our choice)."""

MOST_SOLVED = 60
"""So many swaps are solved; a loom with more look-alikes has those told alone."""

Does = Literal["damages", "does not run", "works wrongly", "harmless", "not known"]


class Alike(NamedTuple):
    """Two plugs that can be swapped. reach_m: what is left of the shorter of their branches where
    each is in the other's mate, m; None where it is not known how they lie. does: what a swap
    would do, said: in words, the worst first.
    """

    one: str
    other: str
    reach_m: float | None
    does: Does
    said: tuple[str, ...]


class Branch(NamedTuple):
    """What hangs free before a plug, from where the loom is held last. length_m: of it as it is
    drawn, slack_m: what it has more than that, m; known: whether all its stretches have a length.
    zone: what it passes, by name, empty where that is not said.
    """

    length_m: float
    slack_m: float
    known: bool
    zone: str


STRAIGHT = 0.7
"""A mate lies at least so far from where its branch leaves the loom, as a share of the branch, for
no branch is laid to hang in a bow (our choice)."""

SAME_SIZE = 0.1
"""Housings measured from outside fit one mate while they differ by no more than this (our choice:
more is another size, less may be the ruler)."""


def in_reach(job: Job, ways: Ways) -> Iterator[tuple[str, str, float | None]]:
    """Yield plugs that go into one another's mates, as far as is known of them, and reach them."""
    kinds: dict[object, list[Connector]] = defaultdict(list)
    for plug in job.connectors:
        if ways.graph.carried.get(plug.code):
            kinds[_cavities(plug), plug.grid.round].append(plug)
    mates = {plug.code: plug.plugs_into for plug in job.connectors}
    far = _Apart(job, ways)
    for plugs in kinds.values():
        sizes = {plug.code: _sizes(plug) for plug in plugs}
        free = {plug.code: _free(ways, ways.graph.carried[plug.code][0]) for plug in plugs}
        for one, other in combinations(plugs, 2):
            if mates[one.code] == other.code or mates[other.code] == one.code:
                continue
            if _elsewhere(free[one.code], free[other.code]) or _told_apart(
                one, other, sizes[one.code], sizes[other.code]
            ):
                continue
            reach = _reach_m(free[one.code], free[other.code], far.between(one.code, other.code))
            if reach is None or reach >= 0:
                yield one.code, other.code, reach


def _cavities(plug: Connector) -> frozenset[tuple[float, float]]:
    return frozenset((place.row, place.column) for place in places(plug.grid))


Sizes = dict[tuple[float, float], str]
"""The contact size at each place of a housing, empty where it is not known."""


def _told_apart(one: Connector, other: Connector, sizes: Sizes, others: Sizes) -> bool:
    """Return whether a hand cannot push one into the other's mate. What is known of one alone parts
    nothing: the other may be the same.
    """
    for a, b in (
        (one.key, other.key),
        (one.lever, other.lever),
        (one.housing, other.housing),
        (one.terminals, other.terminals),
    ):
        if a and b and a != b:
            return True
    for mm, other_mm in ((one.wide_mm, other.wide_mm), (one.high_mm, other.high_mm)):
        if mm and other_mm and abs(mm - other_mm) > SAME_SIZE * max(mm, other_mm):
            return True
    return any(size and others[at] and size != others[at] for at, size in sizes.items())


def _sizes(plug: Connector) -> Sizes:
    own = dict(plug.contacts)
    return {
        (place.row, place.column): own.get(place.cavity, plug.contact)
        for place in places(plug.grid)
    }


def _elsewhere(one: Branch, other: Branch) -> bool:
    return bool(one.zone and other.zone and one.zone != other.zone)


def _reach_m(one: Branch, other: Branch, along_m: float | None) -> float | None:
    """Return what is left of the shorter of two branches with each plug in the other's mate, m;
    less than zero where it does not get there. along_m: from plug to plug along the looms.

    The branches leave the loom ``between`` apart, and each mate lies off its own by the branch
    drawn straight, or less: seen from the other, that is at best their difference.
    """
    if along_m is None or not (one.known and other.known):
        return None
    between = max(0.0, along_m - one.length_m - other.length_m)
    left = [
        mine.length_m + mine.slack_m - need
        for mine, its in ((one, other), (other, one))
        for need in (between - its.length_m, STRAIGHT * its.length_m - between)
    ]
    return min(left)


class _Apart:
    """How far plugs are from each other along the looms, those that meet joined."""

    def __init__(self, job: Job, ways: Ways) -> None:
        self._job, self._ways = job, ways
        self._reached: dict[str, dict[str, float]] = {}

    def between(self, one: str, other: str) -> float | None:
        """Return how far two plugs are along the looms, m; None where no loom joins them."""
        graph = self._ways.graph
        start, finish = graph.carried[one][0], graph.carried[other][0]
        if graph.pieces[start] == graph.pieces[finish]:
            return graph.search(start).far_m[finish]
        if start not in self._reached:
            import networkx

            found = networkx.single_source_dijkstra_path_length(self._met, start)
            self._reached[start] = {str(code): float(metres) for code, metres in found.items()}
        return self._reached[start].get(finish)

    @cached_property
    def _met(self) -> "networkx.MultiGraph[str]":
        """The looms, joined where a plug of one goes into one of the other, and by parts that sit
        in both.
        """
        graph, carried = self._ways.graph.graph.copy(), self._ways.graph.carried
        pairs = [(plug.code, plug.plugs_into) for plug in self._job.connectors if plug.plugs_into]
        for one, other in (*pairs, *((code, code) for code in carried)):
            for a in carried.get(one, ()):
                for b in carried.get(other, ()):
                    if a != b:
                        graph.add_edge(a, b, weight=0.0)
        return graph


def _free(ways: Ways, joint: str) -> Branch:
    """Return what hangs free before a plug: up to a breakout, a clip, a tie or a grommet."""
    graph = ways.graph
    here, came, branch = joint, "", Branch(0.0, 0.0, True, "")
    while True:
        onward = [(there, run) for there, run, _ in graph.at[here] if run != came]
        if len(onward) != 1 or (here != joint and graph.joints[here].kind in ("clip", "grommet")):
            return branch
        there, code = onward[0]
        run = graph.runs[code]
        held = run.clips + run.ties
        branch = Branch(
            branch.length_m + (run.length_m or 0.0) / (held + 1),
            branch.slack_m + run.slack_m / (held + 1),
            branch.known and run.length_m is not None,
            branch.zone or run.zone,
        )
        if held:
            return branch
        here, came = there, code


def swaps(network: Network, one: str, other: str) -> frozenset[Fault]:
    """Return what is wrong where two plugs are each in the other's place, cavity for cavity."""
    plug = network.parts[one]
    assert isinstance(plug, Connector)
    pairs = [(End(one, place.cavity), End(other, place.cavity)) for place in places(plug.grid)]
    wired = network.wires_at
    return frozenset(Fault("swap", str(a), str(b)) for a, b in pairs if a in wired or b in wired)


def alike(
    job: Job, network: Network, ways: Ways, point: Callable[[State], OperatingPoint]
) -> tuple[Alike, ...]:
    """Return the plugs that can be swapped, what would do damage first. point: the job as it is,
    solved in a state.
    """
    solvable = any(device.kind == "battery" for device in job.devices)
    in_use = {device.plug for device in job.devices}
    for plug in job.connectors:
        in_use |= {plug.code, plug.plugs_into} if plug.plugs_into else set()
    found: list[Alike] = []
    solved, solvers = 0, dict[State, FaultSolver]()
    for one, other, reach in in_reach(job, ways):
        look_up()
        if _same_nets(job, network, one, other):
            found.append(Alike(one, other, reach, "harmless", ()))
        elif not solvable or solved >= MOST_SOLVED or not {one, other} & in_use:
            found.append(Alike(one, other, reach, "not known", ()))
        else:
            solved += 1
            solvers = solvers or _solvers_of(point)
            faults = swaps(network, one, other)
            found.append(_judged((one, other), reach, faults, solvers, point))
    rank = {"damages": 0, "does not run": 1, "works wrongly": 2, "not known": 3, "harmless": 4}
    return tuple(
        sorted(
            found,
            key=lambda pair: (
                rank[pair.does],
                not any("does not start" in words for words in pair.said),
                -(pair.reach_m or 0.0),
            ),
        )
    )


def _same_nets(job: Job, network: Network, one: str, other: str) -> bool:
    """Return whether a swap joins nothing else than before: the same nets, cavity for cavity."""
    plug = job.connector(one)
    assert plug is not None
    cavities = [place.cavity for place in places(plug.grid)]
    nets = network.net_of
    return all(
        nets.get(End(one, cavity), -1) == nets.get(End(other, cavity), -1) for cavity in cavities
    )


def _solvers_of(point: Callable[[State], OperatingPoint]) -> dict[State, FaultSolver]:
    """Return the job as it is in each state that can be solved, to be corrected by each swap."""
    rest = None if point(RUN).problem else FaultSolver(point(RUN))
    return {
        state: rest
        if rest and state == RUN
        else FaultSolver(point(state), rest=rest if state.running else None)
        for state in STATES
        if not point(state).problem
    }


def _judged(
    pair: tuple[str, str],
    reach: float | None,
    faults: frozenset[Fault],
    solvers: dict[State, FaultSolver],
    point: Callable[[State], OperatingPoint],
) -> Alike:
    before, after = {}, {}
    for state, solver in solvers.items():
        now = solver.faulty(faults)
        if not now.problem:
            before[state.name], after[state.name] = point(state), now
    if not before:
        return Alike(*pair, reach, "not known", ())
    said = list(symptoms(before, after))
    damage = [f"{name} gets {volts:.1f} V." for name, volts in _hurt(before, after)]
    damage += [words for words in said if " blows" in words]
    if damage:
        does: Does = "damages"
    elif any("does not start" in words or "dead instead" in words for words in said):
        does = "does not run"
    else:
        does = "works wrongly"
    rest = [words for words in said if words not in damage]
    return Alike(*pair, reach, does, (*damage, *rest))


def _hurt(
    before: dict[str, OperatingPoint], after: dict[str, OperatingPoint]
) -> Iterator[tuple[str, float]]:
    """Yield the sensors that get more than they bear, by name, and how much, V: between their
    terminals, or from one of them to earth, where their other side may be.
    """
    fragile = [
        device
        for point in [*after.values()][:1]
        for device in point.job.devices
        if device.kind in FRAGILE
    ]
    for device in fragile:
        now = max(_bears_v(point, device) for point in after.values())
        if now > max(HURTS * max(_bears_v(point, device) for point in before.values()), FED_V):
            yield device.name, now


def _bears_v(point: OperatingPoint, device: Device) -> float:
    """Return the most that a device has between two of its terminals or one of them and earth."""
    volts = [point.solution.volts.get(terminal(device, name)) for name in device.terminals]
    known = [volt for volt in volts if volt is not None]
    return max((*map(abs, known), *(abs(a - b) for a, b in combinations(known, 2))), default=0.0)
