"""What an engine computer sees of its sensors, its outputs and its supply, and which codes it sets.

Its inputs are added to the network as it was solved: a resistance to 5 V for a sender, to earth for
a wiper. Values of these and of the limits are common practice, from memory.
"""

from collections.abc import Callable, Iterator
from typing import Literal, NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.states import RUN, RUNNING, State
from molvik.electrical.elements import Element, Resistor, Source
from molvik.model.parts import Device, End, Output
from molvik.model.refs import end_text
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.reference.troublecodes import CIRCUITS, SUPPLY, CircuitCodes

PULL_OHM, WIPER_OHM, PICKUP_OHM = 2200.0, 100_000.0, 10_000.0
"""Inside, from 5 V to a sender, from a wiper to earth, and from 5 V to a pickup, ohms."""

REFERENCE_V = 5.0
SENDER_V, WIPER_V, PICKUP_V = (0.1, 4.9), (0.2, 4.8), (0.05, 2.0)
"""Within these a sender, a wiper and a pickup are believed, V."""

DRIVEN_SHARE = 0.5
"""Of its supply at an output that is off: with less, its load or a wire is off."""

SUPPLIED_SHARE = (0.85, 1.33)
"""Of the nominal voltage: what a computer takes for too little and too much while running."""

Kind = Literal["sender", "wiper", "pickup", "driver", "supply"]


class Watch(NamedTuple):
    """One circuit that a computer watches. cavity: of its plug; device: the code of what is there,
    its own for its supply; thing: what it is of; back: the cavity of a pickup's return.
    """

    kind: Kind
    thing: str
    cavity: str
    device: str
    codes: CircuitCodes
    back: str = ""


def computers(network: Network) -> tuple[Device, ...]:
    """Return the controllers of a job that have a plug."""
    return tuple(
        device for device in network.job.devices if kind_of(device).is_computer and device.plug
    )


def thing_of(*texts: str) -> tuple[str, CircuitCodes] | None:
    """Return which circuit the first of some texts names, with its codes; None for none."""
    for text in texts:
        words, numbers = telling(text)
        if "heater" in words and "oxygen" in words:
            words = words | {"oxygen heater"}
        found = next(
            (name for name in sorted(CIRCUITS, key=len, reverse=True) if name in words), ""
        )
        if found:
            return found, _numbered(CIRCUITS[found], numbers)
    return None


def _numbered(codes: CircuitCodes, numbers: tuple[str, ...]) -> CircuitCodes:
    if not codes.numbered or not numbers:
        return codes
    said = numbers[0]
    place = int(said) if said.isdigit() else ord(said[0].upper()) - ord("A") + 1
    if not 1 <= place <= 12:
        return codes
    return codes._replace(none=f"P{int(codes.none[1:]) + place - 1:04d}")


def watches(network: Network, computer: Device) -> tuple[Watch, ...]:
    """Return what a computer watches, by its plug: senders, wipers, pickups, outputs, supply."""
    plug = network.job.connector(computer.plug)
    functions = {pin.cavity: pin.function for pin in plug.pins} if plug else {}
    cavities = network.cavities.get(computer.plug, frozenset())
    at = {
        net: cavity
        for cavity in sorted(cavities)
        if (net := network.net_of.get(End(computer.plug, cavity))) is not None
    }
    found = [*_inputs(network, computer, at, functions), *_outputs(network, computer, functions)]
    if computer.supplies and computer.earths:
        found.append(Watch("supply", "supply", computer.supplies[0], computer.code, SUPPLY))
    return tuple(found)


def _inputs(
    network: Network, computer: Device, at: dict[int, str], functions: dict[str, str]
) -> Iterator[Watch]:
    for device in network.job.devices:
        watched, place = kind_of(device).watched, kind_of(device).signal
        if not watched or len(device.terminals) <= place or device is computer:
            continue
        cavity = at.get(_net(network, device, place), "")
        named = thing_of(functions.get(cavity, ""), device.name)
        if not cavity or named is None:
            continue
        back = at.get(_net(network, device, 1), "") if watched == "pickup" else ""
        yield Watch(watched, named[0], cavity, device.code, named[1], back)


def _net(network: Network, device: Device, place: int) -> int:
    end = End(device.plug or device.code, device.terminals[place])
    return network.net_of.get(end, -1)


SELDOM = ("turning", "running", "cranking", "first seconds", "first seconds and turning")
"""Outputs that are off while the key stands in run, so that what hangs on them shows."""


