"""What lies between an alternator and the battery, there and back, and what it must bear: all it
can give.
"""

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.nodes import minus_of
from molvik.model.refs import end_text
from molvik.netlist.branches import by_node, reached, tree
from molvik.netlist.circuitgraph import Branch


def charging_a(point: OperatingPoint) -> dict[str, float]:
    """Return the largest current of each wire and fuse on the way from an alternator to the
    battery, A: its rating, which an empty battery and everything switched on can ask for. The way
    back, by the strap of the engine, carries it too, where there is no other beside it.

    alive: the engine running. Several alternators on one way add up.
    """
    found: dict[str, float] = {}
    makers = [device for device in point.wiring.devices if kind_of(device).regulates]
    if not makers or not point.wiring.live:
        return found
    closed = [link for link in point.links if link.closed]
    known = tree(by_node(closed), point.wiring.live)
    back = tree(by_node(closed), point.reference)
    for device in makers:
        kind = kind_of(device)
        rating = kind.rating_a(device, point.nominal)
        parts = {
            link.part
            for link in known.way_to(end_text(device.code, kind.source("")))
            if link.what in ("wire", "fuse")
        }
        minus = minus_of(device)
        if parts:  # else nothing comes to the battery, and nothing goes back
            parts |= {
                link.part
                for link in back.way_to(minus)
                if link.what == "wire" and not _beside(point, closed, link, minus)
            }
        for code in parts:
            found[code] = found.get(code, 0.0) + rating
    return found


def _beside(point: OperatingPoint, closed: list[Branch], link: Branch, minus: str) -> bool:
    """Return whether a current finds back to the battery without a wire."""
    others = by_node(one for one in closed if one.part != link.part)
    return minus in reached(others, [point.reference], closed=True)
