"""What people type into the fields of a wire, a pin or a part, read and put into the job."""

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from molvik.desktop.store import Store
from molvik.model import edits
from molvik.model.parts import Pin, Wire
from molvik.netlist.ends import read_end
from molvik.netlist.network import Network
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import (
    read_current_a,
    read_duty_s,
    read_length_m,
    read_size,
    read_temperature_c,
)
from molvik.reference.insulation import INSULATIONS, read_insulation
from molvik.reference.limits import USES
from molvik.reference.places import PLACES

Fields = dict[str, Any]


class WireField(NamedTuple):
    """A field of a wire. show: its text. read: what a typed text changes, or a ValueError. unit: in
    which its text is told, where a bare number means that.
    """

    name: str
    tip: str
    show: Callable[[Wire], str]
    read: Callable[[str, Network], Fields]
    choices: tuple[str, ...] = ()
    unit: str = ""


def _plain(field: str) -> Callable[[str, Network], Fields]:
    return lambda text, _: {field: text.strip()}


def _optional(field: str, read: Callable[[str], Any]) -> Callable[[str, Network], Fields]:
    return lambda text, _: {field: read(text) if text.strip() else None}


def _chosen(field: str, choices: Mapping[str, Any], what: str) -> Callable[[str, Network], Fields]:
    """Read one of a table's codes, by its code or the start of its name."""

    def read(text: str, _: Network) -> Fields:
        tidy = text.strip().lower()
        if not tidy:
            return {field: ""}
        for code, choice in choices.items():
            if tidy in (code.lower(), choice.name.lower()):
                return {field: code}
        near = [code for code, choice in choices.items() if choice.name.lower().startswith(tidy)]
        if len(near) == 1:
            return {field: near[0]}
        known = ", ".join(code for code in choices if code)
        raise ValueError(f"“{text.strip()}” is no {what} known here. Type one of: {known}.")

    return read


def number_text(value: float | None, unit: str) -> str:
    """Write a number with its unit, nothing for None."""
    return "" if value is None else f"{value:.4g} {unit}"


def duty_text(wire: Wire) -> str:
    """Write how long a wire's load is on and off, nothing where that is not its own."""
    if wire.on_s is None or wire.rest_s is None:
        return ""
    return f"{wire.on_s:g} s / {wire.rest_s:g} s"


def _read_duty(text: str, _: Network) -> Fields:
    on_s, rest_s = read_duty_s(text) if text.strip() else (None, None)
    return {"on_s": on_s, "rest_s": rest_s}


def _read_lay(text: str) -> float:
    tidy = text.strip()
    return read_length_m(f"{tidy} mm" if tidy.replace(".", "").isdigit() else tidy) * 1000


