"""From 6 V to 12 V and back: what each wire and each part is in for.

What gives the same power takes the current in the other proportion, and may lose the same share of
another voltage: for the same loss in share the copper goes with the square.
"""

from collections.abc import Mapping
from typing import NamedTuple

from msgspec.structs import replace

from molvik.model.job import Job
from molvik.model.parts import Device, SizeSystem, WireSize
from molvik.netlist.network import Network
from molvik.reference.device_types import type_of
from molvik.reference.devices import at_share
from molvik.sizes.drop import drop_v
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import judge, smallest


class WireThen(NamedTuple):
    """A wire at both voltages. now_a, then_a: A. now, then: drop as a share of the voltage.

    size: what it has. needs: the smallest that passes then, None for none.
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


class PartThen(NamedTuple):
    """A part with what it needs at the other voltage."""

    code: str
    name: str
    what: str


def at_voltage(asked: SizingCase, volts: float) -> SizingCase:
    """Return what is asked of a wire at another voltage, with the same power at the same loads."""
    times = asked.system_v / volts

    def scaled(amps: float | None) -> float | None:
        return None if amps is None else round(amps * times, 4)

    paths = tuple(
        path_asked._replace(
            loss=path_asked.loss._replace(
                lost_v=path_asked.loss.lost_v * times, own_v=path_asked.loss.own_v * times,
                amps=path_asked.loss.amps * times,
                worst_v=path_asked.loss.worst_v * times,
            )
        )
        for path_asked in asked.paths
    )  # fmt: skip
    return asked.with_heat(times)._replace(
        load_a=scaled(asked.load_a),
        crank_a=scaled(asked.crank_a),
        warm_a=scaled(asked.warm_a),
        paths=paths,
        system_v=volts,
    )


def wires_then(
    network: Network, sizing_cases: Mapping[str, SizingCase], volts: float, system: SizeSystem
) -> tuple[WireThen, ...]:
    """Return each wire whose current is known, at both voltages; the most current first."""
    found = []
    for wire in network.job.wires:
        asked = sizing_cases[wire.code]
        if asked.load_a is None or asked.load_a <= 0 or wire.use in ("sensor", "screen"):
            continue
        then = at_voltage(asked, volts)
        found.append(
            WireThen(
                wire.code, wire.function, asked.load_a, then.load_a or 0.0,
                _share(wire.size, asked), _share(wire.size, then), wire.size,
                judge(wire.size, then).passes if wire.size else None,
                smallest(then, system, share=True),
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda wire_then: -wire_then.then_a))


def _share(size: WireSize | None, asked: SizingCase) -> float | None:
    """Return the drop along a wire as a share of the voltage."""
    lost = drop_v(size, asked) if size is not None else None
    return None if lost is None else lost / asked.system_v


def parts_then(job: Job, volts: float) -> tuple[PartThen, ...]:
    """Return each part that another voltage concerns, with what it needs, and the fuses."""
    share = f"{volts / job.settings.system_v:.0%} of its voltage"
    square = _times((volts / job.settings.system_v) ** 2)
    found = []
    for device in job.devices:
        kind = type_of(device)
        words = kind.lower if kind.lower and volts < job.settings.system_v else kind.elsewhere
        if words:
            what = words.format(volts=volts, cells=round(volts / 2), share=share, square=square)
            found.append(PartThen(device.code, device.name, what))
    times = job.settings.system_v / volts
    if job.fuses:
        found.append(
            PartThen("", "Fuses", f"{times:g} times the current for the same power: choose each "
                     "anew, by its wire and its load.")
        )  # fmt: skip
    return tuple(found)


def _times(share: float) -> str:
    """Say how many times: a quarter of, 4 times."""
    return {0.25: "a quarter of", 0.0625: "a sixteenth of", 4.0: "four times"}.get(
        round(share, 4), f"{share:.2g} times"
    )


def _then(device: Device, share: float) -> Device:
    """Return a device of the same power for another voltage, with the figures typed of it."""
    kind = type_of(device)
    values = tuple(
        (name, float(f"{at_share(kind, name, figure, share):.6g}"))
        for name, figure in device.values
    )
    return device if values == device.values else replace(device, values=values)


def with_sizes(job: Job, volts: float, wires: tuple[WireThen, ...]) -> Job:
    """Return the job at the other voltage, each wire that would fail as thick as it then needs.

    Currents that were typed change with the voltage, and so do the figures of devices: each is one
    of the same power that is made for it.
    """
    times = job.settings.system_v / volts
    needs = {
        wire_then.wire: wire_then.needs
        for wire_then in wires
        if not wire_then.passes and wire_then.needs is not None
    }
    made = tuple(
        replace(
            wire,
            size=needs.get(wire.code, wire.size),
            load_a=None if wire.load_a is None else round(wire.load_a * times, 4),
        )
        for wire in job.wires
    )
    devices = tuple(_then(device, 1 / times) for device in job.devices)
    settings = replace(job.settings, system_v=volts)
    return replace(job, wires=made, devices=devices, settings=settings)
