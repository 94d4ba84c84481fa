"""What is drawn with the key off, item by item."""

from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of, value
from molvik.devices.kinds.controller import wakers
from molvik.devices.states import OFF, State, all_off
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.wording import figures


class Drain(NamedTuple):
    """total_a: what the battery gives, A. items: devices that draw, with their current, A."""

    total_a: float
    items: tuple[tuple[str, str, float], ...]


LEAST_A = 1e-4


HOURS_UP_TO = 48.0
"""A longer time is told in days."""


def lasts(job: Job, total_a: float) -> str:
    """Say how long the battery lasts: until it is half flat, by its capacity, which is typed or
    said to be taken; empty where nothing is drawn.
    """
    battery = next((one for one in job.devices if one.kind == "battery"), None)
    if battery is None or total_a < LEAST_A:
        return ""
    capacity = value(battery, "Ah")
    typed = any(name == "Ah" for name, _ in battery.values)
    hours = capacity / 2 / total_a
    time = f"{figures(hours, 2)} h" if hours < HOURS_UP_TO else f"{figures(hours / 24, 2)} days"
    said = "" if typed else f" (no capacity is typed at {battery.code})"
    return f"A {capacity:g} Ah battery{said} is half flat after about {time}."


def parked(job: Job) -> State:
    """Return the state of a vehicle that stands: key off, every switch in its first position, and
    asleep what sleeps by itself.
    """
    return OFF._replace(switches=all_off(job), rested=True)


def _sleep(point: OperatingPoint, device: Device) -> str:
    """Say whether a computer that is fed at rest sleeps, and after how long; most do after some
    minutes (common practice). Empty for what is no computer.
    """
    if not kind_of(device).is_computer:
        return ""
    if f"{device.code} awake" not in point.on:
        minutes = 0.0 if wakers(device) else value(device, "sleeps min")
        return f" (asleep after {figures(minutes)} min)" if minutes else " (asleep)"
    return " (awake: an input that wakes it is live)" if wakers(device) else " (never sleeps)"


def drain(point: OperatingPoint) -> Drain:
    """Return what draws how much in a state that is solved, the most first."""
    known = {device.code: device for device in point.job.devices}
    items = [
        (load.device, load.name + _sleep(point, known[load.device]), load.amps)
        for load in point.loads
        if load.amps >= LEAST_A and abs(load.volts) > 0.1
    ]
    return Drain(max(0.0, point.source_amps), tuple(sorted(items, key=lambda one: -one[2])))
