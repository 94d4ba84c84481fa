"""Which readings still tell of the loom as it is: nothing was changed or mended since."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.devices.states import NAMED
from molvik.model.job import Job, Reading, Settings
from molvik.model.parts import End
from molvik.proving.bench import digest
from molvik.proving.proofplan import ProofPlan
from molvik.proving.taken import taken


class Standing(NamedTuple):
    """readings: those that tell of the loom as it is; left_out: how many were of what it was."""

    readings: tuple[Reading, ...]
    left_out: int


def loom_fingerprint(plan: ProofPlan) -> str:
    """Return a short fingerprint of all wires: of what was seen with the power on."""
    return digest(plan.bench.wires.values())


def standing(plan: ProofPlan) -> Standing:
    """Return the readings of a job that can be held against it."""
    found = tuple(_standing(plan))
    asked = sum(reading.of in ("loom", "codes") for reading in plan.job.readings)
    return Standing(found, asked - len(found))


def _standing(plan: ProofPlan) -> Iterator[Reading]:
    bench, wires = plan.bench, plan.bench.wires
    whole = loom_fingerprint(plan)
    for reading in plan.job.readings:
        if reading.of == "codes":
            if not plan.mended_since(reading) and reading.fingerprint in ("", whole):
                yield reading
            continue
        wire = wires.get(reading.item)
        if reading.of != "loom" or (wire is not None and set(wire.ends) != set(reading.points)):
            continue
        if reading.state:
            known = reading.state in NAMED
            if known and not plan.mended_since(reading) and reading.fingerprint in ("", whole):
                yield reading
            continue
        nets = {bench.net_of[end] for end in reading.points if end in bench.net_of}
        on = [code for net in nets for code in bench.nets[net].wires]
        if plan.mended_since(reading, *on):
            continue
        if reading.fingerprint and len(reading.points) == 2:
            way = bench.way(*reading.points)
            if way is not None and digest(way) != reading.fingerprint:
                continue
        yield reading


def mended_text(job: Job, text: str, at: str) -> Reading:
    """Return what was mended, as it is typed: "W56 new terminal at D7". Raises ValueError."""
    code, _, words = text.strip().partition(" ")
    code = code.strip(",:;").upper()
    words = words.strip()
    wire, part = job.wire(code), job.part(code)
    if wire is None and part is None:
        raise ValueError(f"{code or 'Nothing'} is not a wire or part: W56 new terminal at D7.")
    if not words:
        raise ValueError(f"Say what was done to {code}: {code} new terminal.")
    points = (End(code),) if wire is None else wire.ends
    settings: Settings = job.settings
    return taken(
        settings, at, "words", None, points, item=code if wire else "", said=words, of="mended"
    )
