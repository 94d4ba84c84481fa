"""A new wire with what the pinouts know of it; where they differ, the user says whose counts."""

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from molvik.desktop.questions import Answer, question
from molvik.model.parts import Wire
from molvik.netlist.known import known_of
from molvik.netlist.network import Network


def ask_known(parent: QWidget, network: Network, wire: Wire) -> Wire | None:
    """Return a wire with what the pinouts at its ends say; None where it was given up."""
    known, differs = known_of(network, wire)
    if not differs:
        return known
    one, other = (network.end_name(end) for end in wire.ends)
    chosen = question(
        parent, "The pinouts differ", f"What the pinouts say of {wire.code} at its ends differs.",
        "\n".join(line.partition(";")[0] for line in differs),
        [Answer("first", f"As {one}"), Answer("second", f"As {other}")],
    )  # fmt: skip
    if not chosen:
        return None
    if chosen == "first":
        return known
    turned = known_of(network, replace(wire, start=wire.finish, finish=wire.start)).wire
    return replace(turned, start=wire.start, finish=wire.finish, function=known.function)
