"""Rules about what the battery and the alternator supply: how many volts, and which way round."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.devices import kind_of
from molvik.devices.states import RUN, RUNNING
from molvik.findings.finding import Figure, Finding
from molvik.findings.solving import point_in
from molvik.model.parts import Device
from molvik.wording import figures

OVER_SHARE, OVER_CHARGING = 1.2, 16 / 12
"""From these shares of the nominal voltage on it is too much: with the engine standing (our
choice), and while it charges (ISO 16750-2 has 16 V of a 12 V vehicle, from memory)."""

REFERENCE_MOST_V = 6.0
"""More than this spoils what is made for 5 V (our choice)."""

BURNS_SHARE = 1.5
"""From here on, of the nominal voltage, a load is spoilt rather than worn (our choice)."""


def over_voltage(analysis: Analysis) -> Iterator[Finding]:
    """A load that gets more volts than it is made for."""
    worst: dict[str, tuple[float, float, str]] = {}
    for state in (RUN, RUNNING):
        point = point_in(analysis, state)
        limit = (OVER_CHARGING if state.running else OVER_SHARE) * point.nominal
        for load in point.loads:
            device = analysis.network.parts[load.device]
            is_small = isinstance(device, Device) and kind_of(device).on_reference(device)
            most = REFERENCE_MOST_V if is_small else limit
            if abs(load.volts) > max(most * 1.0001, worst.get(load.device, (0.0,))[0]):
                made_for = 5.0 if is_small else point.nominal
                worst[load.device] = abs(load.volts), made_for, state.name
    for code, (volts, made_for, name) in worst.items():
        yield Finding(
            "over-voltage",
            "stop" if volts > BURNS_SHARE * made_for or made_for < point.nominal else "look",
            code,
            f"{getattr(analysis.network.parts[code], 'name', '') or code} gets {figures(volts)} V, "
            f"and is made for {made_for:g} V: {name}.",
            "Lamps last a tenth of their time, electronics do not last at all.",
            "Look for what feeds it: batteries in series, a regulator that sets too much, a supply "
            "where 5 V belong. Is the job's voltage right?",
            (Figure("its voltage", volts, "V"),),
        )


def batteries_in_series(analysis: Analysis) -> Iterator[Finding]:
    """Batteries in series share the system's voltage, where nobody said what each has."""
    batteries, volts = analysis.network.batteries, analysis.job.settings.system_v
    rows = {
        count: one
        for one in batteries.every
        if (count := batteries.in_series[one.code]) > 1 and "rest V" not in dict(one.values)
    }
    for count, battery in rows.items():
        yield Finding(
            "batteries-in-series",
            "note",
            battery.code,
            f"{count} batteries are in series: each is taken for one of {volts / count:g} V.",
            f"The job is of {volts:g} V.",
            "If they are others, change the job's voltage, or type what each has at rest.",
            (Figure("how many are in series", count),),
        )


def knows_its_poles(analysis: Analysis) -> Iterator[Finding]:
    """With plus at metal, what is made for minus there is spoilt."""
    if analysis.job.settings.earthed != "plus":
        return
    for device in analysis.job.devices:
        if device.kind in ("alternator", "controller", "dynamo", "LED", "regulator"):
            yield Finding(
                "made-for-minus",
                "look",
                device.code,
                f"Plus is at metal here: is {device.name} made for it?",
                "Nearly all with semiconductors in it is made for minus at metal, and is spoilt at "
                "once the other way round.",
                "Read it on the part, or ask its maker; else turn the vehicle's poles round.",
            )
