"""What the pinouts at both ends of a wire know of it."""

from collections.abc import Iterable
from typing import NamedTuple

from msgspec.structs import replace

from molvik.model.parts import Connector, End, Pin, Wire
from molvik.netlist.network import Network


class Known(NamedTuple):
    """A wire with what the pinouts say of it. differs: what they say otherwise, in words."""

    wire: Wire
    differs: tuple[str, ...] = ()


KNOWN = ("function", "circuit", "colour", "size")
"""The fields of a wire of which a pinout knows."""


def known_of(network: Network, wire: Wire, fields: Iterable[str] = KNOWN) -> Known:
    """Fill in what nobody said of a wire and the pins at its ends do. fields: which may be.

    Where they differ the first end's word is taken, but for the function: which signal a wire
    carries each side may call by its own name.
    """
    pins = [(end, pin) for end in wire.ends if (pin := _pin(network, end)) is not None]
    filled: dict[str, object] = {}
    differs: list[str] = []
    for field in fields:
        said = [(end, getattr(pin, field)) for end, pin in pins if getattr(pin, field)]
        if getattr(wire, field) or not said:
            continue
        filled[field] = said[0][1]
        if len(said) == 2 and said[0][1] != said[1][1] and field != "function":
            (one, first), (other, second) = said
            differs.append(f"{field}: {one} says {first}, {other} {second}; {first} was taken")
    return Known(replace(wire, **filled) if filled else wire, tuple(differs))


def _pin(network: Network, end: End) -> Pin | None:
    """Return what is said of the cavity an end is in, by its own housing or the one it mates."""
    for at in (end, network.mate(end)):
        part = network.parts.get(at.at) if at is not None else None
        if at is not None and isinstance(part, Connector):
            pin = next((pin for pin in part.pins if pin.cavity == at.cavity), None)
            if pin is not None:
                return pin
    return None