def _outputs(network: Network, computer: Device, functions: dict[str, str]) -> Iterator[Watch]:
    for output in computer.outputs:
        if output.acts != "pulls low" or output.when not in SELDOM:
            continue
        driven = _driven(network, computer, output)
        if driven is None:
            continue
        named = thing_of(functions.get(output.terminal, ""), driven.name)
        if named is not None:
            yield Watch("driver", named[0], output.terminal, driven.code, named[1])


def _driven(network: Network, computer: Device, output: Output) -> Device | None:
    """Return what an output is wired to."""
    net = network.net_of.get(End(computer.plug, output.terminal))
    if net is None:
        return None
    for device in network.job.devices:
        if device is not computer and any(
            _net(network, device, place) == net for place in range(len(device.terminals))
        ):
            return device
    return None


# what it sees

Solved = Callable[[State], OperatingPoint]


def sensed(
    point: OperatingPoint, computer: Device, watched: tuple[Watch, ...]
) -> dict[str, float] | None:
    """Return the voltages a computer sees at its cavities against its own earth, V; None where it
    does not work. point: solved with what it puts on them (``inside``).
    """
    if computer.code not in point.on:
        return None
    volts = point.solution.volts
    earth = volts.get(f"{computer.code} earth", 0.0)
    return {
        watch.cavity: point.wiring.polarity
        * (volts.get(end_text(computer.plug, watch.cavity), 0.0) - earth)
        for watch in watched
    }


def inside(
    computer: Device, watched: tuple[Watch, ...], polarity: float = 1.0
) -> Iterator[Element]:
    """Yield what a computer that works puts on its cavities to watch them. polarity: -1 where plus
    is at metal.
    """
    code = computer.code
    earth, five = f"{code} earth", f"{code} 5 V inside"
    yield Source(f"{code} watches", five, earth, polarity * REFERENCE_V, 1.0)
    for watch in watched:
        node = end_text(computer.plug, watch.cavity)  # what it only watches is not a terminal of it
        match watch.kind:
            case "sender":
                yield Resistor(f"{node} watched", five, node, PULL_OHM)
            case "pickup":
                yield Resistor(f"{node} watched", five, node, PICKUP_OHM)
                if watch.back and watch.back not in computer.earths:
                    yield Resistor(f"{node} back", end_text(computer.plug, watch.back), earth, 0.1)
            case "wiper" | "driver":
                yield Resistor(f"{node} watched", node, earth, WIPER_OHM)
            case _:
                pass


def codes_set(
    computer: Device, watched: tuple[Watch, ...], solved: Solved
) -> frozenset[str] | None:
    """Return the codes a computer sets for what it watches, None where it does not work with the
    key in run. Those of its supply are ``supply_codes``.
    """
    run = solved(RUN)
    volts = sensed(run, computer, watched)
    if volts is None:
        return None
    supply = _across(run, computer)
    found = (_code(watch, volts[watch.cavity], supply) for watch in watched)
    return frozenset(code for code in found if code)


def supply_codes(computer: Device, solved: Solved) -> frozenset[str]:
    """Return the codes a computer sets for its supply while the engine runs."""
    running = solved(RUNNING)
    if running.problem or computer.code not in running.on:
        return frozenset()
    low, high = (share * running.nominal for share in SUPPLIED_SHARE)
    volts = _across(running, computer)
    return frozenset({SUPPLY.low} if volts < low else {SUPPLY.high} if volts > high else ())


def _across(point: OperatingPoint, computer: Device) -> float:
    volts = point.across(f"{computer.code} supply", f"{computer.code} earth")
    return volts * point.wiring.polarity


def _code(watch: Watch, volts: float, supply: float) -> str:
    """Return the code that a voltage at a cavity sets, empty for none."""
    codes = watch.codes
    match watch.kind:
        case "sender" | "wiper":
            low, high = SENDER_V if watch.kind == "sender" else WIPER_V
            return codes.low if volts < low else codes.high if volts > high else ""
        case "pickup":
            return "" if PICKUP_V[0] <= volts <= PICKUP_V[1] else codes.none
        case "driver":
            return "" if volts >= DRIVEN_SHARE * supply else codes.none
        case _:
            return ""


def judged(computer: Device, watched: tuple[Watch, ...], solved: Solved) -> tuple[Watch, ...]:
    """Return what a computer can tell of: of what it watches, that which shows nothing odd while
    nothing is wrong.
    """
    odd = codes_set(computer, watched, solved)
    if odd is None:
        return ()
    odd |= supply_codes(computer, solved)
    return tuple(watch for watch in watched if not odd & set(watch.codes[:3]))
