"""Rules about gauges: what they show with what moves them."""

from collections.abc import Iterator

from molvik.analysis import Analysis
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
