"""What a meter shows on each part by itself, unplugged: windings, senders, diodes, contacts.

Figures are the parts' own where they were entered, else the usual ones of their kind; a fifth more
or less is no wonder for those (common practice).
"""

import math
from collections.abc import Iterator
from typing import NamedTuple

from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.reference.device_types import type_of
from molvik.reference.devices import value
from molvik.wording import figures

OWN_SHARE, USUAL_SHARE = 0.1, 0.2
"""How far a part may be from its own figure, and from the usual one of its kind (our choice)."""

DIODE_V = (0.4, 0.8)
"""What a meter's diode test shows forwards, V (common practice)."""

TERMINATED = {
    1: "about 120 Ω: one terminator is there, the other is missing",
    2: "about 60 Ω: both terminators are there",
    3: "about 40 Ω: one terminator too many",
}
"""By how many of 120 ohms lie across a line (ISO 11898-2: two, one at each end)."""

TERMINATOR_OHM = 120.0
T0_K, T20_K = 273.15, 293.15


class PartTest(NamedTuple):
    """What is measured on a part. between: its terminals; expect: in words, least and most: in
    ohms, None for what is no number.
    """

    device: str
    name: str
    between: str
    what: str
    expect: str
    least_ohm: float | None = None
    most_ohm: float | None = None


def part_tests(job: Job) -> tuple[PartTest, ...]:
    """Return what each part of a job should show by itself, at the bench's temperature."""
    return tuple(test for device in job.devices for test in _of(job, device))


def _of(job: Job, device: Device) -> Iterator[PartTest]:
    nominal, terminals = job.settings.system_v, device.terminals
    pair = " and ".join(terminals[:2] if len(terminals) > 1 else (*terminals, "its body"))
    match type_of(device).acts_as:
        case "relay":
            yield _ohms(device, "85 and 86", "its coil", value(device, "coil ohm", nominal),
                        "coil ohm")  # fmt: skip
            yield PartTest(
                device.code, device.name, "30 and 87", "its contact",
                "open; under 0.1 Ω while the coil has its voltage", None, 0.1,
            )  # fmt: skip
            if "87a" in terminals:
                yield PartTest(device.code, device.name, "30 and 87a", "its contact at rest",
                               "under 0.1 Ω; open while the coil has its voltage")  # fmt: skip
        case "thermistor":
            warm = job.settings.bench_c
            usual, beta = value(device, "ohm", nominal), value(device, "beta K", nominal)
            ohm = usual * math.exp(beta * (1 / (T0_K + warm) - 1 / T20_K))
            yield _ohms(device, pair, f"at {warm:g} °C, falling as it warms", ohm, "ohm")
        case "diode":
            low, high = DIODE_V
            yield PartTest(device.code, device.name, f"{terminals[0]} (red) and {terminals[1]}",
                           "diode test, both ways",
                           f"{low} to {high} V one way, open the other")  # fmt: skip
        case "contacts":
            for position in device.positions:
                joined = ", ".join(f"{a} and {b}" for a, b in position.joins) or "nothing"
                yield PartTest(device.code, device.name, joined, f"position {position.name}",
                               "under 0.1 Ω there, open between all others", None, 0.1)  # fmt: skip
        case _ if device.kind in ("injector", "coil", "resistor", "pickup"):
            yield _ohms(device, pair, "its winding" if device.kind != "resistor" else "itself",
                        value(device, "ohm", nominal), "ohm")  # fmt: skip
        case "sensor" if len(terminals) > 2:
            yield _ohms(device, f"{terminals[0]} and {terminals[-1]}", "its track",
                        value(device, "ohm", nominal), "ohm")  # fmt: skip
        case _ if device.kind == "network node":
            ohm = value(device, "ohm", nominal)
            if ohm < 2 * TERMINATOR_OHM:
                yield _ohms(device, pair, "its terminator", ohm, "ohm")
        case _:
            pass


def _ohms(device: Device, between: str, what: str, ohm: float, figure: str) -> PartTest:
    own = any(name == figure for name, _ in device.values)
    share = OWN_SHARE if own else USUAL_SHARE
    least, most = ohm * (1 - share), ohm * (1 + share)
    usual = "" if own else ", as is usual"
    return PartTest(device.code, device.name, between, what,
                    f"{figures(least)} to {figures(most)} Ω{usual}", least, most)  # fmt: skip


def line_words(ohm: float) -> str:
    """Return what ohms across a two-wire line of a network mean, all plugged in, power off."""
    if ohm > 1.5 * TERMINATOR_OHM:
        return "no terminator: what was thrown away as a cap may have been one"
    for count, words in TERMINATED.items():
        if abs(ohm - TERMINATOR_OHM / count) < 0.15 * TERMINATOR_OHM / count:
            return words
    return "less than three terminators make: the two wires touch, or a node is broken"
