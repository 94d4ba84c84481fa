"""How far voltages may move before any device stands otherwise: relays, starters and controllers by
where they pull in, are awake and act. The thresholds are those of `behaviour.working`.
"""

import math
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from molvik.circuits.behaviour import DeviceStates, ends_of, terminal, turned
from molvik.electrical.solve import Solution
from molvik.model.parts import Device
from molvik.netlist.states import State
from molvik.netlist.wiring import Wiring
from molvik.reference.device_types import type_of
from molvik.reference.devices import value

Bound = tuple[str, str, float, float]
"""Two nodes, and between which voltages the first may be above the second."""


class Bounds(NamedTuple):
    """Arrays of so many bounds: places of the nodes, and the least and most voltage between."""

    a: Any
    b: Any
    low: Any
    high: Any

    def hold(self, volts: Any, floats: Any) -> bool:
        """Return whether all hold. volts: of the nodes by their places; floats: whether they do."""
        import numpy

        apart = numpy.where(floats[self.a] | floats[self.b], 0.0, volts[self.a] - volts[self.b])
        return bool(((self.low <= apart) & (apart < self.high)).all())


def bounds_of(
    wiring: Wiring, state: State, states: DeviceStates, solution: Solution, index: Mapping[str, int]
) -> Bounds:
    """Return the bounds of a network as it is solved. index: the places of its nodes."""
    import numpy

    found = [
        (index[a], index[b], low, high)
        for device in wiring.devices
        for a, b, low, high in _of(wiring, device, states, solution)
        if a in index and b in index  # else nothing is ever between them
    ]
    a, b, low, high = zip(*found, strict=True) if found else ((), (), (), ())
    return Bounds(numpy.array(a, int), numpy.array(b, int), numpy.array(low), numpy.array(high))


def _of(
    wiring: Wiring, device: Device, states: DeviceStates, solution: Solution
) -> Iterator[Bound]:
    """Yield what must hold for a device to stand as it does from rest. Batteries and alternators go
    by currents: they have none here.
    """
    on = device.code in states.on
    a, b = ends_of(wiring, device)
    match type_of(device).acts_as:
        case "relay":
            pull = value(device, "pull share") * wiring.nominal
            if not on:
                yield a, b, -pull, pull
            elif solution.volts.get(a, 0.0) > solution.volts.get(b, 0.0):
                yield a, b, pull, math.inf
            else:
                yield b, a, pull, math.inf
        case "starter":
            yield a, b, *_side(value(device, "pull V", wiring.nominal), above=on)
        case "controller":
            a, b = turned(wiring, a, b)
            yield a, b, *_side(value(device, "least V", wiring.nominal), above=on)
            live, earth = value(device, "live V", wiring.nominal), f"{device.code} earth"
            for name in {output.input for output in device.outputs if on and output.input}:
                high, low = turned(wiring, terminal(device, name), earth)
                now = solution.volts.get(high, 0.0) - solution.volts.get(low, 0.0)
                yield high, low, *_side(live, above=now >= live)
        case _:
            pass


def _side(limit: float, *, above: bool) -> tuple[float, float]:
    return (limit, math.inf) if above else (-math.inf, limit)
