"""The diodes of a network, by what each does to all the others.

Most diodes carry next to nothing: those across the coils of relays, and all that block. What such a
one lets through is put in as the current it is, and found again until it stays: that costs no more
than one answer of the network for all of them. The others are found by Newton's method among
themselves, with their voltage steps limited, as circuit simulators do; for each of them the network
answers once (Woodbury, 1950: the matrix is factored without them).
"""

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from molvik.electrical.elements import BENT_A, THERMAL_V, Diode, SolveError

if TYPE_CHECKING:
    import numpy
    from numpy.typing import NDArray

    from molvik.electrical.solve import Prepared

    Array = NDArray[numpy.float64]
    Answered = Callable[[Array], Array]
    """What currents into the nodes do to all of them, V."""

MOST_ROUNDS = 200
CLOSE_V = 1e-10

BESIDE_S = 1e-3
"""A conductance, siemens, put beside each diode and taken off its curve again: it keeps the network
one that can be factored where only diodes hold a node."""

QUIET_S = 1e-6
"""A diode whose curve is steeper than this where it stands, S, is not put in as a current."""

MOST_SETTLINGS = 12
"""So often the currents of quiet diodes are found again; those that still move are quiet no more.
"""


class Junctions:
    """The diodes of a network. beside: the conductance that stands beside each in the matrix, S."""

    def __init__(
        self, whole: "Prepared", diodes: Sequence[tuple[int, Diode]], beside: "Array"
    ) -> None:
        import numpy

        places = [place for place, _ in diodes]
        self.diodes = [diode for _, diode in diodes]
        self.a, self.b, self.beside = whole.a[places], whole.b[places], beside
        self.size = len(whole.index)
        self._curves = Curves(self.diodes)
        self._saturation, self._scale = self._curves.saturation, self._curves.scale
        self._bent = numpy.log(BENT_A / self._saturation)
        self._loud: list[int] = [place for place, held in enumerate(beside) if held]
        self._columns: dict[int, Array] = {}

    def settled(self, right: "Array", answered: "Answered") -> "Array":
        """Return the voltage of each node. right: what is pushed into each without them, A."""
        import numpy

        every = numpy.arange(len(self.diodes))
        quiet = numpy.ones(len(every), dtype=bool)
        quiet[self._loud] = False
        flows = numpy.zeros(len(every))
        settlings = 0
        while True:
            push = right - numpy.bincount(self.a, flows, self.size)
            push += numpy.bincount(self.b, flows, self.size)
            found = answered(push)
            if self._loud:
                found = found + self._answers(answered) @ self._newton(found, answered)
            across = found[self.a] - found[self.b]
            current, slope = self._blocked(across)
            woken = quiet & (slope > QUIET_S)
            moved = numpy.abs(current - flows)[quiet & ~woken] / numpy.maximum(
                slope[quiet & ~woken], 1e-12
            )
            settlings += 1
            if not woken.any():
                if not len(moved) or moved.max() < CLOSE_V:
                    return found
                if settlings > MOST_SETTLINGS:
                    woken = quiet & (numpy.abs(current - flows) > slope * CLOSE_V)
            if woken.any():
                settlings = 0
                quiet &= ~woken
                self._loud += numpy.flatnonzero(woken).tolist()
            flows = numpy.where(quiet, current, 0.0)

    def _blocked(self, across: "Array") -> "tuple[Array, Array]":
        """Return the current of each diode, A, and how steep it is, S, for one that hardly lets
        anything through.
        """
        import numpy

        steep = numpy.exp(numpy.clip(across / self._scale, -40.0, self._bent)) * self._saturation
        return steep - self._saturation + 1e-12 * across, steep / self._scale + 1e-12

    def _answers(self, answered: "Answered") -> "Array":
        """Return what a current of one ampere through each loud diode does to every node, V."""
        import numpy

        missing = [place for place in self._loud if place not in self._columns]
        if missing:
            taken = numpy.zeros((self.size, len(missing)))
            for column, place in enumerate(missing):
                taken[self.a[place], column] -= 1.0
                taken[self.b[place], column] += 1.0
            made = answered(taken)
            self._columns |= {place: made[:, column] for column, place in enumerate(missing)}
        return numpy.stack([self._columns[place] for place in self._loud], axis=1)

    def _newton(self, linear: "Array", answered: "Answered") -> "Array":
        """Return the currents of the loud diodes beyond what flows beside them, by Newton's method.

        linear: the voltages with none of them. Raises SolveError.
        """

        answers = self._answers(answered)
        begins, ends, beside = self.a[self._loud], self.b[self._loud], self.beside[self._loud]
        free = linear[begins] - linear[ends]
        curves = self._curves[self._loud]
        return currents(curves, free, answers[begins] - answers[ends], beside)


