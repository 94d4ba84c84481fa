"""What is asked of a wire in its job: load, length, air, bundle, duty, paths, fuse."""

import math
from typing import NamedTuple

from molvik.circuits.loss import PathLoss
from molvik.electrical.bundle import ALONE, Neighbours
from molvik.electrical.fusing import SLOWEST, STEADY
from molvik.electrical.transient import rms_share
from molvik.model.job import Settings
from molvik.model.parts import Connector, Fuse, Wire
from molvik.netlist.feeds import Feed
from molvik.netlist.network import Network
from molvik.reference.contacts import CONTACTS, Contact
from molvik.reference.fuses import curve_of
from molvik.reference.insulation import Insulation, insulation
from molvik.reference.limits import USES, Use
from molvik.reference.places import PLACES, air_c
from molvik.wording import figures

CRANKS_MORE = 1.05
"""A wire that carries this many times its load while cranking is judged for that as well."""


TOLD_FROM_TIMES, TOLD_FROM_A = 1.25, 0.5
"""From so many times the typed current on, and so much over it, A, what is solved is told (our
choice)."""


class PathAsked(NamedTuple):
    """A path through a wire as it is solved, and what it is for, with the job's own limit."""

    loss: PathLoss
    use: Use


class Installation(NamedTuple):
    """Where a stretch of a wire lies. ambient_c: of the air, deg C. place: in words. neighbours:
    what lies round it. name: of the bundle or stretch, empty where it lies alone.
    """

    ambient_c: float
    place: str = "engine bay"
    neighbours: Neighbours = ALONE
    name: str = ""

    def heated(self, times: float) -> "Installation":
        """Return the same with the neighbours' currents so many times as large."""
        heat = self.neighbours.heat_w_per_m * times**2
        return self._replace(neighbours=self.neighbours._replace(heat_w_per_m=heat))


class SizingCase(NamedTuple):
    """What is asked of a wire. None means not known yet.

    load_a: A. length_m: m. lies: the stretches it lies in, one at least, of which the worst binds.
    fuse_a: what it must bear in a fault, A: the limit of its feed or, where no fuse stands before
    it, the largest fuse behind it; infinite where nothing limits it, None where no supply is.
    fuse_kind: of the slowest that limits it, or steady. fuse_from: what does, in words. bare: no
    fuse stands before it nor behind, and it is no cable of a starter.
    duty: how long its load is on and off, s, None for always on. crank_a: what it carries while
    cranking, A. paths: those it hurts most, in lasting states and while cranking.
    solved: the load follows from the circuit, so that it goes with the voltage it gets. warm_a:
    what the wire then carries once all copper is warm, A.
    """

    load_a: float | None
    length_m: float | None
    lies: tuple[Installation, ...]
    kind: Insulation
    use: Use
    system_v: float
    contacts: tuple[Contact, ...] = ()
    fuse_a: float | None = None
    fuse_kind: str = "blade"
    fuse_from: str = ""
    bare: bool = False
    duty: tuple[float, float] | None = None
    crank_a: float | None = None
    paths: tuple[PathAsked, ...] = ()
    solved: bool = False
    warm_a: float | None = None

    @property
    def ambient_c(self) -> float:
        """The hottest air along the wire, deg C."""
        return max(lying.ambient_c for lying in self.lies)

    def with_heat(self, times: float) -> "SizingCase":
        """Return the case with the neighbours' currents so many times as large."""
        return self._replace(lies=tuple(lying.heated(times) for lying in self.lies))

    @property
    def mean_a(self) -> float | None:
        """The steady current that heats as much as the load does over its cycle, A."""
        if self.load_a is None or self.duty is None:
            return self.load_a
        return self.load_a * rms_share(self.duty)


FAR_OVER = -10.0
"""The margin of what is so far over its limit that by how much says nothing."""


class Criterion(NamedTuple):
    """One criterion's verdict. margin: share of the limit still free, negative when it fails.

    amount, allowed: the figures that has and limit tell in words, in one unit.
    """

    name: str
    has: str
    limit: str
    margin: float
    why: str
    amount: float
    allowed: float
    unit: str

    @property
    def passes(self) -> bool:
        """Whether the criterion is met."""
        return self.margin >= 0

    @property
    def used(self) -> float:
        """The share of the limit that is used, above 1 when it fails."""
        return 1 - self.margin

    @property
    def figures(self) -> str:
        """What there is of what may be: "0.394 of 0.161 V"."""
        if math.isinf(self.amount):
            return self.has
        has, may = (figures(round(amount, 3)) for amount in (self.amount, self.allowed))
        return f"{has} of {may} {self.unit}"


