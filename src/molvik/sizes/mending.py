"""The sizes that mend a job: each wire by itself where it must, and each path where it costs least.

A path loses what all its wires lose, so which of them is made thicker is a choice: the one that
saves most volts for its copper, where a size that its terminals do not take costs them too. A wire
that several paths share saves in all of them. What is chosen is solved again, since loads that get
more take more. No wire is made thicker for a fuse that is too large for it: that is the fuse's.
"""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple, Protocol

from molvik.circuits.loss import Path
from molvik.electrical.bundle import ALONE
from molvik.electrical.conductor import area_mm2
from molvik.model.job import Job
from molvik.model.parts import SizeSystem, WireSize
from molvik.netlist.network import Network
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.sizes.drop import NOT_BLAMED
from molvik.sizes.hot import ohm_per_m
from molvik.sizes.resize import Resize, resized
from molvik.sizes.sizing_case import SizingCase, use_of
from molvik.sizes.wire import judge, smallest
from molvik.stopping import look_up

ROUNDS = 8
"""So often what was chosen is solved again; a thicker wire draws a little more through others."""

TERMINALS_COST = 5.0
"""What larger terminals, and often their housings, count for, in mm2 m of copper (our choice)."""

HOPELESS = 0.5
"""Where contacts, fuses and splices leave less than this share of what a path may lose, thicker
wire is not what mends it (our choice)."""

LEAST_A_PER_MM2 = 2.0
"""A wire that would have to carry less than this for its copper is not too thin but lies too hot:
what mends it is another place or a better insulation (our choice)."""

CHANGE_COST = 0.5
"""What it counts for to make another wire at all, in mm2 m of copper (our choice)."""

SPARE = 0.98
"""A path is mended to this share of its limit: its loads take more for what they then get."""


class Solved(Protocol):
    """A job as it is solved."""

    @property
    def network(self) -> Network:
        """What is really connected."""

    @property
    def sizing_cases(self) -> Mapping[str, SizingCase]:
        """What is asked of each wire."""

    @property
    def paths(self) -> Sequence[Path]:
        """The way of each load."""


class Mended(NamedTuple):
    """sizes: of the wires that get another. solved: the job with them."""

    sizes: dict[str, WireSize]
    solved: Solved


def mend(job: Job, solve: Callable[[Job], Solved], system: SizeSystem) -> Mended:
    """Return the sizes that make every wire with a size pass, as far as sizes can."""
    solved = solve(job)
    sizes: dict[str, WireSize] = {}
    for _ in range(ROUNDS):
        look_up()
        more = _Choice(solved, system, _by_themselves(solved, system)).chosen()
        if not more:
            break
        sizes |= more
        changes = tuple(Resize(code, None, size) for code, size in sizes.items())
        solved = solve(resized(job, changes))
    return Mended(sizes, solved)


def alone(requirements: SizingCase) -> SizingCase:
    """Return the case without the paths of its wire, nor its fuse: what it has to meet by itself.
    One on no path that is known is held to its share of the drop as well.
    """
    requirements = requirements._replace(fuse_a=None)
    return requirements._replace(length_m=None) if requirements.paths else requirements


def _by_themselves(solved: Solved, system: SizeSystem) -> dict[str, WireSize]:
    """Return the wires that fail by themselves, for heat, cranking, their fuse, with what does."""
    found = {}
    for wire in solved.network.job.wires:
        requirements = alone(solved.sizing_cases[wire.code])
        if wire.size is None or wire.stowed or judge(wire.size, requirements).is_enough:
            continue
        cool = requirements._replace(
            lies=tuple(one._replace(neighbours=ALONE) for one in requirements.lies)
        )
        size = smallest(cool, system)
        if size is not None and area_mm2(size) <= area_mm2(wire.size):
            helps = _heats(wire.size, requirements) and smallest(requirements, system) is not None
            size = _next(wire.size, system) if helps else None
        if size is not None and area_mm2(size) * LEAST_A_PER_MM2 <= max(
            requirements.load_a or 0.0, (requirements.crank_a or 0.0) / 2, LEAST_A_PER_MM2
        ):
            found[wire.code] = size
    return found


