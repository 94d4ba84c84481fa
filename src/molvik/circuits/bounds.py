"""How far voltages may move before any device stands otherwise: relays, starters and controllers by
where they pull in, are awake and act. The thresholds are those that the kinds of devices work by.
"""

from collections.abc import Mapping
from typing import Any, NamedTuple

from molvik.devices import kind_of
from molvik.devices.kind import DeviceStates
from molvik.devices.states import State
from molvik.electrical.solve import Solution
from molvik.netlist.circuitgraph import CircuitGraph

Bound = tuple[str, str, float, float]
"""Two nodes, and between which voltages the first may be above the second."""


class Bounds(NamedTuple):
    """Arrays of so many bounds: the codes of the devices they are of, the places of the nodes, and
    the least and most voltage between.
    """

    of: Any
    a: Any
    b: Any
    low: Any
    high: Any

    def passed(self, volts: Any, floats: Any) -> frozenset[str]:
        """Return the devices of which one does not hold. volts: of the nodes by their places;
        floats: whether they do.
        """
        import numpy

        apart = numpy.where(floats[self.a] | floats[self.b], 0.0, volts[self.a] - volts[self.b])
        return frozenset(self.of[(apart < self.low) | (apart >= self.high)])


def bounds_of(
    wiring: CircuitGraph,
    state: State,
    states: DeviceStates,
    solution: Solution,
    index: Mapping[str, int],
) -> Bounds:
    """Return the bounds of a network as it is solved. index: the places of its nodes."""
    import numpy

    found = [
        (device.code, index[a], index[b], low, high)
        for device in wiring.devices
        for a, b, low, high in kind_of(device).bounds(wiring, device, states, solution)
        if a in index and b in index  # else nothing is ever between them
    ]
    of, a, b, low, high = zip(*found, strict=True) if found else ((), (), (), (), ())
    return Bounds(
        numpy.array(of, object),
        numpy.array(a, int),
        numpy.array(b, int),
        numpy.array(low, float),
        numpy.array(high, float),
    )
