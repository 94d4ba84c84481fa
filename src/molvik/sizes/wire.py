"""Judge one wire against each criterion, and find the smallest size that passes.

Heat where it runs, in its bundle and for as long as it is loaded; the drop of its whole path,
supply and return; strength, terminals, and the fuse before it.
"""

import math
from dataclasses import dataclass

from molvik.electrical.bundle import ALONE, allowed_a
from molvik.electrical.conductor import area_mm2
from molvik.electrical.fusing import STEADY, choose_fuse, largest_protecting_a
from molvik.electrical.heat import current_for_temperature_a
from molvik.electrical.transient import duty_allowed_a
from molvik.lazy import cached_property
from molvik.model.parts import SizeSystem, WireSize
from molvik.reference.contacts import Contact
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.fuses import SMALL_BLADE_A, curve_of
from molvik.reference.insulation import INSULATIONS, UNKNOWN
from molvik.reference.limits import CRANK_S, HEAT_MARGIN_K, LEAST_MM2, REST_S
from molvik.sizes.drop import draws_more, drop_criterion, to_its_share
from molvik.sizes.hot import around_c
from molvik.sizes.sizing_case import FAR_OVER, Criterion, Installation, SizingCase
from molvik.wording import figures

TIGHT = 0.1
"""A wire with less than this share of a limit still free is tight (our choice)."""


@dataclass(frozen=True)
class Sizing:
    """The whole verdict on one size. unknown: what is missing to judge more."""

    size: WireSize
    criteria: tuple[Criterion, ...]
    unknown: tuple[str, ...]

    @cached_property
    def binding(self) -> Criterion | None:
        """The criterion with the least in hand."""
        return min(self.criteria, key=lambda criterion: criterion.margin, default=None)

    @cached_property
    def passes(self) -> bool:
        """Whether every criterion that could be judged is met."""
        return all(criterion.passes for criterion in self.criteria)

    @cached_property
    def is_tight(self) -> bool:
        """Whether it passes with little to spare. Strength is a yes or a no: the thinnest wire
        there may be is not tight.
        """
        near = any(one.margin < TIGHT for one in self.criteria if one.name != "strength")
        return self.passes and near

    @cached_property
    def is_enough(self) -> bool:
        """Whether the wire passes, its terminals left out: another wire does not mend those."""
        return all(criterion.passes for criterion in self.criteria if criterion.name != "terminal")


FUSE_WHY = "The slowest fuse its standard permits must blow before the wire is harmed."
STEADY_WHY = "It never blows: the wire must bear it for ever."


def judge(size: WireSize, requirements: SizingCase) -> Sizing:
    """Judge a size against every criterion that can be judged."""
    criteria = [_mechanical(size)]
    unknown: list[str] = []
    grown = _grown(
        size, requirements
    )  # its bundle warms with it, for the fuse and cranking as well
    if requirements.load_a is None:
        unknown.append("the current it carries")
    else:
        criteria.append(_heat(size, grown, grown.load_a or 0.0))
        if requirements.contacts:
            criteria.append(_contact(requirements.contacts, grown.mean_a or 0.0))
        if requirements.length_m is None:
            unknown.append("its length")
        else:
            criteria.append(drop_criterion(size, requirements, grown, requirements.length_m))
    if requirements.crank_a is not None:
        criteria.append(_crank(size, grown, requirements.crank_a))
    if requirements.fuse_a is not None and math.isfinite(requirements.fuse_a):
        criteria.append(_fuse(size, grown, requirements.fuse_a))
    if requirements.bare:
        criteria.append(BARE)
    return Sizing(size, tuple(criteria), tuple(unknown))


def smallest(
    requirements: SizingCase, system: SizeSystem, *, share: bool = False
) -> WireSize | None:
    """Return the smallest standard size of a system that passes every criterion, or None.

    A terminal that cannot carry the current fails every size, so it is left out here and judged
    on its own. share: let it lose no more than its own share of what its path may lose.
    """
    if requirements.bare:
        return None  # no size is enough where nothing opens
    requirements = requirements._replace(contacts=())
    if share:
        requirements = to_its_share(requirements)
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    return next((size for size in sizes if _does(size, requirements)), None)


