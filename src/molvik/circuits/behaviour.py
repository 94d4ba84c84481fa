"""What the devices of a job are in the network, and which of them work: by what their kinds say."""

from collections.abc import Collection
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
    wiring: CircuitGraph,
    state: State,
    was: DeviceStates,
    solution: Solution,
    among: Collection[str] | None = None,
) -> DeviceStates:
    """Return what works by the voltages of a solution, with hysteresis from what worked. among: the
    codes of the devices that are asked, the others stay as they were; all of them without it.
    """
    found = Acting()
    if among is not None:
        found.on.update(name for name in was.on if acts_of(name) not in among)
        found.limits.update(one for one in was.limits if one[0] not in among)
        found.sensed.update(one for one in was.sensed if one[0] not in among)
    for device, kind in wiring.acting:
        if among is None or device.code in among:
            kind.works(wiring, device, state, was, solution, found)
    return found.done()


def acts_of(name: str) -> str:
    """Return the code of the device that something which works is of: "D5 12" is of D5."""
    return name.split(" ", 1)[0]