def _next(size: WireSize, system: SizeSystem) -> WireSize | None:
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    return next((other for other in sizes if area_mm2(other) > area_mm2(size)), None)


def _heats(size: WireSize, requirements: SizingCase) -> bool:
    """Return whether a wire heats its bundle as much as the others do each, or more: where it does
    not, it is too hot for what the others do, and no copper of its own mends that.
    """
    own = (requirements.mean_a or 0.0) ** 2 * ohm_per_m(size, requirements)
    return any(
        own * len(lying.neighbours.widths_mm) >= lying.neighbours.heat_w_per_m
        for lying in requirements.lies
        if lying.neighbours.widths_mm
    )


def _limit_v(solved: Solved, path: Path) -> float:
    settings = solved.network.job.settings
    return use_of(settings, path.use).drop_share * settings.system_v


def others_v(path: Path) -> float:
    """Return what a path loses in all that is no wire: contacts, fuses, splices, V."""
    return max(0.0, path.lost_v - sum(path.drops.values()))


class _Row(NamedTuple):
    """What some wires may lose together. amps: what counts for each, A; shortly: while cranking."""

    amps: Mapping[str, float]
    shortly: bool


class _Choice:
    """The sizes that are chosen for a solved job, while they are.

    Each path is a row: what its wires may lose is its limit, less what its contacts, fuses and
    splices lose. Where those leave less than half, no wire makes up for them: each wire is a row
    then, held to its share by length, as it is judged.
    """

    def __init__(self, solved: Solved, system: SizeSystem, sizes: dict[str, WireSize]) -> None:
        self._solved = solved
        self._all = AWG_SIZES if system == "awg" else METRIC_SIZES
        self._wires = {wire.code: wire for wire in solved.network.job.wires}
        self._sizes = sizes
        self._least = dict(sizes)
        self._ohms: dict[tuple[str, WireSize, bool], float] = {}
        self._rows: list[_Row] = []
        self._limits: list[float] = []
        self._lost: list[float] = []
        self._on: dict[str, list[int]] = {}
        for path in solved.paths:
            self._add(path)
        for code in sizes:
            self._take(code, self._size_now(code), sizes[code])

    def _add(self, path: Path) -> None:
        limit = _limit_v(self._solved, path)
        left = limit - others_v(path)
        times = {code: self._times(code, path) for code in path.drops}
        lost = {code: drop * times[code] for code, drop in path.drops.items()}
        amps = {code: path.amps[code] * times[code] for code in path.drops}
        if left >= HOPELESS * limit:
            self._hold(_Row(amps, path.state.shortly), sum(lost.values()), left)
            return
        lengths = {code: self._wires[code].length_m or 1.0 for code in path.drops}
        whole = sum(lengths.values())
        for code, length in lengths.items():
            may = limit * max(length / whole, NOT_BLAMED)
            self._hold(_Row({code: amps[code]}, path.state.shortly), lost[code], may)

    def _hold(self, row: _Row, lost: float, may: float) -> None:
        index = len(self._rows)
        self._rows.append(row)
        self._lost.append(lost)
        # What meets its limit with little to spare is left as it is.
        self._limits.append(lost if SPARE * may < lost <= may else SPARE * may)
        for code in row.amps:
            self._on.setdefault(code, []).append(index)

    def _times(self, code: str, path: Path) -> float:
        """Return how many times the solved current of a wire counts: what was typed for it, if it
        was for this kind of state.
        """
        requirements, amps = self._solved.sizing_cases[code], path.amps[code]
        shortly = path.state.shortly != (requirements.use.code == "starter")
        if requirements.solved or shortly or not requirements.load_a or amps <= 0:
            return 1.0
        return max(1.0, requirements.load_a / amps)

    def _size_now(self, code: str) -> WireSize:
        size = self._wires[code].size
        assert size is not None
        return size

    def chosen(self) -> dict[str, WireSize]:
        """Return the sizes that bring every path to its limit, as far as they can."""
        over = [index for index, lost in enumerate(self._lost) if lost > self._limits[index]]
        best = {code: self._best(code) for index in over for code in self._rows[index].amps}
        while True:
            look_up()
            code = max(best, default="", key=lambda code: (best[code][0], code))
            saves, size = best.get(code, (0.0, None))
            if size is None or saves <= 0:
                break
            self._take(code, self._sizes.get(code) or self._size_now(code), size)
            self._sizes[code] = size
            for near in {other for index in self._on[code] for other in self._rows[index].amps}:
                if near in best:
                    best[near] = self._best(near)
        self._give_back()
        return {code: size for code, size in self._sizes.items() if size != self._wires[code].size}

    def _best(self, code: str) -> tuple[float, WireSize | None]:
        """Return the thicker size of a wire that saves most volts for its copper, V/(mm2 m), where
        too much is lost; 0 and none where there is none.
        """
        wire = self._wires[code]
        over = [index for index in self._on[code] if self._lost[index] > self._limits[index]]
        if wire.size is None or not wire.length_m or not over:
            return 0.0, None
        now = self._sizes.get(code, wire.size)
        found: tuple[float, WireSize | None] = (0.0, None)
        contacts = self._solved.sizing_cases[code].contacts
        most = min((contact.most_mm2 for contact in contacts), default=math.inf)
        for size in self._thicker(now):
            more = (area_mm2(size) - area_mm2(now)) * wire.length_m
            if area_mm2(now) <= most < area_mm2(size):
                more += TERMINALS_COST
            if code not in self._sizes:
                more += CHANGE_COST
            saved = sum(
                min(self._lost[index] - self._limits[index], -self._change(code, index, now, size))
                for index in over
            )
            found = max(found, (saved / more, size), key=lambda pair: pair[0])
        return found

    def _thicker(self, than: WireSize) -> Iterator[WireSize]:
        return (size for size in self._all if area_mm2(size) > area_mm2(than))

    def _ohm(self, code: str, size: WireSize, *, cranking: bool) -> float:
        at = code, size, cranking
        if at not in self._ohms:
            requirements = self._solved.sizing_cases[code]
            self._ohms[at] = ohm_per_m(size, requirements, cranking=cranking)
        return self._ohms[at]

    def _change(self, code: str, index: int, old: WireSize, new: WireSize) -> float:
        """Return what a path loses more with another size of one of its wires, V."""
        row = self._rows[index]
        cranking, length = row.shortly, self._wires[code].length_m or 0.0
        less = self._ohm(code, new, cranking=cranking) - self._ohm(code, old, cranking=cranking)
        return row.amps[code] * length * less

    def _take(self, code: str, old: WireSize, new: WireSize) -> None:
        for index in self._on.get(code, ()):
            self._lost[index] += self._change(code, index, old, new)

    def _give_back(self) -> None:
        """Make thinner again, the most copper first, what later choices left room for."""
        for code in sorted(
            self._sizes,
            key=lambda code: -(self._wires[code].length_m or 0.0) * area_mm2(self._sizes[code]),
        ):
            now, least = self._sizes[code], self._least.get(code) or self._size_now(code)
            for size in (least, *self._thicker(least)):
                if area_mm2(size) >= area_mm2(now):
                    break
                fits = all(
                    self._lost[index] + self._change(code, index, now, size)
                    <= max(self._limits[index], self._lost[index])
                    for index in self._on.get(code, ())
                )
                if fits:
                    self._take(code, now, size)
                    self._sizes[code] = size
                    break
