"""What each kind of device does: as elements of the network, and whether it works.

Voltages are told as the live side against metal. With plus at metal the whole network is therefore
solved as its mirror image, in which a lamp, a relay and a fuse are the same, and only what knows
its poles is turned round: batteries, diodes, computers. A meter shows the same figures with its
red lead on earth.
"""

import math
from functools import partial
from typing import NamedTuple

from molvik.electrical.elements import THERMAL_V, Current, Diode, Element, Resistor, Source
from molvik.electrical.solve import Prepared, Solution
from molvik.model.parts import Device, End, Output
from molvik.netlist.states import OFF, State
from molvik.netlist.wiring import METAL, OPEN_OHM, Wiring
from molvik.reference.device_types import type_of
from molvik.reference.devices import (
    BATTERY_STATES,
    COLD_PER_K,
    LED_A,
    LED_EMISSION,
    output_share,
    thermistor_ohm,
    value,
)

CHANGING = ("battery", "alternator", "starter", "controller")
"""Models whose elements change with the state and with what works; a relay's contacts do too."""

WORKING = (*CHANGING, "relay")
"""Models that work or do not."""

SENDER_OHM = 120.0
"""Inside a gauge, from its supply to the wire of its sender, ohms (typical, from memory)."""

CHARGE_LAMP_OHM = 0.5
"""From what charges to its lamp terminal, which it holds at its own voltage, ohms."""

INSIDE_OHM = 0.01


class DeviceStates(NamedTuple):
    """What works in a round of the solution. on: codes of relays pulled in, starters, controllers
    and alternators; "D5 12" for a controller's output that acts, "D5 awake" for one that
    does not sleep, "D1 charging" for a battery.
    limits: alternators that give all they can, A; sensed: volts lost between an alternator and its
    sense wire.
    """

    on: frozenset[str] = frozenset()
    limits: tuple[tuple[str, float], ...] = ()
    sensed: tuple[tuple[str, float], ...] = ()


def terminal(device: Device, name: str) -> str:
    """Return the node of a device's terminal."""
    return f"{device.code}/{name}"


def minus_of(device: Device) -> str:
    """Return where a device bolted to metal has its minus: its terminal 31, or its body."""
    return terminal(device, "31") if "31" in device.terminals else METAL


def ends_of(wiring: Wiring, device: Device) -> tuple[str, str]:
    """Return the two nodes a device works between; one is empty when it has none."""
    match type_of(device).acts_as:
        case "relay":
            return terminal(device, "86"), terminal(device, "85")
        case "starter":
            return terminal(device, "50"), minus_of(device)
        case "alternator":
            return terminal(device, "B+"), minus_of(device)
        case "controller":
            return f"{device.code} supply", f"{device.code} earth"
        case _:
            names = device.terminals
            middle = type_of(device).acts_as in ("sensor", "gauge")  # its signal
            last = 2 if middle and len(names) > 2 else 1
            minus = (
                terminal(device, names[last]) if len(names) > 1 else (METAL if device.case else "")
            )
            plus = terminal(device, names[0]) if names else ""
            if type_of(device).acts_as in ("diode", "LED"):
                return turned(wiring, plus, minus)
            return plus, minus


def _led(wiring: Wiring, device: Device) -> list[Element]:
    """Return a light-emitting diode, which holds its drop, with the resistor that is part of it."""
    plus, minus = ends_of(wiring, device)
    if not (plus and minus):
        return []
    code, ohm = device.code, value(device, "ohm", wiring.nominal)
    bends = value(device, "drop") / (LED_EMISSION * THERMAL_V)
    curve = LED_A / math.expm1(min(max(bends, 1e-9), 700.0)), LED_EMISSION
    middle = f"{code} inside"
    return [Resistor(code, plus, middle, ohm), Diode(f"{code} LED", middle, minus, *curve)]


def turned(wiring: Wiring, plus: str, minus: str) -> tuple[str, str]:
    """Return the two nodes of something that knows its poles, as they are in the solution."""
    return (plus, minus) if wiring.polarity > 0 else (minus, plus)


