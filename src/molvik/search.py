"""Find: whatever a text may mean in a job, the surest first."""

from collections.abc import Iterable, Iterator
from typing import Any, NamedTuple

from molvik.analysis import Analysis
from molvik.findings import judged_findings
from molvik.model.parts import Colour, Connector, End, Wire
from molvik.model.refs import end_text
from molvik.parsing.colours import ColourError, read_any_colour
from molvik.parsing.quantities import QuantityError
from molvik.reference.colours import colour_name
from molvik.sizes.quick import quick

MOST = 60


class Hit(NamedTuple):
    """Something found. subject: where to go, empty for an answer. sure: it is what was typed, not
    only like it. stage: where it is put right, of a finding.
    """

    text: str
    subject: str
    sure: bool = False
    stage: str = ""


def search(analysis: Analysis, text: str) -> list[Hit]:
    """Return what matches a text: an answer to a sum, then what is just that, then what is like it,
    then what was found about it.
    """
    wanted = text.strip().lower()
    if not wanted:
        return []
    job = [
        *_cavity(analysis, wanted),
        *_wires(analysis, wanted),
        *_parts(analysis, wanted),
        *_pinouts(analysis, wanted),
        *_in_looms(analysis, wanted),
    ]
    job.sort(key=lambda hit: not hit.sure)
    return [*_sum(text), *job, *_findings(analysis, wanted)][:MOST]


def _sum(text: str) -> Iterator[Hit]:
    try:
        answer = quick(text)
    except QuantityError as error:
        yield Hit(str(error), "")
    else:
        if answer:
            yield Hit(answer.line, "")


def _cavity(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    """Find a cavity or a terminal by its part and name, with the wires in it."""
    code, _, name = wanted.replace("/", " ").partition(" ")
    part = next((p for p in analysis.job.parts() if p.code.lower() == code), None)
    if part is None or not name.strip():
        return
    ends = {end for end in analysis.network.wires_at if end.at == part.code}
    if isinstance(part, Connector):
        ends |= {End(part.code, cavity) for cavity in analysis.network.cavities[part.code]}
    for end in sorted(ends, key=str):
        if end.cavity.lower() != name.strip():
            continue
        if isinstance(part, Connector):
            yield Hit(f"{end} · {part.name}, cavity {end.cavity}", str(end), sure=True)
        for wire in analysis.network.wires_at.get(end, ()):
            yield Hit(f"{_told(wire)} · in {end}", wire.code, sure=True)


def _told(wire: Wire) -> str:
    named = colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else ""
    return " · ".join(filter(None, (wire.code, wire.function, named)))


def _colour(wanted: str) -> Colour | None:
    try:
        return read_any_colour(wanted)
    except ColourError:
        return None


def _wires(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    colour = _colour(wanted)
    for wire in analysis.job.wires:
        named = colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else ""
        words = (wire.function, wire.circuit, wire.note, named, str(wire.size or ""))
        if wire.code.lower() == wanted or (colour is not None and wire.colour == colour):
            yield Hit(_told(wire), wire.code, sure=True)
        elif any(wanted in word.lower() for word in words):
            yield Hit(_told(wire), wire.code)


def _parts(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    for part in analysis.job.parts():
        name = part.name or part.code
        if part.code.lower() == wanted or wanted in name.lower():
            sure = wanted in (part.code.lower(), name.lower())
            yield Hit(f"{part.code} · {name}", part.code, sure=sure)


def _pinouts(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    """Find what the pinouts say of cavities: function, circuit, colour."""
    colour = _colour(wanted)
    for connector in analysis.job.connectors:
        for pin in connector.pins:
            says = pin.function and wanted in pin.function.lower()
            named = bool(pin.circuit) and wanted == pin.circuit.lower()
            tinted = colour is not None and pin.colour == colour
            if says or named or tinted:
                place = end_text(connector.code, pin.cavity)
                words = pin.function or "no function said"
                tint = f", {pin.colour}" if tinted else ""
                yield Hit(f"{place} · {connector.name}, cavity {pin.cavity}: {words}{tint}", place)


def _in_looms(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    """Find what is in the loom as found and in the looms to build."""
    looms: tuple[tuple[str, Iterable[Any]], ...] = (
        ("loom as found", analysis.job.loom.things()),
        ("loom to build", analysis.job.routing.things()),
    )
    for of, things in looms:
        for thing in things:
            name = getattr(thing, "name", "") or getattr(thing, "function", "") or thing.note
            if thing.code.lower() == wanted:
                yield Hit(f"{thing.code} · {name}", thing.code, sure=True)
            elif wanted in name.lower():
                yield Hit(f"{thing.code} · {name} ({of})", thing.code)


def _findings(analysis: Analysis, wanted: str) -> Iterator[Hit]:
    """Find what was found, once the job was looked over: nobody waits for that while typing."""
    for judged in analysis.known(judged_findings) or ():
        finding = judged.finding
        about = {part.lower() for part in finding.subject.replace("/", " ").split()}
        if judged.is_open and (wanted in finding.what.lower() or wanted in about):
            yield Hit(f"{finding.word}: {finding.what}", finding.leads_to, stage=finding.stage)
