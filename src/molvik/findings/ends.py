"""Rules about where wires end."""

from collections import defaultdict
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import Figure, Finding
from molvik.model.parts import Connector, Device, EarthPoint, End, Wire, terminals_of
from molvik.parsing.functions.words import is_earth, is_supply

ONLY_MAPPED = 3
"""So many wires of a plug that all end nowhere are not mistakes: their far ends were not drawn."""


def _only_mapped(analysis: Analysis) -> dict[str, list[Wire]]:
    """Return the plugs of which no wire goes anywhere yet, with their wires."""
    at: dict[str, list[Wire]] = defaultdict(list)
    for wire in analysis.job.wires:
        for code in {end.at for end in wire.ends if end.at}:
            if isinstance(analysis.network.parts.get(code), Connector):
                at[code].append(wire)
    return {
        code: wires
        for code, wires in at.items()
        if len(wires) >= ONLY_MAPPED
        and all(sum(not end.at for end in wire.ends) == 1 and not wire.stowed for wire in wires)
    }


def ends_not_drawn(analysis: Analysis) -> Iterator[Finding]:
    """A plug that is mapped, and its wires go nowhere yet, is worth one note."""
    for code, wires in _only_mapped(analysis).items():
        name = getattr(analysis.network.parts[code], "name", "")
        yield Finding(
            "ends-not-drawn",
            "note",
            code,
            f"{len(wires)} wires of {code}{f' {name}' if name else ''} go nowhere yet: only the "
            "plug is mapped.",
            "What they feed, and what protects them, is not known.",
            "Run them to where they go, one by one or from a table; the first one that goes "
            "somewhere makes loose ends of the others.",
            (Figure("how many go nowhere", len(wires)),),
        )


def loose_end(analysis: Analysis) -> Iterator[Finding]:
    """A wire with a loose end is a stop."""
    mapped = {wire.code for wires in _only_mapped(analysis).values() for wire in wires}
    for wire in analysis.job.wires:
        loose = [end for end in wire.ends if not end.at]
        if not loose or wire.stowed or wire.code in mapped:
            continue
        other = next((end for end in wire.ends if end.at), None)
        from_words = f" from {analysis.network.end_name(other)}" if other else ""
        yield Finding(
            "loose-end",
            "stop",
            wire.code,
            f"{wire.code}{from_words} has {'a loose end' if other else 'both ends loose'}.",
            "A live loose end finds metal; a dead one is the function you miss at first start.",
            "Give it a cavity, or delete it and note why.",
        )


def no_such_place(analysis: Analysis) -> Iterator[Finding]:
    """A wire to a part or a terminal that is not there is a stop."""
    for wire in analysis.job.wires:
        for end in dict.fromkeys(wire.ends):
            part = analysis.network.parts.get(end.at)
            if not end.at or isinstance(part, Connector):
                continue  # a loose end, or judged by its cavities
            if part is None or end.cavity not in terminals_of(part):
                yield Finding(
                    "no-such-place",
                    "stop",
                    f"{wire.code} {end}",
                    f"{wire.code} goes to {end}, which is not in the job.",
                    "There is no telling where it belongs.",
                    "Correct the end of the wire, or the terminals of the part.",
                )


def both_ends_in_one_place(analysis: Analysis) -> Iterator[Finding]:
    """A wire from a cavity to itself is a stop."""
    for wire in analysis.job.wires:
        if wire.start.at and wire.start == wire.finish:
            yield Finding(
                "ends-in-one-place",
                "stop",
                wire.code,
                f"{wire.code} starts and ends in {analysis.network.end_name(wire.start)}.",
                "It connects nothing.",
                "Correct one of its ends.",
            )


def two_wires_side_by_side(analysis: Analysis) -> Iterator[Finding]:
    """Two wires between the same two ends need a look."""
    pairs: dict[frozenset[End], list[str]] = defaultdict(list)
    for wire in analysis.job.wires:
        if wire.start.at and wire.finish.at and wire.start != wire.finish:
            pairs[frozenset(wire.ends)].append(wire.code)
    for codes in pairs.values():
        if len(codes) > 1:
            yield Finding(
                "side-by-side",
                "look",
                codes[1],
                f"{' and '.join(codes)} run between the same two ends.",
                "Often the same wire entered twice. Meant as one thick wire, they share the "
                "current badly and one terminal must hold both.",
                "Take one out, or use one wire of the right size.",
            )


def earth_meets_supply(analysis: Analysis) -> Iterator[Finding]:
    """A cavity named as a supply on a net with an earth, or the other way, is a stop."""
    network = analysis.network
    batteries = network.batteries
    earths: dict[int, End] = {}
    supplies: dict[int, End] = {}
    for end, net in network.net_of.items():
        part = network.parts.get(end.at)
        function = ""
        if isinstance(part, Connector):
            function = next((p.function for p in part.pins if p.cavity == end.cavity), "")
        battery = isinstance(part, Device) and part.kind == "battery"
        at_metal = part in batteries.lowest and end.cavity == batteries.earthed
        if isinstance(part, EarthPoint) or is_earth(function) or at_metal:
            earths.setdefault(net, end)
        if is_supply(function) or (battery and end.cavity == batteries.live):
            supplies.setdefault(net, end)
    for net in sorted(earths.keys() & supplies.keys()):
        earth, supply = earths[net], supplies[net]
        yield Finding(
            "earth-meets-supply",
            "stop",
            str(supply),
            f"{network.end_name(supply)}, a supply, is connected to "
            f"{network.end_name(earth)}, which is earth.",
            "Connecting the battery would be a dead short: fire.",
            "Follow the wires between the two and move the one that is in the wrong cavity."
            + _other_pole(analysis, supply),
        )


def _other_pole(analysis: Analysis, supply: End) -> str:
    """Say that it may be meant so, where it is a battery's pole."""
    batteries, job = analysis.network.batteries, analysis.job
    if supply not in map(batteries.live_end, batteries.every):
        return ""
    pole = "minus" if job.settings.earthed == "plus" else "plus"
    return f" If {pole} is at metal in this vehicle, say so in the job's settings."
