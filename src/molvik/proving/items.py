"""A test of one thing by itself, beside the loom's nets: what it should show, and what it showed.

Parts (``parts``) and joints (``joints``) are lists of such tests; one table types and judges both.
"""

import math
from collections.abc import Callable, Iterable
from itertools import takewhile
from typing import Literal, NamedTuple

from molvik.model.job import Quantity, Reading, ReadingOf, Settings
from molvik.model.parts import End
from molvik.parsing.quantities import ohm_text, read_force_n, read_ohm, read_volts
from molvik.proving.proofplan import STEADY_WHILE
from molvik.proving.taken import taken
from molvik.wording import figures

OPEN_OHM = 1e6
"""What is open shows at least this, ohms (common practice)."""


class ItemTest(NamedTuple):
    """What is measured on a thing.

    of: a part, a heavy wire under current, or a sample of a crimp. subject: code of the thing;
    between: the places in words, red and black: where the probes go; position: that it is in, or
    which sample it is; what: is measured; expect: in words. least, most: in the unit of quantity,
    most None where it is to be open. with_a: the current that flows meanwhile, A. means: says what
    a value means where more than passed or failed can be said.
    """

    of: ReadingOf
    subject: str
    name: str
    between: str
    red: End
    black: End
    what: str
    expect: str
    least: float | None = None
    most: float | None = None
    position: str = ""
    quantity: Quantity = "resistance"
    with_a: float = 0.0
    means: Callable[[float], str] | None = None

    @property
    def key(self) -> str:
        """A name that no other test has."""
        return f"{self.subject} {self.between} {self.what}"

    @property
    def place(self) -> tuple[str, ...]:
        """What its readings are known by. Of a crimp it matters what was crimped, not where."""
        ends = () if self.of == "pull" else (str(self.red), str(self.black))
        return (self.of, *ends, self.position)


ItemOutcome = Literal["passed", "failed", "comes and goes", "not measured"]

BAD: tuple[ItemOutcome, ...] = ("failed", "comes and goes")
"""Outcomes of what is not to be built in."""

Taken = dict[tuple[str, ...], list[Reading]]
"""The readings of each test since the thing was mended, by its place, the last one last."""


class ItemVerdict(NamedTuple):
    """What the readings of a test mean. by: the last of them, None without one."""

    outcome: ItemOutcome
    text: str
    by: Reading | None = None


def item_readings(readings: Iterable[Reading]) -> Taken:
    """Return what was read of each test. What was read before the thing was mended is left out."""
    found: Taken = {}
    for reading in readings:
        if reading.of in ("part", "drop", "pull"):
            ends = () if reading.of == "pull" else tuple(map(str, reading.points))
            found.setdefault((reading.of, *ends, reading.state), []).append(reading)
        elif reading.of == "mended":
            found = {place: some for place, some in found.items() if not _is_of(some[0], reading)}
    return found


def _is_of(reading: Reading, mended: Reading) -> bool:
    """Return whether a reading is of what was mended: a wire by its ends, else a part."""
    if reading.of == "pull":
        return False  # a sample stands for all crimps of its kind
    if mended.item:
        return set(reading.points) == set(mended.points)
    return any(point.at == mended.points[0].at for point in reading.points)


def item_reading(test: ItemTest, text: str, at: str, settings: Settings) -> Reading:
    """Return the reading of a test that was typed. Raises QuantityError."""
    value: float | None
    match test.quantity:
        case "voltage":
            value = read_volts(text, "mV" if test.of == "drop" else "V")
        case "force":
            value = read_force_n(text)
        case _:
            value = read_ohm(text)
    return taken(
        settings,
        at,
        test.quantity,
        value,
        (test.red, test.black),
        of=test.of,
        state=test.position,
        with_a=test.with_a,
        note=f"{test.name}, {test.what}"[:80],
    )


def judge_item(test: ItemTest, made: Taken, settings: Settings) -> ItemVerdict:
    """Return what the readings of a test mean: the last, and that it was another before."""
    readings = made.get(test.place)
    if not readings:
        return ItemVerdict("not measured", "not measured yet")
    *before, reading = readings
    passed = _passes(test, reading, settings)
    if passed and test.of != "pull":
        done = 1 + sum(
            1 for _ in takewhile(lambda one: _passes(test, one, settings), reversed(before))
        )
        if done <= len(STEADY_WHILE) and done < len(readings):
            was = shown_text(readings[-1 - done])
            how = STEADY_WHILE[done - 1]
            said = (
                f"{was} before: measure it {how}; or, if it was repaired or another is in "
                "its place, say so under Likely causes, Repaired, and measure it"
            )
            return ItemVerdict("comes and goes", said, reading)
    if test.means is not None:
        said = test.means(_compared(test, reading))
    else:
        said = (
            f"{shown_text(reading)}, as it should"
            if passed
            else (f"{shown_text(reading)}; it should show {test.expect}")
        )
    return ItemVerdict("passed" if passed else "failed", said, reading)


def _passes(test: ItemTest, reading: Reading, settings: Settings) -> bool:
    value = _compared(test, reading)
    if test.most is None and test.least is None:
        return value >= OPEN_OHM
    # A meter does not show less than its step.
    slack = settings.meter_step_ohm if test.quantity == "resistance" and not test.least else 0.0
    least, most = test.least or 0.0, math.inf if test.most is None else test.most
    return least - 1e-9 <= value <= most + slack + 1e-9


def _compared(test: ItemTest, reading: Reading) -> float:
    """Return what is held against the limits: ohms without the leads, a drop at the current that
    is asked for; without end for what showed nothing.
    """
    if reading.value is None:
        return math.inf
    if test.quantity == "resistance":
        return max(0.0, reading.value - reading.leads_ohm)
    if test.of == "drop" and reading.with_a:
        return reading.value * test.with_a / reading.with_a
    return reading.value


def shown_text(reading: Reading) -> str:
    """Return what a reading showed, in the unit the test is told in."""
    if reading.value is None:
        return "open"
    match reading.of, reading.quantity:
        case "drop", _:
            return f"{figures(reading.value * 1000)} mV at {figures(reading.with_a)} A"
        case _, "resistance":
            return ohm_text(reading.value)
        case _:
            return reading.shown