def _does(size: WireSize, requirements: SizingCase) -> bool:
    """Return whether a size passes: what is quickly found first, for most sizes fail on it."""
    if not _mechanical(size).passes:
        return False
    air_c = max(lying.ambient_c for lying in requirements.lies)  # neighbours only make it hotter
    if requirements.load_a is not None and requirements.duty is None:
        limit_c = requirements.kind.limit_c - HEAT_MARGIN_K
        if requirements.load_a > current_for_temperature_a(size, requirements.kind, limit_c, air_c):
            return False
    if requirements.fuse_a is not None and math.isfinite(requirements.fuse_a):
        if requirements.fuse_a > largest_protecting_a(
            size, requirements.kind, air_c, requirements.fuse_kind
        ):
            return False
    if (
        requirements.load_a is not None
        and not _heat(size, requirements, requirements.load_a).passes
    ):
        return False
    return judge(size, requirements).passes


def only_unknown(size: WireSize, requirements: SizingCase, criterion: str) -> str:
    """Return that an insulation nobody knows decides a criterion, in words; empty when not so."""
    if requirements.kind is not UNKNOWN:
        return ""
    better = INSULATIONS["C125"]
    then = judge(size, requirements._replace(kind=better)).criteria
    if not all(other.passes for other in then if other.name == criterion):
        return ""
    return (
        f" Its insulation is {UNKNOWN.name}; were it {better.name}, it would pass: look what it is "
        "and type it."
    )


def fuse_for(
    size: WireSize, requirements: SizingCase, inrush: tuple[float, float] | None = None
) -> tuple[str, float] | None:
    """Return the smallest fuse (kind, rating in A) that carries the load and protects the wire.

    inrush: the current a load begins with, A, and for how long, s.
    """
    if requirements.load_a is None:
        return None
    air = around_c(size, requirements)
    return choose_fuse(size, requirements.kind, air, requirements.mean_a or 0.0, inrush)


def largest_fuse_a(size: WireSize, requirements: SizingCase, kind: str) -> float:
    """Return the largest rating of a kind of fuse that protects a size where it runs, A."""
    air_c = around_c(size, requirements)
    found = largest_protecting_a(size, requirements.kind, air_c, kind)
    if curve_of(kind, found) == kind:
        return found
    slower = largest_protecting_a(size, requirements.kind, air_c, curve_of(kind, found))
    return max(SMALL_BLADE_A, min(found, slower))


def _mechanical(size: WireSize) -> Criterion:
    area = area_mm2(size)
    # 22 AWG, 0.324 mm2, is sold as the equal of 0.35 mm2 and counts as such.
    least = LEAST_MM2 * 0.95
    return Criterion(
        "strength",
        f"{area:.2f} mm²",
        "22 AWG or 0.35 mm²",
        1 - least / area,
        "Thinner wire breaks from handling and vibration (common practice).",
        least,
        area,
        "mm²",
    )


def _heat(size: WireSize, requirements: SizingCase, load_a: float) -> Criterion:
    limit_c = requirements.kind.limit_c - HEAT_MARGIN_K
    allowed, worst = min(
        ((_bears_a(size, requirements, lying, limit_c), lying) for lying in requirements.lies),
        key=lambda pair: (pair[0], -pair[1].ambient_c),
    )
    long = (
        f", {requirements.duty[0]:g} s on and {requirements.duty[1]:g} s off"
        if requirements.duty
        else ""
    )
    margin = _free(load_a, allowed)
    if requirements.ambient_c > limit_c:
        margin = FAR_OVER
    return Criterion(
        "heat",
        f"{load_a:.4g} A{long}",
        f"{allowed:.1f} A to stay at {limit_c:g} °C",
        margin,
        f"{_lies(worst, len(requirements.lies))}; insulation {requirements.kind.name}, "
        f"{HEAT_MARGIN_K:g} K kept free.",
        load_a,
        allowed,
        "A",
    )


