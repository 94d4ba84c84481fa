"""Before it is opened: what to measure, photograph and mark, so that nothing is cut before it is
recorded.
"""

from molvik.steps import Step
from molvik.survey.spread import stretches_of
from molvik.survey.tree import LoomTree


def before_opening(tree: LoomTree) -> tuple[Step, ...]:
    """Return the steps, in the order in which a loom is gone over: ends, breakouts, the rest."""
    steps = [Step("battery", "", "Battery off", "and the keys out; airbag circuits left alone")]
    ends = [node for node in tree.loom.nodes if tree.is_end(node.code)]
    for node in ends:
        where = node.plugs_into or "say what it plugs into"
        steps.append(
            Step(f"mark {node.code}", node.code, f"Mark {node.name}", f"label {node.code}; {where}")
        )
    for node in tree.loom.nodes:
        if node not in ends:
            steps.append(
                Step(
                    f"photo {node.code}",
                    node.code,
                    f"Photograph {node.name}",
                    "from above, with a rule beside it and the labels in view",
                )
            )
    for segment in tree.loom.segments:
        if segment.length_m is None:
            steps.append(
                Step(
                    f"measure {segment.code}",
                    segment.code,
                    f"Measure {segment.code}",
                    "from middle of breakout to middle of breakout",
                )
            )
    for wire in tree.loom.wires:
        if wire.size is None:
            steps.append(
                Step(
                    f"gauge {wire.code}",
                    wire.code,
                    f"Gauge {wire.code} {wire.function}".strip(),
                    "over the copper, or count the strands",
                )
            )
        if wire.known == "presumed" and wire.finish:
            steps.append(
                Step(
                    f"trace {wire.code}",
                    wire.code,
                    f"Trace {wire.code} {wire.function}".strip(),
                    "by continuity, end to end, before anything is cut",
                )
            )
    for fault in tree.loom.faults:
        places = ", ".join(stretch.segment for stretch in stretches_of(tree, fault))
        steps.append(
            Step(
                f"fault {fault.code}",
                fault.code,
                f"Photograph {fault.code}, {fault.kind}",
                f"on {fault.on}" + (f"; in {places}" if places else ""),
            )
        )
    return tuple(steps)
