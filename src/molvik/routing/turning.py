"""A branch turned on the board, or a stretch bent, as a hand drags it: all lengths are held."""

import math
from collections.abc import Mapping
from typing import NamedTuple

from molvik.drawing.scene import Point
from molvik.model.routing import Run
from molvik.netlist.placing import Placed, drawn_m, path_of

TIDY_DEG = 15.0
"""Turned by hand, stretches lead by whole steps of this, deg."""


class Turned(NamedTuple):
    """What a drag comes to. turns: the heading and bend of each run that moves, deg; paths: where
    these lie, by corners, m.
    """

    turns: dict[str, tuple[float, float]]
    paths: dict[str, tuple[Point, ...]]


class Grab:
    """A joint or run of a loom, taken to be dragged. What hangs from it moves with it."""

    def __init__(self, placed: Placed, runs: Mapping[str, Run], ref: str) -> None:
        by_run = {run: (above, joint) for joint, (above, run) in placed.hangs.items()}
        self.is_run = ref in by_run
        self.holds = self.is_run or ref in placed.hangs
        """Whether it can be dragged: what all else hangs from stays where it is."""
        if not self.holds:
            return
        self._placed = placed
        if self.is_run:
            self._run, (above, self._joint) = runs[ref], by_run[ref]
        else:
            self._joint = ref
            above, code = placed.hangs[ref]
            self._run = runs[code]
        self._pivot = placed.places[above]
        self._forward = self._run.start == above
        beyond = placed.beyond(self._joint)
        self._onward = {
            run
            for joint, (_, run) in placed.hangs.items()
            if joint in beyond and joint != self._joint
        }

    def to(self, point: Point, *, tidy: bool = True) -> Turned:
        """Return what is turned when it is dragged to a place on the board, m."""
        if self.is_run and drawn_m(self._run) > 0.02:
            return self._bent(point, tidy)
        return self._swung(point, tidy)

    def _swung(self, point: Point, tidy: bool) -> Turned:
        """Turn a run and all beyond it about the joint it hangs from."""
        end = self._placed.places[self._joint]
        was = _angle(self._pivot, end)
        heading, _ = self._leaving()
        turn = _angle(self._pivot, point) - was
        if tidy:
            turn = _tidy(heading + turn) - heading
        around = math.radians(turn)
        cosine, sine = math.cos(around), math.sin(around)

        def moved(at: Point) -> Point:
            x, y = at.x - self._pivot.x, at.y - self._pivot.y
            return Point(
                self._pivot.x + x * cosine - y * sine, self._pivot.y + x * sine + y * cosine
            )

        every = {self._run.code, *self._onward}
        placed = self._placed
        return Turned(
            {run: (placed.turns[run][0] + turn, placed.turns[run][1]) for run in every},
            {run: tuple(map(moved, placed.paths[run])) for run in every},
        )

    def _bent(self, point: Point, tidy: bool) -> Turned:
        """Bend a run in its middle: its first half leads to the place, all beyond it is carried
        along.
        """
        heading, bent = self._leaving()
        then = heading + bent
        first = _angle(self._pivot, point)
        if tidy:
            first = _tidy(first)
        path = path_of(self._pivot, drawn_m(self._run), first, _half(then - first))
        end = self._placed.places[self._joint]
        across, down = path[-1].x - end.x, path[-1].y - end.y
        turn = (first, _half(then - first))
        if not self._forward:
            turn, path = (then + 180, -turn[1]), path[::-1]
        paths = {
            run: tuple(Point(p.x + across, p.y + down) for p in self._placed.paths[run])
            for run in self._onward
        }
        turns = {run: self._placed.turns[run] for run in self._onward}
        return Turned({**turns, self._run.code: turn}, {**paths, self._run.code: path})

    def _leaving(self) -> tuple[float, float]:
        """Return which way the run leaves what it hangs from, and how it bends on, deg."""
        heading, bent = self._placed.turns[self._run.code]
        return (heading, bent) if self._forward else (heading + bent + 180, -bent)


def _angle(begin: Point, end: Point) -> float:
    return math.degrees(math.atan2(end.y - begin.y, end.x - begin.x))


def _tidy(angle: float) -> float:
    return round(angle / TIDY_DEG) * TIDY_DEG


def _half(turn: float) -> float:
    """Return a turn the shorter way round, deg."""
    return (turn + 180) % 360 - 180
