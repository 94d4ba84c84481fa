"""What lies on the bench: the parts that matter for what is looked at, with where probes go."""

from collections import defaultdict, deque
from collections.abc import Iterable, Iterator

from molvik.devices import kind_of
from molvik.devices.kind import terminals_named
from molvik.devices.nodes import owner_of
from molvik.devices.states import RUN
from molvik.drawing.benchtop import Sort, Spot, Stand
from molvik.drawing.faces import Plug
from molvik.model.job import code_order
from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse, Part, Splice
from molvik.netlist.branches import by_node, tree
from molvik.netlist.cavities import cavities_of
from molvik.netlist.circuitgraph import circuit_graph
from molvik.netlist.network import Network
from molvik.reference.colours import PAINT
from molvik.reference.fuses import BODY_COLOURS

MOST_SHOWN = 16
"""So many parts lie on the bench at first; others are found by name."""

MOST_TERMINALS = 8
"""From so many terminals of a part its ways are followed."""

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


def what_matters(network: Network, codes: Iterable[str], most: int = MOST_SHOWN) -> tuple[str, ...]:
    """Return the codes of the parts that matter for some: these first, what lies on their ways to
    the battery and to its earth, and on those of the relays on them; then what is nearest.
    """
    starts = [_home(network, code) for code in codes if code in network.parts]
    found = dict.fromkeys((*starts, *_on_ways(network, starts)))
    near = _joined(network)
    waiting = deque(starts)
    while waiting and len(found) < most:
        here = waiting.popleft()
        if here not in starts and isinstance(network.parts[here], EarthPoint):
            continue  # all that is earthed meets there
        for there in sorted(near.get(here, ()), key=code_order):
            if there not in found:
                found[there] = None
                waiting.append(there)
    shown = [code for code in found if not isinstance(network.parts[code], Splice)]
    battery = [d.code for d in network.job.devices if d.kind == "battery"][:1]
    return tuple(dict.fromkeys((*battery, *shown[:most])))


def _home(network: Network, code: str) -> str:
    """Return where a part is probed: at the plug of a device that has one."""
    part = network.parts[code]
    return part.plug if isinstance(part, Device) and part.plug in network.parts else code


def _on_ways(network: Network, starts: Iterable[str]) -> Iterator[str]:
    """Yield the parts on the ways of some to the battery and its earth, every contact closed; those
    of the coils of relays on them after these.
    """
    made = circuit_graph(network, RUN)
    links = (link._replace(closed=True) for link in made.switched(RUN, frozenset(), ()))
    known = by_node((*made.fixed, *links))
    trees = [tree(known, pole) for pole in (made.live, made.reference) if pole]
    nodes: dict[str, list[str]] = defaultdict(list)
    for node in known:
        nodes[owner_of(node)].append(node)
    waiting, seen = list(starts), set(starts)
    for here in waiting:  # it grows by relays
        for node in sorted(nodes.get(here, ()))[:MOST_TERMINALS]:
            for reach in trees:
                for link in reach.way_to(node) if node in reach.came else ():
                    for code in map(owner_of, (link.a, link.b)):
                        part = network.parts.get(code)
                        if part is None or code in seen:
                            continue
                        seen.add(code)
                        yield code
                        if isinstance(part, Device) and kind_of(part).is_pulled:
                            waiting.append(code)


def _joined(network: Network) -> dict[str, set[str]]:
    """From each part those that a wire, or a plug, joins to it."""
    found: dict[str, set[str]] = defaultdict(set)
    pairs = [(wire.start.at, wire.finish.at) for wire in network.job.wires]
    pairs += [(plug.code, plug.plugs_into) for plug in network.job.connectors]
    pairs += [(device.code, device.plug) for device in network.job.devices]
    for one, other in pairs:
        if one != other and one in network.parts and other in network.parts:
            found[one].add(other)
            found[other].add(one)
    return found


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
