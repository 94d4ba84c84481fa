"""Rules about putting a loom to build together: what covers it, passes with it, can be swapped."""

from collections import Counter
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import Figure, Finding
from molvik.findings.kinds import Severity
from molvik.model.job import code_order
from molvik.model.parts import Connector
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.alike import Alike
from molvik.routing.bends import least_radius_mm
from molvik.routing.parting import partings
from molvik.wording import counted, some

APART_M = 0.05
"""Twisted cores stay together up to so far from their ends, m (common practice)."""

FREE_M = 0.15
"""A branch this long with nothing that holds it pulls at its plug, m (common practice: it is held
within 100 mm of a plug)."""


def fits_nothing(analysis: Analysis) -> Iterator[Finding]:
    """A covering of which no size goes over what lies in the stretch."""
    for cover in analysis.covers.values():
        if cover.problem:
            yield Finding(
                "covering-fits-nothing",
                "look",
                cover.run,
                f"{cover.run}: {cover.problem}.",
                "You would find out with the loom made, and leave the covering off.",
                "Take another covering there, part the bundle, or enter what you have in stock "
                "with its bore.",
                (Figure("its diameter", cover.over_mm, "mm"),),
            )


def cannot_go_on(analysis: Analysis) -> Iterator[Finding]:
    """A sleeve, boot or grommet that cannot be put on any more: both sides carry their plugs."""
    made = analysis.assembly
    for stuck in made.stuck:
        ways = [", ".join(ends) for ends in stuck.closed if ends]
        closed = " and ".join(ways) or "what lies beside it"
        off = ", ".join(made.off)
        run = next((r for r in analysis.job.routing.runs if r.code == stuck.at), None)
        opens = ", or take a covering that opens: split tube, tape" if run else ""
        yield Finding(
            "sleeve-cannot-go-on",
            "stop",
            stuck.at,
            f"The {stuck.what} of {stuck.at} cannot be slid on any more: {closed} "
            f"{'carry their plugs' if len(ways) > 1 else 'carries its plug'} already.",
            "You would find out with the last plug on, and cut a plug off for it.",
            f"Cheapest: take off {off}, {counted(made.terminals, 'terminal')} in all{opens}."
            if off
            else f"Take a plug off first{opens}.",
            (Figure("terminals to take out", made.terminals),),
        )


def plug_does_not_pass(analysis: Analysis) -> Iterator[Finding]:
    """A plug that is larger than the hole it has to be threaded through with its wires."""
    names = analysis.electrics.ways.graph.joints
    for passage in analysis.hole_clearances:
        wide, high = passage.outline_mm
        measured = "" if passage.measured else ", by its cavities: measure it"
        asks = (
            f"Measure how deep {passage.plug} is: on edge, its wires folded back, it passes if it "
            f"is no deeper than {passage.deepest_mm:.0f} mm. Else: "
            if passage.deepest_mm
            else ""
        )
        does = (
            "both sides carry their plugs: take one off, use another hole, or part the loom "
            "there with a plug at the bulkhead."
            if passage.fixed
            else "thread the loom first and put the plugs of one side on afterwards, use another "
            "hole, or part the loom there with a plug at the bulkhead."
        )
        refused = passage.fixed and passage.measured and not asks
        yield Finding(
            "plug-does-not-pass",
            "stop" if refused else "look",
            passage.joint,
            f"{passage.plug} ({wide:.0f} by {high:.0f} mm{measured}) does not pass "
            f"{names[passage.joint].name}: with the wires there it takes {passage.need_mm:.0f} mm, "
            f"the hole has {passage.hole_mm:g} mm.",
            "You would find out with the loom half through the hole.",
            f"{asks}{does}" if asks else f"{does[0].upper()}{does[1:]}",
            (Figure("millimetres too large", passage.need_mm - passage.hole_mm, "mm"),),
        )


