"""Which parts a voltage or a dead device can be about: what lies between it and the battery."""

from collections import defaultdict
from collections.abc import Iterable

from molvik.devices import kind_of
from molvik.devices.nodes import METAL, owner_of
from molvik.devices.states import State
from molvik.netlist.circuitgraph import Branch, circuit_graph
from molvik.netlist.network import Network


def connected_parts(network: Network, state: State, starts: Iterable[str]) -> frozenset[str]:
    """Return the codes of the parts on any way from some nodes to the battery and to metal, those
    that move a relay's contact or make a controller act on such a way counted in.
    """
    made = circuit_graph(network, state)
    near: dict[str, list[Branch]] = defaultdict(list)
    for link in (*made.fixed, *made.switched(state, frozenset(), ())):
        near[link.a].append(link)
        near[link.b].append(link)
    devices = {device.code: device for device in made.devices}
    ends = {made.live, made.reference, METAL}
    found: set[str] = set()
    seen: set[str] = set()
    waiting = [node for node in starts if node]
    while waiting:
        here = waiting.pop()
        if here in seen:
            continue
        seen.add(here)
        code = owner_of(here)
        device = devices.get(code)
        if device is not None and code not in found:
            found.add(code)
            waiting += kind_of(device).fed_at(made, device)
        if here in ends:
            continue
        for link in near[here]:
            found.add(owner_of(link.part))
            waiting += [link.a, link.b]
    return frozenset(found)
