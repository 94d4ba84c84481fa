"""What lies on the bench: the parts that matter for what is looked at, with where probes go."""

from collections import defaultdict, deque
from collections.abc import Iterable, Iterator

from molvik.devices import kind_of
from molvik.devices.nodes import owner_of
from molvik.devices.states import RUN
from molvik.model.job import code_order
from molvik.model.parts import Device, EarthPoint, Splice
from molvik.netlist.branches import by_node, tree
from molvik.netlist.circuitgraph import circuit_graph
from molvik.netlist.network import Network

MOST_SHOWN = 16
"""So many parts lie on the bench at first; others are found by name."""

MOST_TERMINALS = 8
"""From so many terminals of a part its ways are followed."""


def what_matters(network: Network, codes: Iterable[str], most: int = MOST_SHOWN) -> tuple[str, ...]:
    """Return the codes of the parts that matter for some: these first, what lies on their ways to
    the battery and to its earth, and on those of the relays on them; then what is nearest.
    """
    starts = [_home(network, code) for code in codes if code in network.parts]
    found = dict.fromkeys((*starts, *_on_ways(network, starts)))
    near = _joined(network)
    waiting = deque(starts)
    while waiting and len(found) < most:
        here = waiting.popleft()
        if here not in starts and isinstance(network.parts[here], EarthPoint):
            continue  # all that is earthed meets there
        for there in sorted(near.get(here, ()), key=code_order):
            if there not in found:
                found[there] = None
                waiting.append(there)
    shown = [code for code in found if not isinstance(network.parts[code], Splice)]
    battery = [d.code for d in network.job.devices if d.kind == "battery"][:1]
    return tuple(dict.fromkeys((*battery, *shown[:most])))


def _home(network: Network, code: str) -> str:
    """Return where a part is probed: at the plug of a device that has one."""
    part = network.parts[code]
    return part.plug if isinstance(part, Device) and part.plug in network.parts else code


def _on_ways(network: Network, starts: Iterable[str]) -> Iterator[str]:
    """Yield the parts on the ways of some to the battery and its earth, every contact closed; those
    of the coils of relays on them after these.
    """
    made = circuit_graph(network, RUN)
    links = (link._replace(closed=True) for link in made.switched(RUN, frozenset(), ()))
    known = by_node((*made.fixed, *links))
    trees = [tree(known, pole) for pole in (made.live, made.reference) if pole]
    nodes: dict[str, list[str]] = defaultdict(list)
    for node in known:
        nodes[owner_of(node)].append(node)
    waiting, seen = list(starts), set(starts)
    for here in waiting:  # it grows by relays
        for node in sorted(nodes.get(here, ()))[:MOST_TERMINALS]:
            for reach in trees:
                for link in reach.way_to(node) if node in reach.came else ():
                    for code in map(owner_of, (link.a, link.b)):
                        part = network.parts.get(code)
                        if part is None or code in seen:
                            continue
                        seen.add(code)
                        yield code
                        if isinstance(part, Device) and kind_of(part).is_pulled:
                            waiting.append(code)


def _joined(network: Network) -> dict[str, set[str]]:
    """From each part those that a wire, or a plug, joins to it."""
    found: dict[str, set[str]] = defaultdict(set)
    pairs = [(wire.start.at, wire.finish.at) for wire in network.job.wires]
    pairs += [(plug.code, plug.plugs_into) for plug in network.job.connectors]
    pairs += [(device.code, device.plug) for device in network.job.devices]
    for one, other in pairs:
        if one != other and one in network.parts and other in network.parts:
            found[one].add(other)
            found[other].add(one)
    return found
