"""Rules about the bus: terminators at its two ends, short stubs, wires the right way round."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.bus.members import Member
from molvik.circuits.bus.taps import is_empty
from molvik.circuits.bus.topology import Bus
from molvik.findings.finding import Figure, Finding
from molvik.model.job import code_order
from molvik.reference.bus import LINE_OHM, limits_at
from molvik.wording import counted, some

TWISTED_M = 0.2
"""So much of a line may lie untwisted, at its plugs, m (common practice)."""


def of_bus(analysis: Analysis) -> Iterator[Finding]:
    """Everything that a bus suffers from."""
    for bus in analysis.buses:
        yield from _terminators(analysis, bus)
        yield from _lengths(bus)
        yield from _wires(analysis, bus)
        yield from _modules(bus)


def _at(bus: Bus) -> str:
    """Return the bit rate that a limit is for, and that nobody said it where it is so."""
    said = "" if bus.said_kbit_s else ", which is taken for none is typed,"
    return f"at {bus.kbit_s:g} kbit/s{said}"


def _named(members: "list[Member] | tuple[Member, ...]") -> str:
    return some([f"{one.name} ({one.code})" for one in members], 4)


def _happens(bus: Bus) -> str:
    """Say what comes of it: what modules see of a bit that the module farthest off sends."""
    from molvik.circuits.bus.eye import heard_worst

    worst = heard_worst(bus)
    if worst is None:
        return ""
    wrong = [one.member.name for one in worst.sees if not one.reads_right]
    if wrong:
        said = f"Simulated at {bus.kbit_s:g} kbit/s, {some(wrong, 3)} misread"
        return f" {said}{'s' if len(wrong) == 1 else ''} a bit."
    return (
        f" Simulated at {bus.kbit_s:g} kbit/s all still read it, the worst with "
        f"{worst.free_v:.2f} V left: on the bench it may seem to work."
    )


def _terminators(analysis: Analysis, bus: Bus) -> Iterator[Finding]:
    found, count = bus.terminators, len(bus.terminators)
    if len(bus.talkers) < 2 and count < 2:
        return  # network-alone says so
    for one in found:
        if one.is_odd:
            yield _odd(bus, one)
    if count == 2:
        yield from _beyond(bus)
        return
    ohm = 1 / sum(1 / one.ohm for one in found) if found else None
    shows = f"{ohm:.0f} Ω" if ohm is not None else "open, or kilohms"
    meter = f"Across its two wires a meter shows {shows}; 60 Ω are right."
    what = f"The bus of {_named(bus.talkers)} has {counted(count, 'terminator')}"
    have = f": {_named(found)}" if found else ""
    if count < 2:
        yield Finding(
            "network-terminators",
            "stop",
            bus.key,
            f"{what}{have}. It needs two, of {LINE_OHM:g} Ω, one at each end.",
            f"{meter} Each bit comes back from the open end as an echo.{_happens(bus)}",
            _missing(analysis, bus),
            (Figure("terminators", count),),
        )
    else:
        yield Finding(
            "network-terminators",
            "look" if count == 3 else "stop",
            bus.key,
            f"{what}{have}. Two are enough, one at each end.",
            f"{meter} Every driver has to give more, and gives less voltage.{_happens(bus)}",
            "Take out those that are not at an end of the line.",
            (Figure("terminators", count),),
        )


def _odd(bus: Bus, one: Member) -> Finding:
    return Finding(
        "network-terminator-odd",
        "look",
        one.code,
        f"{one.name} has {one.ohm:.0f} Ω between the two wires of the bus; a terminator has "
        f"{LINE_OHM:g} Ω.",
        "What is not as the line is sends part of each bit back, and a driver gives more or less "
        f"than it is made for.{_happens(bus)}",
        f"Measure {one.code} by itself, and put {LINE_OHM:g} Ω there if it ends the line.",
        (Figure("terminator, ohm", one.ohm, worse="other"),),
    )


def _missing(analysis: Analysis, bus: Bus) -> str:
    """Say where a terminator is to go; a plug without anything in it may have had one."""
    held = {one.at for one in bus.terminators}
    ends = [place for place in (*bus.trunk[:1], *bus.trunk[-1:]) if place not in held]
    empty = sorted(
        (one for one in bus.places if bus.is_end(one) and is_empty(analysis.job, bus, one)),
        key=code_order,
    )
    if empty:
        look = "looks" if len(empty) == 1 else "look"
        return (
            f"{some(empty, 3)} {look} empty, at the end of a wire: the terminator, often in what "
            "looks like a cap, belongs there."
        )
    return f"Fit one at {some(ends, 2)}, the end of the line." if ends else "Fit one at each end."


def _beyond(bus: Bus) -> Iterator[Finding]:
    """Terminators that are not at the ends of the line."""
    limits = limits_at(bus.kbit_s, screened=bus.screened)
    ends = {bus.trunk[0], bus.trunk[-1]}
    beyond = [
        one
        for one in bus.members
        if one.at in bus.stubs
        and bus.stubs[one.at][0] in ends
        and bus.away_m(one.at) > limits.stub_m
    ]
    if beyond:
        far = max(bus.away_m(one.at) for one in beyond)
        yield Finding(
            "network-terminator-inside",
            "look",
            bus.key,
            f"The bus goes on {far:.2g} m beyond a terminator, to {_named(beyond)}.",
            "Beyond its terminator a line is a stub: what is sent comes back from its open end."
            f"{_happens(bus)}",
            f"Move the terminator to the end of the line, at {beyond[0].code}.",
            (Figure("beyond its terminator, m", far),),
        )


def _lengths(bus: Bus) -> Iterator[Finding]:
    limits = limits_at(bus.kbit_s, screened=bus.screened)
    if bus.length_m > limits.line_m:
        yield Finding(
            "network-too-long",
            "look",
            bus.key,
            f"The bus is {bus.length_m:.3g} m long; {_at(bus)} {limits.line_m:g} m are "
            f"the limit ({limits.source}).",
            f"A module must see the answer of the farthest one within the same bit.{_happens(bus)}",
            "Shorten it, or let all modules talk slower.",
            (Figure("line, m", bus.length_m),),
        )
    ends = {bus.trunk[0], bus.trunk[-1]} if bus.trunk else set()
    inside = len(bus.terminators) == 2
    long = [
        one
        for one in bus.members
        if bus.away_m(one.at) > limits.stub_m
        and not (inside and bus.stubs[one.at][0] in ends)  # network-terminator-inside says so
        and one.sort != "terminator"
    ]
    for one in long:
        far = bus.away_m(one.at)
        yield Finding(
            "network-stub",
            "look",
            one.code,
            f"{one.name} hangs on a stub of {far:.2g} m; {_at(bus)} "
            f"{limits.stub_m:.2g} m are the limit ({limits.source}).",
            f"From its open end each bit comes back as an echo.{_happens(bus)}",
            f"Lead the line past {one.name}, in by one wire and out by another, or tap it nearer.",
            (Figure("stub, m", far),),
        )
    if bus.rings:
        yield Finding(
            "network-ring",
            "look",
            bus.key,
            f"The bus closes a ring, with {some(list(bus.rings), 3)}.",
            "A ring has no ends: terminators do not end it, and a break in it hides until there "
            "is a second.",
            f"Take {bus.rings[0]} and its partner out, and a terminator to each of the two ends.",
        )
    apart = [one for one in bus.stretches if one.wire and not one.twisted]
    untwisted = sum(one.counts_m for one in apart)
    if untwisted > TWISTED_M:
        yield Finding(
            "network-untwisted",
            "look",
            bus.key,
            f"{untwisted:.2g} m of the bus lie untwisted: {some([one.wire for one in apart], 4)}.",
            "Two wires that are not twisted pick up what coils and motors send, and differ in it.",
            "Twist both wires of each, some 30 to 40 turns a metre (common practice), and type "
            "the lay length.",
            (Figure("untwisted, m", untwisted),),
        )


def _wires(analysis: Analysis, bus: Bus) -> Iterator[Finding]:
    whole = [one for one in bus.members if not one.half]
    crossed = [one for one in whole if one.crossed]
    if crossed and 2 * len(crossed) == len(whole):
        # As many say one as say the other: which are right nobody knows.
        straight = [one for one in whole if not one.crossed]
        yield Finding(
            "network-crossed",
            "stop",
            crossed[0].code,
            f"{_named(crossed)} and {_named(straight)} do not agree which wire of the bus is high.",
            "What one sends the other sees upside down. Ohms do not show it: 60 Ω stay 60 Ω.",
            "Look in their pinouts which is right, and change the two wires at the other over.",
        )
        crossed = []
    for one in bus.members:
        if one in crossed:
            yield Finding(
                "network-crossed",
                "stop",
                one.code,
                f"{one.name} has the two wires of the bus crossed.",
                "It sees every bit upside down, and disturbs all others when it talks. Ohms do not "
                "show it: 60 Ω stay 60 Ω.",
                f"Change the two wires at {one.code} over: high to high, low to low.",
            )
        elif one.half and one.sort in ("module", "diagnosis"):
            there = [end for end in (one.high, one.low) if analysis.network.wires_at.get(end)]
            if len({analysis.network.net_of[end] for end in there}) == 1 and len(there) == 2:
                why = "Both of its wires are one: the bus is shorted there, and all of it is dead."
            else:
                why = "With one wire it hears nothing, or sees half of each bit and disturbs all."
            yield Finding(
                "network-one-wire",
                "stop",
                one.code,
                f"{one.name} has not both wires of the bus.",
                why,
                f"Look at {one.high} and {one.low}: one to each wire of the pair.",
            )


def _modules(bus: Bus) -> Iterator[Finding]:
    talkers = [one for one in bus.talkers if not one.half]
    if len(talkers) == 1 and not any(one.half for one in bus.talkers):
        yield Finding(
            "network-alone",
            "note",
            bus.key,
            f"{talkers[0].name} is alone on its bus.",
            "A module that nobody answers sends its message again and again, and sets a code.",
            "Wire what it talks with, or leave it and keep the code in mind.",
        )
    said = {one.kbit_s: one for one in bus.members if one.kbit_s}
    if len(said) > 1:
        words = ", ".join(f"{one.name} at {rate:g}" for rate, one in sorted(said.items()))
        yield Finding(
            "network-rates",
            "stop",
            bus.key,
            f"The modules of a bus talk at different bit rates: {words} kbit/s.",
            "What talks at another rate understands nobody, and breaks every message.",
            "Set one rate at all of them, or put a gateway between two buses.",
        )
    limits = limits_at(bus.kbit_s, screened=bus.screened)
    if limits.nodes is not None and len(talkers) > limits.nodes:
        yield Finding(
            "network-nodes",
            "look",
            bus.key,
            f"{len(talkers)} modules hang on one bus; {limits.nodes} are the limit "
            f"({limits.source}).",
            f"Each of them loads the line with its input and its capacitance.{_happens(bus)}",
            "Part it in two, with a gateway between.",
            (Figure("modules", len(talkers)),),
        )
