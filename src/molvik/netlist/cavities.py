"""What is in each cavity of a connector, to be drawn and to be said."""

from molvik.drawing.face import Cavity, Inside
from molvik.model.geometry import Face, places
from molvik.model.parts import Connector, End, Pin, Wire
from molvik.netlist.network import Network
from molvik.reference.colours import colour_name


def cavities_of(connector: Connector, network: Network, face: Face) -> tuple[Cavity, ...]:
    """Return every cavity as it lies at a face, with what is in it in words."""
    pins = {pin.cavity: pin for pin in connector.pins}
    found: list[Cavity] = []
    for place in places(connector.grid, face):
        pin = pins.get(place.cavity, Pin(place.cavity))
        wires = network.wires_at.get(End(connector.code, place.cavity), [])
        inside = _inside(pin, wires)
        colours = tuple(wire.colour for wire in wires) or ((pin.colour,) if pin.colour else ())
        says = {
            "wired": ", ".join(map(_wire_words, wires)),
            "listed": "in the pinout, no wire yet",
            "empty": "empty",
            "plugged": "cavity plug fitted",
            "unknown": "not known",
        }[inside]
        words = f"cavity {place.cavity}: {pin.function or 'no function known'} · {says}"
        found.append(Cavity(place, inside, colours, words))
    return tuple(found)


def _inside(pin: Pin, wires: list[Wire]) -> Inside:
    if wires:
        return "wired"
    if pin.fill:
        return pin.fill
    return "listed" if pin.function or pin.colour or pin.circuit else "unknown"


def _wire_words(wire: Wire) -> str:
    tint = f" {colour_name(wire.colour.base, wire.colour.tracer)}" if wire.colour else ""
    return f"{wire.code}{tint}"
