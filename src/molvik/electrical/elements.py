"""What an electrical network is made of."""

import math
from typing import NamedTuple

THERMAL_V = 0.02586492
"""k T / q at 27 deg C, V (CODATA 2018; the temperature that simulators take)."""

BENT_A = 1e4
"""A diode's curve goes on straight from this current on, A: no vehicle's battery gives it."""

Node = str


class Resistor(NamedTuple):
    """A resistance, ohms."""

    name: str
    a: Node
    b: Node
    ohm: float


class Source(NamedTuple):
    """A voltage, V, behind a resistance, ohms."""

    name: str
    plus: Node
    minus: Node
    volts: float
    ohm: float


class Current(NamedTuple):
    """A current, A, pushed out of its plus, whatever the voltage."""

    name: str
    plus: Node
    minus: Node
    amps: float


class Diode(NamedTuple):
    """I = saturation_a (exp(V / (emission x 25.865 mV)) - 1)."""

    name: str
    anode: Node
    cathode: Node
    saturation_a: float = 1e-9
    emission: float = 1.8


Element = Resistor | Source | Current | Diode


class SolveError(ValueError):
    """A network that cannot be solved as a whole."""


def can_be(diode: Diode) -> bool:
    """Return whether a diode has figures that one can have."""
    return 1e-60 < diode.saturation_a < 1 and 1e-2 < diode.emission < 100


def diode_line(diode: Diode, volts: float) -> tuple[float, float]:
    """Return the current of a diode at a voltage, A, and how steep it is there, S; straight on
    beyond what a float can hold.
    """
    scale = diode.emission * THERMAL_V
    bent = min(volts, scale * math.log(BENT_A / diode.saturation_a))
    grown = diode.saturation_a * math.exp(max(bent, -40 * scale) / scale)
    # A trace of conductance keeps a blocked diode an equation.
    slope = grown / scale + 1e-12
    return grown - diode.saturation_a + 1e-12 * volts + (volts - bent) * grown / scale, slope