def load_ohm(wiring: Wiring, device: Device) -> float:
    """Return a load's resistance: its own, or from the current its wires say it carries."""
    own = dict(device.values)
    if "ohm" in own:
        return own["ohm"]
    if "A" in own:
        return _ohm_at(wiring, own["A"])
    network = wiring.network
    end = End(device.plug or device.code, device.terminals[0] if device.terminals else "")
    currents = [wire.load_a for wire in network.wires_at.get(end, []) if wire.load_a]
    by_ohm = type_of(device).by_ohm
    if currents and not by_ohm:
        return wiring.nominal / max(currents)
    if by_ohm:
        return value(device, "ohm", wiring.nominal)
    return _ohm_at(wiring, value(device, "A", wiring.nominal))


def _ohm_at(wiring: Wiring, amps: float) -> float:
    """Return the resistance that takes a current at the nominal voltage; open when it is none."""
    return wiring.nominal / amps if amps else OPEN_OHM


def elements(
    wiring: Wiring, device: Device, state: State, device_states: DeviceStates
) -> list[Element]:
    """Return what a device is in the network, as it works now."""
    code = device.code

    def own(name: str) -> float:
        return value(device, name, wiring.nominal)

    match type_of(device).acts_as:
        case "battery":
            share, worn = BATTERY_STATES[state.battery]
            cold = 1.0 + COLD_PER_K * max(0.0, 20.0 - state.temperature_c)
            ends = turned(wiring, terminal(device, "+"), terminal(device, "-"))
            # An empty battery gives less, and takes more.
            charging = f"{code} charging" in device_states.on
            figure = partial(wiring.network.batteries.own, device)
            ohm = figure("charge ohm") if charging else figure("ohm") * worn
            return [Source(code, *ends, figure("rest V") * share, ohm * cold)]
        case "alternator":
            return _alternator(wiring, device, state, device_states)
        case "starter":
            minus = minus_of(device)
            made: list[Element] = [
                Resistor(f"{code} coil", terminal(device, "50"), minus, own("coil ohm"))
            ]
            if code in device_states.on:
                made.append(Resistor(code, terminal(device, "30"), minus, own("motor ohm")))
            return made
        case "relay":
            coil = terminal(device, "86"), terminal(device, "85")
            made = [Resistor(code, *coil, own("coil ohm"))]
            if device.suppression == "diode":
                made.append(Diode(f"{code} diode", *turned(wiring, coil[1], coil[0])))
            elif device.suppression == "resistor":
                made.append(Resistor(f"{code} resistor", *coil, own("across ohm")))
            return made
        case "controller":
            return _controller(wiring, device, state, device_states)
        case "diode":
            plus, minus = ends_of(wiring, device)
            curve = own("saturation A"), own("emission")
            return [Diode(code, plus, minus, *curve)] if plus and minus else []
        case "LED":
            return _led(wiring, device)
        case "contacts" | "bar":
            return []
        case _:
            return _load(wiring, device)


def standing(wiring: Wiring) -> tuple[Prepared, tuple[Device, ...]]:
    """Return what is the same in every state, wires and loads, and the devices that are not.

    Made once for each wiring: it is most of a network.
    """
    if "standing" not in wiring.kept:
        still: list[Element] = [
            Resistor(link.name, link.a, link.b, link.ohm) for link in wiring.fixed
        ]
        for device in wiring.devices:
            if type_of(device).acts_as not in CHANGING:
                still += elements(wiring, device, OFF, DeviceStates())
        alert = tuple(device for device in wiring.devices if type_of(device).acts_as in CHANGING)
        wiring.kept["standing"] = Prepared(still, wiring.reference), alert
    found: tuple[Prepared, tuple[Device, ...]] = wiring.kept["standing"]
    return found


