"""Parts as they are drawn on the bench and in tables of a board, with where probes go."""

from collections.abc import Iterable, Iterator

from molvik.devices import kind_of
from molvik.devices.kind import terminals_named
from molvik.drawing.benchtop import Sort, Spot, Stand
from molvik.drawing.faces import Plug
from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse, Part
from molvik.netlist.cavities import cavities_of
from molvik.netlist.network import Network
from molvik.reference.colours import PAINT
from molvik.reference.fuses import BODY_COLOURS

BODY_PAINT = {
    "violet": PAINT["VT"],
    "brown": PAINT["BN"],
    "red": PAINT["RD"],
    "blue": PAINT["BU"],
    "yellow": PAINT["YE"],
    "clear": PAINT["WH"],
    "green": PAINT["GN"],
    "orange": PAINT["OG"],
    "tan": "#D2B48C",
}


def on_the_bench(
    network: Network, codes: Iterable[str], out: frozenset[str] = frozenset()
) -> tuple[Stand, ...]:
    """Return some parts as they lie on the bench. out: the codes of what is pulled."""
    parts = (network.parts[code] for code in dict.fromkeys(codes) if code in network.parts)
    return tuple(stand for part in parts for stand in _stand(network, part, out))


def _stand(network: Network, part: Part, out: frozenset[str]) -> Iterator[Stand]:
    gone = part.code in out
    named = f"{part.code} {part.name}".strip()
    match part:
        case Connector():
            does = "click its name to plug it in" if gone else "click its name to unplug it"
            plug = Plug(part, cavities_of(part, network, "wire side"), named)
            yield Stand(part.code, f"{named}, wire side", "plug", (), plug, out=gone, words=does)
        case Fuse():
            body = BODY_COLOURS.get(part.rating_a, "") if part.kind == "blade" else ""
            does = "click to put it in" if gone else "click to pull it"
            yield Stand(
                part.code,
                named,
                "fuse",
                _spots(network, part.code, ("in", "out")),
                rated=f"{part.rating_a:g}",
                paint=BODY_PAINT.get(body, ""),
                out=gone,
                words=f"{named}, {part.rating_a:g} A: {does}",
            )
        case EarthPoint():
            yield Stand(
                part.code, part.name or part.code, "earth", _spots(network, part.code, ("",))
            )
        case Device():
            names = () if part.plug else tuple(terminals_named(part))
            pulls = kind_of(part).is_pulled
            does = (
                "click to put it in" if gone else "click to pull it" if pulls else "click to look"
            )
            sort: Sort = "battery" if part.kind == "battery" else "relay" if pulls else "device"
            yield Stand(
                part.code,
                named,
                sort,
                _spots(network, part.code, names),
                out=gone,
                words=f"{named}: {does}",
            )
        case _:
            return


def _spots(network: Network, code: str, names: Iterable[str]) -> tuple[Spot, ...]:
    return tuple(
        Spot(str(end), name or "·", network.end_name(end))
        for name in names
        if (end := End(code, name))
    )
