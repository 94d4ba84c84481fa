"""The wire list: every wire with its ends, colour, size and protection."""

import math

from molvik.model.job import code_order
from molvik.model.parts import Wire
from molvik.netlist.network import Network
from molvik.reference.colours import colour_name
from molvik.sheet import Sheet, Table, notes
from molvik.wording import figures


def wire_list(network: Network) -> Sheet:
    """Return the wire list of a job."""
    wires = sorted(network.job.wires, key=lambda wire: code_order(wire.code))
    table = Table(
        (
            "Wire",
            "Function",
            "Circuit",
            "From",
            "From, in words",
            "To",
            "To, in words",
            "Colour",
            "Size",
            "Insulation",
            "Length m",
            "Fuse",
            "Note",
        ),
        (4, 13, 5, 5, 12, 5, 12, 11, 6, 6, 5, 6, 10),
        tuple(_row(network, wire) for wire in wires),
    )
    below = notes(
        "Cut long: a wire can be shortened, never lengthened. Check against the loom.",
        "Sizes and fuses are computed for a single wire in still air. Local rules come first.",
    )
    return Sheet("wire-list", "Wire list", (table, *below))


def _row(network: Network, wire: Wire) -> tuple[str, ...]:
    feed = network.feed(wire)
    if feed is None:
        protected = ""
    elif math.isinf(feed.limit_a):
        protected = "none"
    else:
        protected = f"{feed.named} {figures(feed.limit_a)} A"
    return (
        wire.code,
        wire.function,
        wire.circuit,
        str(wire.start),
        network.end_name(wire.start),
        str(wire.finish),
        network.end_name(wire.finish),
        colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else "",
        str(wire.size) if wire.size else "",
        wire.insulation,
        f"{wire.length_m:.2f}" if wire.length_m is not None else "",
        protected,
        wire.note,
    )
