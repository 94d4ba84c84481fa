"""How current can pass through each kind of device without being limited by it.

One source for the solution, for the search for fuses and for what stands where something is
broken. A load, a ballast and an alternator's rectifier limit what passes, and are not here.
"""

from typing import NamedTuple

from molvik.model.parts import Device
from molvik.netlist.states import KEY_JOINS, all_joins, is_key
from molvik.reference.device_types import type_of


class Passage(NamedTuple):
    """A way through a device, in some position of it. both: whether in both directions. inside: a
    way through a module's own electronics, which decouple it as a rule (common practice): it counts
    for what has no other feed.
    """

    a: str
    b: str
    both: bool = True
    inside: bool = False


def contacts_of(device: Device) -> tuple[tuple[str, str], ...]:
    """Return the pairs of terminals a relay makes and breaks; 87a is closed at rest."""
    names = set(device.terminals)
    pairs = [pair for pair in device.joins or (("30", "87"),) if set(pair) <= names]
    if "87a" in names and ("30", "87a") not in pairs:
        pairs.append(("30", "87a"))
    return tuple(pairs)


def terminals_named(device: Device) -> tuple[str, ...]:
    """Return every terminal a device has, a controller's supplies and outputs too."""
    outputs = (output.terminal for output in device.outputs)
    inputs = (output.input for output in device.outputs if output.input)
    return tuple(
        dict.fromkeys((*device.terminals, *device.supplies, *device.earths, *outputs, *inputs))
    )


def studs_of(device: Device) -> tuple[tuple[str, str], ...]:
    """Return the pairs of studs that make a bus bar one."""
    first, *others = device.terminals or ("",)
    return tuple((first, name) for name in others)


def alternatives(device: Device) -> tuple[tuple[tuple[str, str], ...], ...]:
    """Return the pairs of terminals that a device joins in each of its positions, one at a time."""
    match type_of(device).acts_as:
        case "contacts" if device.positions:
            return tuple(position.joins for position in device.positions)
        case "contacts" if is_key(device):
            return tuple(KEY_JOINS.values())
        case "relay":
            pairs = contacts_of(device)
            rest = tuple(pair for pair in pairs if "87a" in pair)
            return (tuple(pair for pair in pairs if pair not in rest), rest) if rest else (pairs,)
        case _:
            return ()


def passages(device: Device, live: str = "+") -> tuple[Passage, ...]:
    """Return the ways through a device that are open in some state, away from a supply.

    live: the battery's pole that is not at metal, by its name: with plus at metal a supply is at
    minus, and what passes one way only passes it from its other end on.
    """
    match type_of(device).acts_as:
        case "contacts":
            return tuple(Passage(*pair) for pair in all_joins(device))
        case "relay":
            return tuple(Passage(*pair) for pair in contacts_of(device))
        case "bar":
            return tuple(Passage(*pair) for pair in studs_of(device))
        case "diode":
            if len(device.terminals) < 2:
                return ()
            anode, cathode = device.terminals[:2]
            ends = (anode, cathode) if live == "+" else (cathode, anode)
            return (Passage(*ends, both=False),)
        case "controller":
            acts, fed = ("feeds high", device.supplies) if live == "+" else (
                "pulls low", device.earths,
            )  # fmt: skip
            led = [output.terminal for output in device.outputs if output.acts == acts]
            out = [Passage(supply, to, both=False) for supply in fed for to in led]
            first, *others = fed or ("",)
            return (*out, *(Passage(first, other, inside=True) for other in others))
        case _:
            return ()