WIRE_FIELDS: tuple[WireField, ...] = (
    WireField("From", "Connector and cavity, or part and terminal: C3 12, F7 out, E1",
              lambda w: str(w.start) if w.start.at else "loose",
              lambda text, network: {"start": read_end(text, network)}),
    WireField("To", "Connector and cavity, or part and terminal: C3 12, F7 out, E1",
              lambda w: str(w.finish) if w.finish.at else "loose",
              lambda text, network: {"finish": read_end(text, network)}),
    WireField("Function", "What the wire is for", lambda w: w.function, _plain("function")),
    WireField("Colour", "Base and tracer: RD/WH, red/white, rt/ws",
              lambda w: str(w.colour) if w.colour else "", _optional("colour", read_any_colour)),
    WireField("Size", "14 AWG or 2.5 mm2",
              lambda w: str(w.size) if w.size else "", _optional("size", read_size)),
    WireField("Length", "Cut length: 0.62 m, 22 in, 4 ft 2 in",
              lambda w: number_text(w.length_m, "m"), _optional("length_m", read_length_m),
              unit="m"),
    WireField("Current", "What it carries with its load on: 7.5 A, 350 mA",
              lambda w: number_text(w.load_a, "A"), _optional("load_a", read_current_a),
              unit="A"),
    WireField("Insulation", "One of: " + ", ".join(INSULATIONS),
              lambda w: w.insulation, lambda text, _: {"insulation": read_insulation(text)},
              tuple(INSULATIONS)),
    WireField("Air", "Air temperature where it runs: 60, 140 F; empty for the job's",
              lambda w: number_text(w.ambient_c, "°C"), _optional("ambient_c", read_temperature_c)),
    WireField("Place", "Where it runs, which sets the air round it: "
              + ", ".join(code for code in PLACES if code) + "; empty for the engine bay",
              lambda w: w.place, _chosen("place", PLACES, "place"),
              tuple(code for code in PLACES if code)),
    WireField("Bundle", "Name of the bundle it lies in: its neighbours warm it",
              lambda w: w.bundle, _plain("bundle")),
    WireField("Duty", "How long its load is on and off: 15 s / 60 s; empty as usual for its use",
              duty_text, _read_duty),
    WireField("Use", "Sets the voltage it may lose: " + ", ".join(c for c in USES if c),
              lambda w: w.use, _chosen("use", USES, "use"), tuple(code for code in USES if code)),
    WireField("Circuit", "Circuit name or number on the diagram",
              lambda w: w.circuit, _plain("circuit")),
    WireField("Cable", "Name of the cable it is a core of; its screen has the use “screen”",
              lambda w: w.cable, _plain("cable")),
    WireField("Twist", "Length of one turn with the other cores: 30 mm; empty when straight",
              lambda w: number_text(w.lay_length_mm, "mm"), _optional("lay_length_mm", _read_lay)),
    WireField("Note", "Anything to remember", lambda w: w.note, _plain("note")),
)  # fmt: skip
"""The fields of a wire in the order of the wire list."""

NEW_WIRE = Wire("")
"""Stands for the empty row at the end of the wire list, where a new wire is typed."""


def edit_wire(store: Store, code: str, field: WireField, text: str) -> str:
    """Put a typed text into a wire, or into a new one when code is empty; return its code."""
    fields = field.read(text, store.analysis.network)
    if code:
        store.do(f"{field.name} of {code}", lambda job: edits.change_wire(job, code, **fields))
        return code
    code = edits.free_code(store.job, Wire)
    store.do(f"New wire {code}", lambda job: edits.add(job, Wire(code, **fields)))
    return code


class PinField(NamedTuple):
    """A field of a pin, like ``WireField``."""

    name: str
    tip: str
    show: Callable[[Pin], str]
    read: Callable[[str], Fields]


def _fill(text: str) -> Fields:
    tidy = text.strip().lower()
    if tidy in ("", "empty", "plugged"):
        return {"fill": tidy}
    raise ValueError("Type empty, plugged, or nothing.")


PIN_FIELDS: tuple[PinField, ...] = (
    PinField("Function", "What the pinout says it is for",
             lambda p: p.function, lambda text: {"function": text.strip()}),
    PinField("Circuit", "Circuit name or number",
             lambda p: p.circuit, lambda text: {"circuit": text.strip()}),
    PinField("Colour", "Colour the pinout gives",
             lambda p: str(p.colour) if p.colour else "",
             lambda text: {"colour": read_any_colour(text) if text.strip() else None}),
    PinField("Size", "Size the pinout gives",
             lambda p: str(p.size) if p.size else "",
             lambda text: {"size": read_size(text) if text.strip() else None}),
    PinField("Seen", "empty, plugged, or nothing", lambda p: p.fill, _fill),
    PinField("Note", "Anything to remember",
             lambda p: p.note, lambda text: {"note": text.strip()}),
)  # fmt: skip
"""The fields of a pin in the order of the pin table."""


def edit_pin(store: Store, connector: str, cavity: str, field: PinField, text: str) -> None:
    """Put a typed text into a pin."""
    fields = field.read(text)
    store.do(
        f"{field.name} of {connector}/{cavity}",
        lambda job: edits.change_pin(job, connector, cavity, **fields),
    )
