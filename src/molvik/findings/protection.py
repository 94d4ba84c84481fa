"""Rules about fuses and what they protect."""

import math
from collections import defaultdict
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.electrical.fusing import largest_protecting_a
from molvik.findings.finding import Finding
from molvik.model.parts import End, Fuse, Wire
from molvik.reference.fuses import LOAD_FACTOR, RATINGS_A

NEAR_M = 0.5
"""A fuse this near the battery, m, is near enough (our choice; common practice: as near as can be
reached)."""


def _unfused(analysis: Analysis) -> Iterator[tuple[Wire, bool]]:
    """Yield wires the battery reaches without a fuse, and whether they lead to a fuse."""
    for wire in analysis.job.wires:
        feed = analysis.network.feed(wire)
        if feed is None or not math.isinf(feed.limit_a):
            continue
        parts = [analysis.network.parts.get(end.at) for end in wire.ends]
        yield wire, any(isinstance(part, Fuse) for part in parts)


def _how_long(wire: Wire) -> str:
    return f": {wire.length_m:g} m of it" if wire.length_m is not None else ""


def no_fuse(analysis: Analysis) -> Iterator[Finding]:
    """A wire with no fuse at all before it is a stop; the starter cable is not."""
    for wire, to_fuse in _unfused(analysis):
        if to_fuse or wire.use == "starter":
            continue
        yield Finding(
            "no-fuse",
            "stop",
            "sizes",
            wire.code,
            f"{wire.code}, {wire.function or 'a supply'}, has no fuse between it and the battery"
            f"{_how_long(wire)}.",
            "A chafed wire becomes a heating element the whole length of the loom.",
            "Put a fuse at the battery end, or feed it from behind one.",
        )


def long_way_to_the_first_fuse(analysis: Analysis) -> Iterator[Finding]:
    """A long unfused cable to the first fuse needs a look."""
    for wire, to_fuse in _unfused(analysis):
        if to_fuse and wire.length_m is not None and wire.length_m > NEAR_M:
            yield Finding(
                "far-fuse",
                "look",
                "sizes",
                wire.code,
                f"{wire.code} runs {wire.length_m:g} m from the battery before its first fuse.",
                "Nothing protects that stretch.",
                f"Move the fuse to within {NEAR_M:g} m of the battery, or sleeve and clip the "
                "cable clear of metal.",
            )


def fuse_larger_than_the_wire_may_carry(analysis: Analysis) -> Iterator[Finding]:
    """A fuse larger than the wire behind it may carry is a stop."""
    for code, sizing in analysis.sizings.items():
        for criterion in sizing.criteria:
            if criterion.name != "fuse" or criterion.passes:
                continue
            wire = analysis.network.wires[code]
            feed = analysis.network.feed(wire)
            assert feed is not None  # the criterion is only judged behind a fuse
            asked = analysis.questions[code]
            allowed = largest_protecting_a(
                sizing.size, asked.kind, asked.ambient_c, asked.fuse_kind
            )
            yield Finding(
                "fuse-too-large",
                "stop",
                "sizes",
                code,
                f"{feed.fuse}, {feed.limit_a:g} A, is too large for {code}, {sizing.size}: "
                f"at most {allowed:.1f} A protects it.",
                "In a fault the wire burns and the fuse does not.",
                "Fit a smaller fuse, a thicker wire, or a fuse of its own where the size steps "
                "down.",
            )


def fuse_too_small(analysis: Analysis) -> Iterator[Finding]:
    """A fuse that runs close to its rating needs a look."""
    network = analysis.network
    loads: dict[str, float] = defaultdict(float)
    for code, part in network.parts.items():
        if isinstance(part, Fuse):
            for wire in network.wires_at.get(End(code, "out"), []):
                loads[code] += wire.load_a or 0.0
    for code, load_a in loads.items():
        fuse = network.parts[code]
        assert isinstance(fuse, Fuse)
        if load_a > fuse.rating_a * LOAD_FACTOR:
            yield Finding(
                "fuse-too-small",
                "look",
                "sizes",
                code,
                f"{fuse.name} ({code}), {fuse.rating_a:g} A, carries {load_a:g} A.",
                "A fuse near its rating ages and opens one hot day with nothing wrong.",
                f"Keep the load within {LOAD_FACTOR:.0%} of the rating: a larger fuse if the wire "
                "allows, or share the load.",
            )


def _kind(fuse: Fuse) -> str:
    return fuse.kind if fuse.kind in ("breaker", "fusible link") else f"{fuse.kind} fuse"


def no_such_fuse(analysis: Analysis) -> Iterator[Finding]:
    """A rating that is not made is worth a note."""
    for fuse in analysis.job.fuses:
        if fuse.rating_a not in RATINGS_A[fuse.kind]:
            yield Finding(
                "no-such-fuse",
                "note",
                "circuits",
                fuse.code,
                f"{fuse.name} ({fuse.code}): a {_kind(fuse)} of {fuse.rating_a:g} A is not "
                "a usual rating.",
                "It cannot be bought at the roadside.",
                "Choose one of " + ", ".join(f"{a:g}" for a in RATINGS_A[fuse.kind]) + " A.",
            )
