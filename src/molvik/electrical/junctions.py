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

from molvik.electrical.elements import BENT_A, THERMAL_V, Diode, SolveError, diode_line

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
        self._saturation = numpy.array([diode.saturation_a for diode in self.diodes])
        self._scale = numpy.array([diode.emission * THERMAL_V for diode in self.diodes])
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
        import numpy

        answers = self._answers(answered)
        diodes = [self.diodes[place] for place in self._loud]
        begins, ends, beside = self.a[self._loud], self.b[self._loud], self.beside[self._loud]
        free = linear[begins] - linear[ends]  # across each junction when no diode conducts
        coupling = answers[begins] - answers[ends]
        junction, current = numpy.zeros(len(diodes)), numpy.zeros(len(diodes))
        for _ in range(MOST_ROUNDS):
            curves = [
                diode_line(diode, float(v)) for diode, v in zip(diodes, junction, strict=True)
            ]
            slope = numpy.array([slope for _, slope in curves]) - beside
            current = numpy.array([amps for amps, _ in curves]) - beside * junction
            # v = free + coupling i(v), made straight at the junction voltages of the last round.
            matrix = numpy.eye(len(diodes)) - coupling * slope
            try:
                wanted = numpy.linalg.solve(matrix, free + coupling @ (current - slope * junction))
            except numpy.linalg.LinAlgError as error:
                raise SolveError("The diodes come to no numbers.") from error
            limited = numpy.array(
                [
                    _limited(diode, float(new), float(was))
                    for diode, new, was in zip(diodes, wanted, junction, strict=True)
                ]
            )
            moved = numpy.max(numpy.abs(limited - junction))
            moved += numpy.max(numpy.abs(limited - wanted))
            current = current + slope * (limited - junction)
            junction = limited
            if moved < CLOSE_V:
                break
        return current


def _limited(diode: Diode, wanted: float, was: float) -> float:
    """Return a junction voltage that does not run ahead of its curve (common in simulators)."""
    scale = diode.emission * THERMAL_V
    critical = scale * math.log(scale / (math.sqrt(2) * diode.saturation_a))
    if wanted <= critical or abs(wanted - was) <= 2 * scale:
        return wanted
    if was > 0:
        step = 1 + (wanted - was) / scale
        return was + scale * math.log(step) if step > 0 else critical
    return scale * math.log(wanted / scale)