def bends_too_tight(analysis: Analysis) -> Iterator[Finding]:
    """A bend that is tighter than the bundle takes."""
    job = analysis.job
    for run in job.routing.runs:
        section = analysis.sections[run.code]
        least = least_radius_mm(run, job.routing.zone(run.zone), section)
        if run.bend_mm is not None and section.widths_mm and run.bend_mm < least:
            yield Finding(
                "bent-too-tight",
                "look",
                run.code,
                f"{run.code} has a bend radius of {run.bend_mm:.0f} mm; {section.over_mm:.0f} mm "
                f"of loom takes {least:.0f} mm or more as it lies there.",
                "Wires on the outside of a tight bend are stretched, those inside buckle.",
                "Use a larger bend radius, leave a stiff covering off at the bend, or part the "
                "bundle.",
                (Figure("millimetres too tight", least - run.bend_mm, "mm"),),
            )


def moves_without_slack(analysis: Analysis) -> Iterator[Finding]:
    """A stretch that moves and has no slack, or a stiff covering."""
    job = analysis.job
    for run in job.routing.runs:
        if not job.routing.zone(run.zone).moves:
            continue
        if not run.slack_m:
            yield Finding(
                "moves-without-slack",
                "look",
                run.code,
                f"{run.code} lies where one side moves against the other, and has no slack.",
                "It is pulled each time, and strands break where it is held.",
                "Give it a loop: type its slack, and hold it on both sides of the gap.",
            )
        covering = COVERINGS.get(run.covering, BARE)
        if covering.stiff:
            yield Finding(
                "stiff-where-it-moves",
                "look",
                run.code,
                f"{run.code} flexes, and full-length {covering.name} makes it stiff.",
                "A loom taped all over hardly bends; it breaks at the end of the tape.",
                "Use braid, split tube, or tape only every 150 mm there.",
            )


def plug_not_held(analysis: Analysis) -> Iterator[Finding]:
    """Plugs on branches that nothing holds: one note for all."""
    graph = analysis.electrics.ways.graph
    free: list[str] = []
    for joint in analysis.job.routing.joints:
        near = graph.at[joint.code]
        plugs = [c for c in joint.carries if isinstance(analysis.job.part(c), Connector)]
        if not plugs or len(near) != 1:
            continue
        run = graph.runs[near[0][1]]
        if (run.length_m or 0.0) > FREE_M and not run.clips + run.ties:
            free += plugs
    if free:
        yield Finding(
            "plug-not-held",
            "note",
            "plugs",
            f"{some(free)}: nothing holds the branch, so that it hangs from its plug.",
            "Movement at a plug wears its terminals and its seals.",
            "A clip or tie within 100 mm of each plug (common practice).",
            (Figure("plugs", len(free)),),
        )


def cores_part(analysis: Analysis) -> Iterator[Finding]:
    """A twisted pair or cable whose cores go different ways."""
    for cable in dict.fromkeys(w.cable for w in analysis.job.wires if w.cable and w.lay_length_mm):
        apart = analysis.electrics.ways.apart_m(cable) if analysis.electrics.ways.of else 0.0
        if apart > APART_M:
            core = next(wire.code for wire in analysis.job.wires if wire.cable == cable)
            yield Finding(
                "cores-part",
                "look",
                core,
                f"The cores of {cable} go {apart:.2f} m without each other.",
                "Untwisted, it picks up and radiates interference.",
                "End them at one place, or send them through one node.",
                (Figure("metres apart", apart, "m"),),
            )


SWAP: dict[str, tuple[Severity, str]] = {
    "damages": ("stop", "swapped, something is damaged"),
    "does not run": ("look", "swapped, something is dead"),
    "works wrongly": ("look", "swapped, each signal goes to the wrong device"),
    "not known": ("note", "what a swap does is not known"),
    "harmless": ("note", "a swap changes nothing, since they are on the same circuits"),
}
"""By what a swap does: how bad it is, and in words."""