def _load(wiring: Wiring, device: Device) -> list[Element]:
    plus, minus = ends_of(wiring, device)
    code, ohm = device.code, load_ohm(wiring, device)
    if not minus or plus == minus:
        return []
    model = type_of(device).acts_as
    if model == "sensor" and len(device.terminals) > 2:
        signal, share = terminal(device, device.terminals[1]), value(device, "wiper share")
        return [Resistor(code, plus, signal, ohm * (1 - share)),
                Resistor(f"{code} wiper", signal, minus, ohm * share)]  # fmt: skip
    if model == "thermistor":
        ohm = thermistor_ohm(device, wiring.temperature_c, wiring.nominal)
    made: list[Element] = [Resistor(code, plus, minus, ohm)]
    if model == "gauge" and len(device.terminals) > 2:
        sender = terminal(device, device.terminals[1])
        made.append(Resistor(f"{code} sender", plus, sender, SENDER_OHM))
    return made


def _alternator(
    wiring: Wiring, device: Device, state: State, device_states: DeviceStates
) -> list[Element]:
    code, minus = device.code, minus_of(device)
    plus, lamp = terminal(device, "B+"), terminal(device, "L")
    has_lamp = "L" in device.terminals
    if code not in device_states.on:
        field = value(device, "field ohm", wiring.nominal)
        return [Resistor(f"{code} field", lamp, minus, field)] if has_lamp else []
    limits = dict(device_states.limits)
    made: list[Element] = []
    if code in limits:
        made.append(Current(code, plus, minus, limits[code]))
    else:
        volts = value(device, "set V", wiring.nominal) + dict(device_states.sensed).get(code, 0.0)
        made.append(Source(code, plus, minus, volts, value(device, "ohm")))
    if has_lamp:
        made.append(Resistor(f"{code} L", plus, lamp, CHARGE_LAMP_OHM))
    return made


def most_a(device: Device, state: State, nominal: float) -> float:
    """Return the largest current an alternator gives at a state's engine speed, A."""
    rpm = state.rpm * value(device, "pulleys")
    return value(device, "most A", nominal) * output_share(rpm)


def _controller(
    wiring: Wiring, device: Device, state: State, device_states: DeviceStates
) -> list[Element]:
    code = device.code
    inside, earth = f"{code} supply", f"{code} earth"
    made: list[Element] = []
    for names, node in ((device.supplies, inside), (device.earths, earth)):
        for name in names:
            made.append(Resistor(f"{code} {name}", terminal(device, name), node, INSIDE_OHM))
    draws = value(
        device, "A" if f"{code} awake" in device_states.on else "asleep A", wiring.nominal
    )
    made.append(Resistor(code, inside, earth, _ohm_at(wiring, draws)))
    # Inputs are held low, or high for switches to earth, by resistors inside.
    for name, when in sorted(
        {(output.input, output.when) for output in device.outputs if output.input}
    ):
        ends = (inside, terminal(device, name)) if when == "input low" else (
            terminal(device, name), earth,
        )  # fmt: skip
        made.append(Resistor(f"{code} input {name} {when}", *ends, value(device, "input ohm")))
    ohm = value(device, "driver ohm")
    for output in device.outputs:
        if output_key(device, output) not in device_states.on:
            continue
        node, name = terminal(device, output.terminal), f"{code} drives {output.terminal}"
        match output.acts:
            case "pulls low":
                made.append(Resistor(name, node, earth, ohm))
            case "feeds high":
                made.append(Resistor(name, inside, node, ohm))
            case "5 V":
                made.append(Source(name, *turned(wiring, node, earth), 5.0, 1.0))
    return made


def output_key(device: Device, output: Output) -> str:
    """Return the name an output that acts has among what works."""
    return f"{device.code} {output.terminal}"


