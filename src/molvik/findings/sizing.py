"""Rules about the size of wires and their terminals."""

import math
from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import ENDLESS, Figure, Finding
from molvik.model.parts import Fuse, WireSize
from molvik.parsing.quantities import seconds_text
from molvik.reference.limits import HEAT_MARGIN_K
from molvik.sizes.bundles import cores_of, members
from molvik.sizes.crowded import heaters, is_crowded, reliefs, worst_lying
from molvik.sizes.sizing_case import Criterion, SizingCase, carries_more
from molvik.sizes.wire import only_unknown, smallest
from molvik.wording import figures


def _failed(
    analysis: Analysis, *names: str
) -> Iterator[tuple[str, WireSize, Criterion, SizingCase]]:
    """Yield each wire that fails on one of some criteria, with the first of them."""
    for code, sizing in analysis.electrics.sizings.items():
        failing = {
            criterion.name: criterion for criterion in sizing.criteria if not criterion.passes
        }
        first = next((failing[name] for name in names if name in failing), None)
        if first is not None:
            yield code, sizing.size, first, analysis.electrics.sizing_cases[code]


def _used(criterion: Criterion) -> tuple[Figure, ...]:
    return (Figure(f"{criterion.name} against its limit", 1.0 - criterion.margin, "%"),)


def _use(requirements: SizingCase) -> str:
    """Say which size to use, in both systems."""
    if requirements.bare:
        return "Put a fuse at its battery end first: no size is enough without."
    sizes = [str(size) for system in ("awg", "metric") if (size := smallest(requirements, system))]
    if not sizes:
        return "No single size passes: shorten it, split the load or change the fuse."
    return f"Use {' or '.join(sizes)} at least."


def _relief(analysis: Analysis, code: str, size: WireSize, requirements: SizingCase) -> str:
    """Say which size to use, or what else helps where its neighbours overheat a wire."""
    if requirements.bare or not is_crowded(size, requirements):
        return _use(requirements)
    lying, network = worst_lying(size, requirements), analysis.network
    inside = analysis.sections.get(lying.name)
    codes = inside.wires if inside else [w.code for w in members(network).get(lying.name, [])]
    wires = [wire for other in codes if (wire := network.wires[other]).size is not None]
    cores = cores_of(network, wires, analysis.electrics.worst_amps)
    most = [
        f"{other} ({figures(core.amps)} A on {core.size}, {share:.0%} of the heat)"
        for other, core, share in heaters(
            (wire.code, core) for wire, core in zip(wires, cores, strict=True)
        )
    ]
    helps = "; ".join(f"{one.what} {one.hot_c:.0f} °C" for one in reliefs(size, requirements))
    return (
        f"It is {lying.name} that overheats it, most of all {', '.join(most)}: thicker ones of "
        f"those, or {code} comes to: {helps}."
    )


def undersized(analysis: Analysis) -> Iterator[Finding]:
    """A wire hotter than its class is a stop; one near it, or too thin to handle, a look."""
    for code, size, heat, requirements in _failed(analysis, "heat", "cranking"):
        cranks = heat.name == "cranking"
        unknown = only_unknown(size, requirements, heat.name)
        hot_c, class_c = analysis.electrics.copper_c.get(code), requirements.kind.limit_c
        if not cranks and hot_c is not None and hot_c <= class_c:
            yield Finding(
                "runs-hot",
                "look",
                code,
                f"{code}, {size}, carries {heat.has} and comes to {hot_c:.0f} °C; its insulation "
                f"bears {class_c:g} °C.",
                f"{HEAT_MARGIN_K:g} K are kept free: for hotter air, or a tighter bundle.{unknown}",
                _relief(analysis, code, size, requirements),
                _used(heat),
            )
            continue
        yield Finding(
            "undersized",
            "stop",
            code,
            f"{code}, {size}, carries {heat.has}{' while cranking' if cranks else ''} but may "
            f"carry {heat.limit}.",
            "Each attempt to start leaves it hotter than its insulation can take."
            if cranks
            else f"It gets hotter than its insulation can take, most of all in a bundle.{unknown}",
            _use(requirements) if cranks else _relief(analysis, code, size, requirements),
            _used(heat),
        )
    for code, size, strength, _ in _failed(analysis, "strength"):
        yield Finding(
            "too-thin-to-handle",
            "look",
            code,
            f"{code}, {size}, is thinner than {strength.limit}.",
            strength.why,
            "Use at least 22 AWG or 0.35 mm² unless it is a core of a cable.",
            _used(strength),
        )


