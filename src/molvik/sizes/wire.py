"""Judge one wire against each criterion, and find the smallest size that passes.

Heat where it runs, in its bundle and for as long as it is loaded; the drop of its whole path,
supply and return; strength, terminals, and the fuse before it.
"""

import math
from typing import NamedTuple

from molvik.circuits.loss import PathLoss
from molvik.circuits.network import Feed, Network
from molvik.electrical.bundle import ALONE, Around, Core, allowed_a, hottest_c
from molvik.electrical.conductor import (
    area_mm2,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
)
from molvik.electrical.fusing import choose_fuse, largest_protecting_a
from molvik.electrical.transient import duty_allowed_a, duty_peak_c
from molvik.model.job import Settings
from molvik.model.parts import Connector, Fuse, SizeSystem, Wire, WireSize
from molvik.reference.contacts import CONTACTS, Contact
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import Insulation, insulation
from molvik.reference.limits import CRANK_S, HEAT_MARGIN_K, LEAST_MM2, USES, Use
from molvik.reference.places import PLACES, air_c

NEXT_CRANK_S = 60.0
"""How long an engine rests between two attempts, s (common practice: a minute)."""

CRANKS_MORE = 1.05
"""A wire that carries this many times its load while cranking is judged for that as well."""


NOT_BLAMED = 0.05
"""A wire that loses less than this share of what its path may lose is not what is wrong with it
(our choice)."""


class Question(NamedTuple):
    """What is asked of a wire. None means not known yet.

    load_a: A. length_m: m. ambient_c: deg C. fuse_a: the limit of the feed, A, infinite when there
    is no fuse, None when the battery does not reach it. place: where it runs. around: its bundle.
    duty: how long its load is on and off, s, None for always on. crank_a: what it carries while
    cranking, A. path: the path it hurts most, path_use: what that is for.
    solved: nobody typed the load, so that it goes with the voltage it gets.
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
    place: str = "engine bay"
    around: Around = ALONE
    bundle: str = ""
    duty: tuple[float, float] | None = None
    crank_a: float | None = None
    path: PathLoss | None = None
    path_use: Use | None = None
    solved: bool = False

    @property
    def mean_a(self) -> float | None:
        """The steady current that heats as much as the load does over its cycle, A."""
        if self.load_a is None or self.duty is None:
            return self.load_a
        on_s, rest_s = self.duty
        return self.load_a * math.sqrt(on_s / (on_s + rest_s))


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


def use_of(settings: Settings, code: str) -> Use:
    """Return what a wire is for, with the job's own limit where it has one."""
    found = USES.get(code, USES[""])
    own = dict(settings.drop_shares).get(found.code)
    return found if own is None else found._replace(drop_share=own)


def duty_of(wire: Wire, use: Use) -> tuple[float, float] | None:
    """Return how long a wire's load is on and off, s, its own or as usual for its use."""
    on_s = use.on_s if wire.on_s is None else wire.on_s
    rest_s = use.rest_s if wire.rest_s is None else wire.rest_s
    return None if on_s is None or not rest_s else (on_s, rest_s)


def place_of(network: Network, wire: Wire) -> str:
    """Return where a wire runs: its own place, or its bundle's; a key of the places."""
    return wire.place or network.job.bundle(wire.bundle).place


def ambient_of(network: Network, wire: Wire) -> float:
    """Return the air round a wire, deg C: its own, or that of the place where it runs."""
    if wire.ambient_c is not None:
        return wire.ambient_c
    return air_c(network.job.settings, place_of(network, wire))


