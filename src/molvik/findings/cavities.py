"""Rules about cavities and what is in them."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.electrical.conductor import area_mm2
from molvik.findings.finding import Figure, Finding
from molvik.findings.kinds import Severity
from molvik.model.parts import Connector, End, Pin, Wire
from molvik.parsing.functions.words import is_earth, is_return
from molvik.reference.colours import colour_name
from molvik.reference.contacts import CONTACTS


def _wired(analysis: Analysis) -> Iterator[tuple[Connector, End, list[Wire]]]:
    """Yield every connector cavity that wires end in."""
    network = analysis.network
    for end, wires in network.wires_at.items():
        part = network.parts.get(end.at)
        if isinstance(part, Connector):
            yield part, end, wires


def _pins(analysis: Analysis) -> Iterator[tuple[Connector, End, Pin]]:
    for connector in analysis.job.connectors:
        for pin in connector.pins:
            yield connector, End(connector.code, pin.cavity), pin


def _connectors_with_wires(analysis: Analysis) -> set[str]:
    return {end.at for end in analysis.network.wires_at}


def two_wires_in_one_cavity(analysis: Analysis) -> Iterator[Finding]:
    """Two wires in one cavity are a stop."""
    for connector, end, wires in _wired(analysis):
        if len(wires) > 1:
            codes = " and ".join(wire.code for wire in wires)
            yield Finding(
                "two-wires-one-cavity",
                "stop",
                str(end),
                f"{codes} are both in {connector.name}, cavity {end.cavity}.",
                "A terminal is made for one wire; a second one is loose, and its seal leaks.",
                "Move one to its own cavity, or join them in a splice and run one wire in.",
            )


def no_such_cavity(analysis: Analysis) -> Iterator[Finding]:
    """A wire to a cavity that the housing does not have is a stop."""
    for connector, end, wires in _wired(analysis):
        if end.cavity not in analysis.network.cavities[connector.code]:
            yield Finding(
                "no-such-cavity",
                "stop",
                str(end),
                f"{wires[0].code} goes to {connector.name}, cavity {end.cavity}, "
                "which the housing does not have.",
                "It would be pushed somewhere else at the bench.",
                "Correct the end of the wire, or the rows and columns of the housing.",
            )


def wire_in_closed_cavity(analysis: Analysis) -> Iterator[Finding]:
    """A wire in a cavity said to be empty or plugged needs a look."""
    for connector, end, pin in _pins(analysis):
        wires = analysis.network.wires_at.get(end, [])
        if pin.fill and wires:
            yield Finding(
                "closed-cavity",
                "look",
                str(end),
                f"{wires[0].code} is in {connector.name}, cavity {end.cavity}, "
                f"which is marked {pin.fill}.",
                "One of the two is wrong, and a cavity plug left in stops the terminal.",
                "Look into the housing; then take the mark away or move the wire.",
            )


MANY = 6
"""So many cavities of one plug of which the same is to be said are told together."""


def named_but_not_wired(analysis: Analysis) -> Iterator[Finding]:
    """A function in the pinout with no wire: a stop for an earth, a look for any other."""
    others: dict[str, list[tuple[Connector, End, Pin]]] = {}
    for connector, end, pin in _not_wired(analysis):
        earth, of_sensors = is_earth(pin.function), is_return(pin.function)
        if not (earth or of_sensors):
            others.setdefault(connector.code, []).append((connector, end, pin))
            continue
        why = (
            "With an earth left off, a controller stays dead or finds another path to earth "
            "through its sensors."
            if earth
            else "Every sensor that returns there reads nonsense, or full scale."
        )
        yield _not_wired_finding("stop", connector, end, pin, why)
    why = "The pinout expects something here; a forgotten wire shows at first start."
    for unwired in others.values():
        if len(unwired) < MANY:
            yield from (_not_wired_finding("look", *one, why) for one in unwired)
            continue
        connector = unwired[0][0]
        named = ", ".join(f"{end.cavity} {pin.function}" for _, end, pin in unwired)
        yield Finding(
            "named-not-wired",
            "look",
            connector.code,
            f"{connector.name}: no wire goes to {len(unwired)} cavities with a function: {named}.",
            why,
            "Run the wires, or mark the cavities plugged that are not needed.",
            (Figure("how many have no wire", len(unwired)),),
        )


def _not_wired(analysis: Analysis) -> Iterator[tuple[Connector, End, Pin]]:
    started = _connectors_with_wires(analysis)
    # A cavity that a repinning fills, or waits to, is looked after there.
    coming = {happening.end for plan in analysis.plans.values() for happening in plan.happenings}
    for connector, end, pin in _pins(analysis):
        if connector.code not in started or str(end) in coming:
            continue
        mate = analysis.network.mate(end)
        used = end in analysis.network.wires_at or (
            mate is not None and mate in analysis.network.wires_at
        )
        if not (used or pin.fill) and pin.function:
            yield connector, end, pin


def _not_wired_finding(
    severity: Severity, connector: Connector, end: End, pin: Pin, why: str
) -> Finding:
    return Finding(
        "named-not-wired",
        severity,
        str(end),
        f"{connector.name}, cavity {end.cavity}, {pin.function}: no wire goes there.",
        why,
        f"Run the wire, or mark cavity {end.cavity} plugged if it is not needed.",
    )


def listed_but_no_wires(analysis: Analysis) -> Iterator[Finding]:
    """A connector with a pinout and no wire at all is one note, not one for each cavity."""
    started = _connectors_with_wires(analysis)
    for connector in analysis.job.connectors:
        named = sum(bool(pin.function) for pin in connector.pins)
        if named and connector.code not in started:
            yield Finding(
                "listed-no-wires",
                "note",
                connector.code,
                f"{connector.name} lists {named} functions and has no wire yet.",
                "Either it is still to be wired, or it is the donor's and only read from.",
                "Nothing to do if it is there to be read; else run its wires in Circuits.",
            )


def wire_is_too_thick_or_thin_for_its_terminal(analysis: Analysis) -> Iterator[Finding]:
    """A wire outside what the contact takes is a stop."""
    for connector, end, wires in _wired(analysis):
        contact = CONTACTS.get(connector.contact)
        for wire in wires:
            if contact is None or wire.size is None:
                continue
            area = area_mm2(wire.size)
            if contact.least_mm2 <= area <= contact.most_mm2:
                continue
            thick = area > contact.most_mm2
            yield Finding(
                "terminal-size",
                "stop",
                f"{wire.code} {end}",
                f"{wire.code}, {wire.size}, is too {'thick' if thick else 'thin'} for the size "
                f"{contact.size} terminal of {connector.name}, cavity {end.cavity}.",
                "A crimp outside its range pulls out or cuts strands, and gets hot.",
                f"The terminal takes {contact.least_mm2:g} to {contact.most_mm2:g} mm². "
                "Splice to a short tail that fits, or use a larger terminal.",
                (Figure("its section", area, "mm²", "more" if thick else "less"),),
            )


def differs_from_the_pinout(analysis: Analysis) -> Iterator[Finding]:
    """A wire whose colour is not the pinout's is worth a note; many at one plug are one."""
    at: dict[str, list[tuple[Connector, End, Pin, Wire]]] = {}
    for connector, end, pin in _pins(analysis):
        for wire in analysis.network.wires_at.get(end, []) if pin.colour else ():
            if wire.colour is not None and wire.colour != pin.colour:
                at.setdefault(connector.code, []).append((connector, end, pin, wire))
    for differing in at.values():
        connector = differing[0][0]
        if len(differing) >= MANY:
            codes = ", ".join(f"{wire.code} in {end.cavity}" for _, end, _, wire in differing)
            yield Finding(
                "colour-differs",
                "note",
                connector.code,
                f"{len(differing)} wires have other colours than the pinout of "
                f"{connector.name} says: {codes}.",
                _COLOUR_WHY,
                "Is it the pinout of this loom? If so, label both ends of each.",
                (Figure("how many differ", len(differing)),),
            )
            continue
        for _, end, pin, wire in differing:
            assert wire.colour is not None
            assert pin.colour is not None
            has = colour_name(wire.colour.base, wire.colour.tracer)
            says = colour_name(pin.colour.base, pin.colour.tracer)
            yield Finding(
                "colour-differs",
                "note",
                f"{wire.code} {end}",
                f"{wire.code} is {has}; the pinout of {connector.name} says {says} "
                f"in cavity {end.cavity}.",
                _COLOUR_WHY,
                "Check that it is the right wire; if so, label both ends.",
            )


_COLOUR_WHY = "The next person to look for a fault will trust the diagram."


def halves_do_not_mate(analysis: Analysis) -> Iterator[Finding]:
    """Two halves with the same terminals, or with other cavities, do not plug together."""
    network = analysis.network
    for connector in analysis.job.connectors:
        other = network.parts.get(connector.plugs_into)
        if not isinstance(other, Connector):
            continue
        problem = ""
        if connector.terminals and connector.terminals == other.terminals:
            problem = f"both have {connector.terminals}s"
        elif network.cavities[connector.code] != network.cavities[other.code]:
            problem = "their cavities differ"
        if problem:
            yield Finding(
                "halves-do-not-mate",
                "stop",
                connector.code,
                f"{connector.name} cannot plug into {other.name}: {problem}.",
                "A pin needs a socket of the same number opposite it.",
                "Correct the terminals or the numbering of one half.",
            )
