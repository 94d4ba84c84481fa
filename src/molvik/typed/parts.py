"""What people type about fuses, splices, earth points, devices and connectors."""

from collections.abc import Callable, Iterable
from typing import Any

from molvik.devices import KINDS
from molvik.model import edits
from molvik.model.parts import (
    Connector,
    Device,
    EarthPoint,
    Fuse,
    Gender,
    Part,
    Splice,
    SpliceJoint,
    Suppression,
)
from molvik.netlist.network import Network
from molvik.parsing.devices import (
    CURVE_HOW,
    OUTPUTS_HOW,
    POSITIONS_HOW,
    curve_text,
    figure_names,
    figures_text,
    joins_text,
    outputs_text,
    positions_text,
    read_curve,
    read_figures,
    read_joins,
    read_outputs,
    read_positions,
    read_terminals,
)
from molvik.parsing.quantities import read_current_a
from molvik.reference.contacts import CONTACTS
from molvik.reference.fuses import RATINGS_A
from molvik.typed.field import (
    YES,
    Field,
    Fields,
    Reader,
    Typed,
    contact,
    millimetres,
    number_text,
    one_of,
    plain,
    yes_or_no,
)
from molvik.wording import a

Of = Callable[[Any, str, Network], Fields]


def _name(text: str, _: Network) -> Fields:
    if not text.strip():
        raise ValueError("Give it a name.")
    return {"name": text.strip()}


def _rating(text: str, _: Network) -> Fields:
    rating = read_current_a(text)
    if rating <= 0:
        raise ValueError("A fuse has a rating above zero.")
    return {"rating_a": rating}


def _kind_of_fuse(text: str, _: Network) -> Fields:
    tidy = text.strip().lower()
    near = [kind for kind in RATINGS_A if tidy and kind.startswith(tidy)]
    if len(near) != 1:
        raise ValueError(f"“{text.strip()}” is not one of: {', '.join(RATINGS_A)}.")
    return {"kind": near[0]}


def _code_of(text: str, among: Iterable[Part], what: str) -> str:
    """Return the code of a part that is named by its code or its name; nothing for nothing."""
    tidy = text.strip().lower()
    if not tidy:
        return ""
    for part in among:
        if tidy in (part.code.lower(), part.name.lower(), f"{part.code} {part.name}".lower()):
            return part.code
    raise ValueError(f"“{text.strip()}” is not {a(what)} in the job. Type its code or its name.")


def _connector(field: str) -> Reader:
    def read(text: str, network: Network) -> Fields:
        return {field: _code_of(text, network.job.connectors, "connector")}

    return read


def _named(parts: Iterable[Part]) -> tuple[str, ...]:
    """Return parts as they are offered, by code and name."""
    return tuple(f"{part.code} {part.name}" for part in parts)


def _earth(text: str, network: Network) -> Fields:
    return {"case": _code_of(text, network.job.earths, "earth point")}


def _needed(text: str, _: Network) -> Fields:
    return {"needed": bool(yes_or_no(text))}


NAME: Field[Any] = Field("Name", "What it is called", lambda part: part.name, _name)

FUSE_FIELDS: tuple[Field[Fuse], ...] = (
    NAME,
    Field("Rating", "In amperes", lambda f: f"{f.rating_a:g} A", _rating, unit="A"),
    Field(
        "Kind", "One of: " + ", ".join(RATINGS_A), lambda f: f.kind, _kind_of_fuse, tuple(RATINGS_A)
    ),
)

SPLICE_FIELDS: tuple[Field[Splice], ...] = (
    Field("Name", "What it joins", lambda s: s.name, plain("name")),
    Field(
        "Node",
        "crimped or soldered; solder stiffens the strands beside it: crimp where the loom flexes",
        lambda s: s.joint,
        one_of("joint", SpliceJoint),
        ("crimped", "soldered"),
    ),
)

EARTH_FIELDS: tuple[Field[EarthPoint], ...] = (NAME,)

CONNECTOR_FIELDS: tuple[Field[Connector], ...] = (
    Field("Name", "What it plugs into", lambda c: c.name, _name),
    Field(
        "Terminals",
        "pin or socket; empty while it is not known",
        lambda c: c.terminals,
        one_of("terminals", Gender),
        ("pin", "socket"),
    ),
    Field(
        "Terminal size",
        "Terminal size: " + ", ".join(CONTACTS),
        lambda c: c.contact,
        contact,
        tuple(CONTACTS),
    ),
    Field(
        "Plugs into",
        "The connector of the loom it mates with, by code or name",
        lambda c: c.plugs_into,
        _connector("plugs_into"),
        of_job=lambda job: _named(job.connectors),
    ),
    Field(
        "Wide",
        "Of the housing at its face, with all that sticks out, mm",
        lambda c: number_text(c.wide_mm, "mm"),
        millimetres("wide_mm"),
        unit="mm",
    ),
    Field(
        "High",
        "Of the housing at its face, with all that sticks out, mm",
        lambda c: number_text(c.high_mm, "mm"),
        millimetres("high_mm"),
        unit="mm",
    ),
    Field(
        "Deep",
        "Of the housing, from its face to where the wires leave, mm: it may pass on edge",
        lambda c: number_text(c.deep_mm, "mm"),
        millimetres("deep_mm"),
        unit="mm",
    ),
)


