"""Rules about fuses and what they protect."""

import math
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.devices import kind_of
from molvik.devices.states import RUN
from molvik.electrical.conductor import area_mm2
from molvik.electrical.fusing import STEADY, carries_share, surely_opens
from molvik.findings.finding import Figure, Finding, share
from molvik.model.parts import End, Fuse, Wire
from molvik.netlist.branches import by_node, tree
from molvik.netlist.circuitgraph import Branch, circuit_graph
from molvik.netlist.feeds import Feed
from molvik.netlist.network import Network
from molvik.netlist.search import Reach
from molvik.reference.fuses import RATINGS_A
from molvik.reference.limits import CRANK_S
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import largest_fuse_a, only_unknown
from molvik.wording import figures

ALONE_UP_TO_TIMES = 2.0
"""A fuse that opens alone only up to this many times its rating hardly does (our choice)."""

UNFUSED_M = 0.5
"""A fuse this near the battery, m, is near enough (our choice; common practice: as near as can be
reached)."""


def _unfused(analysis: Analysis) -> Iterator[tuple[Wire, bool]]:
    """Yield wires the battery reaches without a fuse, and whether they lead to a fuse."""
    for wire in analysis.job.wires:
        feed = analysis.network.feed(wire)
        if feed is None or not math.isinf(feed.limit_a):
            continue
        yield wire, any(_is_at_a_fuse(analysis.network, end) for end in wire.ends)


def _is_at_a_fuse(network: Network, end: End) -> bool:
    """Return whether an end is at a fuse that protects what is behind it: not one with a way round
    it, which has no limit on both sides.
    """
    if not isinstance(network.parts.get(end.at), Fuse):
        return False
    nets = (network.net_of.get(End(end.at, side)) for side in ("in", "out"))
    feeds = [network.feeds.get(net) for net in nets if net is not None]
    return len(feeds) < 2 or not all(feed and math.isinf(feed.limit_a) for feed in feeds)


def _how_long(wire: Wire) -> str:
    return f": {wire.length_m:g} m of it" if wire.length_m is not None else ""


def no_fuse(analysis: Analysis) -> Iterator[Finding]:
    """A wire with no fuse at all before it is a stop; the starter cable is not."""
    for wire, to_fuse in _unfused(analysis):
        behind = analysis.network.ahead(wire.code)
        if to_fuse or behind.fuses or (wire.use == "starter" and behind.may_be_a_starters):
            continue
        yield Finding(
            "no-fuse",
            "stop",
            wire.code,
            f"{wire.code}, {wire.function or 'a supply'}, has no fuse between it and the battery"
            f"{_how_long(wire)}.",
            "A chafed wire becomes a heating element the whole length of the loom.",
            "Put a fuse at the battery end, or feed it from behind one.",
            (Figure("its length", wire.length_m or 0.0, "m"),),
        )


def long_way_to_the_first_fuse(analysis: Analysis) -> Iterator[Finding]:
    """A long unfused cable to the first fuse needs a look."""
    told: set[str] = set()
    made = circuit_graph(analysis.electrics.network, RUN)
    known = tree(by_node(made.fixed), made.live)
    for wire, to_fuse in _unfused(analysis):
        if not to_fuse or wire.length_m is None:
            continue
        way = _from_battery(analysis.network, known, wire)
        lengths = {wire.code: wire.length_m or 0.0 for wire in way}
        total = sum(lengths.values())
        if total <= UNFUSED_M or wire.code in told:
            continue
        told |= set(lengths)
        codes = " and ".join(lengths)
        fuse = next(end.at for end in wire.ends if _is_at_a_fuse(analysis.network, end))
        longest = max(lengths, key=lambda code: lengths[code])
        shorter = (
            f"Move {fuse} to the battery end of {way[0].code}"
            if len(way) == 1
            else f"Shorten {longest}, {lengths[longest]:g} m, or give {way[0].code} a fuse at its "
            "battery end"
        )
        yield Finding(
            "far-fuse",
            "look",
            wire.code,
            f"{codes} {'runs' if len(way) == 1 else 'run'} {total:g} m from the battery before the "
            f"first fuse, {fuse}.",
            "Nothing protects that stretch.",
            f"{shorter}, so that at most {UNFUSED_M:g} m is left, or sleeve and clip the cable "
            "clear "
            "of metal.",
            (Figure("the length", total, "m"),),
        )


