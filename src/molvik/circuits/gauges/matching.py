"""Each gauge of a job with the sender or the pulses it gets: whether it shows the truth."""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.circuits.gauges.curves import Curve, by_law, fit_beta, fit_steinhart_hart
from molvik.circuits.gauges.pulses import KM, SCALE, TURN, at_speeds, given, setting
from molvik.circuits.gauges.resistors import Mended, best_resistor, errors, off_scale
from molvik.devices import kind_of, value
from molvik.devices.kinds.sensing import Thermistor
from molvik.model.curve import Points
from molvik.model.parts import Device, End
from molvik.model.refs import end_text
from molvik.netlist.network import Network

FINE_SHARE = 0.05
"""A gauge that is off by no more than this share of its range shows the truth (our choice)."""

MENDED_SHARE = 0.1
"""Resistors that leave a gauge off by no more than this share of its range mend it (our choice)."""

SAME_RATIO = 0.01
"""Pulses that differ by less are the same (our choice)."""

PULL_UP = "Lay the block “Pull-up” at its signal, where the gauge has none inside."

LAW_OFF = 0.03
"""Points that are off a thermistor's law by no more are those of one (our choice)."""

SETTLED = 3.0
"""After so many of its own times a damped gauge has gone 95 % of the way."""
SPAN_C = tuple(float(celsius) for celsius in range(-40, 151, 5))
"""Of a thermistor that is known by its law, at these temperatures, deg C."""

Verdict = Literal["right", "wrong", "not known", "lost"]

Way = Literal["", "as it is", "resistor", "other sender", "converter", "pull-up", "lost"]
"""What becomes of a gauge."""


