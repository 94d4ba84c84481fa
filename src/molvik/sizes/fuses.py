"""A fuse with what it has to bear: its load, what starts behind it, cranking, the one before it."""

import itertools
import math
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import NamedTuple

from molvik.circuits.loss import fuses_before
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of, value
from molvik.electrical.fusing import bears_inrush, quickest_s, slowest_s, surely_opens
from molvik.model.parts import Device, End, Fuse
from molvik.netlist.circuitgraph import fuse_element
from molvik.netlist.network import Network
from molvik.reference.fuses import curve_of
from molvik.reference.limits import CRANK_S
from molvik.sizes.sizing_case import SizingCase

STEPS = 60


class FuseWork(NamedTuple):
    """What a fuse has to bear. load_a: in its worst lasting state, A, or as typed at its wires.

    inrush: the current, A, and time, s, when the load that starts hardest, starter, comes on with
    all the others. crank_a: while cranking, A. before: the fuse nearer the battery.
    """

    fuse: Fuse
    load_a: float
    inrush: tuple[float, float] | None
    starter: str
    crank_a: float
    before: Fuse | None

    @property
    def curve(self) -> str:
        """By which time limits it opens."""
        return curve_of(self.fuse.kind, self.fuse.rating_a)

    @property
    def bears_inrush(self) -> bool:
        """Whether even the quickest one its standard permits stays whole."""
        return self.inrush is None or bears_inrush(self.curve, self.fuse.rating_a, self.inrush)

    @property
    def crank_s(self) -> float | None:
        """How long the quickest one bears cranking, s; None where no time is published."""
        return quickest_s(self.curve, self.crank_a / self.fuse.rating_a)

    @property
    def bears_cranking(self) -> bool:
        """Whether even the quickest one outlasts an attempt to start."""
        if surely_opens(self.curve, self.crank_a / self.fuse.rating_a, CRANK_S):
            return False
        return self.crank_s is None or self.crank_s > CRANK_S

    @property
    def alone_up_to_a(self) -> float:
        """Up to which current, A, it opens alone, the one before it staying whole; inf for any."""
        return math.inf if self.before is None else alone_up_to_a(self.fuse, self.before)


def alone_up_to_a(near: Fuse, before: Fuse) -> float:
    """Return up to which current, A, ``near`` opens first, at its slowest, and ``before`` holds.

    The one before is taken at its quickest; where its standard has no quickest time, it is taken to
    open at once. Up to 20,000 A is looked at: more than any vehicle battery gives.
    """
    return _alone_up_to_a(
        curve_of(near.kind, near.rating_a),
        near.rating_a,
        curve_of(before.kind, before.rating_a),
        before.rating_a,
    )


@lru_cache(maxsize=1024)
def _alone_up_to_a(kind: str, rating_a: float, before: str, before_a: float) -> float:
    least, most = 1.35 * rating_a, 20_000.0
    last = 0.0
    for step in range(STEPS * 4 + 1):
        amps = least * (most / least) ** (step / (STEPS * 4))
        first = quickest_s(before, amps / before_a)
        if (first or 0.0) <= slowest_s(kind, amps / rating_a):
            return last
        last = amps
    return math.inf


def starts_with(network: Network, requirements: SizingCase) -> tuple[float, float] | None:
    """Return what a wire's load begins with, A, and for how long, s; None where that is no more.

    Of all loads through the wire the one at the end of the lasting path it hurts most.
    """
    path = next(
        (path_asked.loss for path_asked in requirements.paths if not path_asked.loss.state.shortly),
        None,
    )
    device = network.parts.get(path.device) if path else None
    if path is None or not isinstance(device, Device) or kind_of(device).inrush is None:
        return None
    return _inrush(device, min(path.amps, requirements.load_a or math.inf), requirements.system_v)


def _inrush(device: Device, amps: float, system_v: float) -> tuple[float, float]:
    kind = kind_of(device)
    assert kind.inrush is not None  # those without are left out before
    times, seconds = kind.inrush
    if "inrush times" in kind.figures:
        times = value(device, "inrush times", system_v)
    return amps * times, seconds


def _stress(fuse: Fuse, amps: float, seconds: float) -> tuple[float, float]:
    """Return how near a current comes to opening a fuse at its quickest, to find the worst."""
    soonest = quickest_s(curve_of(fuse.kind, fuse.rating_a), amps / fuse.rating_a)
    return (seconds / soonest if soonest else 0.0), amps


def fuse_work(
    network: Network, states: Iterable[OperatingPoint], charging_a: Mapping[str, float]
) -> dict[str, FuseWork]:
    """Return what each fuse has to bear, from the states a vehicle is used in.

    charging_a: what fuses between an alternator and the battery bear when nobody typed a current.
    """
    job = network.job
    known = {fuse.code: fuse for fuse in job.fuses}
    devices = {device.code: device for device in job.devices}
    load: dict[str, float] = {}
    crank: dict[str, float] = {}
    hardest: dict[str, tuple[float, float, str]] = {}
    before: dict[str, Fuse] = {}
    for point in states:
        through = {code: abs(point.solution.amps.get(fuse_element(code), 0.0)) for code in known}
        # What blew carries nothing now; it is judged by what it carried.
        through |= {code: blown.amps for code, blown in point.blown.items() if code in known}
        kept = crank if point.state.shortly else load
        for code, amps in through.items():
            kept[code] = max(kept.get(code, 0.0), amps)
        for code, (fuses, amps) in fuses_before(point).items():
            for near, far in itertools.pairwise(fuses):
                before[near] = known[far]
            device = devices[code]
            if kind_of(device).inrush is None or point.state.shortly:
                continue
            starts, seconds = _inrush(device, amps, job.settings.system_v)
            for other in fuses:
                whole = max(0.0, through[other] - amps) + starts
                if _stress(known[other], whole, seconds) > _stress(
                    known[other], *hardest.get(other, (0.0, 0.0, ""))[:2]
                ):
                    hardest[other] = whole, seconds, device.name or code
    found = {}
    for code, fuse in known.items():
        typed = sum(wire.load_a or 0.0 for wire in network.wires_at.get(End(code, "out"), []))
        if not typed:
            load[code] = max(load.get(code, 0.0), charging_a.get(code, 0.0))
        whole, seconds, name = hardest.get(code, (0.0, 0.0, ""))
        found[code] = FuseWork(
            fuse,
            max(typed, load.get(code, 0.0)),
            (whole, seconds) if name else None,
            name,
            crank.get(code, 0.0),
            before.get(code),
        )
    return found