def _from_battery(network: Network, known: Reach[str, Branch], wire: Wire) -> list[Wire]:
    """Return the wires from the battery to the end of one, in their order; itself at least."""
    found = [
        [network.wires[link.part] for link in known.way_to(str(end))[::-1] if link.what == "wire"]
        for end in wire.ends
    ]
    return max(found, key=len) or [wire]


def fuse_larger_than_the_wire_may_carry(analysis: Analysis) -> Iterator[Finding]:
    """A fuse larger than the wire behind it may carry is a stop."""
    for code, sizing in analysis.electrics.sizings.items():
        for criterion in sizing.criteria:
            if criterion.name != "fuse" or criterion.passes:
                continue
            requirements = analysis.electrics.sizing_cases[code]
            wire, fuse_a = analysis.network.wires[code], criterion.amount
            allowed = largest_fuse_a(sizing.size, requirements, requirements.fuse_kind)
            feed = analysis.network.feed(wire)
            fuse = feed.fuse if feed else ""
            thick = _steps_down_from(analysis, wire, fuse)
            steps = f" It steps down from {thick.code}, {thick.size}." if thick else ""
            is_steady = requirements.fuse_kind == STEADY
            harm = "In a fault the wire burns and the fuse does not."
            if is_steady:
                harm = "It never blows: in a fault the wire burns."
            harm += _usual_figure(analysis, feed)
            yield Finding(
                "fuse-too-large",
                "stop",
                code,
                f"{_too_much(requirements, fuse_a)} for {code}, {sizing.size}: at most "
                f"{figures(allowed)} A {'is borne' if is_steady else 'protects it'}.{steps}",
                harm + only_unknown(sizing.size, requirements, "fuse"),
                _remedy(analysis, code, is_steady=is_steady),
                (Figure("the fuse against what the wire stands", share(fuse_a, allowed), "%"),),
            )


def _usual_figure(analysis: Analysis, feed: Feed | None) -> str:
    """Say that what an alternator gives is the usual figure, where nobody typed its own."""
    limits = (feed.by or (feed.fuse,)) if feed else ()
    usual = [
        device.code
        for device in analysis.job.devices
        if device.code in limits
        and kind_of(device).regulates
        and not device.curve
        and "most A" not in dict(device.values)
    ]
    if not usual:
        return ""
    return f" What {' and '.join(usual)} gives is what one usually gives: type its own."


def _remedy(analysis: Analysis, code: str, *, is_steady: bool) -> str:
    if code in analysis.network.returns:
        return "A thicker cable: as thick as what feeds that fuse. Never a fuse in an earth."
    if code in analysis.network.every_ahead:
        return "A thicker wire, a smaller fuse there, or one at the battery end of this wire."
    if is_steady:
        return "A thicker wire, or a fuse of its own where it starts."
    return "Fit a smaller fuse, a thicker wire, or a fuse of its own where the size steps down."


def _too_much(requirements: SizingCase, fuse_a: float) -> str:
    """Say what lets through more than a wire bears."""
    together = " and " in requirements.fuse_from
    if requirements.fuse_kind == STEADY:
        return f"{requirements.fuse_from} can give {figures(fuse_a)} A, too much"
    words = f"{requirements.fuse_from}{' together' if together else ''}, {figures(fuse_a)} A,"
    return f"{words} {'are' if together else 'is'} too large"


def _steps_down_from(analysis: Analysis, wire: Wire, fuse: str) -> Wire | None:
    """Return the thickest wire that meets this one behind the same fuse and is protected by it."""
    network = analysis.network
    meeting = {
        other.code: other
        for end in wire.ends
        for at in (end, network.mate(end))
        if at is not None
        for other in network.wires_at.get(at, [])
    }
    thicker = [
        other
        for other in meeting.values()
        if other.size is not None
        and wire.size is not None
        and area_mm2(other.size) > area_mm2(wire.size)
        and (feed := network.feed(other)) is not None
        and feed.fuse == fuse
        and all(
            c.passes for c in analysis.electrics.sizings[other.code].criteria if c.name == "fuse"
        )
    ]
    return max(thicker, key=lambda other: area_mm2(other.size or wire.size), default=None)


