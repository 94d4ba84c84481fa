"""Judge one wire against each criterion, and find the smallest size that passes.

A first version: one wire alone in still air, at a steady current, and the drop of its own length.
Bundles, coverings and intermittent loads are not counted yet.
"""

import math
from typing import NamedTuple

from molvik.circuits.network import Feed, Network
from molvik.electrical.conductor import area_mm2, resistance_ohm_per_m
from molvik.electrical.fusing import choose_fuse, largest_protecting_a
from molvik.electrical.heat import conductor_temperature_c, current_for_temperature_a
from molvik.model.parts import Connector, Fuse, SizeSystem, Wire, WireSize
from molvik.reference.contacts import CONTACTS, Contact
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import Insulation, insulation
from molvik.reference.limits import HEAT_MARGIN_K, LEAST_MM2, USES, Use


class Question(NamedTuple):
    """What is asked of a wire. None means not known yet.

    load_a: A. length_m: m. ambient_c: deg C. fuse_a: the limit of the feed, A, infinite when there
    is no fuse, None when the battery does not reach it.
    """

    load_a: float | None
    length_m: float | None
    ambient_c: float
    kind: Insulation
    use: Use
    system_v: float
    contacts: tuple[Contact, ...] = ()
    fuse_a: float | None = None
    fuse_kind: str = "blade"


class Criterion(NamedTuple):
    """One criterion's verdict. in_hand: share of the limit still free, negative when it fails."""

    name: str
    has: str
    limit: str
    in_hand: float
    why: str

    @property
    def passes(self) -> bool:
        """Whether the criterion is met."""
        return self.in_hand >= 0


class Sizing(NamedTuple):
    """The whole verdict on one size. unknown: what is missing to judge more."""

    size: WireSize
    criteria: tuple[Criterion, ...]
    unknown: tuple[str, ...]

    @property
    def binding(self) -> Criterion | None:
        """The criterion with the least in hand."""
        return min(self.criteria, key=lambda one: one.in_hand, default=None)

    @property
    def passes(self) -> bool:
        """Whether every criterion that could be judged is met."""
        return all(one.passes for one in self.criteria)


def question(network: Network, wire: Wire, solved_a: float | None = None) -> Question:
    """Gather what is asked of a wire in its job.

    solved_a: the current it carries in its worst state, A, for when nobody typed one.
    """
    settings = network.job.settings
    feed = network.feed(wire)
    return Question(
        wire.load_a if wire.load_a is not None else solved_a,
        wire.length_m,
        settings.ambient_c if wire.ambient_c is None else wire.ambient_c,
        insulation(wire.insulation),
        USES.get(wire.use, USES[""]),
        settings.system_v,
        contacts_of(network, wire),
        None if feed is None else feed.limit_a,
        _fuse_kind(network, feed),
    )


def contacts_of(network: Network, wire: Wire) -> tuple[Contact, ...]:
    """Return the contacts at a wire's ends, where they are known."""
    parts = [network.parts.get(end.at) for end in wire.ends]
    return tuple(
        CONTACTS[part.contact]
        for part in parts
        if isinstance(part, Connector) and part.contact in CONTACTS
    )


def _fuse_kind(network: Network, feed: Feed | None) -> str:
    fuse = network.parts.get(feed.fuse) if feed else None
    return fuse.kind if isinstance(fuse, Fuse) else "blade"


def judge(size: WireSize, asked: Question) -> Sizing:
    """Judge a size against every criterion that can be judged."""
    criteria = [_mechanical(size)]
    unknown: list[str] = []
    if asked.load_a is None:
        unknown.append("the current it carries")
    else:
        criteria.append(_heat(size, asked, asked.load_a))
        if asked.contacts:
            criteria.append(_contact(asked.contacts, asked.load_a))
        if asked.length_m is None:
            unknown.append("its length")
        else:
            criteria.append(_drop(size, asked, asked.load_a, asked.length_m))
    if asked.fuse_a is not None and math.isfinite(asked.fuse_a):
        criteria.append(_fuse(size, asked, asked.fuse_a))
    return Sizing(size, tuple(criteria), tuple(unknown))