def question(
    network: Network, wire: Wire, solved_a: float | None = None, crank_a: float | None = None,
    around: Around = ALONE, path: PathLoss | None = None,
) -> Question:  # fmt: skip
    """Gather what is asked of a wire in its job.

    solved_a: the current it carries in its worst state, A, for when nobody typed one. crank_a:
    while cranking. around: what lies round it. path: the path it hurts most.
    """
    settings = network.job.settings
    feed = network.feed(wire)
    use = use_of(settings, wire.use)
    load_a = wire.load_a if wire.load_a is not None else solved_a
    if use.code == "starter":
        load_a = wire.load_a if wire.load_a is not None else crank_a
        crank_a = None
    place = PLACES.get(place_of(network, wire), PLACES[""])
    return Question(
        load_a,
        wire.length_m,
        ambient_of(network, wire),
        insulation(wire.insulation),
        use,
        settings.system_v,
        contacts_of(network, wire),
        None if feed is None else feed.limit_a,
        _fuse_kind(network, feed),
        place.name,
        around,
        wire.bundle,
        duty_of(wire, use),
        crank_a if crank_a and crank_a > CRANKS_MORE * (load_a or 0.0) else None,
        path,
        None if path is None else use_of(settings, path.use),
        wire.load_a is None,
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
        grown = _grown(size, asked)
        criteria.append(_heat(size, grown, grown.load_a or 0.0))
        if asked.contacts:
            criteria.append(_contact(asked.contacts, grown.mean_a or 0.0))
        if asked.length_m is None:
            unknown.append("its length")
        else:
            criteria.append(_drop(size, asked, asked.load_a, asked.length_m))
    if asked.crank_a is not None:
        criteria.append(_crank(size, asked, asked.crank_a))
    if asked.fuse_a is not None and math.isfinite(asked.fuse_a):
        criteria.append(_fuse(size, asked, asked.fuse_a))
    return Sizing(size, tuple(criteria), tuple(unknown))


def smallest(asked: Question, system: SizeSystem, *, share: bool = False) -> WireSize | None:
    """Return the smallest standard size of a system that passes every criterion, or None.

    A terminal that cannot carry the current fails every size, so it is left out here and judged
    on its own. share: let it lose no more than its own share of what its path may lose.
    """
    asked = asked._replace(contacts=())
    if share and asked.path is not None:
        # As if the others had used up all but its share.
        rest = _limit_v(asked) * (1 - asked.path.share)
        asked = asked._replace(path=asked.path._replace(lost_v=asked.path.own_v + rest))
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    return next((size for size in sizes if judge(size, asked).passes), None)


def temperature_c(size: WireSize, asked: Question) -> float | None:
    """Return the conductor's highest temperature at its load, deg C, None without a load."""
    if asked.load_a is None or asked.mean_a is None:
        return None
    if asked.duty is None:
        return hottest_c(Core(size, asked.kind, asked.load_a), asked.ambient_c, asked.around)
    return duty_peak_c(size, asked.kind, asked.load_a, asked.duty, around_c(size, asked))


def drop_v(size: WireSize, asked: Question) -> float | None:
    """Return the voltage lost along the wire, V, at its insulation's limit temperature."""
    if asked.load_a is None or asked.length_m is None:
        return None
    return _drop_a(asked, asked.load_a) * asked.length_m * _hot_ohm(size, asked)


def fuse_for(
    size: WireSize, asked: Question, inrush: tuple[float, float] | None = None
) -> tuple[str, float] | None:
    """Return the smallest fuse (kind, rating in A) that carries the load and protects the wire.

    inrush: the current a load begins with, A, and for how long, s.
    """
    if asked.load_a is None:
        return None
    air = around_c(size, asked)
    return choose_fuse(size, asked.kind, air, asked.mean_a or 0.0, inrush)


def largest_fuse_a(size: WireSize, asked: Question, kind: str) -> float:
    """Return the largest rating of a kind of fuse that protects a size where it runs, A."""
    return largest_protecting_a(size, asked.kind, around_c(size, asked), kind)


def around_c(size: WireSize, asked: Question) -> float:
    """Return what a wire lies in, deg C: the air, or its bundle as its neighbours warm it."""
    if asked.around == ALONE:
        return asked.ambient_c
    return round(hottest_c(Core(size, asked.kind, 0.0), asked.ambient_c, asked.around), 1)


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
    lies = _lies(asked)
    if asked.duty is None:
        allowed = allowed_a(size, asked.kind, limit_c, asked.ambient_c, asked.around)
        long = ""
    else:
        lies_in_c = around_c(size, asked)
        allowed = duty_allowed_a(size, asked.kind, limit_c, asked.duty, lies_in_c)
        long = f", {asked.duty[0]:g} s on and {asked.duty[1]:g} s off"
    in_hand = 1 - load_a / allowed if allowed > 0 else (0.0 if load_a == 0 else -1.0)
    if asked.ambient_c > limit_c:
        in_hand = -1.0
    return Criterion(
        "heat",
        f"{load_a:.4g} A{long}",
        f"{allowed:.1f} A to stay at {limit_c:g} °C",
        in_hand,
        f"{lies}; insulation {asked.kind.name}, {HEAT_MARGIN_K:g} K kept in hand.",
    )


def _lies(asked: Question) -> str:
    """Say where a wire lies."""
    air = f"in still air at {asked.ambient_c:g} °C ({asked.place})"
    if asked.around == ALONE:
        return f"Alone {air}"
    others = len(asked.around.widths_mm)
    cover = ", covered" if asked.around.covering_mm else ""
    return f"In the middle of {asked.bundle} with {others} more, all loaded at once{cover}, {air}"


def _crank(size: WireSize, asked: Question, crank_a: float) -> Criterion:
    limit_c = asked.kind.limit_c
    lies_in_c = around_c(size, asked)
    duty = (CRANK_S, NEXT_CRANK_S)
    allowed = duty_allowed_a(size, asked.kind, limit_c, duty, lies_in_c)
    return Criterion(
        "cranking",
        f"{crank_a:.4g} A for {CRANK_S:g} s",
        f"{allowed:.0f} A to stay at {limit_c:g} °C",
        1 - crank_a / allowed if allowed > 0 else -1.0,
        f"Cranked {CRANK_S:g} s at a time with a minute's rest (common practice).",
    )


def _hot_ohm(size: WireSize, asked: Question) -> float:
    return resistance_ohm_per_m(size, asked.kind.limit_c)


def _limit_v(asked: Question) -> float:
    """Return what the wire's path may lose, V."""
    return (asked.path_use or asked.use).drop_share * asked.system_v


def _drop_a(asked: Question, load_a: float) -> float:
    """Return the current at which the drop counts, A: while cranking on the starter's path."""
    if asked.path is None:
        return load_a
    return asked.path.amps if asked.path.state.shortly else max(load_a, asked.path.amps)


def _draws_more(size: WireSize, asked: Question, length_m: float) -> float:
    """Return how many times the current flows when a wire loses less than the one that is there.

    What it no longer loses, a load that is a resistance gets, and takes more for it.
    """
    path = asked.path
    if path is None:
        return 1.0
    saved = path.own_v - path.amps * length_m * resistance_20_ohm_per_m(size)
    left = asked.system_v - path.lost_v
    return 1.0 + max(0.0, saved) / left if left > 0 else 1.0


def _grown(size: WireSize, asked: Question) -> Question:
    """Return the question with the currents that flow when the wire has another size."""
    more = 1.0 if asked.length_m is None else _draws_more(size, asked, asked.length_m)
    if more == 1.0 or asked.load_a is None:
        return asked
    around = asked.around._replace(heat_w_per_m=asked.around.heat_w_per_m * more**2)
    return asked._replace(load_a=asked.load_a * (more if asked.solved else 1.0), around=around)


def _may_lose_v(asked: Question, more: float = 1.0) -> float:
    """Return what the wire alone may lose, V.

    What the rest of its path leaves, or its own share by length where that is more: it is not
    blamed for the others, nor for next to nothing. Without a known path half of the limit: the
    return loses as much. more: how many times the current flows that was solved.
    """
    limit, path = _limit_v(asked), asked.path
    if path is None:
        return limit / 2
    return max(limit - path.rest_v * more, limit * max(path.share, NOT_BLAMED))


def _drop(size: WireSize, asked: Question, load_a: float, length_m: float) -> Criterion:
    more = _draws_more(size, asked, length_m)
    own = _drop_a(asked, load_a) * length_m * _hot_ohm(size, asked) * more
    allowed = _may_lose_v(asked, more)
    use, limit, path = asked.path_use or asked.use, _limit_v(asked), asked.path
    words = f"{use.drop_share:.1%} of {asked.system_v:g} V for {use.name}"
    if path is None:
        why = f"Half of {words}: no path from a battery is known, and a return loses as much."
    else:
        why = (
            f"The path to {path.name} ({path.device}) and back, {path.state.name}, may lose "
            f"{limit:.2f} V, {words}. Its rest loses {path.rest_v:.3f} V."
        )
        if path.rest_v > limit * (1 - path.share):
            why += f" Most is lost in {path.worst}, {path.worst_v:.2f} V."
    return Criterion(
        "voltage drop",
        f"{own:.3f} V",
        f"{allowed:.3f} V",
        1 - own / allowed,
        f"{why} Hot; the limit is common practice.",
    )


def _contact(contacts: tuple[Contact, ...], load_a: float) -> Criterion:
    weakest = min(contacts, key=lambda one: one.current_a)
    return Criterion(
        "terminal",
        f"{load_a:.4g} A",
        f"{weakest.current_a:g} A (size {weakest.size})",
        1 - load_a / weakest.current_a,
        "What a contact of this size carries all day (common practice).",
    )


def _fuse(size: WireSize, asked: Question, fuse_a: float) -> Criterion:
    allowed = largest_fuse_a(size, asked, asked.fuse_kind)
    in_hand = 1 - fuse_a / allowed if allowed > 0 else -1.0
    return Criterion(
        "fuse",
        f"{fuse_a:g} A fuse",
        f"{allowed:.1f} A protects it",
        in_hand,
        "The slowest fuse its standard permits must open before the wire is harmed.",
    )
