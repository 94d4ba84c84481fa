"""Before it is opened: what to measure, photograph and mark, so that nothing is cut before it is
recorded. A step is done by what it brought into the job, not by a tick: a length, a measure, where
a wire goes, a photo.
"""

from collections.abc import Iterator, Set

from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.loom_edits import find
from molvik.steps import Step
from molvik.survey.spread import stretches_of
from molvik.survey.tree import LoomTree
from molvik.wording import figures, some

BATTERY = "battery"
"""The one step that leaves nothing but its tick."""

MOST_ENDS = 10

BY_A_PHOTO = "P picks a photo; or drop it here, or let the camera's folder be watched."


def before_opening(tree: LoomTree) -> tuple[Step, ...]:
    """Return the steps, in the order in which a loom is gone over: ends, breakouts, the rest."""
    battery = Step(BATTERY, "", "Battery off", "and the keys out; airbag circuits left alone")
    return (battery, *_nodes(tree), *_stretches(tree), *_wires(tree), *_faults(tree))


def recorded(loom: Loom, ticked: Set[str], photographed: Set[str]) -> set[str]:
    """Return the steps that are done, by their keys. ticked: what was ticked; photographed: the
    codes of what there is a photo of.
    """
    done = {BATTERY} & set(ticked)
    for thing in loom.things():
        match thing:
            case Node():
                done |= {f"mark {thing.code}"} if thing.mark else set()
            case Segment():
                done |= {f"measure {thing.code}"} if thing.length_m is not None else set()
            case FoundWire():
                done |= {f"gauge {thing.code}"} if thing.size is not None else set()
                done |= {f"trace {thing.code}"} if thing.known == "traced" else set()
            case Fault():
                pass
    return done | {f"photo {code}" for code in photographed}


def asks_for_a_photo(step: Step) -> bool:
    """Return whether a step is done by a photo."""
    return step.key.startswith("photo ")


def _name(tree: LoomTree, code: str) -> str:
    node = tree.nodes.get(code)
    return node.name if node is not None else "an end not known yet"


def _nodes(tree: LoomTree) -> Iterator[Step]:
    ends = [node for node in tree.loom.nodes if tree.is_end(node.code)]
    for node in ends:
        where = node.plugs_into or "say what it plugs into"
        words = f"tie a label on with {node.code}; {where}"
        yield Step(f"mark {node.code}", node.code, f"Mark {node.name}", words)
    for node in ends:
        words = f"its face and its wire side, with the label in view. {BY_A_PHOTO}"
        yield Step(f"photo {node.code}", node.code, f"Photograph {node.name}", words)
    for node in filter(lambda node: not tree.is_end(node.code), tree.loom.nodes):
        words = f"from above, with a rule beside it and the labels in view. {BY_A_PHOTO}"
        yield Step(f"photo {node.code}", node.code, f"Photograph {node.name}", words)


def _stretches(tree: LoomTree) -> Iterator[Step]:
    for segment in tree.loom.segments:
        begin, end = _name(tree, segment.start), _name(tree, segment.finish)
        known = "" if segment.length_m is None else f"{figures(segment.length_m)} m"
        yield Step(
            f"measure {segment.code}",
            segment.code,
            f"Measure from {begin} to {end}",
            f"{segment.code}, from middle of breakout to middle of breakout",
            asks="480 mm",
            shown=known,
        )


def _wires(tree: LoomTree) -> Iterator[Step]:
    ends = [f"{node.code} {node.name}" for node in tree.loom.nodes if tree.is_end(node.code)]
    for wire in tree.loom.wires:
        name = f"{wire.code} {wire.function}".strip()
        where = f"at {_name(tree, wire.start)}"
        yield Step(
            f"gauge {wire.code}",
            wire.code,
            f"Gauge {name}",
            f"{where}: copper and outside in mm, 1.3/2.6, or strands, 19x0.3",
            asks="1.3/2.6",
            shown=f"{wire.seen} {wire.size or ''}".strip(),
            letters="x/*.,",
        )
        if wire.finish:
            word = "presumed: " if wire.known == "presumed" else "goes to "
            others = [end for end in ends if not end.startswith(f"{wire.start} ")]
            yield Step(
                f"trace {wire.code}",
                wire.code,
                f"Trace {name}",
                f"{where}, by continuity, before anything is cut: which end does it go to? "
                f"{some(others, MOST_ENDS)}",
                asks=wire.finish,
                shown=f"{word}{wire.finish} {_name(tree, wire.finish)}",
                begins="nN",
                letters="nN",
            )


def _faults(tree: LoomTree) -> Iterator[Step]:
    for fault in tree.loom.faults:
        places = ", ".join(stretch.segment for stretch in stretches_of(tree, fault))
        on = find(tree.loom, fault.on)
        named = getattr(on, "function", "") or getattr(on, "name", "")
        words = f"on {fault.on} {named}".strip() + (f"; in {places}" if places else "")
        words = f"{words}. {BY_A_PHOTO}"
        yield Step(
            f"photo {fault.code}", fault.code, f"Photograph {fault.code}, {fault.kind}", words
        )