def loses_too_much_voltage(analysis: Analysis) -> Iterator[Finding]:
    """Too much drop along a wire needs a look."""
    for code, size, drop, requirements in _failed(analysis, "voltage drop"):
        yield Finding(
            "voltage-drop",
            "look",
            code,
            f"{code}, {size}, drops {drop.has}; on its path it may drop {drop.limit}.",
            f"The load gets less than it needs. {drop.why}",
            _use(requirements),
            _used(drop),
        )


def terminal_overloaded(analysis: Analysis) -> Iterator[Finding]:
    """More current than a terminal carries is a stop."""
    for code, _, terminal, _ in _failed(analysis, "terminal"):
        yield Finding(
            "terminal-overloaded",
            "stop",
            code,
            f"{code} carries {terminal.has} through a terminal made for {terminal.limit}.",
            "Terminals brown and then melt their housing long before the wire gets warm.",
            "Use a larger terminal, or share the load between two cavities meant for it.",
            _used(terminal),
        )


def carries_more_than_was_typed(analysis: Analysis) -> Iterator[Finding]:
    """A wire that carries more than somebody typed needs a look: it is judged by what was typed."""
    for wire in analysis.job.wires:
        solved = analysis.electrics.worst_amps.get(wire.code, 0.0)
        if not carries_more(wire, solved):
            continue
        yield Finding(
            "current-differs",
            "look",
            wire.code,
            f"{wire.code} is judged by the {wire.load_a:g} A that were typed, but carries "
            f"{figures(solved)} A in its worst state.",
            "Loads were added behind it, or another path for their current is missing.",
            "Type the larger figure, or none: then it is judged by what it carries.",
            (Figure("what it carries against what was typed", solved / (wire.load_a or 1.0), "%"),),
        )


def short_not_cleared(analysis: Analysis) -> Iterator[Finding]:
    """A short at a wire's far end that its fuse does not clear in time needs a look.

    Where its fuse is too large for the wire, that is told instead.
    """
    for code, short in analysis.electrics.shorts.items():
        if short.cleared and short.guarded:
            continue
        sizing = analysis.electrics.sizings[code]
        if not all(criterion.passes for criterion in sizing.criteria if criterion.name == "fuse"):
            continue
        fuse = analysis.network.parts[short.fuse]
        rated = f", {fuse.rating_a:g} A," if isinstance(fuse, Fuse) else ""
        when = (
            "never blows"
            if math.isinf(short.opens_s)
            else (f"may take {seconds_text(short.opens_s)}")
        )
        yield Finding(
            "short-not-cleared",
            "look" if short.guarded else "stop",
            code,
            f"A short at the far end of {code} lets {short.amps:.0f} A flow, all copper hot: "
            f"{short.fuse}{rated} {when}.",
            "The wire stands it; what it lies against, and the spot where it is shorted, may not."
            if short.guarded
            else "The wire is spoilt before.",
            "Fit a smaller fuse, or a thicker or shorter wire, so that more flows.",
            (Figure("when it blows", min(short.opens_s, ENDLESS), "s", endless="never"),),
        )


def cannot_be_judged(analysis: Analysis) -> Iterator[Finding]:
    """What is missing to judge a wire that the battery feeds is worth a note."""
    if analysis.job.wires and not any(device.kind == "battery" for device in analysis.job.devices):
        yield Finding(
            "no-battery",
            "note",
            analysis.job.wires[0].code,
            "There is no battery in the job: no wire is judged against the fuse before it.",
            "What feeds a wire, and how much it carries, follows from the battery.",
            "Add the battery and the wires to it, or lay a block.",
        )
    for wire in analysis.job.wires:
        if analysis.network.feed(wire) is None:
            continue
        missing = [] if wire.size else ["its size"]
        sizing = analysis.electrics.sizings.get(wire.code)
        missing += list(sizing.unknown) if sizing else []
        if missing:
            yield Finding(
                "cannot-be-judged",
                "note",
                wire.code,
                f"{wire.code} is fed by the battery, but {' and '.join(missing)} is not known.",
                "Its heat and its voltage drop cannot be computed.",
                "Measure or read it off the maker's table and type it in.",
                (Figure("how much is missing", len(missing)),),
            )
