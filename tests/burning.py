"""Which wires of a supply burn in a short, found in a way that shares nothing with the core.

What flows is the search of ``feedtrees``; how warm it makes a wire is a body that is heated in
small steps: copper of 3.45 MJ/(m3 K), air by Morgan's correlation (Advances in Heat Transfer 11,
1975; from memory), radiation at 0.9. A blade of ISO 8820-3 may carry 1.1 times its rating for
100 h, 1.35 times for 600 s, twice for 5 s.
"""

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from feedtrees import flow_through
from molvik.model.job import Job
from molvik.model.parts import End

AIR_C, CLASS_C = 60.0, 125.0
MOMENTS = ((1.1, 360_000.0), (1.35, 600.0), (2.0, 5.0))
WALL_MM = {
    0.35: 0.3,
    0.5: 0.3,
    0.75: 0.3,
    1.0: 0.3,
    1.5: 0.35,
    2.5: 0.35,
    4.0: 0.4,
    6.0: 0.4,
    10.0: 0.6,
    16.0: 0.65,
    25.0: 0.65,
}
MORGAN = ((1e-2, 0.675, 0.058), (1e2, 1.02, 0.148), (1e4, 0.850, 0.188), (1e7, 0.480, 0.250))


class Heated(NamedTuple):
    """How warm a wire is after each moment, deg C."""

    moments: tuple[float, ...]

    def burns(self) -> bool:
        """Return whether no insulation of the class lasts that: 60 K over it for days, 100 K for
        ten minutes, 250 deg C (IEC 60364-4-43) in seconds.
        """
        limits = CLASS_C + 60, CLASS_C + 100, 250.0
        return any(warm > limit for warm, limit in zip(self.moments, limits, strict=True))

    def is_easy(self) -> bool:
        """Return whether nobody would mind: hardly over the class for days."""
        limits = CLASS_C + 10, CLASS_C + 30, CLASS_C + 60
        return all(warm < limit for warm, limit in zip(self.moments, limits, strict=True))


def warm_after_c(mm2: float, amps: float, seconds: float) -> float:
    """Return the copper's temperature after a current, from its class limit on, deg C."""
    warm, left = CLASS_C, seconds
    wide_m = (math.sqrt(4 * mm2 / math.pi / 0.75) + 2 * WALL_MM[mm2]) / 1000
    holds = 3.45 * mm2
    while left > 0 and warm < 1000:
        film = (warm + AIR_C) / 2 + 273.15
        kinematic, conducts = 1.6e-5 * (film / 300) ** 1.75, 0.0263 * (film / 300) ** 0.8
        rayleigh = 9.81 / film * (warm - AIR_C) * wide_m**3 / kinematic**2 * 0.7
        factor, power = next((c, n) for most, c, n in MORGAN if rayleigh < most)
        loss = factor * max(rayleigh, 1e-9) ** power * conducts / wide_m * (warm - AIR_C)
        loss += 0.9 * 5.67e-8 * ((warm + 273.15) ** 4 - (AIR_C + 273.15) ** 4)
        gained = amps**2 * 0.0185 / mm2 * (1 + 0.0039 * (warm - 20)) - loss * math.pi * wide_m
        if abs(gained) < 1e-4 * holds:
            break
        step = min(left, 2.0 * holds / abs(gained), 0.2 * holds / 0.05)
        warm, left = warm + gained * step / holds, left - step
    return warm


def _flows(job: Job) -> list[Mapping[str, float]]:
    """Return what flows through each wire while every fuse carries each multiple."""
    found: list[Mapping[str, float]] = []
    for multiple, _ in MOMENTS:
        fuses = [replace(fuse, rating_a=fuse.rating_a * multiple) for fuse in job.fuses]
        found.append(flow_through(replace(job, fuses=tuple(fuses))))
    return found


def heated(job: Job) -> dict[str, Heated]:
    """Return how warm each wire gets that a fault of some end feeds through fuses alone."""
    sizes = {wire.code: wire.size.value for wire in job.wires if wire.size is not None}
    flows, found = _flows(job), {}
    for code, mm2 in sizes.items():
        amps = [flow[code] for flow in flows]
        if amps[0] > 0 and math.isfinite(amps[-1]):
            found[code] = _heated(mm2, amps)
    return found


def burning_returns(job: Job) -> set[str]:
    """Return the wires from batteries' minus to metal that what comes back burns: at least what
    each battery alone sends through one wire into a short.
    """
    return {
        code
        for device in job.devices
        if device.kind == "battery"
        for code in _burning_return(job, device.code)
    }


def _burning_return(job: Job, battery: str) -> set[str]:
    alone = tuple(
        one
        for one in job.devices
        if one.kind not in ("battery", "alternator") or one.code == battery
    )
    job = replace(job, devices=alone)
    (wire,) = [wire for wire in job.wires if End(battery, "-") in wire.ends]
    assert wire.size is not None
    flows = _flows(job)
    finite = [code for code, amps in flows[-1].items() if math.isfinite(amps)]
    most = max(finite, key=lambda code: flows[0][code], default=None)
    if most is None or not flows[0][most]:
        return set()
    warm = _heated(wire.size.value, [flow[most] for flow in flows])
    return {wire.code} if warm.burns() else set()


def _heated(mm2: float, amps: Sequence[float]) -> Heated:
    return Heated(
        tuple(
            warm_after_c(mm2, one, seconds) for one, (_, seconds) in zip(amps, MOMENTS, strict=True)
        )
    )