class Match(NamedTuple):
    """A gauge with what it gets. source: the code of that, empty for nothing; low, high: the range
    that is judged; errors: what it shows less what is, over that, None at an end of its scale;
    worst: the largest; mended: the best resistors, and after: the errors with them, or with a
    converter; ratio: of pulses, what it shows of what is, 0 where it gets none; says: in words;
    does: what to do; way: what becomes of it; law: what its sender's points are, in words.
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
    way: Way = ""
    law: str = ""


def matches(network: Network) -> tuple[Match, ...]:
    """Return every gauge with what it gets."""
    return tuple(_matches(network))


def _matches(network: Network) -> Iterator[Match]:
    for device in network.job.devices:
        if device.kind == "gauge":
            yield _and_more(network, device, _match(network, device))


def _and_more(network: Network, gauge: Device, made: Match) -> Match:
    """Add what the bus could tell, and what damping does."""
    on_bus = any(one.kind == "network node" for one in network.job.devices)
    if made.verdict in ("wrong", "lost") and on_bus and "from the bus" not in made.does:
        made = made._replace(does=f"{made.does} Or a driver that reads its value from the bus.")
    slow = dict(gauge.values).get("damping s")
    if slow:
        wait = f"It is damped by {slow:g} s: read it, and points for its curve, after "
        made = made._replace(says=f"{made.says} {wait}{SETTLED * slow:g} s.")
    return made


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
    if len(gauge.terminals) < 3:
        says = f"It has {len(gauge.terminals)} terminals: where its signal comes in is not known."
        does = "Give it its terminals, + S -, where it has a sender; one that shows volts has none."
        return Match(gauge.code, gauge.name, "", "not known", says, does)
    found = _sources(network, gauge)
    if not found:
        return Match(
            gauge.code,
            gauge.name,
            "",
            "lost",
            "Nothing is on the wire of its signal.",
            "Wire its sender, or accept that it shows nothing; its lamp and its code stay.",
            way="lost",
        )
    wants = [name for name in (TURN, KM) if name in dict(gauge.values)]
    if wants:
        return _pulses(network, gauge, found, wants[0])
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
        made = Match(gauge.code, gauge.name, source.code, "right", says, "", low, high, off, worst)
        return made._replace(way="as it is", law=_law(source))
    mended = best_resistor(sender, scale, low, high, network.job.settings.system_v)
    after = tuple(errors(sender, scale, low, high, mended))
    way = "much" if worst > 0 else "little"
    says = f"At {at:.3g} it shows {at + worst:.3g}, {abs(worst):.2g} too {way}."
    better = mended.worst <= MENDED_SHARE * span
    other = "" if better else _other_sender(network, gauge, source, scale)
    if better:
        does = f"{mended.words}: then it is off by {mended.worst:.2g} at most."
    elif other:
        does = f"No resistor mends it: {other}"
    else:
        does = (
            "No resistor mends it: take over the sender that belongs to the gauge, and note its "
            "thread and where it goes; or a converter."
        )
    made = Match(
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
    return made._replace(way="resistor" if better else "other sender", law=_law(source))


def _other_sender(network: Network, gauge: Device, source: Device, scale: Curve) -> str:
    """Return which other sender of the job fits a gauge, in words; empty for none."""
    span = scale.ends[1] - scale.ends[0]
    for device in network.job.devices:
        points = curve_of(device)
        if points is None or device.code == source.code or device.kind == "gauge":
            continue
        sender = Curve(points, logs=isinstance(kind_of(device), Thermistor))
        low, high = max(sender.ends[0], scale.ends[0]), min(sender.ends[1], scale.ends[1])
        if high - low < span / 2:
            continue
        worst = max(abs(off_scale(sender, scale, at)) for at, _ in errors(sender, scale, low, high))
        if worst <= FINE_SHARE * span:
            return (
                f"{device.name} ({device.code}) fits it within {worst:.2g}; note its thread and "
                "where it goes, for both engines may want it there."
            )
    return ""


def _law(source: Device) -> str:
    """Say which thermistor the typed points of a sender are, and which point is off most."""
    if not isinstance(kind_of(source), Thermistor) or len(source.curve) < 3:
        return ""
    law = fit_beta(source.curve)
    at, ohm = max(source.curve, key=lambda one: abs(law.ohm_at(one[0]) / one[1] - 1))
    if law.off <= LAW_OFF:
        said = f"Its points are those of a thermistor of {law.r25:.0f} Ω at 25 °C and "
        return f"{said}{law.beta_k:.0f} K, within {law.off:.1%}."
    three = fit_steinhart_hart(source.curve)
    if three.off_k <= 1.0:
        return f"Its points are those of a thermistor, within {three.off_k:.1f} K."
    return (
        f"Its points are no thermistor's: {ohm:g} Ω at {at:g} °C is {law.off:.0%} off the best of "
        "them. Measure that one again."
    )


def _pulses(network: Network, gauge: Device, found: list[Device], name: str) -> Match:
    wants, one = dict(gauge.values)[name], found[0]
    made = Match(gauge.code, gauge.name, one.code, "not known", "", "")
    try:
        known = ((device, given(device, name)) for device in found)
        sources = [(device, gives) for device, gives in known if gives is not None]
    except ValueError as error:
        return made._replace(says=f"{one.name} ({one.code}): {error}", does="Mend its figures.")
    if not sources:
        figures = "cylinders=4" if name == TURN else "teeth=8 final_drive=3.9 tyre_m=1.95"
        return made._replace(
            says=f"It wants {wants:g} {name}; what {one.name} ({one.code}) gives is not known.",
            does=f"Type it among its figures: {name.replace(' ', '_')}=2, or {figures}.",
        )
    source, (gives, how) = sources[0]
    follows = "" if how == f"{gives:g} {name}" else f" ({how})"
    ratio = gives / wants
    top = SCALE[name]
    errors = tuple((top * n / 8, (ratio - 1) * top * n / 8) for n in range(9))
    made = made._replace(source=source.code, ratio=ratio, high=top, errors=errors)
    pull = _pull_up(network, gauge, source)
    if abs(ratio - 1) <= SAME_RATIO:
        says = f"It gets the {gives:.5g} {name} that it wants, {at_speeds(gives, name)}"
        says += f"{follows}."
        if pull:
            made = made._replace(verdict="wrong", way="pull-up", does=PULL_UP)
            return made._replace(says=f"{says} {pull}")
        return made._replace(verdict="right", way="as it is", says=says)
    times = setting(wants, gives)
    after = tuple((at, (ratio * times - 1) * at) for at, _ in errors)
    return made._replace(
        verdict="wrong",
        way="converter",
        says=f"It gets {gives:.5g} {name}{follows} and wants {wants:g}: it shows {ratio:.0%} of "
        f"what is. It gets {at_speeds(gives, name)}.{' ' + pull if pull else ''}",
        does=f"A converter set to {times:g} times, or the gauge's own switch for {gives:.5g} "
        f"{name}.{' ' + PULL_UP if pull else ''}",
        worst=ratio - 1,
        after=after,
    )


def _pull_up(network: Network, gauge: Device, source: Device) -> str:
    """Say that pulses only pull low, and nothing pulls them up; empty where that is not so."""
    net = network.net_of.get(End(gauge.code, gauge.terminals[1]))
    ends = {str(end) for end, number in network.net_of.items() if number == net}
    lows = [
        one.terminal
        for one in source.outputs
        if one.acts == "pulls low"
        and {end_text(at, one.terminal) for at in (source.code, source.plug) if at} & ends
    ]
    others = [device for device in _sources(network, gauge) if device.code != source.code]
    if not lows or any(device.kind in ("resistor", "coil") for device in others):
        return ""
    return f"{source.name} only pulls {lows[0]} low: nothing makes it high again."
