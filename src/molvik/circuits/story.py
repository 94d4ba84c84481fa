"""A wire's story: every stop from one far end to the other."""

from typing import NamedTuple

from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse, Splice, Wire
from molvik.netlist.network import Network


class StoryStop(NamedTuple):
    """A place on the way.

    kind: "connector", "fuse", "splice", "earth", "device" or "loose". wire: the code of the wire
    that leads on from here, empty at the last stop. branches: other wires that join here.
    """

    end: End
    name: str
    detail: str
    kind: str
    wire: str
    branches: tuple[str, ...] = ()


def story(network: Network, wire: Wire) -> tuple[StoryStop, ...]:
    """Return the stops of the way a wire is part of, from end to end.

    The way goes on through mated connectors, fuses and splices as long as just one wire leads on;
    where several do, it ends and names them.
    """
    seen = {wire.code}
    back = _onward(network, wire.start, seen)
    forth = _onward(network, wire.finish, seen)
    ends: list[tuple[End, str]] = []
    for step_wire, near, far in reversed(back):
        ends += [(far, step_wire.code), (near, "")]
    ends += [(wire.start, wire.code), (wire.finish, "")]
    for step_wire, near, far in forth:
        ends += [(near, step_wire.code), (far, "")]
    return _merge(network, ends)


def _onward(network: Network, end: End, seen: set[str]) -> list[tuple[Wire, End, End]]:
    """Follow single wires onward: each with its nearer and farther end."""
    steps: list[tuple[Wire, End, End]] = []
    while True:
        following = [
            (wire, place)
            for place in _through(network, end)
            for wire in network.wires_at.get(place, [])
            if wire.code not in seen
        ]
        if len(following) != 1:
            return steps
        wire, near = following[0]
        far = wire.finish if wire.start == near else wire.start
        seen.add(wire.code)
        steps.append((wire, near, far))
        end = far


def _through(network: Network, end: End) -> list[End]:
    """Return the places where a conductor that arrives at an end may leave again."""
    if not end.at:
        return []
    part = network.parts.get(end.at)
    match part:
        case Splice():
            return [end]
        case Fuse():
            # Other wires on the same terminal lead on just as the fuse does.
            return [end, End(part.code, "out" if end.cavity == "in" else "in")]
        case Connector():
            mate = network.mate(end)
            return [mate] if mate else []
        case _:
            return []


def _merge(network: Network, ends: list[tuple[End, str]]) -> tuple[StoryStop, ...]:
    """Turn a run of ends into stops: arriving and leaving one splice or fuse is one stop."""
    stops: list[StoryStop] = []
    codes = {code for _, code in ends if code}
    for end, wire in ends:
        previous = stops[-1] if stops else None
        if previous and end.at and previous.end.at == end.at and not previous.wire:
            stops[-1] = previous._replace(wire=wire)
            continue
        branches = tuple(
            other.code
            for place in {end, *_through(network, end)}
            for other in network.wires_at.get(place, [])
            if other.code not in codes
        )
        stops.append(_stop(network, end, wire, branches))
    return tuple(stops)


def _stop(network: Network, end: End, wire: str, branches: tuple[str, ...]) -> StoryStop:
    part = network.parts.get(end.at)
    also = f" · also {', '.join(branches)}" if branches else ""
    match part:
        case Connector():
            pin = next((pin for pin in part.pins if pin.cavity == end.cavity), None)
            function = f" · {pin.function}" if pin and pin.function else ""
            terminal = f" · {part.terminals}" if part.terminals else ""
            detail = f"cavity {end.cavity}{terminal}{function}{also}"
            return StoryStop(end, part.name, detail, "connector", wire, branches)
        case Fuse():
            name = f"{part.code} {part.name}"
            rated = f"{part.rating_a:g} A {part.kind}{also}"
            return StoryStop(end, name, rated, "fuse", wire, branches)
        case Splice():
            return StoryStop(
                end, part.name or part.code, part.joint + also, "splice", wire, branches
            )
        case EarthPoint():
            return StoryStop(end, part.name, "stud", "earth", wire, ())
        case Device():
            return StoryStop(
                end, part.name, f"terminal {end.cavity}{also}", "device", wire, branches
            )
        case _:
            name = f"{end.at} is not in the job" if end.at else "Loose end"
            return StoryStop(end, name, "goes nowhere yet", "loose", wire, ())
