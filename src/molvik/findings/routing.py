"""Rules about the looms to build."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import Figure, Finding
from molvik.model.parts import Connector, Splice
from molvik.reference.coverings import COVERINGS
from molvik.reference.insulation import insulation
from molvik.reference.places import air_c
from molvik.routing.hot import STRIP_MM, safe_distance_mm
from molvik.routing.splices import NEAR_M
from molvik.wording import agree, counted, some

SUPPORT_M = 0.3
"""A loom is held at least this often, m (common practice: every 150 to 300 mm)."""

SNUG = 0.98
"""A hole that is filled beyond this share of its width takes nothing through it (our choice)."""


def no_way(analysis: Analysis) -> Iterator[Finding]:
    """A wire whose ends sit in a loom and that has no way along it."""
    for code, way in analysis.electrics.ways.of.items():
        if way.problem and way.start:
            yield Finding(
                "no-way",
                "stop",
                code,
                f"{code} has no route along the looms: {way.problem}.",
                "It can be laid nowhere, and neither its length nor its neighbours are known.",
                "Add the stretch that is missing, send it by another route, or part it where looms "
                "meet.",
            )


def sits_nowhere(analysis: Analysis) -> Iterator[Finding]:
    """Parts that wires go to and that sit at no end of a loom: one note for all."""
    if not analysis.electrics.ways.of:
        return
    carried = analysis.electrics.ways.graph.carried
    wanted = {end.at for wire in analysis.job.wires for end in wire.ends if end.at}
    absent = sorted(code for code in wanted if code not in carried)
    wires = sum(bool(way.problem) and not way.start for way in analysis.electrics.ways.of.values())
    if absent:
        yield Finding(
            "sits-nowhere",
            "note",
            "looms",
            f"{some(absent, 10)} {agree(len(absent), 'is', 'are')} at no end of a loom yet: "
            f"{counted(wires, 'wire')} {agree(wires, 'has', 'have')} no route.",
            "Lengths, bundles and heat of these wires are taken as they are typed.",
            "Say at each end what it carries, in the table of ends of Routing.",
            (Figure("wires without a route", wires),),
        )


def odd_looms(analysis: Analysis) -> Iterator[Finding]:
    """What is odd about the looms to build is worth a note."""
    for number, problem in enumerate(analysis.electrics.ways.graph.problems):
        yield Finding(
            "odd-loom",
            "note",
            f"looms {number + 1}",
            problem,
            "Routes and lengths are computed along the stretches.",
            "Measure or type what is missing, or leave it if the loom really is so.",
        )


def length_differs(analysis: Analysis) -> Iterator[Finding]:
    """A wire that is shorter in the job than its way; one note for all that are longer."""
    longer: list[str] = []
    for code, cut in analysis.cut_lengths.items():
        more = cut.differs_m
        if more is None or cut.now_m is None:
            continue
        if more > 0:
            longer.append(code)
            continue
        short = cut.now_m < cut.way_m + cut.slack_m
        words = "ends short of its plug" if short else "has less to spare than its ends want"
        yield Finding(
            "length-differs",
            "stop" if short else "look",
            code,
            f"{code} {words}: {cut.now_m:.2f} m, its route and ends come to {cut.cut_m:.2f} m.",
            "You would find out that a branch is too short with the loom in the vehicle.",
            "Take the length of its route in Routing, or measure the stretches again.",
            (Figure("metres too short", -more, "m"),),
        )
    if longer:
        yield Finding(
            "longer-than-its-way",
            "note",
            "lengths",
            f"{some(longer)}: longer than the route and the ends need.",
            "What is too long is folded away, and moves; its voltage drop is larger, too.",
            "Take the lengths of the routes in Routing, or leave them if they are measured.",
            (Figure("wires", len(longer)),),
        )


def too_hot(analysis: Analysis) -> Iterator[Finding]:
    """A stretch beside a hot surface that is hotter than what lies in it, or over it, bears."""
    job = analysis.job
    for run in job.routing.runs:
        section = analysis.sections[run.code]
        zone = job.routing.zone(run.zone)
        covering = COVERINGS.get(run.covering, COVERINGS[""])
        limits = [
            (insulation(wire.insulation).limit_c, f"the insulation of {wire.code}")
            for code in section.wires
            if (wire := analysis.network.wires[code])
        ]
        if covering.limit_c:
            limits.append((covering.limit_c, f"its covering, {covering.name},"))
        if not limits or zone.hot_c is None:
            continue
        limit, what = min(limits)
        if section.air_c <= limit:
            continue
        away = safe_distance_mm(
            air_c(job.settings, zone.place),
            zone.hot_c,
            limit,
            section.over_mm or 5.0,
            shielded=zone.shielded,
            wide_mm=zone.wide_mm or STRIP_MM,
        )
        far = f"keep it {away:.0f} mm away" if away else "reroute it"
        shield = "" if zone.shielded else ", put a bright shield between"
        yield Finding(
            "too-hot-here",
            "stop",
            run.code,
            f"{run.code} passes {zone.hot_c:g} °C at {zone.distance_mm or 0:.0f} mm and gets "
            f"{section.air_c:.0f} °C on the side that faces it, before it carries anything; {what} "
            f"bears {limit:g} °C.",
            "Insulation that is cooked goes hard and falls off; what lies bare burns.",
            f"There {far}{shield}, or use what bears more. Hot air that rises there comes on top.",
            (Figure("its temperature", section.air_c, "°C"),),
        )


def splice_lies_badly(analysis: Analysis) -> Iterator[Finding]:
    """A splice in a stretch that moves, or beside a breakout or a plug."""
    graph, job = analysis.electrics.ways.graph, analysis.job
    for joint in job.routing.joints:
        splices = [code for code in joint.carries if isinstance(job.part(code), Splice)]
        if not splices:
            continue
        for other, run_code, length in graph.at[joint.code]:
            run = graph.runs[run_code]
            if job.routing.zone(run.zone).moves:
                yield Finding(
                    "splice-moves",
                    "stop",
                    splices[0],
                    f"{splices[0]} sits at {joint.name}, and {run_code} beside it moves.",
                    "A joint is stiff: strands break where it ends, inside the insulation.",
                    "Move the splice to a stretch that is held at both its ends.",
                )
            elif run.length_m is not None and length < NEAR_M and _is_stiff(analysis, other):
                yield Finding(
                    "splice-near",
                    "look",
                    splices[0],
                    f"{splices[0]} sits {length * 1000:.0f} mm from {graph.joints[other].name}.",
                    "Beside a breakout or a plug a splice is bent when the loom is handled; beside "
                    "another it makes a lump.",
                    "Keep it 40 mm away (common practice), staggered from others.",
                    (Figure("millimetres too near", (NEAR_M - length) * 1000, "mm"),),
                )


def _is_stiff(analysis: Analysis, joint: str) -> bool:
    """Return whether a joint is a breakout or carries a plug or another splice."""
    graph = analysis.electrics.ways.graph
    parts = (analysis.job.part(code) for code in graph.joints[joint].carries)
    return graph.degree(joint) > 2 or any(isinstance(part, Connector | Splice) for part in parts)


def does_not_pass(analysis: Analysis) -> Iterator[Finding]:
    """A bundle that is thicker than the hole of the grommet it goes through."""
    graph = analysis.electrics.ways.graph
    for joint in analysis.job.routing.joints:
        if joint.hole_mm is None:
            continue
        thick = max(
            (analysis.sections[run].over_mm for _, run, _ in graph.at[joint.code]), default=0.0
        )
        if thick > SNUG * joint.hole_mm:
            yield Finding(
                "does-not-pass",
                "stop",
                joint.code,
                f"The loom is {thick:.0f} mm thick; the hole at {joint.name} is "
                f"{joint.hole_mm:g} mm.",
                "You would find out with the loom half through the hole, and the grommet is cut.",
                "Use another hole, part the loom at the bulkhead with a plug, or leave the "
                "covering off where it passes.",
                (Figure("millimetres too thick", thick - joint.hole_mm, "mm"),),
            )


def not_held(analysis: Analysis) -> Iterator[Finding]:
    """A long stretch with too few clips and ties on it."""
    for run in analysis.job.routing.runs:
        length = run.length_m or 0.0
        held = run.clips + run.ties
        if length > 2 * SUPPORT_M and length / (held + 1) > SUPPORT_M * 1.5 and (held or run.zone):
            yield Finding(
                "not-held",
                "note",
                run.code,
                f"{run.code} is {length:.2f} m long and held {held} times.",
                "An unsupported loom swings, chafes and pulls at its plugs.",
                "Hold it every 150 to 300 mm, and within 100 mm of a plug (common practice).",
                (Figure("metres between", length / (held + 1), "m"),),
            )
