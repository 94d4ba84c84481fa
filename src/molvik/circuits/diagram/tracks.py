"""The pages of a diagram of current tracks: which tracks are on each, and where a part is drawn."""

from collections import defaultdict
from collections.abc import Callable, Iterator
from functools import partial
from typing import NamedTuple

from molvik.circuits.diagram.living import alive
from molvik.circuits.diagram.pagedrawing import page_scene
from molvik.circuits.diagram.pieces import pieces_of
from molvik.circuits.diagram.placing import Placing, placing
from molvik.circuits.diagram.systems import systems
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import NAMED
from molvik.drawing.scene import Scene
from molvik.electrical.elements import SolveError
from molvik.lazy import cached_property
from molvik.model.job import Job
from molvik.netlist.network import Network

PAGE_TRACKS = 11
"""So many tracks are on a page of A4 across."""


class Page:
    """A page, which is drawn when it is first asked for. first, last: its tracks, from one; system:
    what is on it, where pages are by that.
    """

    def __init__(
        self, number: int, tracks: tuple[int, int], system: str, draw: Callable[[], Scene]
    ) -> None:
        self.number, (self.first, self.last) = number, tracks
        self.system, self._draw = system, draw

    @cached_property
    def scene(self) -> Scene:
        """What is on it."""
        return self._draw()


class Diagram(NamedTuple):
    """The diagram of a job. tracks: of each part, by its code, the tracks it is drawn in;
    left_out: wires that go nowhere.
    """

    pages: tuple[Page, ...]
    tracks: dict[str, tuple[int, ...]]
    left_out: tuple[str, ...]

    def page_of(self, code: str) -> int | None:
        """Return the number of the page that a part is first drawn on."""
        found = self.tracks.get(code)
        if not found:
            return None
        return next((one.number for one in self.pages if one.first <= found[0] <= one.last), None)


def diagram(
    network: Network,
    tracks_a_page: int = PAGE_TRACKS,
    point: OperatingPoint | None = None,
    *,
    by_system: bool = False,
) -> Diagram:
    """Return a job's diagram of current tracks. point: a state, in which what is not alive is drawn
    faint; by_system: each system on pages of its own. Raises ValueError for pages of no tracks.
    """
    if tracks_a_page < 2:
        raise ValueError("A page has two tracks at least.")
    batteries = network.batteries
    live = batteries.live_end(batteries.highest[0]) if batteries.highest else None
    made = pieces_of(network)
    stands = placing(made, live, systems(made, network.job) if by_system else {})
    where: dict[str, set[int]] = defaultdict(set)
    for one in stands.placed:
        where[one.piece.code].add(one.track + 1)
        for end in one.piece.ends:
            hub = stands.lines[end.line].hub
            if hub is not None:
                where[hub.at].add(one.track + 1)
            for item in end.items:
                where[item.ref].add(one.track + 1)
    tracks = {code: tuple(sorted(found)) for code, found in where.items()}
    shown = alive(stands, point) if point is not None else None
    pages = []
    for number, (first, last) in enumerate(_parts(stands, tracks_a_page), 1):
        draw = partial(page_scene, stands, tracks, (first, last), number, shown)
        pages.append(Page(number, (first + 1, last + 1), stands.placed[first].system, draw))
    return Diagram(tuple(pages), tracks, made.left_out)


def diagram_in(
    job: Job, state: str, tracks_a_page: int = PAGE_TRACKS, *, by_system: bool = False
) -> Diagram:
    """Return a job's diagram in a state, by its name, empty for none. by_system: as ``diagram``.
    Raises ValueError where the job cannot be solved in it.
    """
    network = Network(job)
    if not state or not any(one.kind == "battery" for one in job.devices):
        return diagram(network, tracks_a_page, by_system=by_system)
    try:
        point = OperatingPoint(network, NAMED[state])
        return diagram(network, tracks_a_page, point, by_system=by_system)
    except SolveError as error:
        raise ValueError(f"{state}: {error}") from error


def _parts(stands: Placing, most: int) -> Iterator[tuple[int, int]]:
    """Yield the first and the last track of each page; what stands side by side is not parted
    where that can be.
    """
    units = [one.piece.unit for one in stands.placed]
    systems_of = [one.system for one in stands.placed]
    begin = 0
    while begin < len(units):
        end = min(begin + most, len(units))
        end = next((n for n in range(begin, end) if systems_of[n] != systems_of[begin]), end)
        least = begin + most // 2
        while end < len(units) and units[end] and units[end] == units[end - 1] and end > least:
            end -= 1
        yield begin, end - 1
        begin = end
