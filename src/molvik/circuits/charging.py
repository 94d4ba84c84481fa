"""What lies between an alternator and the battery, and what it must bear: all it can give."""

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.model.refs import end_text
from molvik.netlist.branches import by_node, tree


def charging_a(point: OperatingPoint) -> dict[str, float]:
    """Return the largest current of each wire and fuse on the way from an alternator to the
    battery, A: its rating, which an empty battery and everything switched on can ask for.

    alive: the engine running. Several alternators on one way add up.
    """
    found: dict[str, float] = {}
    makers = [device for device in point.wiring.devices if kind_of(device).regulates]
    if not makers or not point.wiring.live:
        return found
    known = tree(by_node(link for link in point.links if link.closed), point.wiring.live)
    for device in makers:
        kind = kind_of(device)
        rating = kind.rating_a(device, point.nominal)
        parts = {
            link.part
            for link in known.way_to(end_text(device.code, kind.source("")))
            if link.what in ("wire", "fuse")
        }
        for code in parts:
            found[code] = found.get(code, 0.0) + rating
    return found