def smallest(asked: Question, system: SizeSystem) -> WireSize | None:
    """Return the smallest standard size of a system that passes every criterion, or None.

    A terminal that cannot carry the current fails every size, so it is left out here and judged
    on its own.
    """
    asked = asked._replace(contacts=())
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    return next((size for size in sizes if judge(size, asked).passes), None)


def temperature_c(size: WireSize, asked: Question) -> float | None:
    """Return the conductor's temperature at its load, deg C, None without a load."""
    if asked.load_a is None:
        return None
    return conductor_temperature_c(size, asked.kind, asked.load_a, asked.ambient_c)


def drop_v(size: WireSize, asked: Question) -> float | None:
    """Return the voltage lost along the wire, V, at its insulation's limit temperature."""
    if asked.load_a is None or asked.length_m is None:
        return None
    return asked.load_a * asked.length_m * resistance_ohm_per_m(size, asked.kind.limit_c)


def fuse_for(size: WireSize, asked: Question) -> tuple[str, float] | None:
    """Return the smallest fuse (kind, rating in A) that carries the load and protects the wire."""
    if asked.load_a is None:
        return None
    return choose_fuse(size, asked.kind, asked.ambient_c, asked.load_a)


def _mechanical(size: WireSize) -> Criterion:
    area = area_mm2(size)
    # 22 AWG, 0.324 mm2, is sold as the equal of 0.35 mm2 and counts as such.
    least = LEAST_MM2 * 0.95
    return Criterion(
        "strength",
        f"{area:.2f} mm²",
        "22 AWG or 0.35 mm²",
        area / least - 1 if area < least else min(1.0, area / least - 1),
        "Thinner wire breaks from handling and vibration (common practice).",
    )


def _heat(size: WireSize, asked: Question, load_a: float) -> Criterion:
    limit_c = asked.kind.limit_c - HEAT_MARGIN_K
    allowed = current_for_temperature_a(size, asked.kind, limit_c, asked.ambient_c)
    in_hand = 1 - load_a / allowed if allowed > 0 else (0.0 if load_a == 0 else -1.0)
    if asked.ambient_c > limit_c:
        in_hand = -1.0
    return Criterion(
        "heat",
        f"{load_a:g} A",
        f"{allowed:.1f} A to stay at {limit_c:g} °C",
        in_hand,
        f"Alone in still air at {asked.ambient_c:g} °C; insulation {asked.kind.name}, "
        f"{HEAT_MARGIN_K:g} K kept in hand.",
    )


def _drop(size: WireSize, asked: Question, load_a: float, length_m: float) -> Criterion:
    lost = load_a * length_m * resistance_ohm_per_m(size, asked.kind.limit_c)
    limit = asked.use.drop_share * asked.system_v
    return Criterion(
        "voltage drop",
        f"{lost:.3f} V",
        f"{limit:.2f} V ({asked.use.drop_share:.1%} of {asked.system_v:g} V)",
        1 - lost / limit,
        f"Over this wire alone, hot, for {asked.use.name} (common practice).",
    )


def _contact(contacts: tuple[Contact, ...], load_a: float) -> Criterion:
    weakest = min(contacts, key=lambda one: one.current_a)
    return Criterion(
        "terminal",
        f"{load_a:g} A",
        f"{weakest.current_a:g} A (size {weakest.size})",
        1 - load_a / weakest.current_a,
        "What a contact of this size carries all day (common practice).",
    )


def _fuse(size: WireSize, asked: Question, fuse_a: float) -> Criterion:
    allowed = largest_protecting_a(size, asked.kind, asked.ambient_c, asked.fuse_kind)
    in_hand = 1 - fuse_a / allowed if allowed > 0 else -1.0
    return Criterion(
        "fuse",
        f"{fuse_a:g} A fuse",
        f"{allowed:.1f} A protects it",
        in_hand,
        "The slowest fuse its standard permits must open before the wire is harmed.",
    )
