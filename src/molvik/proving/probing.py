"""Two probes and a meter's function at the bench: which reading that is, and how it is shown."""

from typing import Literal, NamedTuple

from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.parsing.quantities import ohm_text
from molvik.proving.points import Point, Shown

Function = Literal["V", "Ω", "tone", "diode", "A", "lamp"]
FUNCTIONS: tuple[Function, ...] = ("V", "Ω", "tone", "diode", "A", "lamp")

DEVICE_KEYS = ("off", "accessory", "run", "crank", "running")
"""What the key and the engine are turned to at the bench, by the names of the states."""


class Probing(NamedTuple):
    """How the meter stands. key: a state by its name; unplugged: battery off, all plugs, fuses and
    relays out; pulled: what is pulled or unplugged by itself.
    """

    function: Function
    red: End
    black: End
    key: str
    unplugged: bool = False
    pulled: frozenset[str] = frozenset()

    @property
    def in_place_of_fuse(self) -> bool:
        """Whether the probes are in the clips of one fuse that is pulled."""
        same = self.red.at == self.black.at and self.red.at in self.pulled
        return same and {self.red.cavity, self.black.cavity} == {"in", "out"}


class ProbeReading(NamedTuple):
    """Which reading it is. point: None where nothing can be read; shown: then what is shown."""

    point: Point | None
    words: str
    shown: str = ""


def reading_point(network: Network, probing: Probing) -> ProbeReading:
    """Return which reading it is that the meter shows as it stands. Raises ValueError where both
    probes are at one place, or red is nowhere, or where there is no such place.
    """
    function, red, black = probing.function, probing.red, probing.black
    for end in (red, black):
        if end.at and end.at not in network.parts:
            raise ValueError(f"{end.at} is not in the job any more: move that probe.")
    if not red.at:
        raise ValueError("Put the red probe somewhere first.")
    if red == black:
        raise ValueError(f"Both probes are at {red}.")
    other = str(black) if black.at else f"the battery's {network.job.settings.earthed}"
    said = {"lamp": "Test lamp", "tone": "Tone", "diode": "Diode test"}.get(function, function)
    out = tuple(sorted(probing.pulled))
    situation = "all unplugged" if probing.unplugged else probing.key
    without = f", {', '.join(out)} out" if out and not probing.unplugged else ""
    words = f"{said} at {red} against {other}, {situation}{without}"
    if function in ("Ω", "tone", "diode"):
        if not probing.unplugged:
            return ProbeReading(None, words, "- - -")
        if not black.at:
            raise ValueError("Put the black probe somewhere, too: the battery is off.")
        of = "resistance" if function == "Ω" else function
        return ProbeReading(Point.of(of, red, black), words)
    if probing.unplugged:
        return ProbeReading(None, words, {"lamp": "dark", "A": "0.00 A"}.get(function, "0.00 V"))
    if function == "A":
        if not probing.in_place_of_fuse:
            return ProbeReading(None, words, "its fuse blew")
        # The meter takes the place of the fuse: that one is in, for the current.
        rest = tuple(code for code in out if code != red.at)
        return ProbeReading(Point.of("current", red, black, probing.key, rest), words)
    what = "lamp" if function == "lamp" else "voltage"
    return ProbeReading(Point.of(what, red, black, probing.key, out), words)


def digits(function: Function, shown: Shown, leads_ohm: float = 0.0) -> str:
    """Return what stands on the meter. leads_ohm: of its leads, in every reading of ohms."""
    if isinstance(shown, str):
        return shown
    if function in ("V", "A"):
        return f"{round(shown or 0.0, 2) + 0.0:.2f} {function}"  # never -0.00
    return "OL" if shown is None else ohm_text(shown + leads_ohm)
