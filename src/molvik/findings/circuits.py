"""Rules about how circuits are made: feeds, returns, screens, diodes, coils."""

from collections import Counter
from collections.abc import Iterator
from itertools import chain

from molvik.analysis import Analysis
from molvik.circuits.paths import ways
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.nodes import METAL, turned
from molvik.devices.states import RUN, STATES, State, choices_of
from molvik.electrical.elements import SolveError
from molvik.findings.finding import Figure, Finding
from molvik.findings.solving import point_in
from molvik.model.parts import Device, End
from molvik.netlist.branches import Ways, by_node, joined, reached

BACKWARD_V = 0.5
MOST_SWITCHES = 12
"""Each switch is tried off by itself; of more only where an earth seems to be missing."""


def feeds_joined(analysis: Analysis) -> Iterator[Finding]:
    """Two fuses feed one net."""
    network = analysis.network
    by_net: dict[int, list[str]] = {}
    for fuse in analysis.job.fuses:
        net = network.net_of.get(End(fuse.code, "out"))
        if net is not None:
            by_net.setdefault(net, []).append(fuse.code)
    for fuses in by_net.values():
        if len(fuses) < 2:
            continue
        yield Finding(
            "feeds-joined",
            "look",
            fuses[0],
            f"{' and '.join(fuses)} feed one circuit together.",
            "Pulling one fuse leaves it live, and in a fault the wire carries what both let "
            "through.",
            "Cut the link between them, or feed it from one fuse.",
        )


def returns_through(analysis: Analysis) -> Iterator[Finding]:
    """A load carries current backwards: it is the way back of another, whose earth is missing."""
    job = analysis.job
    switches = [device for device in job.devices if choices_of(device)]
    if len(switches) > MOST_SWITCHES and not _earth_missing(point_in(analysis, RUN)):
        switches = []
    states = (RUN._replace(switches=((s.code, choices_of(s)[0]),)) for s in switches)
    points = chain((point_in(analysis, RUN),), (_let_go(analysis, state) for state in states))
    one_way = {device.code for device in job.devices if not kind_of(device).either_way}
    seen: set[str] = set()
    made = point_in(analysis, RUN).wiring
    metal = reached(by_node(made.fixed), [METAL]) if made.polarity < 0 else set()
    for point in points:
        for load in point.loads:
            # With plus at metal a lamp's "+" may be at either: it has no poles.
            volts = -load.volts if load.plus in metal else load.volts
            backward = volts < -BACKWARD_V and load.amps > 0.005
            if not backward or load.device in seen or load.device in one_way:
                continue
            seen.add(load.device)
            yield Finding(
                "returns-through",
                "stop",
                load.device,
                f"{load.name} carries current backwards: another load returns through it.",
                "Where an earth is missing, current gets back through what is not "
                "switched on: lamps glow, motors creep, readings are wrong.",
                f"Look for the missing earth beside {load.name}.",
            )


def _let_go(analysis: Analysis, state: State) -> OperatingPoint:
    """Return the solution in a state that nothing else asks for: kept with the job, those of
    hundreds of switches would take as much memory as all the rest of it. Raises SolveError.
    """
    point = OperatingPoint(analysis.network, state)
    if point.problem:
        raise SolveError(point.problem)
    return point


def _earth_missing(point: OperatingPoint) -> bool:
    """Return whether several loads meet where no closed way leads to metal or to the battery: only
    there can one be the way back of another.
    """
    together = joined(by_node(link for link in point.links if link.closed))
    firm = {together.get(METAL, METAL), together.get(point.wiring.live, point.wiring.live)}
    at = Counter(
        together.get(node, node) for load in point.loads for node in {load.plus, load.minus}
    )
    meets = {together.get(load.minus, load.minus) for load in point.loads} - firm
    return any(at[node] > 1 for node in meets)


