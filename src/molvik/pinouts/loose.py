"""Loose wires: which they are, and what each might be by colour, size and function."""

from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.model.parts import Colour, End, Pin, Wire, WireSize
from molvik.netlist.network import Network

NEAR_SIZE = 0.3
"""Sizes this near may be one wire measured and listed in two systems (our choice)."""

LIKE_NAME = 70.0
"""From here on two names may mean the same (our choice)."""


class Candidate(NamedTuple):
    """A cavity a wire may belong to. table: the pinout that says so, empty for the connector's."""

    end: End
    pin: Pin
    table: str
    score: float
    why: str


def loose_wires(network: Network) -> tuple[Wire, ...]:
    """Return the wires with a loose end that are not stowed."""
    return tuple(w for w in network.job.wires if not w.stowed and not (w.start.at and w.finish.at))


def candidates(
    network: Network,
    colour: Colour | None = None,
    size: WireSize | None = None,
    function: str = "",
    cavity: str = "",
) -> tuple[Candidate, ...]:
    """Return the cavities of every pinout in the job that fit what is known, the likeliest first.

    cavity: its name, as cast into a housing. What is not given is not asked.
    """
    found = []
    for code, table, pin in _pins(network):
        score, why = _score(pin, colour, size, function, cavity)
        if score <= 0:
            continue
        end = End(code, pin.cavity)
        if end in network.wires_at:
            score -= 1.0
            why.append("a wire is there already")
        found.append(Candidate(end, pin, table, score, ", ".join(why)))
    return tuple(
        sorted(found, key=lambda candidate: (-candidate.score, str(candidate.end), candidate.table))
    )


def _pins(network: Network) -> list[tuple[str, str, Pin]]:
    pins = [(c.code, "", pin) for c in network.job.connectors for pin in c.pins]
    pins += [(p.connector, p.name, pin) for p in network.job.pinouts for pin in p.pins]
    return [(code, table, pin) for code, table, pin in pins if not pin.fill]


def _score(
    pin: Pin, colour: Colour | None, size: WireSize | None, function: str, cavity: str
) -> tuple[float, list[str]]:
    """Return how well a pin fits; nothing when something that is known speaks against it."""
    score, why = 0.0, []
    if colour is not None:
        if pin.colour is None or pin.colour.base != colour.base:
            return 0.0, []
        alike = pin.colour.tracer == colour.tracer
        score += 3.0 if alike else 1.0
        why.append("same colour and tracer" if alike else "same base colour")
    if cavity:
        if pin.cavity != cavity.strip().upper():
            return 0.0, []
        score += 2.0
        why.append(f"cavity {pin.cavity}")
    if function:
        from rapidfuzz import fuzz, utils

        likeness = fuzz.token_set_ratio(function, pin.function, processor=utils.default_process)
        if likeness < LIKE_NAME:
            return 0.0, []
        score += likeness / 40
        why.append(f"named “{pin.function}”")
    if size is not None and pin.size is not None and score > 0:
        ratio = area_mm2(size) / area_mm2(pin.size)
        near = 1 / (1 + NEAR_SIZE) <= ratio <= 1 + NEAR_SIZE
        score += 1.0 if near else -1.0
        why.append("same size" if near else f"listed as {pin.size}")
    return score, why
