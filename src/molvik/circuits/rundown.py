"""What the isolator does to an engine that runs: what stops it, and what the run-down resistor
takes of the alternator's last energy.
"""

import math
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint, needed
from molvik.devices import value
from molvik.devices.kinds.alternator import alternators
from molvik.devices.states import ISOLATED, RUNNING
from molvik.electrical.elements import SolveError
from molvik.model.parts import Device
from molvik.netlist.network import Network
from molvik.reference.rundown import (
    COAST_S,
    DUMP_S,
    DUMPS,
    JOULE_K_W,
    RATED_W,
    Dump,
    inner_ohm,
)
from molvik.wording import some

TAKES_A = 0.5
"""A resistor that takes an alternator's last energy carries at least this, A (our choice)."""


class RunDown(NamedTuple):
    """What a resistor takes. peak_v, peak_a, peak_w: of the pulse, where nothing else holds it
    down; clamped_v: where the alternator's own diodes do. pulse_j: of the pulse; held_w: while the
    engine still turns and the alternator holds its voltage, and held_j in all; kelvins: how much
    warmer both make it, taken for a usual one.
    """

    code: str
    name: str
    ohm: float
    peak_v: float
    peak_a: float
    peak_w: float
    clamped_v: float
    pulse_j: float
    held_w: float
    held_j: float
    kelvins: float

    @property
    def says(self) -> str:
        """In words."""
        return (
            f"{self.name} ({self.code}, {self.ohm:g} Ω) takes {self.pulse_j:.0f} J of the pulse, "
            f"at most {self.peak_v:.0f} V, {self.peak_a:.0f} A and {self.peak_w:.0f} W "
            f"({self.clamped_v:.0f} V where the alternator's own diodes hold it), then "
            f"{self.held_w:.0f} W for some {COAST_S:g} s: a wire-wound one of {RATED_W:g} W gets "
            f"{self.kelvins:.0f} K warmer"
        )


class Stop(NamedTuple):
    """What comes of the isolator while the engine runs. known: the job has something that the
    engine needs; stops: that loses its feed; by: what does, by name; run_down: None where no
    resistor takes the alternator's last energy.
    """

    isolator: str
    name: str
    known: bool
    stops: bool
    by: tuple[str, ...]
    run_down: RunDown | None

    @property
    def says(self) -> tuple[str, ...]:
        """In words, a line for each thing."""
        if not self.known:
            said = (
                f"Nothing in the job is known to be needed by the engine: whether {self.name} "
                "stops it is not known"
            )
        elif self.stops:
            said = f"{self.name} stops the engine: {some(list(self.by), 4)} lose their feed at once"
        else:
            said = f"{self.name} does not stop the engine: the alternator feeds it on"
        pump = (
            "Cut the ignition or the engine computer, not the pump alone: on what is left in the "
            "rail or the float bowl it runs on for a while"
        )
        return (said, pump, *([self.run_down.says] if self.run_down is not None else []))


def dump_j(peak_v: float, ohm: float, seconds: float) -> float:
    """Return the energy of a pulse in a resistor, J: from a peak it falls by e-functions, to a
    tenth in so many seconds. Closed form: the integral of v squared over R.
    """
    return peak_v**2 / ohm * seconds / math.log(10) / 2


def run_down(network: Network, device: Device, held_v: float) -> RunDown:
    """Return what a resistor takes of the alternator of a job. held_v: across it while the
    alternator goes on, V. Raises ValueError where the job has no alternator.
    """
    makers = alternators(network.job.devices)
    if not makers:
        raise ValueError("There is no alternator in the job.")
    maker, kind = makers[0]
    nominal = network.job.settings.system_v
    ohm = value(device, "ohm", nominal)
    dump = _dump(nominal)
    peak_v = dump.most_v * ohm / (ohm + inner_ohm(kind.rating_a(maker, nominal), dump))
    pulse, held_w = dump_j(peak_v, ohm, DUMP_S), held_v**2 / ohm
    held = held_w * COAST_S
    return RunDown(
        device.code,
        device.name,
        ohm,
        peak_v,
        peak_v / ohm,
        peak_v**2 / ohm,
        dump.clamped_v,
        pulse,
        held_w,
        held,
        (pulse + held) / (RATED_W * JOULE_K_W),
    )


def _dump(nominal_v: float) -> Dump:
    """Return the pulse for a voltage: of 12 or 24 V, of others in proportion."""
    if nominal_v in DUMPS:
        return DUMPS[int(nominal_v)]
    share = nominal_v / 12
    return Dump(*(share * volts for volts in DUMPS[12]))


def stop(network: Network) -> Stop | None:
    """Return what comes of the isolator, None where the job has none or cannot be solved."""
    job = network.job
    isolator = next((one for one in job.devices if one.kind == "isolator"), None)
    if isolator is None:
        return None
    try:
        running, after = OperatingPoint(network, RUNNING), OperatingPoint(network, ISOLATED)
    except SolveError:
        return None
    by = tuple(one.name for one in after.lost if one not in running.lost)
    takes = next(
        (
            one
            for one in job.devices
            if one.kind == "resistor"
            and one.code in after.load
            and after.load[one.code].amps > TAKES_A
            and running.load[one.code].amps <= TAKES_A
        ),
        None,
    )
    found = None
    if takes is not None and alternators(job.devices):
        found = run_down(network, takes, abs(after.load[takes.code].volts))
    return Stop(isolator.code, isolator.name, bool(needed(job)), bool(by), by, found)