def fuse_too_small(analysis: Analysis) -> Iterator[Finding]:
    """A fuse that runs close to its rating needs a look."""
    for code, work in analysis.electrics.fuse_work.items():
        fuse, share = work.fuse, carries_share(analysis.job.settings.ambient_c)
        if work.load_a > fuse.rating_a * share * 1.0001:
            yield Finding(
                "fuse-too-small",
                "look",
                code,
                f"{fuse.name} ({code}), {fuse.rating_a:g} A, carries {figures(work.load_a)} A.",
                "A fuse near its rating ages and blows one hot day with nothing wrong.",
                f"Keep the load within {share:.0%} of the rating: a larger fuse if the wire "
                "allows, or share the load.",
                (Figure("what it carries against its rating", work.load_a / fuse.rating_a, "%"),),
            )


def fuse_that_a_start_may_open(analysis: Analysis) -> Iterator[Finding]:
    """A fuse that a load may open as it starts needs a look."""
    for code, work in analysis.electrics.fuse_work.items():
        if work.inrush is not None and not work.bears_inrush:
            amps, seconds = work.inrush
            yield Finding(
                "fuse-inrush",
                "look",
                code,
                f"{work.fuse.name} ({code}), {work.fuse.rating_a:g} A, may open when "
                f"{work.starter} starts: {amps:.0f} A for {seconds:g} s.",
                "It holds on the bench and blows one day for no reason that can be found.",
                "A larger fuse if the wire allows, a slower kind, or one for that load alone.",
                (
                    Figure("the inrush against its rating", amps / work.fuse.rating_a, "%"),
                    Figure("the start", seconds, "s"),
                ),
            )


def fuse_that_cranking_may_open(analysis: Analysis) -> Iterator[Finding]:
    """A main fuse that cranking may open is a stop when it must, else a look."""
    for code, work in analysis.electrics.fuse_work.items():
        if work.crank_a <= work.fuse.rating_a or work.bears_cranking:
            continue
        surely = surely_opens(work.curve, work.crank_a / work.fuse.rating_a, CRANK_S)
        yield Finding(
            "fuse-cranking",
            "stop" if surely else "look",
            code,
            f"{work.fuse.name} ({code}), {work.fuse.rating_a:g} A, carries {work.crank_a:.0f} A "
            f"while cranking: it {'opens' if surely else 'may open'} within {CRANK_S:g} s.",
            "With it goes everything behind it, at the moment it is needed.",
            "A larger fuse if the cable allows, or the starter cable before it, straight from "
            "the battery.",
            (Figure("cranking against its rating", work.crank_a / work.fuse.rating_a, "%"),),
        )


def fuses_in_the_wrong_order(analysis: Analysis) -> Iterator[Finding]:
    """A fuse behind one that opens as soon is worth a look when the other is no larger."""
    for code, work in analysis.electrics.fuse_work.items():
        if work.before is None:
            continue
        before = work.before
        if work.alone_up_to_a > ALONE_UP_TO_TIMES * work.fuse.rating_a:
            continue
        no_larger = before.rating_a <= work.fuse.rating_a
        yield Finding(
            "fuse-order",
            "look" if no_larger else "note",
            code,
            f"{before.code}, {before.rating_a:g} A, may blow before {code}, "
            f"{work.fuse.rating_a:g} A, which is behind it.",
            "A fault in one circuit takes all the others with it.",
            "Make the one nearer the battery larger or slower (twice the rating is usual) or this "
            "one smaller, if load and wire allow.",
            (
                Figure(
                    "the one before against it", before.rating_a / work.fuse.rating_a, worse="less"
                ),
            ),
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
                fuse.code,
                f"{fuse.name} ({fuse.code}): a {_kind(fuse)} of {fuse.rating_a:g} A is not "
                "a usual rating.",
                "It cannot be bought at the roadside.",
                "Choose one of " + ", ".join(f"{a:g}" for a in RATINGS_A[fuse.kind]) + " A.",
                (Figure("its rating", fuse.rating_a, "A", "other"),),
            )
