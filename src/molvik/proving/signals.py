"""Signals without the vehicle: contacts bridged, resistors for senders, pulses for pickups.

What each should bring about is solved; which resistors and how many pulses is common practice, from
memory.
"""

from collections.abc import Iterator

from molvik.devices import kind_of
from molvik.devices.kinds.sensing import Thermistor
from molvik.devices.states import RUN, choices_of
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.parsing.functions.telling import telling
from molvik.proving.powerstep import PowerStep, Solved
from molvik.wording import figures, some

COLD_C, HOT_C = 20.0, 90.0

TEETH = 58
"""Of a crank wheel of 60 with two left out: so many pulses a turn."""

PULSES_A_KM = 4000
"""Of a road speed sensor: some thousands, by its maker."""


def signal_steps(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """Yield the steps for what the bench lacks: switches, senders, pickups."""
    for device in job.devices:
        kind = kind_of(device)
        if choices_of(device):
            yield from _bridged(job, device, solved)
        elif isinstance(kind, Thermistor):
            yield _sender(job, device, kind)
        elif kind.watched == "pickup" or (
            kind.watched == "wiper" and "road speed" in telling(device.name)[0]
        ):
            yield _pulses(device)


def _where(device: Device) -> str:
    return f"{device.plug} of {device.name}" if device.plug else device.name


def _bridged(job: Job, device: Device, solved: Solved) -> Iterator[PowerStep]:
    """A switch bridged at its plug, where that makes anything work, or puts it out."""
    choices = choices_of(device)
    if len(choices) < 2:
        return
    before = {load.device: load for load in solved(RUN).loads}
    still = dict(RUN.switches)
    for chosen in choices[1:]:
        state = RUN._replace(switches=tuple(sorted({**still, device.code: chosen}.items())))
        now = solved(state).loads
        on = [
            load.name
            for load in now
            if load.state == "alive" and before[load.device].state != "alive"
        ]
        out = [
            load.name
            for load in now
            if load.state != "alive" and before[load.device].state == "alive"
        ]
        if not on and not out:
            continue
        pairs = ", ".join(" to ".join(pair) for pair in _joined(device, chosen))
        do = f"Bridge {pairs} at {_where(device)}" if pairs else f"Unplug {_where(device)}"
        said = "; ".join(
            filter(
                None,
                (
                    f"on: {some(on, 6, '; ')}" if on else "",
                    f"off: {some(out, 6, '; ')}" if out else "",
                ),
            )
        )
        yield PowerStep(
            f"bridge {device.code} {chosen}",
            device.code,
            f"{do}: “{chosen}”, key in run",
            "What the vehicle switches is tried before it is there.",
            "A bridge with a fuse in it; all fuses and computers in, every other switch off; "
            "everyone clear of what may start.",
            f"{said}.",
            "Its feed first, then what it feeds: Circuits shows the path.",
        )


def _joined(device: Device, chosen: str) -> tuple[tuple[str, str], ...]:
    for position in device.positions:
        if position.name == chosen:
            return position.joins
    return device.joins


def _sender(job: Job, device: Device, kind: Thermistor) -> PowerStep:
    volts = job.settings.system_v
    cold, hot = (kind.ohm_at(device, warm, volts) for warm in (COLD_C, HOT_C))
    names = device.terminals
    ends = " and ".join(names[:2]) if len(names) > 1 else f"{names[0]} and metal" if names else "?"
    return PowerStep(
        f"sender {device.code}",
        device.code,
        f"In place of {device.name}, between {ends}: a resistor of {figures(cold)} Ω, then "
        f"of {figures(hot)} Ω",
        "Gauges and computers are tried with values that are known.",
        f"{_where(device)} unplugged.",
        f"It is taken for {COLD_C:.0f} °C, then for {HOT_C:.0f} °C; with nothing there as cold as "
        "can be.",
        "Its signal, then its return: measure both against the battery.",
    )


def _pulses(device: Device) -> PowerStep:
    if "road speed" in telling(device.name)[0]:
        hertz, said = PULSES_A_KM * 50 / 3600, f"50 km/h with {PULSES_A_KM} pulses a km"
    else:
        hertz, said = TEETH * 600 / 60, f"600 turns a minute with {TEETH} teeth"
    return PowerStep(
        f"pulses {device.code}",
        device.code,
        f"In place of {device.name}: a pulse generator, {hertz:.0f} Hz, a volt or two",
        "Signal wires, polarity and screen are tried before the engine turns.",
        f"{_where(device)} unplugged; injectors and coils unplugged.",
        f"{said} is shown.",
        "Nothing shown: its two wires swapped, or open. Ragged: its screen.",
    )
