"""From 6 V to 12 V and back: what each wire and each part is in for.

What gives the same power takes the current in the other proportion, and may lose the same share of
another voltage: for the same loss in share the copper goes with the square.
"""

from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace

from molvik.devices import kind_of
from molvik.electrical.conductor import area_mm2
from molvik.model.job import Job
from molvik.model.parts import Device, SizeSystem, WireSize
from molvik.sizes.drop import drop_v
from molvik.sizes.mending import Solved, mend
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import judge, smallest


class WireThen(NamedTuple):
    """A wire at both voltages. now_a, then_a: A. now, then: drop as a share of the voltage.

    size: what it has, passes: whether that does then. needs: the size it gets, alone or for its
    path; None for the one it has. fails: what it fails on even so, by the names of the criteria.
    """

    wire: str
    function: str
    now_a: float
    then_a: float
    now: float | None
    then: float | None
    size: WireSize | None
    passes: bool | None
    needs: WireSize | None
    fails: tuple[str, ...] = ()

    @property
    def says(self) -> str:
        """What has to be done to it, in words; empty where its size is not known."""
        needs = [str(self.needs)] if self.needs is not None else []
        needs += [NEEDS[name] for name in self.fails if name in NEEDS]
        words = [f"needs {' and '.join(needs)}"] if needs else []
        words += [
            STILL.get(name, f"no size is enough: {name}")
            for name in self.fails
            if name not in NEEDS
        ]
        if words:
            return "; ".join(words)
        if self.passes is None:
            return ""
        return "is enough" if self.passes else "is enough once the rest of its path is"


NEEDS = {"terminal": "a larger terminal", "protection": "a fuse", "fuse": "a smaller fuse"}
"""What a wire needs that fails on a criterion which its own size does not mend."""

STILL = {
    "voltage drop": "its path still drops too much in terminals and fuses: fewer or larger ones, a "
    "shorter route, or a relay near the load",
    "heat": "too hot where it lies: lay it elsewhere or alone, or take a better insulation",
}
"""What is then wrong with a wire that no size of its own mends, and what does."""


class PartThen(NamedTuple):
    """A part with what it needs at the other voltage."""

    code: str
    name: str
    what: str


def at_volts(job: Job, volts: float) -> Job:
    """Return the job at another voltage, its sizes as they are. Currents that were typed change
    with the voltage, and so do the figures of devices: each is one of the same power for it.
    """
    times = job.settings.system_v / volts
    wires = tuple(
        wire if wire.load_a is None else replace(wire, load_a=round(wire.load_a * times, 4))
        for wire in job.wires
    )
    devices = tuple(_then(device, 1 / times) for device in job.devices)
    settings = replace(job.settings, system_v=volts)
    return replace(job, wires=wires, devices=devices, settings=settings)


def wires_then(
    job: Job, now: Solved, volts: float, system: SizeSystem, solve: Callable[[Job], Solved]
) -> tuple[WireThen, ...]:
    """Return each wire whose current is known, at both voltages; the most current first.

    now: the job as it is, solved. What a path then loses too much is mended as a set (``mending``).
    """
    then = solve(at_volts(job, volts))
    mended = mend(
        then.network.job, lambda job: then if job == then.network.job else solve(job), system
    )
    found = []
    for wire in job.wires:
        requirements, asked_then = now.sizing_cases[wire.code], then.sizing_cases[wire.code]
        if (
            requirements.load_a is None
            or requirements.load_a <= 0
            or wire.use in ("sensor", "screen")
        ):
            continue
        needs = mended.sizes.get(wire.code)
        if wire.size is None:
            needs = smallest(asked_then, system, share=True)
        size = needs or wire.size
        left = _failing(size, mended.solved.sizing_cases[wire.code]) if size else ()
        found.append(
            WireThen(
                wire.code,
                wire.function,
                requirements.load_a,
                asked_then.load_a or 0.0,
                _share(wire.size, requirements),
                _share(wire.size, asked_then),
                wire.size,
                judge(wire.size, asked_then).passes if wire.size else None,
                needs,
                left,
            )
        )
    return tuple(sorted(found, key=lambda wire_then: -wire_then.then_a))


def _failing(size: WireSize, requirements: SizingCase) -> tuple[str, ...]:
    """Return the criteria that a size fails on, by their names; the terminal, too, where it is not
    made for a wire as thick.
    """
    found = [one.name for one in judge(size, requirements).criteria if not one.passes]
    if any(area_mm2(size) > contact.most_mm2 for contact in requirements.contacts):
        found.append("terminal")
    return tuple(dict.fromkeys(found))


def _share(size: WireSize | None, requirements: SizingCase) -> float | None:
    """Return the drop along a wire as a share of the voltage."""
    lost = drop_v(size, requirements) if size is not None else None
    return None if lost is None else lost / requirements.system_v


def parts_then(job: Job, volts: float) -> tuple[PartThen, ...]:
    """Return each part that another voltage concerns, with what it needs, and the fuses."""
    share = f"{volts / job.settings.system_v:.0%} of its voltage"
    square = _times((volts / job.settings.system_v) ** 2)
    found = []
    for device in job.devices:
        kind = kind_of(device)
        words = kind.lower if kind.lower and volts < job.settings.system_v else kind.elsewhere
        if words:
            what = words.format(volts=volts, cells=round(volts / 2), share=share, square=square)
            found.append(PartThen(device.code, device.name, what))
    times = job.settings.system_v / volts
    if job.fuses:
        found.append(
            PartThen(
                "",
                "Fuses",
                f"{times:g} times the current for the same power: choose each "
                "again, by its wire and its load.",
            )
        )
    return tuple(found)


def _times(share: float) -> str:
    """Say how many times: a quarter of, 4 times."""
    return {0.25: "a quarter of", 0.0625: "a sixteenth of", 4.0: "four times"}.get(
        round(share, 4), f"{share:.2g} times"
    )


def _then(device: Device, share: float) -> Device:
    """Return a device of the same power for another voltage, with the figures typed of it."""
    kind = kind_of(device)
    values = tuple(
        (name, float(f"{kind.at_share(name, figure, share):.6g}")) for name, figure in device.values
    )
    return device if values == device.values else replace(device, values=values)


def with_sizes(job: Job, volts: float, wires: tuple[WireThen, ...]) -> Job:
    """Return the job at the other voltage, each wire that would fail as thick as it then needs."""
    needs = {one.wire: one.needs for one in wires if one.needs is not None}
    there = at_volts(job, volts)
    return replace(
        there,
        wires=tuple(replace(wire, size=needs.get(wire.code, wire.size)) for wire in there.wires),
    )
