"""What pinouts call things in short forms and in other languages (common practice in workshop
manuals, from memory; no source).

Each entry of the files beside this one: what it is called here, then what it is called there,
commas between; lines that are set in go on with it. "=" before a phrase: only where it is all there
is. A stem that German joins with others into one word stands like any other word: what is joined is
taken apart again.
"""

from collections.abc import Iterator
from functools import cache
from importlib.resources import files

TONGUES = ("english", "german", "french", "spanish", "italian")
"""Of two that have one word the first counts."""


@cache
def entries(tongue: str) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Return what things are called here, each with what they are called in a tongue."""
    text = (files(__package__) / f"{tongue}.txt").read_text(encoding="utf-8")
    return tuple(_entries(text))


def _entries(text: str) -> Iterator[tuple[str, tuple[str, ...]]]:
    for line in text.replace("\n  ", " ").splitlines():
        if line and not line.startswith("#"):
            ours, _, others = line.partition(": ")
            yield ours, tuple(other.strip() for other in others.split(","))


_PARTICLES = """
the of der die das den dem des fur von zum zur und am im uber de du des la le les et pour au aux del
el los las y para por di della dell delle dei il gli
"""

PARTICLES = frozenset(_PARTICLES.split())
"""Little words that are passed over."""

_TOGETHER = """
fuel pump relay: fuel pump relay
intake air temperature: air temperature, unless ambient outside exhaust cabin interior outlet
coolant temperature: coolant temperature
coolant temperature: engine temperature, unless oil
check lamp: engine lamp, unless oil coolant temperature compartment bay boot
brake switch: brake switch, unless parking hand fluid level pressure vacuum
clutch switch: clutch switch
fan relay: fan relay
manifold pressure: manifold pressure
manifold pressure: inlet pressure, unless oil fuel
boost control: manifold pressure valve
boost control: boost valve
throttle position: throttle position
throttle motor: throttle motor
pedal position: pedal position, unless brake clutch
oil pressure switch: oil pressure switch
crank: engine speed sensor
tachometer: engine speed
road speed: vehicle speed
sensor earth: sensor earth
earth: engine earth, unless sensor
relay supply: main relay supply
network high: can high
network low: can low
starter relay: start relay
"""


def _together(line: str) -> tuple[frozenset[str], str, frozenset[str]]:
    ours, _, needed = line.partition(": ")
    needed, _, unless = needed.partition(", unless ")
    return frozenset(needed.split()), ours, frozenset(unless.split())


TOGETHER = tuple(_together(line) for line in _TOGETHER.strip().splitlines())
"""Words that are one thing wherever they stand, what it is called, and beside what it is not."""
