"""What routing says of a wire in hand: its way, and what it is cut to."""

from molvik.analysis import Analysis
from molvik.desktop.panel.facts import Facts
from molvik.desktop.stages.page import known_now
from molvik.model.parts import Connector, Splice
from molvik.model.refs import Ref
from molvik.model.routing import Run
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.bends import least_radius_mm
from molvik.routing.layers import layups
from molvik.routing.lengths import CutLength
from molvik.routing.outlines import is_measured, outline_mm
from molvik.routing.sections import Section
from molvik.routing.ways import route_text, run_name
from molvik.wording import counted


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return the way of a wire in hand."""
    if not analysis.job.routing.joints:
        return []
    part = analysis.job.part(ref.code)
    if isinstance(part, Splice | Connector):
        return part_facts(analysis, part)
    if ref.code not in analysis.network.wires:
        return []
    if not known_now(analysis):
        return [("Route", "is being found …", "")]
    way = analysis.electrics.ways.of.get(ref.code)
    if way is None:
        return []
    if way.problem:
        return [("Route", f"none: {way.problem}", "bad" if way.start else "look")]
    facts: Facts = [("Route", route_text(analysis.electrics.ways.graph, way), "")]
    cut = analysis.cut_lengths.get(ref.code)
    if cut is None:
        return [*facts, ("Cut length", "not known: a stretch has no length yet", "look")]
    facts.append(("Cut length", cut_words(cut), ""))
    if cut.differs_m is not None:
        more = (
            f"{abs(cut.differs_m):.2f} m {'longer' if cut.differs_m > 0 else 'shorter'} than that"
        )
        facts.append(
            ("Its length", f"{cut.now_m:.2f} m, {more}", "bad" if cut.differs_m < 0 else "")
        )
    return facts


def cut_words(cut: CutLength) -> str:
    """Return what a wire is cut to, with what it is made of."""
    words = [f"{cut.way_m:.2f} route", f"{sum(cut.ends_m):.2f} ends"]
    words += [f"{cut.slack_m:.2f} slack"] if cut.slack_m else []
    words += [f"{cut.twist_m:.2f} twist"] if cut.twist_m >= 0.005 else []
    return f"{cut.cut_m:.2f} m: {' + '.join(words)}"


def part_facts(analysis: Analysis, part: Splice | Connector) -> Facts:
    """Return where a splice lies and would lie best; how large a plug is, and what is like it."""
    if not known_now(analysis):
        return []
    if isinstance(part, Connector):
        return _plug_facts(analysis, part)
    places = analysis.splice_places.get(part.code)
    if places is None or places.best is None:
        return []
    best = places.best
    if not best.run:
        return [("Lies best", f"where it is: {best.wire_m:.2f} m of wire", "")]
    graph = analysis.electrics.ways.graph
    begin = graph.joints[graph.runs[best.run].start].name or graph.runs[best.run].start
    words = f"in {run_name(graph, best.run)}, {best.at_m * 1000:.0f} mm from {begin}: "
    words += f"{best.wire_m:.2f} m of wire"
    if places.now is not None and best.wire_m > places.now.wire_m:
        words += ", more of it thin, less thick"
    facts: Facts = [("Lies best", words, "")]
    if places.now is not None:
        saves = f"{places.saves_m:.2f} m more than there" if places.saves_m else "nearly as good"
        facts.append(
            (
                "Lies now",
                f"{places.now.wire_m:.2f} m of wire, {saves}",
                "look" if places.saves_m else "",
            )
        )
    return facts


def _plug_facts(analysis: Analysis, plug: Connector) -> Facts:
    if not analysis.electrics.ways.graph.carried.get(plug.code):
        return []
    wide, high = outline_mm(plug)
    how = "" if is_measured(plug) else ", by its cavities"
    facts: Facts = [("Outside", f"{wide:.0f} by {high:.0f} mm{how}", "")]
    for pair in analysis.electrics.alike:
        if plug.code in (pair.one, pair.other):
            other = pair.other if pair.one == plug.code else pair.one
            role = {"damages": "bad", "harmless": ""}.get(pair.does, "look")
            facts.append(("Looks like" if len(facts) == 1 else "", f"{other}: {pair.does}", role))
    return facts[:6]


def _layups(run: Run, section: Section) -> tuple[str, str, str]:
    """Return the numbers of wires that may lie in the middle, and how thick each makes the loom."""
    codes = [code for layer in section.layers for code in layer.codes]
    widths = [width for layer in section.layers for width in layer.widths_mm]
    known = layups(codes, widths)
    ways = ", ".join(f"{count} {made[-1].over_mm:.1f} mm" for count, made in known.items())
    if run.middle is not None and run.middle not in known:
        return "In the middle", f"{run.middle} would not lie side by side here; {ways}", "look"
    return "In the middle", f"{len(section.layers[0].codes)} of {ways}", ""


def run_facts(analysis: Analysis, run: Run) -> Facts:
    """Return what covers a stretch, how tight it may be bent, what comes off to reach it."""
    section, zone = analysis.sections[run.code], analysis.job.routing.zone(run.zone)
    facts: Facts = []
    cover = analysis.covers.get(run.code)
    if cover is not None:
        name = COVERINGS[cover.covering].name
        size = f" {cover.size} mm" if cover.size else ""
        stock = f", from {cover.item}" if cover.item else ""
        words = cover.problem or f"{cover.amount_m:.2f} m of {name}{size}{stock}"
        facts.append(("Take", words, "look" if cover.problem else ""))
    if section.over_mm:
        stiff = ", since its covering is stiff" if COVERINGS.get(run.covering, BARE).stiff else ""
        facts.append(
            ("Bend it", f"no tighter than {least_radius_mm(run, zone, section):.0f} mm{stiff}", "")
        )
    if section.layers:
        facts.append(_layups(run, section))
    for number, layer in enumerate(section.layers):
        hand = "to the right" if layer.right else "to the left"
        how = f"{hand}, lay length {layer.lay_mm:.0f} mm" if layer.lay_mm else "straight"
        fill = (
            f", {counted(layer.fillers, 'filler')} of {layer.filler_mm:.1f} mm"
            if layer.fillers
            else ""
        )
        facts.append((f"Layer {number}", f"{len(layer.codes)}: {how}{fill}", ""))
    if zone.access:
        facts.append(("To reach it", f"{zone.access}, {zone.access_min:.0f} min", ""))
    return facts