def working(wiring: Wiring, state: State, was: DeviceStates, solution: Solution) -> DeviceStates:
    """Return what works by the voltages of a solution, with hysteresis from what worked."""
    on: set[str] = set()
    limits: dict[str, float] = {}
    sensed: dict[str, float] = {}
    for device in wiring.devices:
        model = type_of(device).acts_as
        if model not in WORKING:
            continue
        code = device.code
        volts = _across(solution, *ends_of(wiring, device))
        match model:
            case "battery":
                if solution.amps.get(code, 0.0) < -1e-3:
                    on.add(f"{code} charging")
            case "relay":
                share = value(device, "drop share" if code in was.on else "pull share")
                if abs(volts) >= share * wiring.nominal:
                    on.add(code)
            case "starter":
                pull = value(device, "pull V", wiring.nominal)
                if volts >= (pull * 0.5 if code in was.on else pull):
                    on.add(code)
            case "alternator":
                if _charges(device, state, was, solution):
                    on.add(code)
                    _regulate(wiring, device, state, was, solution, limits, sensed)
            case "controller":
                volts *= wiring.polarity
                if volts >= value(device, "least V", wiring.nominal):
                    on.add(code)
                    live_v = value(device, "live V", wiring.nominal)
                    if _awake(wiring, device, state, solution, live_v):
                        on.add(f"{code} awake")
                    on |= {
                        output_key(device, output)
                        for output in device.outputs
                        if _acts(wiring, device, output, state, solution, live_v)
                    }
            case _:
                pass
    return DeviceStates(frozenset(on), tuple(sorted(limits.items())), tuple(sorted(sensed.items())))


def _across(solution: Solution, a: str, b: str) -> float:
    one, other = solution.volts.get(a), solution.volts.get(b)
    return 0.0 if one is None or other is None else one - other


def wakers(device: Device) -> frozenset[str]:
    """Return the inputs that wake a controller: each that switches an output on when it is live."""
    return frozenset(output.input for output in device.outputs if output.when == "input live")


def _awake(wiring: Wiring, device: Device, state: State, solution: Solution, live_v: float) -> bool:
    """A controller with an input that wakes it sleeps until that is live; one without is awake
    while it is fed, until it has rested for as long as it takes to fall asleep. 0 minutes: never.
    """
    inputs = wakers(device)
    if not inputs:
        return not (state.rested and value(device, "sleeps min"))
    return any(_input_v(wiring, device, solution, name) >= live_v for name in inputs)


def _input_v(wiring: Wiring, device: Device, solution: Solution, name: str) -> float:
    """Return the voltage of a controller's input against its earth, V."""
    return _across(solution, *turned(wiring, terminal(device, name), f"{device.code} earth"))


def _acts(
    wiring: Wiring, device: Device, output: Output, state: State, solution: Solution, live_v: float
) -> bool:
    """Return whether an output of a controller that is powered acts."""
    match output.when:
        case "powered":
            return True
        case "first seconds":
            return state.first
        case "first seconds and turning":
            return state.first or state.turning
        case "key on":
            return state.key in ("run", "crank")
        case "turning":
            return state.turning
        case "cranking":
            return state.turning and not state.running
        case "running":
            return state.running
        case _:
            live = _input_v(wiring, device, solution, output.input) >= live_v
            return not live if output.when == "input low" else live


def _charges(device: Device, state: State, was: DeviceStates, solution: Solution) -> bool:
    """An alternator begins with a current through its lamp terminal, and then goes on alone."""
    if not state.running:
        return False
    if device.code in was.on or "L" not in device.terminals:
        return True
    return solution.amps.get(f"{device.code} field", 0.0) >= value(device, "excite A")


def _regulate(
    wiring: Wiring, device: Device, state: State, was: DeviceStates, solution: Solution,
    limits: dict[str, float], sensed: dict[str, float],
) -> None:  # fmt: skip
    """Hold an alternator within what it can give, and its set voltage at its sense wire."""
    code, most = device.code, most_a(device, state, wiring.nominal)
    if code not in was.on:
        return
    plus, minus = terminal(device, "B+"), minus_of(device)
    wanted = value(device, "set V", wiring.nominal)
    before = dict(was.limits)
    if code in before:
        volts = _across(solution, plus, minus)
        # It stays at its limit while the voltage stays below what it is set to.
        held = volts < wanted if before[code] > 0 else volts > wanted or most == 0
        if held:
            limits[code] = before[code]
    else:
        amps = solution.amps.get(code, 0.0)
        if amps > most or amps < 0:
            limits[code] = max(0.0, min(amps, most))
    if "S" in device.terminals and f"{code}/S" in solution.volts:
        lost = _across(solution, plus, f"{code}/S")
        if 0 < lost < 0.2 * wanted:
            sensed[code] = round(lost, 3)
