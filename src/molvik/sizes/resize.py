"""Many wires at once: which would get another size, and the edit that gives it to them."""

from typing import NamedTuple

from msgspec.structs import replace

from molvik.circuits.network import Network
from molvik.model.job import Job
from molvik.model.parts import SizeSystem, WireSize
from molvik.sizes.wire import judge, question, smallest


class Resize(NamedTuple):
    """A wire with the size it has and the smallest that passes."""

    wire: str
    old: WireSize | None
    new: WireSize


def resizes(network: Network, system: SizeSystem, *, failing_only: bool) -> tuple[Resize, ...]:
    """Return the wires that would change; those without a current are left as they are.

    failing_only: leave every wire that passes, else make thick ones thinner as well.
    """
    found = []
    for wire in network.job.wires:
        asked = question(network, wire)
        if asked.load_a is None or asked.length_m is None or wire.stowed:
            continue
        if failing_only and wire.size is not None and judge(wire.size, asked).passes:
            continue
        new = smallest(asked, system)
        if new is not None and new != wire.size:
            found.append(Resize(wire.code, wire.size, new))
    return tuple(found)


def resized(job: Job, changes: tuple[Resize, ...]) -> Job:
    """Return the job with other sizes."""
    sizes = {one.wire: one.new for one in changes}
    wires = tuple(
        replace(wire, size=sizes[wire.code]) if wire.code in sizes else wire for wire in job.wires
    )
    return replace(job, wires=wires)
