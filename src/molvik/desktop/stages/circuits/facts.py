"""What the solution says of what is in hand, once it has been solved."""

from molvik.analysis import Analysis
from molvik.circuits.paths import fed_by
from molvik.circuits.simulate import OperatingPoint
from molvik.desktop.panel.facts import Facts
from molvik.desktop.stages.page import known_now
from molvik.devices import value
from molvik.devices.states import RUN, STATES
from molvik.model.parts import Device, Fuse, Wire
from molvik.model.refs import Ref
from molvik.parsing.quantities import amps_text

SHARE = 0.7
"""From this share of the nominal voltage on a wire counts as live."""


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return what there is to say of a thing in hand."""
    thing = analysis.network.wires.get(ref.code) or analysis.network.parts.get(ref.code)
    return alive_facts(analysis, thing) if isinstance(thing, Wire | Fuse | Device) else []


def alive_facts(analysis: Analysis, thing: Wire | Fuse | Device) -> Facts:
    """Return when a thing is alive and what it carries; nothing while that is not solved yet."""
    solved = analysis.solved(STATES)
    if solved is None or not known_now(analysis):
        return []
    facts: Facts = []
    match thing:
        case Wire():
            amps, state = max(
                ((abs(point.wire_amps.get(thing.code, 0.0)), point.state.name) for point in solved),
                default=(0.0, ""),
            )
            if amps >= 0.005:
                facts.append(("Carries", f"{amps_text(amps)} at most: {state}", ""))
            live = [
                point.state.name
                for point in solved
                if point.wire_volts.get(thing.code, 0.0) >= SHARE * point.nominal
            ]
            facts.append(("Live in", ", ".join(live) or "no state", ""))
        case Fuse():
            names = {device.code: device.name for device in analysis.job.devices}
            fed = [names[code] for code in fed_by(analysis.operating_point(RUN), thing.code)]
            facts.append(("Feeds", ", ".join(fed) or "nothing that is fed by it alone", ""))
            blows = [point.state.name for point in solved if thing.code in point.blown]
            if blows:
                facts.append(("Blows in", ", ".join(blows), "bad"))
        case _:
            live = [point.state.name for point in solved if _is_alive(point, thing.code)]
            if thing.code in solved[0].load:
                facts.append(("Alive in", ", ".join(live) or "no state", "" if live else "look"))
            if thing.kind == "motor":
                drawn = [
                    point.load[thing.code].amps for point in solved if thing.code in point.load
                ]
                amps = max(drawn, default=0.0)
                if amps >= 0.05:
                    start = amps * value(thing, "inrush times")
                    words = f"about {start:.0f} A for an instant, {amps:.1f} A running"
                    facts.append(("Inrush", words, ""))
    return facts


def _is_alive(alive: OperatingPoint, code: str) -> bool:
    return code in alive.load and alive.load[code].state == "alive"
