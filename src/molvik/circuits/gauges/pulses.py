"""Pulses of a tachometer or a speedometer: how many a turn or a km a source gives, from cylinders,
coils, teeth, gears, final drive and tyre, and how many hertz that are.
"""

from typing import NamedTuple

from molvik.model.parts import Device

TURN, KM = "pulses a turn", "pulses a km"

AT = {TURN: (1000.0, 3000.0, 6000.0), KM: (30.0, 50.0, 100.0)}
"""At which speeds hertz are told: 1/min of the engine, km/h."""

UNITS = {TURN: "1/min", KM: "km/h"}

SCALE = {TURN: 7000.0, KM: 180.0}
"""How far a gauge is judged (our choice)."""

SPARKS = ("cylinders", "cylinders a coil", "strokes")
WHEELS = ("teeth", "gear", "final drive", "tyre m")
"""Figures that pulses follow from."""


class Given(NamedTuple):
    """What a source gives: pulses, and from which figures, in words."""

    pulses: float
    says: str


def given(device: Device, name: str) -> Given | None:
    """Return how many pulses a turn or a km a device gives, by what is typed of it; None where that
    says nothing. Raises ValueError for figures that cannot be.
    """
    own = dict(device.values)
    if name in own:
        return Given(own[name], f"{own[name]:g} {name}")
    if name == TURN and "cylinders" in own:
        each = own.get("cylinders a coil")
        strokes = own.get("strokes", 4.0)
        pulses = firing_a_turn(
            round(own["cylinders"]),
            strokes=round(strokes),
            a_coil=None if each is None else round(each),
        )
        coil = f", {each:g} a coil" if each is not None else " from one coil"
        return Given(pulses, f"{own['cylinders']:g} cylinders{coil}")
    if name == TURN and "teeth" in own:
        pulses = own["teeth"] * own.get("gear", 1.0)
        return Given(pulses, f"{own['teeth']:g} teeth")
    if name == KM and {"teeth", "tyre m"} <= own.keys():
        gear, final = own.get("gear", 1.0), own.get("final drive", 1.0)
        pulses = pulses_a_km(own["teeth"], gear * final, own["tyre m"])
        said = f"{own['teeth']:g} teeth, {gear * final:g} and a tyre of {own['tyre m']:g} m"
        return Given(pulses, f"{said}")
    return None


def at_speeds(pulses: float, name: str) -> str:
    """Return how many hertz some pulses are, in words."""
    found = [f"{hertz(pulses, speed, a_turn=name == TURN):.3g}" for speed in AT[name]]
    speeds = ", ".join(f"{speed:g}" for speed in AT[name])
    return f"{', '.join(found)} Hz at {speeds} {UNITS[name]}"


def setting(wants: float, gives: float) -> float:
    """Return what a converter is set to, times: as converters are, to three figures."""
    return float(f"{wants / gives:.3g}")


def hertz(pulses: float, speed: float, *, a_turn: bool) -> float:
    """Return how many pulses a second come at a speed, Hz: of pulses a turn at so many turns a
    minute, of pulses a km at so many km/h. Raises ValueError for less than nothing.
    """
    if pulses <= 0 or speed < 0:
        raise ValueError("Pulses are above zero, and a speed is zero or more.")
    return pulses * speed / 60 if a_turn else pulses * speed / 3600


def firing_a_turn(cylinders: int, *, strokes: int = 4, a_coil: int | None = None) -> float:
    """Return how many sparks a turn a tachometer gets from an ignition coil: of an engine of so
    many cylinders, all from one coil, or ``a_coil`` cylinders from each. A coil that fires two
    cylinders at once sparks each turn for both. Raises ValueError for what cannot be.
    """
    if not 1 <= cylinders <= 16 or strokes not in (2, 4):
        raise ValueError("An engine has 1 to 16 cylinders and two or four strokes.")
    served = cylinders if a_coil is None else a_coil
    if not 1 <= served <= cylinders:
        raise ValueError(f"A coil serves 1 to {cylinders} cylinders.")
    if a_coil == 2 and strokes == 4:
        return 1.0  # a wasted spark: both at once, each turn
    return served * 2 / strokes


def pulses_a_km(teeth: float, ratio: float, tyre_m: float) -> float:
    """Return the pulses a km of a wheel with teeth. ratio: how often it turns for each turn of the
    road wheel; tyre_m: how far the tyre rolls in a turn, m. Raises ValueError for what is not
    above zero.
    """
    if min(teeth, ratio, tyre_m) <= 0:
        raise ValueError("Teeth, final drive and tyre are above zero.")
    return teeth * ratio * 1000 / tyre_m
