"""Before it is opened: what to measure, photograph and mark, so that nothing is cut before it is
recorded.
"""

from collections.abc import Iterator

from molvik.steps import Step
from molvik.survey.spread import stretches_of
from molvik.survey.tree import LoomTree


def before_opening(tree: LoomTree) -> tuple[Step, ...]:
    """Return the steps, in the order in which a loom is gone over: ends, breakouts, the rest."""
    battery = Step("battery", "", "Battery off", "and the keys out; airbag circuits left alone")
    return (battery, *_nodes(tree), *_stretches(tree), *_wires(tree), *_faults(tree))


def _nodes(tree: LoomTree) -> Iterator[Step]:
    for node in filter(lambda node: tree.is_end(node.code), tree.loom.nodes):
        where = node.plugs_into or "say what it plugs into"
        words = f"label {node.code}; {where}"
        yield Step(f"mark {node.code}", node.code, f"Mark {node.name}", words)
    for node in filter(lambda node: not tree.is_end(node.code), tree.loom.nodes):
        words = "from above, with a rule beside it and the labels in view"
        yield Step(f"photo {node.code}", node.code, f"Photograph {node.name}", words)


def _stretches(tree: LoomTree) -> Iterator[Step]:
    for segment in tree.loom.segments:
        if segment.length_m is None:
            words = "from middle of breakout to middle of breakout"
            yield Step(f"measure {segment.code}", segment.code, f"Measure {segment.code}", words)


def _wires(tree: LoomTree) -> Iterator[Step]:
    for wire in tree.loom.wires:
        name = f"{wire.code} {wire.function}".strip()
        if wire.size is None:
            words = "over the copper, or count the strands"
            yield Step(f"gauge {wire.code}", wire.code, f"Gauge {name}", words)
        if wire.known == "presumed" and wire.finish:
            words = "by continuity, end to end, before anything is cut"
            yield Step(f"trace {wire.code}", wire.code, f"Trace {name}", words)


def _faults(tree: LoomTree) -> Iterator[Step]:
    for fault in tree.loom.faults:
        places = ", ".join(stretch.segment for stretch in stretches_of(tree, fault))
        words = f"on {fault.on}" + (f"; in {places}" if places else "")
        name = f"Photograph {fault.code}, {fault.kind}"
        yield Step(f"fault {fault.code}", fault.code, name, words)