def screens(analysis: Analysis) -> Iterator[Finding]:
    """A screen is earthed at one end."""
    wires = [w for w in analysis.job.wires if w.use == "screen" and w.start.at and w.finish.at]
    if not wires:
        return
    known = ways(point_in(analysis, RUN))
    plugs = {d.plug or d.code for d in analysis.job.devices if kind_of(d).is_computer}
    for wire in wires:
        # What the wire itself leads to does not count.
        without: Ways = {
            node: [link for link in links if link.part != wire.code]
            for node, links in known.items()
        }
        earthed = [
            end
            for end in wire.ends
            if end.at in plugs or METAL in reached(without, [str(end)], closed=True)
        ]
        if len(earthed) == 1:
            continue
        both = len(earthed) == 2
        yield Finding(
            "screen-earths",
            "stop" if both else "look",
            wire.code,
            f"The screen {wire.code}, {wire.function or 'a cable'}, is earthed at "
            f"{'both ends' if both else 'neither end'}.",
            "Earthed at both it carries earth current and puts it into the signal."
            if both
            else "A screen that floats screens nothing.",
            "Earth it at the engine computer's end only, and insulate the other.",
        )


def _diodes(analysis: Analysis) -> Iterator[tuple[str, str, str, Device]]:
    """Yield diodes with their nodes, those that sit across a relay's coil among them."""
    wiring = point_in(analysis, RUN).wiring
    for device in analysis.job.devices:
        if device.kind == "diode":
            yield (device.code, *kind_of(device).ends(wiring, device), device)
        elif device.kind == "relay" and device.suppression == "diode":
            plus, minus = kind_of(device).ends(wiring, device)
            yield f"{device.code} diode", *turned(wiring, minus, plus), device


def diodes(analysis: Analysis) -> Iterator[Finding]:
    """A diode across a coil that conducts, and a diode that never does."""
    found = (
        list(_diodes(analysis))
        if any(d.kind == "diode" or d.suppression == "diode" for d in analysis.job.devices)
        else []
    )
    coils = (
        [
            kind_of(d).ends(point_in(analysis, RUN).wiring, d)
            for d in analysis.job.devices
            if kind_of(d).has_coil
        ]
        if found
        else []
    )
    together = joined(ways(point_in(analysis, STATES[0]))) if found else {}
    wound = [{together.get(end, end) for end in coil} for coil in coils]
    ring = "fed side: 86 where there is a diode in the relay"
    if analysis.job.settings.earthed == "plus":
        ring = "earthed side, for plus is at metal; in most relays with a diode it is at 86"
    for name, anode, cathode, device in found:
        solved = [point_in(analysis, state) for state in STATES]
        # Where it has blown its fuse, what it carried just before.
        solutions = [point.solution for point in solved]
        solutions += [blown.solution for point in solved for blown in point.blown.values()]
        amps = max(solution.amps.get(name, 0.0) for solution in solutions)
        ends = {together.get(anode, anode), together.get(cathode, cathode)}
        across = ends in wound
        if across and amps > 0.05:
            yield Finding(
                "diode-reversed",
                "stop",
                device.code,
                f"The diode across {device.name} is the wrong way round: it carries {amps:.1f} A.",
                "Fed that way it is a short, and takes the fuse or the engine computer's output "
                "with it.",
                f"Its band goes to the {ring}. Swap the two coil wires, or the diode.",
                (Figure("its current", amps, "A"),),
            )
        elif not across and amps < 1e-4 and any(s.across(cathode, anode) > 1.0 for s in solved):
            yield Finding(
                "diode-reversed",
                "look",
                device.code,
                f"{device.name} never conducts: it may be the wrong way round.",
                "What is behind it stays dead.",
                "Its band (cathode) is the side current leaves from. Turn it round if it should "
                "feed.",
            )


def coil_without_suppression(analysis: Analysis) -> Iterator[Finding]:
    """A coil that an engine computer switches has something across it for its last kick."""
    network, job = analysis.network, analysis.job
    driven: dict[int, str] = {}
    for device in job.devices:
        for output in device.outputs:
            net = network.net_of.get(End(device.plug or device.code, output.terminal))
            if net is not None:
                driven[net] = device.name
    across = [
        {network.net_of.get(End(d.code, name)) for name in d.terminals[:2]}
        for d in job.devices
        if d.kind in ("diode", "resistor")
    ]
    for relay in job.devices:
        if relay.kind != "relay" or relay.suppression:
            continue
        coil = {network.net_of.get(End(relay.code, name)) for name in ("86", "85")}
        by = next((driven[net] for net in coil if net is not None and net in driven), "")
        if by and coil not in across:
            yield Finding(
                "no-suppression",
                "look",
                relay.code,
                f"{relay.name} has nothing across its coil, and {by} switches it.",
                "A coil that is let go kicks back with a hundred volts or more, into the output "
                "that let it go.",
                "Use a relay with a resistor or a diode inside; mind which side a diode's is.",
            )
