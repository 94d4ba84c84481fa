"""Rules about gauges: what they show with what moves them."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.gauges.inputs import inputs
from molvik.circuits.gauges.matching import matches
from molvik.findings.finding import Figure, Finding


def shows_something_else(analysis: Analysis) -> Iterator[Finding]:
    """A gauge is off with the sender or the pulses it gets."""
    for one in matches(analysis.network):
        if one.verdict == "wrong":
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
            yield Finding(
                "sensor-out-of-range",
                "look",
                one.sensor,
                f"{one.name} is taken for broken at {one.at:g} °C: {one.says}.",
                "A computer that takes its sensor for broken goes by a guess and sets a code.",
                "Take the sensor that belongs to the computer, or tell it the curve of this one.",
                (Figure("pull-up, ohm", one.pull_ohm),),
            )
