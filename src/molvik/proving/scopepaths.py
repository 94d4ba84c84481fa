"""Which parts lie on the ways between what was seen and the battery, and what moves the contacts on
them: in a large job only these are thought of, for nearly all of it is joined to all (`region`).

What lies on no way from one of the points asked for to another or to the battery carries nothing of
theirs: the ways are the edges of one biconnected part of the network, once all these points are
joined to one more. What else a fault elsewhere does to them comes by a fuse on these ways.
"""

from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator
from typing import Any

from molvik.devices import kind_of
from molvik.devices.kind import DeviceStates, terminals_named
from molvik.devices.nodes import METAL, owner_of
from molvik.devices.states import State
from molvik.lazy import cached_property
from molvik.model.parts import Device
from molvik.model.refs import end_text
from molvik.netlist.circuitgraph import Branch, circuit_graph
from molvik.netlist.network import Network

COPPER = ("wire", "contact")
"""Links that are nothing but wires and plugs."""


class ScopePaths:
    """The ways of a network in a state, open ones too: any may be closed by a fault."""

    def __init__(self, network: Network, state: State) -> None:
        self._state = state
        self._wiring = circuit_graph(network, state)
        self._links = (*self._wiring.fixed, *self._wiring.switched(state, frozenset(), ()))
        self._devices = {device.code: device for device in self._wiring.devices}

    @cached_property
    def _near(self) -> dict[str, list[Branch]]:
        near: dict[str, list[Branch]] = defaultdict(list)
        for link in self._links:
            near[link.a].append(link)
            near[link.b].append(link)
        return near

    @cached_property
    def _ends(self) -> frozenset[str]:
        """Where a way may end: batteries, metal, and alternators, which let their lamp through."""
        found = {METAL, self._wiring.reference}
        for device in self._devices.values():
            if kind_of(device).source("+"):
                found |= {end_text(device.code, name) for name in terminals_named(device)}
        return frozenset(found)

    @cached_property
    def _in_line(self) -> dict[str, list[tuple[str, str]]]:
        """From each node the devices that pass a current on, neither end of which is earthed, with
        their other ends: diodes, resistors, sensors, a charge lamp. What is earthed is beside other
        ways, not on them.
        """
        earthed = self._joined((METAL, self._wiring.reference))
        found: dict[str, list[tuple[str, str]]] = defaultdict(list)
        for device in self._devices.values():
            kind = kind_of(device)
            if not kind.crossed:
                continue
            for element in kind.elements(self._wiring, device, self._state, DeviceStates()):
                a, b = element[1], element[2]
                if a not in earthed and b not in earthed:
                    found[a].append((b, device.code))
                    found[b].append((a, device.code))
        return found

    def _joined(self, starts: Iterable[str], *, by: Collection[str] = ()) -> set[str]:
        """Return the nodes that links join to some. by: only such links, and no further than where
        ways end.
        """
        waiting, seen = list(starts), set[str]()
        while waiting:
            here = waiting.pop()
            if here in seen:
                continue
            seen.add(here)
            if not by or here not in self._ends:
                for link in self._near.get(here, ()):
                    if not by or link.what in by:
                        waiting += [link.a, link.b]
        return seen

    def about(self, starts: Iterable[str]) -> frozenset[str]:
        """Return the codes of the parts that what is seen at some nodes can be about."""
        targets = {node for node in starts if node}
        devices = {code for node in targets if (code := owner_of(node)) in self._devices}
        while True:
            codes, fed = self._between(targets)
            hung, passed = self._hung(targets - fed)
            driven = set(filter(self._is_output, self._joined(targets, by=COPPER)))
            codes |= passed
            met = codes | {owner_of(node) for node in hung | driven}
            devices |= met & self._devices.keys()
            more = {node for code in devices for node in self._moved_by(self._devices[code])}
            if more | driven <= targets:
                break
            targets |= more | driven
        return frozenset({owner_of(code) for code in codes} | devices)

    def _hung(self, starts: set[str]) -> tuple[set[str], set[str]]:
        """Return what hangs on some nodes that no way reaches, sensors between controllers: the
        nodes, and the parts.
        """
        nodes, codes = self._joined(starts, by=COPPER), set[str]()
        while True:
            across = [
                (there, code) for node in nodes for there, code in self._in_line.get(node, ())
            ]
            codes |= {code for _, code in across}
            more = self._joined((there for there, _ in across), by=COPPER) - nodes
            if not more:
                break
            nodes |= more
        links = (link for node in nodes - self._ends for link in self._near.get(node, ()))
        return nodes, codes | {link.part for link in links}

    def _between(self, targets: set[str]) -> tuple[set[str], set[str]]:
        """Return what is on any way from one of some nodes to another or to an end: the
        parts, and which nodes a way to an end reaches.
        """
        import networkx

        graph: networkx.Graph[str] = networkx.Graph()
        graph.add_edges_from((link.a, link.b) for link in self._links)
        graph.add_edges_from((a, b) for a, some in self._in_line.items() for b, _ in some)
        graph.add_edges_from(("", node) for node in targets | self._ends if node in graph)
        # The stubs of networkx have sets of sets for sets of nodes.
        parts: Iterable[Any] = networkx.biconnected_components(graph)
        nodes: set[str] = {node for part in parts if "" in part for node in part if node}
        codes = {link.part for link in self._links if link.a in nodes and link.b in nodes}
        codes |= {code for a in nodes for b, code in self._in_line.get(a, ()) if b in nodes}
        joined: Iterable[Any] = networkx.connected_components(graph.subgraph(nodes))
        fed: set[str] = {n for part in joined if not self._ends.isdisjoint(part) for n in part}
        return codes, fed

    def _is_output(self, node: str) -> bool:
        device = self._devices.get(owner_of(node))
        outputs = device.outputs if device is not None else ()
        return any(node == end_text(owner_of(node), output.terminal) for output in outputs)

    def _moved_by(self, device: Device) -> Iterator[str]:
        """Yield the nodes whose voltages decide what a device does to others."""
        return kind_of(device).decided_at(self._wiring, device)
