"""Many wires at once: which would get another size, and the edit that gives it to them."""

from collections.abc import Callable, Container, Mapping
from typing import NamedTuple

from msgspec.structs import replace

from molvik.electrical.conductor import area_mm2
from molvik.model.job import Job
from molvik.model.parts import SizeSystem, Wire, WireSize
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import judge, smallest

Ask = Callable[[Job], Mapping[str, SizingCase]]
"""What is asked of each wire of a job."""

ROUNDS = 12


class Resize(NamedTuple):
    """A wire with the size it has and the smallest that passes."""

    wire: str
    old: WireSize | None
    new: WireSize


def resizes(
    job: Job,
    ask: Ask,
    system: SizeSystem,
    *,
    failing_only: bool,
    only: Container[str] | None = None,
) -> tuple[Resize, ...]:
    """Return the wires that would change; those without a current are left as they are.

    failing_only: leave every wire that passes, else make thick ones thinner as well. only: the
    wires that may change, None for all. Thinner wires
    warm their bundle and lose more of what their path may lose, so the changed job is judged again
    and what then fails grows, until all of them pass; one that cannot is left as it was. A wire may
    lose its share of what its path may, by its length: a thinner one would often pass by itself.
    """
    found: dict[str, Resize] = {}
    requirements = ask(job)
    for wire in job.wires:
        sizing_case = requirements[wire.code]
        if sizing_case.load_a is None or sizing_case.length_m is None or wire.stowed:
            continue
        if only is not None and wire.code not in only:
            continue
        if failing_only and wire.size is not None and judge(wire.size, sizing_case).is_enough:
            continue
        new = smallest(sizing_case, system, share=True)
        if new is not None and new != wire.size:
            found[wire.code] = Resize(wire.code, wire.size, new)
    thinned = False
    for left in range(ROUNDS, -1, -1):
        changed = resized(job, tuple(found.values()))
        requirements = ask(changed)
        failing = [
            code
            for code, resize in found.items()
            if not judge(resize.new, requirements[code]).is_enough
        ]
        if not failing:
            # What grew heats and loses less: once, what it now leaves room for is made thinner.
            again = {} if thinned else _thinner(found, requirements, system)
            if not again:
                break
            found, thinned = found | again, True
            continue
        for code in failing:
            bigger = _bigger(found[code].new, requirements[code], system) if left else None
            if bigger is None or bigger == found[code].old:
                del found[code]
            else:
                found[code] = found[code]._replace(new=bigger)
    return tuple(resize for resize in found.values() if resize.new != resize.old)


def _thinner(
    found: Mapping[str, Resize], requirements: Mapping[str, SizingCase], system: SizeSystem
) -> dict[str, Resize]:
    """Return the wires for which a thinner one does as well, each held to its share of what its
    path may lose, as before: else the first would take it all.
    """
    again: dict[str, Resize] = {}
    for code, resize in found.items():
        least = smallest(requirements[code], system, share=True)
        if least is not None and area_mm2(least) < area_mm2(resize.new):
            again[code] = resize._replace(new=least)
    return again


def _bigger(size: WireSize, requirements: SizingCase, system: SizeSystem) -> WireSize | None:
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    larger = (other for other in sizes if area_mm2(other) > area_mm2(size))
    return next((size for size in larger if judge(size, requirements).is_enough), None)


def resized(job: Job, changes: tuple[Resize, ...]) -> Job:
    """Return the job with other sizes."""
    sizes = {resize.wire: resize.new for resize in changes}

    def changed(wire: Wire) -> Wire:
        return replace(wire, size=sizes[wire.code]) if wire.code in sizes else wire

    return replace(job, wires=tuple(changed(wire) for wire in job.wires))