def used_text(margin: float) -> str:
    """Say what share of a limit is used. margin: the share that is free."""
    return f"{1 - margin:.0%} used" if margin > FAR_OVER else "far above"


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


def lying_of(network: Network, wire: Wire, neighbours: Neighbours = ALONE) -> Installation:
    """Return where a wire lies as it is typed: one stretch, in its place and its bundle."""
    place = PLACES.get(place_of(network, wire), PLACES[""])
    return Installation(ambient_of(network, wire), place.name, neighbours, wire.bundle)


def sizing_case(
    network: Network,
    wire: Wire,
    solved_a: float | None = None,
    crank_a: float | None = None,
    lies: tuple[Installation, ...] = (),
    *,
    rated: bool = False,
) -> SizingCase:
    """Gather what is asked of a wire in its job, but for the paths through it.

    solved_a: the current it carries in its worst state, A, for when nobody typed one. crank_a:
    while cranking. lies: the stretches it lies in, none for one as it is typed, alone. rated:
    solved_a is what an alternator can give.
    """
    settings = network.job.settings
    feed = network.feed(wire)
    use = use_of(settings, wire.use)
    load_a = wire.load_a if wire.load_a is not None else solved_a
    if use.code == "starter":
        load_a = wire.load_a if wire.load_a is not None else crank_a
        crank_a = None
    return SizingCase(
        load_a,
        wire.length_m,
        lies or (lying_of(network, wire),),
        insulation(wire.insulation),
        use,
        settings.system_v,
        contacts_of(network, wire),
        *_protected(network, wire, feed),
        duty_of(wire, use),
        crank_a if crank_a and crank_a > CRANKS_MORE * (load_a or 0.0) else None,
        solved=wire.load_a is None and not rated,
    )


def on_paths(
    settings: Settings, requirements: SizingCase, paths: tuple[PathLoss, ...]
) -> SizingCase:
    """Return a sizing case with the paths its wire hurts most."""
    return requirements._replace(
        paths=tuple(PathAsked(path_loss, use_of(settings, path_loss.use)) for path_loss in paths)
    )


def carries_more(wire: Wire, solved_a: float) -> bool:
    """Return whether a wire carries so much more than was typed that it must be told."""
    if wire.load_a is None:
        return False
    return solved_a >= TOLD_FROM_TIMES * wire.load_a and solved_a - wire.load_a >= TOLD_FROM_A


def contacts_of(network: Network, wire: Wire) -> tuple[Contact, ...]:
    """Return the contacts at a wire's ends, where they are known."""
    parts = [network.parts.get(end.at) for end in wire.ends]
    return tuple(
        CONTACTS[part.contact]
        for part in parts
        if isinstance(part, Connector) and part.contact in CONTACTS
    )


def _protected(
    network: Network, wire: Wire, feed: Feed | None
) -> tuple[float | None, str, str, bool]:
    """Return what a wire must bear in a fault, A, its kind, from what, and whether it is bare."""
    if feed is None:
        back = network.returns.get(wire.code)
        if back is None:
            return None, "blade", "", False
        return back.limit_a, _slowest(network, back), f"{back.named}, back through it", False
    if math.isfinite(feed.limit_a):
        return feed.limit_a, _slowest(network, feed), feed.named, False
    behind = network.ahead(wire.code)
    if not behind.fuses:
        is_starters = wire.use == "starter" and behind.may_be_a_starters
        return math.inf, "blade", "", not is_starters
    largest = behind.fuses[0]
    curve = curve_of(largest.kind, largest.rating_a)
    return largest.rating_a, curve, f"{largest.code} behind it", False


def _slowest(network: Network, feed: Feed) -> str:
    parts = (network.parts.get(code) for code in feed.by or (feed.fuse,))
    kinds = {curve_of(part.kind, part.rating_a) for part in parts if isinstance(part, Fuse)}
    return next((kind for kind in SLOWEST if kind in kinds), STEADY)
