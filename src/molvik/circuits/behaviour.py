"""What the devices of a job are in the network, and which of them work: by what their kinds say."""

from functools import partial

from molvik.devices import kind_of
from molvik.devices.kind import Acting, DeviceStates
from molvik.devices.states import OFF, State
from molvik.electrical.elements import Element, Resistor
from molvik.electrical.solve import Prepared, Solution
from molvik.model.parts import Device
from molvik.netlist.cache import Key
from molvik.netlist.circuitgraph import CircuitGraph

STANDING = Key[tuple[Prepared, tuple[Device, ...]]]()


def standing(wiring: CircuitGraph) -> tuple[Prepared, tuple[Device, ...]]:
    """Return what is the same in every state, wires and loads, and the devices that are not.

    Made once for each wiring: it is most of a network.
    """
    return wiring.cache.get(STANDING, partial(_standing, wiring))


def _standing(wiring: CircuitGraph) -> tuple[Prepared, tuple[Device, ...]]:
    still: list[Element] = [Resistor(link.name, link.a, link.b, link.ohm) for link in wiring.fixed]
    alert = []
    for device in wiring.devices:
        kind = kind_of(device)
        if kind.alters:
            alert.append(device)
        else:
            still += kind.elements(wiring, device, OFF, DeviceStates())
    return Prepared(still, wiring.reference), tuple(alert)


def working(
    wiring: CircuitGraph, state: State, was: DeviceStates, solution: Solution
) -> DeviceStates:
    """Return what works by the voltages of a solution, with hysteresis from what worked."""
    found = Acting()
    for device, kind in wiring.acting:
        kind.works(wiring, device, state, was, solution, found)
    return found.done()
