"""What people type about a cavity, as a pinout has it."""

from molvik.model import edits
from molvik.model.parts import Pin
from molvik.model.refs import end_text
from molvik.netlist.network import Network
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import read_size
from molvik.typed.field import Field, Fields, Typed, optional, plain


def _fill(text: str, _: Network) -> Fields:
    tidy = text.strip().lower()
    if tidy in ("", "empty", "plugged"):
        return {"fill": tidy}
    raise ValueError("Type empty, plugged, or nothing.")


PIN_FIELDS: tuple[Field[Pin], ...] = (
    Field("Function", "What the pinout says it is for", lambda p: p.function, plain("function")),
    Field("Circuit", "Circuit name or number", lambda p: p.circuit, plain("circuit")),
    Field(
        "Colour",
        "Colour the pinout gives",
        lambda p: str(p.colour) if p.colour else "",
        optional("colour", read_any_colour),
    ),
    Field(
        "Size",
        "Size the pinout gives",
        lambda p: str(p.size) if p.size else "",
        optional("size", read_size),
    ),
    Field("Seen", "empty, plugged, or nothing", lambda p: p.fill, _fill),
    Field("Note", "Anything to remember", lambda p: p.note, plain("note")),
)
"""The fields of a pin in the order of the pin table."""


def type_pin(network: Network, connector: str, cavity: str, field: Field[Pin], text: str) -> Typed:
    """Read a text typed into a pin."""
    fields = field.read(text, network)
    return Typed(
        f"{field.name} of {end_text(connector, cavity)}",
        end_text(connector, cavity),
        lambda job: edits.change_pin(job, connector, cavity, **fields),
    )
