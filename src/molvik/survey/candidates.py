"""What a wire cut off in mid-loom probably was: by its colour and by what it lies beside."""

from typing import NamedTuple

from molvik.model.loom import FoundWire
from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.survey.tree import LoomTree


class Candidate(NamedTuple):
    """A cavity of a pinout that a wire may have come from, with the reason."""

    end: End
    function: str
    score: float
    why: str


def candidates(tree: LoomTree, wire: FoundWire, network: Network) -> tuple[Candidate, ...]:
    """Return the cavities a wire may belong to, the likeliest first.

    A pin counts when its base colour is the wire's; more when the tracer is too, when its connector
    hangs on an end the wire or its neighbours go to, and when no wire is there yet.
    """
    if wire.colour is None:
        return ()
    near = _connectors_near(tree, wire)
    found: list[Candidate] = []
    for connector in network.job.connectors:
        for pin in connector.pins:
            if pin.colour is None or pin.colour.base != wire.colour.base or not pin.function:
                continue
            end = End(connector.code, pin.cavity)
            score, why = 1.0, ["same base colour"]
            if pin.colour.tracer == wire.colour.tracer:
                score, why = 3.0, ["same colour and tracer"]
            if connector.code in near:
                score += 1.5
                why.append("its neighbours go there")
            if end not in network.wires_at:
                score += 0.5
                why.append("no wire there yet")
            found.append(Candidate(end, pin.function, score, ", ".join(why)))
    return tuple(sorted(found, key=lambda candidate: (-candidate.score, str(candidate.end))))


def _connectors_near(tree: LoomTree, wire: FoundWire) -> set[str]:
    """Return the connectors at the ends of a wire and of those beside it."""
    beside = {wire.code, *tree.beside(tree.ways[wire.code], but=wire.code)}
    nodes = {
        node
        for found_wire in tree.loom.wires
        if found_wire.code in beside
        for node in (found_wire.start, found_wire.finish)
        if node
    }
    return {tree.nodes[node].connector for node in nodes if tree.nodes[node].connector}