def _free(amps: float, allowed_a: float) -> float:
    """Return the share of what is allowed that is still free; how far over has a limit, which is
    what any current is where none is allowed.
    """
    if amps <= 0:
        return 0.0 if allowed_a <= 0 else 1.0
    return max(FAR_OVER, 1 - amps / allowed_a) if allowed_a > 0 else FAR_OVER


def _bears_a(
    size: WireSize, requirements: SizingCase, lying: Installation, limit_c: float
) -> float:
    """Return what a wire may carry where a stretch of it lies, A."""
    if requirements.duty is None:
        return allowed_a(size, requirements.kind, limit_c, lying.ambient_c, lying.neighbours)
    lies_in_c = around_c(size, requirements._replace(lies=(lying,)))
    return duty_allowed_a(size, requirements.kind, limit_c, requirements.duty, lies_in_c)


def _lies(lying: Installation, stretches: int) -> str:
    """Say where a wire lies, of several stretches where it is worst."""
    air = f"in still air at {lying.ambient_c:g} °C ({lying.place})"
    worst = f", the worst of its {stretches} stretches" if stretches > 1 else ""
    if lying.neighbours == ALONE:
        return f"Alone {air}{worst}"
    others = len(lying.neighbours.widths_mm)
    cover = ", covered" if lying.neighbours.covering_mm else ""
    return (
        f"In the middle of {lying.name} with {others} more, all loaded at once{cover}, {air}{worst}"
    )


def _crank(size: WireSize, requirements: SizingCase, crank_a: float) -> Criterion:
    limit_c = requirements.kind.limit_c
    lies_in_c = around_c(size, requirements)
    duty = (CRANK_S, REST_S)
    allowed = duty_allowed_a(size, requirements.kind, limit_c, duty, lies_in_c)
    return Criterion(
        "cranking",
        f"{crank_a:.4g} A for {CRANK_S:g} s",
        f"{allowed:.0f} A to stay at {limit_c:g} °C",
        _free(crank_a, allowed),
        f"Cranked {CRANK_S:g} s at a time with a minute's rest (common practice).",
        crank_a,
        allowed,
        "A",
    )


def _grown(size: WireSize, requirements: SizingCase) -> SizingCase:
    """Return the case with the currents that flow when the wire has another size."""
    more = (
        1.0
        if requirements.length_m is None
        else draws_more(size, requirements, requirements.length_m)
    )
    if more == 1.0 or requirements.load_a is None:
        return requirements
    hotter = requirements.with_heat(more)
    if not requirements.solved:
        return hotter
    warm_a = None if requirements.warm_a is None else requirements.warm_a * more
    return hotter._replace(load_a=requirements.load_a * more, warm_a=warm_a)


def _contact(contacts: tuple[Contact, ...], load_a: float) -> Criterion:
    weakest = min(contacts, key=lambda contact: contact.current_a)
    return Criterion(
        "terminal",
        f"{load_a:.4g} A",
        f"{weakest.current_a:g} A (size {weakest.size})",
        1 - load_a / weakest.current_a,
        "What a terminal of this size carries all day (common practice).",
        load_a,
        weakest.current_a,
        "A",
    )


BARE = Criterion(
    "protection",
    "no fuse",
    "a fuse before it, or one that it leads to",
    FAR_OVER,
    "In a fault it burns, however thick it is: nothing blows.",
    math.inf,
    0.0,
    "A",
)
"""The verdict on a wire that nothing protects."""


def _limiter(requirements: SizingCase) -> str:
    """Say what limits a fault: its fuse, or which things that are more than that."""
    is_one = " " not in requirements.fuse_from and requirements.fuse_kind != STEADY
    return "fuse" if is_one else f"of {requirements.fuse_from}"


def _fuse(size: WireSize, requirements: SizingCase, fuse_a: float) -> Criterion:
    allowed = largest_fuse_a(size, requirements, requirements.fuse_kind)
    margin = _free(fuse_a, allowed)
    return Criterion(
        "fuse",
        f"{figures(fuse_a)} A {_limiter(requirements)}",
        f"{figures(allowed)} A protects it",
        margin,
        STEADY_WHY if requirements.fuse_kind == STEADY else FUSE_WHY,
        fuse_a,
        allowed,
        "A",
    )
