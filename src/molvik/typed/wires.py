"""What people type about a wire."""

from msgspec.structs import replace

from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Wire
from molvik.netlist.ends import read_end
from molvik.netlist.known import KNOWN, known_of
from molvik.netlist.network import Network
from molvik.netlist.sent import read_sent, sent_text
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import (
    read_current_a,
    read_duty_s,
    read_length_m,
    read_mm,
    read_size,
    read_temperature_c,
)
from molvik.reference.insulation import INSULATIONS, read_insulation
from molvik.reference.limits import USES
from molvik.reference.places import PLACES
from molvik.typed.field import Field, Fields, Typed, chosen, number_text, optional, plain


def duty_text(wire: Wire) -> str:
    """Write how long a wire's load is on and off, nothing where that is not its own."""
    if wire.on_s is None or wire.rest_s is None:
        return ""
    return f"{wire.on_s:g} s / {wire.rest_s:g} s"


def _read_duty(text: str, _: Network) -> Fields:
    on_s, rest_s = read_duty_s(text) if text.strip() else (None, None)
    return {"on_s": on_s, "rest_s": rest_s}


def _sent(text: str, network: Network) -> Fields:
    through, avoid = read_sent(text, network.job)
    return {"through": through, "avoid": avoid}


WIRE_FIELDS: tuple[Field[Wire], ...] = (
    Field(
        "From",
        "Connector and cavity, or part and terminal: C3 12, F7 out, E1",
        lambda w: str(w.start) if w.start.at else "loose",
        lambda text, network: {"start": read_end(text, network)},
    ),
    Field(
        "To",
        "Connector and cavity, or part and terminal: C3 12, F7 out, E1",
        lambda w: str(w.finish) if w.finish.at else "loose",
        lambda text, network: {"finish": read_end(text, network)},
    ),
    Field("Function", "What the wire is for", lambda w: w.function, plain("function")),
    Field(
        "Colour",
        "Base and tracer: RD/WH, red/white, rt/ws",
        lambda w: str(w.colour) if w.colour else "",
        optional("colour", read_any_colour),
    ),
    Field(
        "Size",
        "14 AWG or 2.5 mm2",
        lambda w: str(w.size) if w.size else "",
        optional("size", read_size),
    ),
    Field(
        "Length",
        "Cut length: 0.62 m, 22 in, 4 ft 2 in",
        lambda w: number_text(w.length_m, "m"),
        optional("length_m", read_length_m),
        unit="m",
    ),
    Field(
        "Current",
        "What it carries with its load on: 7.5 A, 350 mA",
        lambda w: number_text(w.load_a, "A"),
        optional("load_a", read_current_a),
        unit="A",
    ),
    Field(
        "Insulation",
        "One of: " + ", ".join(INSULATIONS),
        lambda w: w.insulation,
        lambda text, _: {"insulation": read_insulation(text)},
        tuple(INSULATIONS),
    ),
    Field(
        "Air",
        "Air temperature where it runs: 60, 140 F; empty for the job's",
        lambda w: number_text(w.ambient_c, "°C"),
        optional("ambient_c", read_temperature_c),
    ),
    Field(
        "Place",
        "Where it runs, which sets the air round it: "
        + ", ".join(code for code in PLACES if code)
        + "; empty for the engine bay",
        lambda w: w.place,
        chosen("place", PLACES, "place"),
        tuple(code for code in PLACES if code),
    ),
    Field(
        "Bundle",
        "Name of the bundle it lies in: its neighbours warm it",
        lambda w: w.bundle,
        plain("bundle"),
    ),
    Field(
        "Duty",
        "How long its load is on and off: 15 s / 60 s; empty as usual for its use",
        duty_text,
        _read_duty,
    ),
    Field(
        "Use",
        "Sets the voltage drop it may have: " + ", ".join(c for c in USES if c),
        lambda w: w.use,
        chosen("use", USES, "use"),
        tuple(code for code in USES if code),
    ),
    Field(
        "Circuit", "Circuit name or number on the diagram", lambda w: w.circuit, plain("circuit")
    ),
    Field(
        "Cable",
        "Name of the cable it is a core of; its screen has the use “screen”",
        lambda w: w.cable,
        plain("cable"),
    ),
    Field(
        "Twist",
        "Length of one turn with the other cores: 30 mm; empty when straight",
        lambda w: number_text(w.lay_length_mm, "mm"),
        optional("lay_length_mm", read_mm),
    ),
    Field(
        "Via",
        "Through nodes of a loom to build, and not others: J5, not J3; empty for the "
        "shortest route",
        sent_text,
        _sent,
    ),
    Field("Note", "Anything to remember", lambda w: w.note, plain("note")),
)
"""The fields of a wire in the order of the wire list."""

NEW_WIRE = Wire("")
"""Stands for the empty row at the end of the wire list, where a new wire is typed."""


def type_wire(job: Job, network: Network, code: str, field: Field[Wire], text: str) -> Typed:
    """Read a text typed into a wire, or into a new one when code is empty."""
    fields = field.read(text, network)
    differs: tuple[str, ...] = ()
    if code:
        wire = network.wires.get(code)
        if wire is not None and {"start", "finish"} & set(fields):
            # A wire that is led somewhere takes what the pinouts know and nobody said.
            ended = replace(wire, **fields)
            known, differs = known_of(network, ended)
            fields |= {
                name: getattr(known, name)
                for name in KNOWN
                if getattr(known, name) != getattr(ended, name)
            }
        return Typed(
            f"{field.name} of {code}",
            code,
            lambda job: edits.change_wire(job, code, **fields),
            ". ".join(differs),
        )
    new = edits.free_code(job, Wire)
    made, differs = known_of(network, Wire(new, **fields))
    return Typed(f"New wire {new}", new, lambda job: edits.add(job, made), ". ".join(differs))
