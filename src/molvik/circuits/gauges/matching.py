"""Each gauge of a job with the sender or the pulses it gets: whether it shows the truth."""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.circuits.gauges.curves import Curve, by_law
from molvik.circuits.gauges.resistors import Mended, best_resistor, errors, off_scale
from molvik.devices import kind_of, value
from molvik.devices.kinds.sensing import Thermistor
from molvik.model.curve import Points
from molvik.model.parts import Device, End
from molvik.netlist.network import Network

FINE_SHARE = 0.05
"""A gauge that is off by no more than this share of its range shows the truth (our choice)."""

MENDED_SHARE = 0.1
"""Resistors that leave a gauge off by no more than this share of its range mend it (our choice)."""

PULSES = ("pulses a turn", "pulses a km")
SPAN_C = tuple(float(celsius) for celsius in range(-40, 151, 5))
"""Of a thermistor that is known by its law, at these temperatures, deg C."""

Verdict = Literal["right", "wrong", "not known", "lost"]


class Match(NamedTuple):
    """A gauge with what it gets. source: the code of that, empty for nothing; low, high: the range
    that is judged; errors: what it shows less what is, over that, None at an end of its scale;
    worst: the largest; mended: the best resistors, and after: the errors with them; ratio: of
    pulses, what it shows of what is, 0 where it gets none; says: in words; does: what to do.
    """

    gauge: str
    name: str
    source: str
    verdict: Verdict
    says: str
    does: str
    low: float = 0.0
    high: float = 0.0
    errors: tuple[tuple[float, float | None], ...] = ()
    worst: float = 0.0
    mended: Mended | None = None
    after: tuple[tuple[float, float | None], ...] = ()
    ratio: float = 0.0


def matches(network: Network) -> tuple[Match, ...]:
    """Return every gauge with what it gets."""
    return tuple(_matches(network))


def _matches(network: Network) -> Iterator[Match]:
    for device in network.job.devices:
        if device.kind == "gauge" and len(device.terminals) > 2:
            yield _match(network, device)


def _sources(network: Network, gauge: Device) -> list[Device]:
    """Return what else is on the wire of a gauge's signal, and what is behind a plug there."""
    net = network.net_of.get(End(gauge.code, gauge.terminals[1]))
    if net is None:
        return []
    codes = {end.at for end, number in network.net_of.items() if number == net}
    return [
        device
        for device in network.job.devices
        if device.code != gauge.code and ({device.code, device.plug} - {""}) & codes
    ]


def _match(network: Network, gauge: Device) -> Match:
    found = _sources(network, gauge)
    if not found:
        return Match(
            gauge.code,
            gauge.name,
            "",
            "lost",
            "Nothing is on the wire of its signal.",
            "Wire its sender, or accept that it shows nothing.",
        )
    wants = [name for name in PULSES if name in dict(gauge.values)]
    if wants:
        return _pulses(gauge, found, wants[0])
    source = next((one for one in found if curve_of(one) is not None), found[0])
    try:
        return _sender(network, gauge, source)
    except ValueError as error:
        said = f"{source.name} ({source.code}): {error}"
        return Match(gauge.code, gauge.name, source.code, "not known", said, "Mend the curve.")


def curve_of(device: Device) -> Points | None:
    """Return the points of a sender or gauge: as typed, of a thermistor else by its law, where its
    ohms were typed; None where nothing is known.
    """
    if device.curve:
        return device.curve
    if isinstance(kind_of(device), Thermistor) and "ohm" in dict(device.values):
        return by_law(value(device, "ohm"), value(device, "beta K"), SPAN_C)
    return None


def _sender(network: Network, gauge: Device, source: Device) -> Match:
    own, wants = curve_of(source), curve_of(gauge)
    if own is None or wants is None:
        known = ((source, own), (gauge, wants))
        which = [f"{one.name} ({one.code})" for one, points in known if points is None]
        return Match(
            gauge.code,
            gauge.name,
            source.code,
            "not known",
            f"Nothing is known of {' and '.join(which)}.",
            "Type its curve: a value and its ohms, 40 580, 90 110; two points measured in warm "
            "water will do.",
        )
    logs = isinstance(kind_of(source), Thermistor)
    sender, scale = Curve(own, logs=logs), Curve(wants, logs=logs)
    low, high = max(sender.ends[0], scale.ends[0]), min(sender.ends[1], scale.ends[1])
    if low >= high:
        raise ValueError(
            f"it is known from {sender.ends[0]:g} to {sender.ends[1]:g}, its gauge from "
            f"{scale.ends[0]:g} to {scale.ends[1]:g}: they have no value in common."
        )
    span = scale.ends[1] - scale.ends[0]
    off = tuple(errors(sender, scale, low, high))
    worst = max((off_scale(sender, scale, at) for at, _ in off), key=abs)
    at = next(at for at, _ in off if off_scale(sender, scale, at) == worst)
    if abs(worst) <= FINE_SHARE * span:
        says = f"It shows the truth within {abs(worst):.2g} from {low:g} to {high:g}."
        return Match(gauge.code, gauge.name, source.code, "right", says, "", low, high, off, worst)
    mended = best_resistor(sender, scale, low, high, network.job.settings.system_v)
    after = tuple(errors(sender, scale, low, high, mended))
    way = "much" if worst > 0 else "little"
    says = f"At {at:.3g} it shows {at + worst:.3g}, {abs(worst):.2g} too {way}."
    better = mended.worst <= MENDED_SHARE * span
    does = (
        f"{mended.words}: then it is off by {mended.worst:.2g} at most."
        if better
        else "No resistor mends it: take the sender that belongs to the gauge, or a converter."
    )
    return Match(
        gauge.code,
        gauge.name,
        source.code,
        "wrong",
        says,
        does,
        low,
        high,
        off,
        worst,
        mended if better else None,
        after if better else (),
    )


def _pulses(gauge: Device, found: list[Device], name: str) -> Match:
    wants = dict(gauge.values)[name]
    source = next((one for one in found if name in dict(one.values)), None)
    if source is None:
        one = found[0]
        return Match(
            gauge.code,
            gauge.name,
            one.code,
            "not known",
            f"It wants {wants:g} {name}; what {one.name} ({one.code}) gives is not known.",
            f"Type it among its figures: {name.replace(' ', '_')}=2.",
        )
    gives = dict(source.values)[name]
    ratio = gives / wants
    if abs(ratio - 1) <= 0.01:
        says = f"It gets the {gives:g} {name} that it wants."
        return Match(gauge.code, gauge.name, source.code, "right", says, "", ratio=ratio)
    return Match(
        gauge.code,
        gauge.name,
        source.code,
        "wrong",
        f"It gets {gives:g} {name} and wants {wants:g}: it shows {ratio:.0%} of what is.",
        f"A converter set to {wants / gives:.3g} times, or the gauge's own switch for "
        f"{gives:g} {name}.",
        ratio=ratio,
        worst=ratio - 1,
    )


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


def pulses_a_km(teeth: float, final_drive: float, tyre_m: float) -> float:
    """Return the pulses a km of a wheel of teeth on the output of a gearbox. tyre_m: how far the
    tyre rolls in a turn, m. Raises ValueError for what is not above zero.
    """
    if min(teeth, final_drive, tyre_m) <= 0:
        raise ValueError("Teeth, final drive and tyre are above zero.")
    return teeth * final_drive * 1000 / tyre_m
