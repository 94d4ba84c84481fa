"""The analogue inputs of an engine computer: what it sees of a thermistor, and how finely.

The computer feeds its sensor with 5 V through a resistor of its own, and measures what is left at
the sensor, in steps. All figures are common practice, from memory, until they are typed.
"""

import math
from collections.abc import Callable, Iterator
from typing import NamedTuple

from molvik.circuits.gauges.matching import curve_of
from molvik.devices import kind_of, value
from molvik.devices.kinds.sensing import Thermistor
from molvik.model.parts import Device, End
from molvik.netlist.network import Network
from molvik.reference.inputs import BITS, FAULT_V, MATTERS_C, REFERENCE_V, SPAN_C


class Input(NamedTuple):
    """A thermistor at an input. volts: what the computer sees at temperatures, (deg C, V); at: the
    temperature that matters, deg C; step_k: how much a step of its converter is there, K; lost:
    the temperatures it takes for a broken sensor, (deg C from, to), None for none; pull_ohm: its
    resistor, and pull_is_typed whether somebody typed that; best_ohm: the one that would see most
    at the temperature that matters. beside: the gauges that hang on the same wire, by code.
    """

    sensor: str
    name: str
    computer: str
    volts: tuple[tuple[float, float], ...]
    at: float
    step_k: float
    lost: tuple[float, float] | None
    pull_ohm: float
    pull_is_typed: bool
    best_ohm: float
    beside: tuple[str, ...]

    @property
    def says(self) -> str:
        """What the computer sees, in words."""
        at = min(self.volts, key=lambda one: abs(one[0] - self.at))[1]
        said = f"{at:.2f} V at {self.at:g} °C, in steps of {self.step_k:.2g} K"
        if self.lost is not None:
            first, last = self.lost
            said += f"; from {first:g} to {last:g} °C it takes it for broken"
        if self.beside:
            said += f"; {', '.join(self.beside)} on the same wire adds a supply of its own"
        return said


def inputs(network: Network) -> tuple[Input, ...]:
    """Return every thermistor of which the ohms are known at an input of a computer."""
    return tuple(_inputs(network))


def _inputs(network: Network) -> Iterator[Input]:
    for device in network.job.devices:
        kind = kind_of(device)
        if not isinstance(kind, Thermistor) or curve_of(device) is None or not device.terminals:
            continue
        at = network.net_of.get(End(device.code, device.terminals[0]))
        there = {end.at for end, net in network.net_of.items() if net == at and at is not None}
        computer = next(
            (
                one
                for one in network.job.devices
                if kind_of(one).is_computer and ({one.code, one.plug} - {""}) & there
            ),
            None,
        )
        if computer is None:
            continue
        gauges = tuple(
            one.code for one in network.job.devices if one.kind == "gauge" and one.code in there
        )
        yield _seen(device, kind, computer, gauges)


def _seen(device: Device, kind: Thermistor, computer: Device, gauges: tuple[str, ...]) -> Input:
    pull = value(computer, "pull-up ohm")

    def ohm_at(celsius: float) -> float:
        return kind.ohm_at(device, celsius)

    volts = tuple((t, seen_v(ohm_at(t), pull)) for t in range(SPAN_C[0], SPAN_C[1] + 1, 5))
    lost = [t for t, seen in volts if not FAULT_V[0] < seen < FAULT_V[1]]
    return Input(
        device.code,
        device.name,
        computer.code,
        volts,
        MATTERS_C,
        step_k(ohm_at, pull, MATTERS_C),
        (min(lost), max(lost)) if lost else None,
        pull,
        "pull-up ohm" in dict(computer.values),
        ohm_at(MATTERS_C),
        gauges,
    )


def seen_v(sensor_ohm: float, pull_ohm: float) -> float:
    """Return what is left of the reference at a sensor, V."""
    return REFERENCE_V * sensor_ohm / (sensor_ohm + pull_ohm)


def step_k(ohm_at: Callable[[float], float], pull_ohm: float, celsius: float) -> float:
    """Return how many kelvins a step of the converter is at a temperature; infinite where nothing
    changes.
    """
    slope = seen_v(ohm_at(celsius + 0.5), pull_ohm) - seen_v(ohm_at(celsius - 0.5), pull_ohm)
    step = REFERENCE_V / 2**BITS
    return step / abs(slope) if slope else math.inf
