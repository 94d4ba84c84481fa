"""Rules about gauges: what they show with what moves them."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.gauges.inputs import inputs
from molvik.circuits.gauges.lamps import lamps
from molvik.circuits.gauges.matching import matches
from molvik.devices.states import RUN, RUNNING
from molvik.findings.finding import Figure, Finding
from molvik.findings.solving import point_in


def shows_something_else(analysis: Analysis) -> Iterator[Finding]:
    """A gauge is off with the sender or the pulses it gets."""
    for one in matches(analysis.network):
        if one.verdict == "lost":
            yield Finding(
                "gauge-lost",
                "note",
                one.gauge,
                f"{one.name} shows nothing: nothing is on the wire of its signal.",
                "Whoever drives it takes a gauge that stands at zero for one that works.",
                one.does,
            )
        elif one.verdict == "wrong":
            yield Finding(
                "gauge-off",
                "look",
                one.gauge,
                f"{one.name} does not show the truth: {one.says[0].lower()}{one.says[1:]}",
                "A gauge and its sender belong together: other ohms, or other pulses, are another "
                "reading on the same scale.",
                one.does,
                (Figure("off by", abs(one.worst)),),
            )


def lamp_says_something_else(analysis: Analysis) -> Iterator[Finding]:
    """A warning lamp is dark with the key in run, or lit while the engine runs."""
    key_on, running = point_in(analysis, RUN), point_in(analysis, RUNNING)
    fails = set(running.blown) | set(key_on.blown)
    for one in lamps(analysis.network, key_on, running):
        if one.charges is False:
            continue  # which no-charge says
        if one.verdict == "wrong" and not fails:
            yield Finding(
                "lamp-wrong",
                "look",
                one.lamp,
                f"{one.name} is {one.key_on} in run, {one.running} while the engine runs.",
                f"A warning lamp proves itself with the key in run and goes out when all is well. "
                f"{one.wire}",
                one.does,
            )


def sensor_with_two_supplies(analysis: Analysis) -> Iterator[Finding]:
    """A sensor of a computer has a gauge on its wire, which feeds it too."""
    for one in inputs(analysis.network):
        if one.beside:
            yield Finding(
                "sensor-shared",
                "look",
                one.sensor,
                f"{one.name} serves {one.computer} and {', '.join(one.beside)} at once.",
                "The computer feeds it with 5 V through its own resistor, the gauge with the "
                "battery's voltage through another: both read wrong, and the computer's input may "
                "get more than it stands.",
                "Give the gauge a sender of its own, or let it be told by the computer.",
            )
        elif one.lost is not None and one.lost[0] <= one.at <= one.lost[1]:
            guess = "" if one.pull_is_typed else " Nobody typed its pull-up: that is a guess."
            yield Finding(
                "sensor-out-of-range",
                "note" if guess else "look",
                one.sensor,
                f"{one.name} is taken for broken at {one.at:g} °C: {one.says}.",
                "A computer that takes its sensor for broken goes by a guess and sets a "
                f"code.{guess}",
                "Take the sensor that belongs to the computer, or tell it the curve of this one.",
                (Figure("pull-up, ohm", one.pull_ohm),),
            )
