"""Plugs that can be swapped: of one housing and key, and each reaches the other's mate.

How far a plug reaches is its branch, from where the loom is held last: a breakout, a clip, a
grommet. What a swap would do is told by the solution of the network with the wires of both plugs
exchanged, reached from the job as it is by small corrections.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator
from itertools import combinations
from typing import Literal, NamedTuple

from molvik.circuits.near import Near
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.symptoms import symptoms
from molvik.model.geometry import places
from molvik.model.job import Job
from molvik.model.parts import Connector, End
from molvik.netlist.faults import Fault
from molvik.netlist.network import Network
from molvik.netlist.states import CRANK, RUN, RUNNING, State
from molvik.routing.ways import Ways
from molvik.stopping import look_up

STATES = (RUN, CRANK, RUNNING)

HURTS = 1.3
"""A sensor that gets this many times what it had is hurt (our choice)."""

FRAGILE = ("sensor", "thermistor", "pickup")
FED_V = 6.0
"""What is made for the 5 V of a controller bears no more than this (our choice)."""

MOST_SOLVED = 60
"""So many swaps are solved; a loom with more look-alikes has those told alone."""

Does = Literal["burns", "does not run", "works wrongly", "harmless", "not known"]


class Alike(NamedTuple):
    """Two plugs that can be swapped. reach_m: how much longer their branches are together than
    they are apart, m. does: what a swap would do, said: in words, the worst first.
    """

    one: str
    other: str
    reach_m: float
    does: Does
    said: tuple[str, ...]


def in_reach(job: Job, ways: Ways) -> Iterator[tuple[str, str, float]]:
    """Yield plugs of one housing, key and kind of terminal that each reach the other's mate."""
    plugged = {device.plug for device in job.devices}
    kinds: dict[object, list[Connector]] = defaultdict(list)
    for plug in job.connectors:
        if ways.graph.carried.get(plug.code) and (plug.plugs_into or plug.code in plugged):
            kinds[_face(plug)].append(plug)
    mates = {plug.code: plug.plugs_into for plug in job.connectors}
    for plugs in kinds.values():
        free = {plug.code: _free(ways, ways.graph.carried[plug.code][0]) for plug in plugs}
        for one, other in combinations(plugs, 2):
            if mates[one.code] == other.code or mates[other.code] == one.code:
                continue
            reach = _reach_m(ways, (one.code, *free[one.code]), (other.code, *free[other.code]))
            if reach is not None and reach >= 0:
                yield one.code, other.code, reach


def _face(plug: Connector) -> object:
    """Return what tells a housing from others, as a hand and an eye tell it."""
    spots = frozenset((place.row, place.column) for place in places(plug.grid))
    sizes = frozenset(plug.contacts)
    return (spots, plug.grid.round, plug.key, plug.lever, plug.housing, plug.terminals,
            plug.contact, sizes)  # fmt: skip


Branch = tuple[str, float, str]
"""A plug, how much of its branch hangs free, m, and which zone it is in."""


def _reach_m(ways: Ways, one: Branch, other: Branch) -> float | None:
    """Return how much longer two branches are together than they lie apart, m; None where they
    hang from no one loom, or lie in two places by name.
    """
    (plug_1, free_1, zone_1), (plug_2, free_2, zone_2) = one, other
    if zone_1 and zone_2 and zone_1 != zone_2:
        return None
    carried = ways.graph.carried
    far = ways.graph.search(carried[plug_1][0]).far_m.get(carried[plug_2][0])
    if far is None:
        return None
    return free_1 + free_2 - max(0.0, far - free_1 - free_2)