def look_alikes(analysis: Analysis) -> Iterator[Finding]:
    """Plugs that are alike as far as is known and reach each other's mates, those that hang
    together, by what a swap does.
    """
    names = {plug.code: plug.name for plug in analysis.job.connectors}
    for does, (severity, words) in SWAP.items():
        for pairs in together([pair for pair in analysis.electrics.alike if pair.does == does]):
            plugs = sorted(
                {code for pair in pairs for code in (pair.one, pair.other)}, key=code_order
            )
            worst = pairs[0]
            said = " ".join(worst.said[:2])
            known = all(pair.reach_m is not None for pair in pairs)
            can = "can be plugged into" if known else "may be long enough to be plugged into"
            example = (
                f" Worst, {worst.one} {names[worst.one]} for {worst.other} {names[worst.other]}: "
                f"{said}"
                if said
                else ""
            )
            yield Finding(
                "look-alikes",
                severity,
                " ".join(plugs),
                f"{some(plugs)} {can} each other's mates; {words}.{example}",
                "The next person to plug them in does not have your notes.",
                "On one of each pair use another key, housing or terminal gender; or shorten or "
                "clip its branch so that it cannot reach; or mark both sides.",
                (Figure("pairs", len(pairs)),),
            )


def together(pairs: list[Alike]) -> Iterator[list[Alike]]:
    """Yield pairs in groups that share plugs, in their order."""
    import networkx

    graph = networkx.Graph((pair.one, pair.other) for pair in pairs)
    for plugs in networkx.connected_components(graph):
        yield [pair for pair in pairs if pair.one in plugs]


def part_here(analysis: Analysis) -> Iterator[Finding]:
    """Parts that are often changed, which could have a short loom of their own."""
    names = analysis.electrics.ways.graph.joints
    for parting in partings(analysis.job, analysis.electrics.ways, analysis.electrics.worst_amps):
        hot = ", beside heat," if parting.hot else ""
        yield Finding(
            "part-here",
            "note",
            parting.joint,
            f"{some(parting.plugs)} ({parting.kind}s){hot} could have a short loom of their own "
            f"from {names[parting.joint].name}: a pair of plugs with {parting.contacts} contacts.",
            f"Each terminal pair drops at most {parting.drop_v * 1000:.0f} mV at "
            f"{parting.amps:.1f} A, and is one more that can fail.",
            "Worth it where they are changed often; else leave the loom whole.",
            (Figure("contacts", parting.contacts),),
        )


def splice_of_one(analysis: Analysis) -> Iterator[Finding]:
    """A splice that joins nothing: fewer than two wires end in it."""
    counts = Counter(end.at for wire in analysis.job.wires for end in wire.ends)
    for splice in analysis.job.splices:
        if counts[splice.code] < 2:
            count = "one wire ends" if counts[splice.code] else "no wire ends"
            yield Finding(
                "splice-of-one",
                "note",
                splice.code,
                f"{splice.code} joins nothing: {count} in it.",
                "A wire is missing, or was moved away, and the splice was left.",
                "Run the other wires to it, or delete it.",
                (Figure("wires", counts[splice.code], worse="less"),),
            )


def splice_wastes(analysis: Analysis) -> Iterator[Finding]:
    """A splice that would take clearly less wire elsewhere."""
    for code, places in analysis.splice_places.items():
        if places.saves_m and places.best is not None:
            best = places.best
            yield Finding(
                "splice-elsewhere",
                "note",
                code,
                f"{code} would take {places.saves_m:.2f} m less wire in {best.run}, "
                f"{best.at_m * 1000:.0f} mm from its start.",
                "The copper to all its members is least there, 40 mm or more from breakouts, plugs "
                "and other splices, and where nothing moves.",
                "Lay it there (Ctrl+Alt+S), or leave it where it is reached better.",
                (Figure("metres of wire", places.saves_m, "m"),),
            )
