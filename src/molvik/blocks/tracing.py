"""What hangs on a place of a job that is being changed: wires, and what they lead through."""

from collections.abc import Iterable
from typing import NamedTuple

from molvik.blocks.laying import CircuitBuilder
from molvik.model import edits
from molvik.model.parts import Device, End, Wire
from molvik.netlist.network import Network

IN_LINE = ("diode", "resistor")
LAMP_KINDS = ("warning lamp", "LED", "lamp")
"""Kinds that a current is led through on its way."""


class Held(NamedTuple):
    """A wire that ends at a place."""

    wire: Wire
    end: End


class Chain(NamedTuple):
    """What is in a row from a place on: wires and devices by code, the kinds of those devices, and
    where it ends.
    """

    codes: tuple[str, ...]
    kinds: frozenset[str]
    end: End


def device_at(lay: CircuitBuilder, code: str) -> Device:
    """Return a device by its code, which has to be one."""
    found = lay.job.part(code)
    assert isinstance(found, Device)
    return found


def wires_at(lay: CircuitBuilder, end: End) -> list[Wire]:
    """Return the wires that end at a place."""
    return [wire for wire in lay.job.wires if end in wire.ends]


def are_joined(lay: CircuitBuilder, one: End, other: End) -> bool:
    """Return whether wires lead from one place to another."""
    net_of = Network(lay.job).net_of
    return one in net_of and net_of.get(one) == net_of.get(other)


def end_at(lay: CircuitBuilder, wire: Wire, old: End, new: End) -> None:
    """Put the end of a wire somewhere else."""
    side = "start" if wire.start == old else "finish"
    lay.job = edits.change_wire(lay.job, wire.code, **{side: new})


def chain_of(lay: CircuitBuilder, held: Held) -> Chain:
    """Follow a wire from a place on through diodes, resistors and lamps."""
    codes, kinds, (wire, end) = list[str](), set[str](), held
    while True:
        codes.append(wire.code)
        far = next((one for one in wire.ends if one != end), end)
        device = lay.job.part(far.at)
        in_row = (*IN_LINE, *LAMP_KINDS)
        if not isinstance(device, Device) or device.kind not in in_row:
            break
        codes.append(device.code)
        kinds.add(device.kind)
        others = [End(device.code, name) for name in device.terminals if name != far.cavity]
        beyond = [(one, end) for end in others for one in wires_at(lay, end)]
        if len(beyond) != 1 or beyond[0][0].code in codes:
            break
        wire, end = beyond[0]
    return Chain(tuple(codes), frozenset(kinds), far)


def take_out(lay: CircuitBuilder, codes: Iterable[str]) -> None:
    """Take wires out, then what they went to."""
    for code in sorted(codes, key=lambda one: not one.startswith("W")):
        lay.remove(code)