class Curves:
    """The curves of some diodes, all at once. saturation: A; scale: the emission of each times the
    thermal voltage, V.
    """

    def __init__(self, diodes: Sequence[Diode]) -> None:
        import numpy

        self.saturation = numpy.array([diode.saturation_a for diode in diodes])
        self.scale = numpy.array([diode.emission * THERMAL_V for diode in diodes])
        self._straight = self.scale * numpy.log(BENT_A / self.saturation)
        self._critical = self.scale * numpy.log(self.scale / (math.sqrt(2) * self.saturation))

    def __getitem__(self, chosen: list[int]) -> "Curves":
        made = Curves.__new__(Curves)
        made.saturation, made.scale = self.saturation[chosen], self.scale[chosen]
        made._straight, made._critical = self._straight[chosen], self._critical[chosen]
        return made

    def lines(self, volts: "Array") -> "tuple[Array, Array]":
        """Return the current of each at a voltage, A, and how steep it is there, S: ``diode_line``
        for many.
        """
        import numpy

        bent = numpy.minimum(volts, self._straight)
        raised = numpy.maximum(bent, -40 * self.scale) / self.scale
        grown = self.saturation * numpy.exp(raised)
        slope = grown / self.scale
        amps = grown - self.saturation + 1e-12 * volts + (volts - bent) * slope
        return amps, slope + 1e-12

    def limited(self, wanted: "Array", was: "Array") -> "Array":
        """Return junction voltages that do not run ahead of their curves (common in simulators)."""
        import numpy

        scale, critical = self.scale, self._critical
        step = 1 + (wanted - was) / scale
        ahead = numpy.where(
            was > 0,
            numpy.where(step > 0, was + scale * numpy.log(numpy.maximum(step, 1e-300)), critical),
            scale * numpy.log(numpy.maximum(wanted / scale, 1e-300)),
        )
        near = (wanted <= critical) | (numpy.abs(wanted - was) <= 2 * scale)
        return numpy.where(near, wanted, ahead)


def currents(
    curves: Curves,
    free: "Array",
    coupling: "Array",
    beside: "Array | float" = 0.0,
    begin: "Array | None" = None,
) -> "Array":
    """Return the current of each diode beyond what flows beside it, A, by Newton's method.

    free: the voltage across each when none conducts; coupling: what a current of one ampere through
    each does to the voltage across all of them, V; begin: about what they have. Raises SolveError.
    """
    import numpy

    junction = numpy.zeros(len(free)) if begin is None else begin
    current = numpy.zeros(len(free))
    for _ in range(MOST_ROUNDS):
        amps, slope = curves.lines(junction)
        slope, current = slope - beside, amps - beside * junction
        # v = free + coupling i(v), made straight at the junction voltages of the last round.
        matrix = numpy.eye(len(free)) - coupling * slope
        try:
            right = free + coupling @ (current - slope * junction)
            wanted: Array = numpy.linalg.solve(matrix, right).astype(float, copy=False)
        except numpy.linalg.LinAlgError as error:
            raise SolveError("The diodes come to no numbers.") from error
        limited = curves.limited(wanted, junction)
        moved = numpy.max(numpy.abs(limited - junction)) + numpy.max(numpy.abs(limited - wanted))
        current = current + slope * (limited - junction)
        junction = limited
        if moved < CLOSE_V:
            break
    return current
