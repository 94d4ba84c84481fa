"""Where something is measured, in which situation, and how that is said."""

from molvik.devices.states import Fault
from molvik.model.parts import End

Shown = float | str | None
"""Ohms, volts, amps, or how a device or a test lamp stands; None for an open circuit, or a point
that floats."""

TEST_LAMP_W = 5.0
"""A test lamp of so many watts at the voltage of the vehicle (common practice)."""

LIT_SHARE, DIM_SHARE = 0.7, 0.25
"""From such shares of the voltage of the vehicle a test lamp is lit, and dim (our choice)."""


ON_BENCH = ("resistance", "tone", "diode")

SOUNDS_OHM, JOINED_OHM = 30.0, 2000.0
"""Below so many ohms a meter sounds, and shows something in a diode test (common practice: 20 to
50; 2 V at 1 mA)."""

WHOLE, BLOWN = "whole", "blown"
"""How a fuse looks."""


class Point(tuple[str, End, End, str, tuple[str, ...]]):
    """What is measured: on the bench, "resistance" between two ends, or whether a meter sounds
    there ("tone") or passes a diode test ("diode"); in a state, "voltage" between two, "current" in
    place of a fuse between its clips, how a test lamp between two is lit ("lamp"), how a "device"
    stands, whether a "fuse" is whole, or whether a computer sets a "code".
    """

    __slots__ = ()

    @classmethod
    def of(
        cls, what: str, red: End, black: End, state: str = "", out: tuple[str, ...] = ()
    ) -> "Point":
        """Return a point; the same whichever probe is where, where that is no matter."""
        either = what in (*ON_BENCH, "current", "lamp") and black.at
        if either and (str(black), str(red)) < (str(red), str(black)):
            red, black = black, red
        return cls((what, red, black, state, tuple(sorted(out))))

    @property
    def what(self) -> str:
        """resistance, tone, diode, voltage, current, lamp, device, fuse or code."""
        return self[0]

    @property
    def is_on_bench(self) -> bool:
        """Whether it is measured with the loom unplugged."""
        return self[0] in ON_BENCH

    @property
    def red(self) -> End:
        """Where the red probe is; of a device, the device; of a code, the computer with it."""
        return self[1]

    @property
    def black(self) -> End:
        """Where the black one is."""
        return self[2]

    @property
    def state(self) -> str:
        """Of the job, by its name; empty on the bench."""
        return self[3]

    @property
    def out(self) -> tuple[str, ...]:
        """The codes of what is pulled or unplugged meanwhile."""
        return self[4]

    @property
    def pulled(self) -> tuple[Fault, ...]:
        """What is pulled or unplugged, as the network is solved with it."""
        return tuple(Fault("open", code) for code in self.out)


UNITS = {"resistance": "Ω", "voltage": "V", "current": "A"}


def in_words(point: Point, shown: Shown) -> str:
    """Return what a meter shows, in words."""
    if shown is None:
        return "open" if point.what == "resistance" else "nothing"
    if isinstance(shown, str):
        return shown
    return f"{round(shown, 2) + 0.0:.2f} {UNITS[point.what]}"


def where_words(point: Point, earthed: str = "minus", name: str = "") -> str:
    """Say what is measured, and where. earthed: the battery's pole that is at metal; name: what a
    device that is looked at is called.
    """
    said = _where(point, earthed, name)
    return f"{said}, {', '.join(point.out)} out" if point.out else said


def _where(point: Point, earthed: str, name: str) -> str:
    match point.what:
        case "resistance":
            return f"ohms from {point.red} to {point.black}, power off"
        case "tone":
            return f"whether it sounds from {point.red} to {point.black}, power off"
        case "diode":
            return f"diode test from {point.red} to {point.black}, power off"
        case "fuse":
            return f"look at fuse {point.red.at}"
        case "device":
            called = f"{name} ({point.red.at})" if name else point.red.at
            return f"look at {called} in {point.state}: alive, weak or dead"
        case "code":
            return f"whether {point.red.at} sets {point.red.cavity}"
        case "current":
            return f"amps in place of {point.red.at}, in {point.state}"
    other = str(point.black) if point.black.at else f"the battery's {earthed}"
    if point.what == "lamp":
        return f"test lamp from {point.red} to {other}, in {point.state}"
    if not point.black.at and earthed == "plus":
        other += ", red lead there"
    return f"volts at {point.red} against {other}, in {point.state}"