def _of(kind: str, read: Callable[[str, str], Any], field: str) -> Reader:
    """Read what depends on the kind of a device."""
    return lambda text, _: {field: read(text, kind)}


def device_fields(device: Device, *, every_kind: bool = False) -> tuple[Field[Device], ...]:
    """Return the fields that a device has; which ones, its kind says. every_kind: those of all."""
    terminals, kind = device.terminals, device.kind
    has = KINDS[kind].fields
    usual = figures_text(KINDS[kind].figures.items())
    every: tuple[tuple[str, Field[Device]], ...] = (
        ("", NAME),
        (
            "",
            Field(
                "Terminals",
                "Their names, separated by spaces",
                lambda d: " ".join(d.terminals),
                lambda text, _: {"terminals": _some(read_terminals(text), device)},
            ),
        ),
        (
            "",
            Field(
                "Plug",
                "The connector whose cavities are its terminals, by code or name",
                lambda d: d.plug,
                _connector("plug"),
                of_job=lambda job: _named(job.connectors),
            ),
        ),
        (
            "",
            Field(
                "Figures",
                f"Its own, where they differ from the usual {usual or 'ones'}: "
                f"{figure_names(kind)}",
                lambda d: figures_text(d.values),
                _of(kind, read_figures, "values"),
            ),
        ),
        (
            "",
            Field(
                "Needed to run",
                "yes: the engine starts only with it alive",
                lambda d: YES[d.needed or None],
                _needed,
                ("yes", "no"),
            ),
        ),
        (
            "joins",
            Field(
                "Closed when on",
                "Pairs of terminals a supply passes when it is on: 30-87",
                lambda d: joins_text(d.joins),
                lambda text, _: {"joins": read_joins(text, terminals)},
            ),
        ),
        (
            "positions",
            Field(
                "Positions",
                POSITIONS_HOW,
                lambda d: positions_text(d.positions),
                lambda text, _: {"positions": read_positions(text, terminals)},
            ),
        ),
        (
            "supplies",
            Field(
                "Supplies",
                "Terminals it is fed at",
                lambda d: " ".join(d.supplies),
                lambda text, _: {"supplies": tuple(text.split())},
            ),
        ),
        (
            "earths",
            Field(
                "Earths",
                "Terminals it is earthed at",
                lambda d: " ".join(d.earths),
                lambda text, _: {"earths": tuple(text.split())},
            ),
        ),
        (
            "outputs",
            Field(
                "Outputs",
                OUTPUTS_HOW,
                lambda d: outputs_text(d.outputs),
                lambda text, _: {"outputs": read_outputs(text)},
            ),
        ),
        (
            "curve",
            Field(
                "Curve",
                "Of a sender its ohms at a value, of a gauge those at which it shows it, of an "
                "alternator the A it gives warm at its own 1/min: "
                f"{CURVE_HOW}",
                lambda d: curve_text(d.curve),
                lambda text, _: {"curve": read_curve(text)},
            ),
        ),
        (
            "case",
            Field(
                "Case earth",
                "The earth point its body is bolted to; empty when insulated",
                lambda d: d.case,
                _earth,
                of_job=lambda job: _named(job.earths),
            ),
        ),
        (
            "suppression",
            Field(
                "Across coil",
                "diode (band (cathode) at 86), resistor, or nothing",
                lambda d: d.suppression,
                one_of("suppression", Suppression),
                ("diode", "resistor"),
            ),
        ),
    )
    return tuple(field for wanted, field in every if every_kind or not wanted or wanted in has)


def _some(terminals: tuple[str, ...], device: Device) -> tuple[str, ...]:
    if not terminals and not device.plug:
        raise ValueError("Name its terminals, separated by spaces: 30 87 86 85.")
    return terminals


def fields_of(part: Part) -> tuple[Field[Any], ...]:
    """Return what can be typed of a part."""
    match part:
        case Fuse():
            return FUSE_FIELDS
        case Splice():
            return SPLICE_FIELDS
        case EarthPoint():
            return EARTH_FIELDS
        case Device():
            return device_fields(part)
        case _:
            return CONNECTOR_FIELDS


def type_part(network: Network, code: str, field: Field[Any], text: str) -> Typed:
    """Read a text typed into a part."""
    fields = field.read(text, network)
    return Typed(
        f"{field.name} of {code}", code, lambda job: edits.change_part(job, code, **fields)
    )
