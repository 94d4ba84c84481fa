"""What hangs on a place of a job that is being changed: wires, and what they lead through.

A wire that goes on through plugs that meet, or through a splice of two, is one run.
"""

from collections.abc import Iterable
from typing import NamedTuple

from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.excitation import LAMPS
from molvik.model import edits
from molvik.model.parts import Connector, Device, End, Splice, Wire
from molvik.netlist.network import Network

IN_LINE = ("diode", "resistor")
"""Kinds that a current is led through on its way, beside lamps."""


class Held(NamedTuple):
    """A wire that ends at a place."""

    wire: Wire
    end: End


class Run(NamedTuple):
    """Wires in a row from a place on, through plugs and splices of two. codes: of them and of those
    splices; begin, end: where it begins and ends.
    """

    wires: tuple[Wire, ...]
    codes: tuple[str, ...]
    begin: End
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


def run_of(lay: CircuitBuilder, held: Held) -> Run:
    """Follow a wire from a place on to where it ends."""
    network = Network(lay.job)
    (wire, end), wires, codes = held, [held.wire], [held.wire.code]
    while True:
        far = next((one for one in wire.ends if one != end), end)
        part = lay.job.part(far.at)
        on = network.mate(far) if isinstance(part, Connector) else far
        others = [one for one in wires_at(lay, on) if one.code not in codes] if on else []
        goes_on = isinstance(part, Splice | Connector) and len(others) == 1
        if on is None or not goes_on or len(wires_at(lay, far)) > (1 if on != far else 2):
            return Run(tuple(wires), tuple(codes), held.end, far)
        if isinstance(part, Splice):
            codes.append(part.code)
        wire, end = others[0], on
        wires.append(wire)
        codes.append(wire.code)


def chain_of(lay: CircuitBuilder, held: Held) -> Chain:
    """Follow a wire from a place on through diodes, resistors and lamps."""
    codes, kinds = list[str](), set[str]()
    while True:
        run = run_of(lay, held)
        codes += run.codes
        device = lay.job.part(run.end.at)
        if not isinstance(device, Device) or device.kind not in (*IN_LINE, *LAMPS):
            break
        codes.append(device.code)
        kinds.add(device.kind)
        others = [End(device.code, name) for name in device.terminals if name != run.end.cavity]
        beyond = [Held(one, end) for end in others for one in wires_at(lay, end)]
        if len(beyond) != 1 or beyond[0].wire.code in codes:
            break
        held = beyond[0]
    return Chain(tuple(codes), frozenset(kinds), run.end)


def take_out(lay: CircuitBuilder, codes: Iterable[str]) -> None:
    """Take wires out, then what they went to."""
    for code in sorted(codes, key=lambda one: not one.startswith("W")):
        lay.remove(code)
