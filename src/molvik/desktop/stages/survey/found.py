"""What to show of a thing of the loom as found when it is in hand."""

from contextlib import suppress

from molvik.analysis import Analysis
from molvik.desktop.panel.card import Shown
from molvik.desktop.panel.facts import Facts
from molvik.model.loom import Fault, FoundWire, Node, Segment
from molvik.model.loom_edits import Found
from molvik.model.refs import Ref
from molvik.parsing.quantities import QuantityError
from molvik.reference.colours import colour_name
from molvik.survey.candidates import candidates
from molvik.survey.decide import decide
from molvik.survey.linked import found_as
from molvik.survey.measured import reckon
from molvik.survey.repair_method import repair_method_text
from molvik.survey.rules import GRADES, Decision, grade_of
from molvik.survey.spread import spread
from molvik.wording import counted, figures

MOST = 8
"""So many neighbours or candidates are named; the rest are counted."""


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return what the loom as found says of a wire in hand."""
    found = found_as(analysis.loom, ref.code) if ref.code in analysis.network.wires else None
    if found is None:
        return []
    length = analysis.loom.length_m(found.code)
    words = f"{found.code}, {length:.2f} m along the loom, {found.family or 'insulation not named'}"
    return [("As found", words, ""), *_faults_on(analysis, found.code)]


def show_found(analysis: Analysis, thing: Found) -> Shown:
    """Return what to show of a thing of the loom."""
    match thing:
        case Node():
            return _node(analysis, thing)
        case Segment():
            return _segment(analysis, thing)
        case FoundWire():
            return _wire(analysis, thing)
        case Fault():
            return _fault(analysis, thing)


def _faults_on(analysis: Analysis, code: str) -> Facts:
    tree = analysis.loom
    return [
        ("Fault" if n == 0 else "", f"{f.code} {f.kind}: {decide(tree, f).action}", "bad")
        for n, f in enumerate(f for f in tree.loom.faults if f.on == code)
    ]


def _node(analysis: Analysis, node: Node) -> Shown:
    tree = analysis.loom
    wires = [w.code for w in tree.loom.wires if node.code in (w.start, w.finish)]
    facts: Facts = [
        ("Wires", ", ".join(wires) or "none", ""),
        *_faults_on(analysis, node.code),
    ]
    if tree.is_end(node.code):
        ways = f", {node.ways} cavities" if node.ways else ""
        return Shown(node.name, f"{node.code} · end{ways}", facts)
    return Shown(node.name, f"{node.code} · breakout", facts)


def _segment(analysis: Analysis, segment: Segment) -> Shown:
    tree = analysis.loom
    names = [tree.nodes[n].name if n else "?" for n in (segment.start, segment.finish)]
    wires = tree.wires_in.get(segment.code, ())
    length = "length not known" if segment.length_m is None else f"{figures(segment.length_m)} m"
    facts: Facts = [
        ("Wires", f"{len(wires)}: {', '.join(wires)}" if wires else "none", ""),
        *_faults_on(analysis, segment.code),
    ]
    return Shown(" to ".join(names), f"{segment.code} · {length}", facts)


def _wire(analysis: Analysis, wire: FoundWire) -> Shown:
    tree = analysis.loom
    ends = [tree.nodes[n].name if n else "cut off" for n in (wire.start, wire.finish)]
    facts: Facts = [
        ("Route", " to ".join(ends), ""),
        ("Runs through", ", ".join(s.segment for s in tree.ways[wire.code]) or "not known", ""),
        ("Length", f"{tree.length_m(wire.code):.2f} m along the loom", ""),
    ]
    if wire.fused is False and wire.role == "supply":
        facts.append(("No fuse", "a supply without one", "bad"))
    with suppress(QuantityError):  # its field shows what was typed
        facts += [("Estimated", reckon(wire.seen).text, "")] if wire.seen else []
    facts += _faults_on(analysis, wire.code)
    if not wire.finish:
        likely = candidates(tree, wire, analysis.network)
        facts += [
            (
                "Perhaps" if n == 0 else "",
                f"{candidate.end} {candidate.function}: {candidate.why}",
                "",
            )
            for n, candidate in enumerate(likely[:MOST])
        ]
    named = colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else "colour not seen"
    under = f"{wire.code} · {named} · {wire.size or 'size not measured'}"
    return Shown(
        wire.function or f"Wire {wire.code}",
        under,
        facts,
        wire.colour,
        has_colour=wire.colour is not None,
    )


def _joint(analysis: Analysis, decision: Decision) -> Facts:
    if decision.action != "splice in a piece":
        return []
    return [("Joints", repair_method_text(analysis.job.settings), "")]


def _fault(analysis: Analysis, fault: Fault) -> Shown:
    tree = analysis.loom
    decision, grade = decide(tree, fault), grade_of(tree, fault)
    reach = spread(tree, fault)
    facts: Facts = [
        ("Do", decision.action, "bad" if grade >= 3 else "look"),
        ("How", decision.how or "–", ""),
        ("Because", decision.reason or "–", ""),
        *_joint(analysis, decision),
        ("Decided", "by you" if decision.own else "proposed; overrule it above", ""),
        ("Open", f"{reach.open_m:.2f} m of covering", ""),
        ("Inspect", f"{counted(len(reach.inspect), 'wire')} beside it", ""),
    ]
    names = {w.code: w.function for w in tree.loom.wires}
    facts += [
        ("", f"{code} {names[code]}, {metres:.2f} m", "")
        for code, metres in list(reach.inspect.items())[:MOST]
    ]
    if len(reach.inspect) > MOST:
        facts.append(("", f"and {len(reach.inspect) - MOST} more", ""))
    at = "" if fault.at_m is None else f", {fault.at_m:g} m along"
    under = f"{fault.code} · on {fault.on}{at} · grade {grade}, {GRADES[grade]}"
    return Shown(fault.kind.capitalize(), under, facts)