def _free(ways: Ways, joint: str) -> tuple[float, str]:
    """Return how much of a branch hangs free before a plug, m, and which zone it is in."""
    graph = ways.graph
    free, here, came, zone = 0.0, joint, "", ""
    while True:
        onward = [(there, run) for there, run, _ in graph.at[here] if run != came]
        if len(onward) != 1 or (here != joint and graph.joints[here].kind in ("clip", "grommet")):
            return free, zone
        there, code = onward[0]
        run = graph.runs[code]
        zone = zone or run.zone
        length = (run.length_m or 0.0) + run.slack_m
        if run.clips:
            return free + length / (run.clips + 1), zone
        free, here, came = free + length, there, code


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
    """Return the plugs that can be swapped, what would burn first. point: the job as it is,
    solved in a state.
    """
    solvable = any(device.kind == "battery" for device in job.devices)
    found: list[Alike] = []
    solved, nears = 0, dict[State, Near]()
    for one, other, reach in in_reach(job, ways):
        look_up()
        if _same_nets(job, network, one, other):
            found.append(Alike(one, other, reach, "harmless", ()))
        elif not solvable or solved >= MOST_SOLVED:
            found.append(Alike(one, other, reach, "not known", ()))
        else:
            solved += 1
            nears = nears or _nears(point)
            faults = swaps(network, one, other)
            found.append(_judged((one, other), reach, faults, nears, point))
    rank = {"burns": 0, "does not run": 1, "works wrongly": 2, "not known": 3, "harmless": 4}
    return tuple(sorted(found, key=lambda pair: (
        rank[pair.does], not any("does not start" in words for words in pair.said), -pair.reach_m,
    )))  # fmt: skip


def _same_nets(job: Job, network: Network, one: str, other: str) -> bool:
    """Return whether a swap joins nothing else than before: the same nets, cavity for cavity."""
    plug = job.connector(one)
    assert plug is not None
    cavities = [place.cavity for place in places(plug.grid)]
    nets = network.net_of
    return all(
        nets.get(End(one, cavity), -1) == nets.get(End(other, cavity), -1) for cavity in cavities
    )


def _nears(point: Callable[[State], OperatingPoint]) -> dict[State, Near]:
    """Return the job as it is in each state that can be solved, to be corrected by each swap."""
    rest = None if point(RUN).problem else Near(point(RUN))
    return {state: rest if rest and state == RUN
            else Near(point(state), rest=rest if state.running else None)
            for state in STATES if not point(state).problem}  # fmt: skip


def _judged(
    pair: tuple[str, str], reach: float, faults: frozenset[Fault], nears: dict[State, Near],
    point: Callable[[State], OperatingPoint],
) -> Alike:  # fmt: skip
    before, after = {}, {}
    for state, near in nears.items():
        now = near.faulty(faults)
        if not now.problem:
            before[state.name], after[state.name] = point(state), now
    if not before:
        return Alike(*pair, reach, "not known", ())
    said = list(symptoms(before, after))
    burns = [f"{name} gets {volts:.1f} V." for name, volts in _hurt(before, after)]
    burns += [words for words in said if " blows" in words]
    if burns:
        does: Does = "burns"
    elif any("does not start" in words or "dead instead" in words for words in said):
        does = "does not run"
    else:
        does = "works wrongly"
    rest = [words for words in said if words not in burns]
    return Alike(*pair, reach, does, (*burns, *rest))


def _hurt(
    before: dict[str, OperatingPoint], after: dict[str, OperatingPoint]
) -> Iterator[tuple[str, float]]:
    """Yield the sensors that get more than they bear, by name, and how much, V."""
    kinds = {device.code: device.kind for point in after.values() for device in point.job.devices}
    most: dict[str, float] = defaultdict(float)
    for point in before.values():
        for load in point.loads:
            most[load.device] = max(most[load.device], abs(load.volts))
    told: set[str] = set()
    for point in after.values():
        for load in point.loads:
            fragile = kinds[load.device] in FRAGILE and load.device not in told
            if fragile and abs(load.volts) > max(HURTS * most[load.device], FED_V):
                told.add(load.device)
                yield load.name, abs(load.volts)
