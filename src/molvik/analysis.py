"""Everything computed from one job value, each part when it is first asked for.

store.analysis is an Analysis of that job value: nets, feeds, sizings, tests, sheets, each computed
when first asked for. A fact stands once; what can be computed is never stored.

A result stands as long as what it reads. The electrical side (electrics.py: what is alive, what is
asked of each wire, verdicts) is computed from a view of the job (views.py) in which nothing else
stands: no colours, functions, notes, pins, readings or photos. While the view is the same the
analyses of all values of the job share it. Lighter results declare their fields (lazy.reading) and
are taken over while these are the same objects. A size asked the same question keeps its verdict.
tests/test_results.py holds it: reused equals fresh over random edits, and no result reads more than
it declares. A note or a reading in a job of 2,000 wires is shown in 0.05 s instead of 5.6 s,
another length in 1.3 s.
"""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from molvik.circuits.bus.topology import Bus, buses
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.story import StoryStop, story
from molvik.crossover.repinplan import RepinPlan
from molvik.devices.states import State
from molvik.electrics import Electrics
from molvik.lazy import cached_property, reading, reuse_from
from molvik.model.job import Job
from molvik.model.stock import NO_SHELF, Shelf, StockItem
from molvik.netlist.network import Network
from molvik.netlist.placing import Placed
from molvik.proving.bench import Bench
from molvik.proving.continuity import verdicts
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.proofplan import ProofPlan
from molvik.proving.wiretest import ContinuityTest, Verdict, continuity_test
from molvik.routing.assembly import Assembly, assembly
from molvik.routing.board.lay import lay_on_board, placed_on_board
from molvik.routing.clearances import HoleClearance, hole_clearances
from molvik.routing.compare import Change, changes
from molvik.routing.covers import Cover, covers
from molvik.routing.drawing import plugs_of
from molvik.routing.lengths import CutLength, cut_lengths
from molvik.routing.sections import Section, looseness, sections
from molvik.routing.splices import SplicePlaces, splice_places
from molvik.sheet import Sheet
from molvik.sheets.continuity_list import continuity_list
from molvik.sheets.wire_list import wire_list
from molvik.spoken import Spoken
from molvik.survey.replacement import Shortage, shortages, stock_left
from molvik.survey.tree import LoomTree

if TYPE_CHECKING:
    from molvik.routing.board.lay import Board
    from molvik.routing.board.sheet import BoardSheet

Result = TypeVar("Result")

CONNECTED = ("connectors", "fuses", "splices", "earths", "devices", "wires", "settings")
"""The fields of a job that say what is connected, and how it is told."""


PARTS_WITH_CODES = ("connectors", "fuses", "splices", "earths", "devices")

MEASURED = ("wires", "settings", "routing", *PARTS_WITH_CODES)
"""The fields of a job that say what is measured on the bench: a wire without a length has that of
its way.
"""

COVERED = ("wires", "routing", "settings", "loom", "stock", "taken", "shelf", *PARTS_WITH_CODES)
"""What says with what looms to build are covered: the shop's shelf too."""


class Analysis:
    """The computed side of one job value.

    before: of the job before an edit; what the edit cannot have changed is taken over. shelf: what
    the job sees of the shop's shelf.
    """

    def __init__(self, job: Job, before: "Analysis | None" = None, shelf: Shelf = NO_SHELF) -> None:
        self.job, self.shelf = job, shelf
        self.electrics: Electrics = Electrics.of(
            job, before.electrics if before is not None else None
        )
        """Shared with the analyses of other values of this job that differ elsewhere."""
        if before is not None:
            reuse_from(self, before)
            if "network" in before.__dict__:
                self.__dict__["network"] = Network(job, before.network)
        self._plan_before: ProofPlan | None = None
        """The last plan that was made before the edits since."""
        if before is not None and "plan" not in self.__dict__:
            self._plan_before = before.__dict__.get("plan", before._plan_before)
        self._kept: dict[Callable[..., Any], Any] = {}

    @cached_property
    def spoken(self) -> Spoken:
        """How texts are said in this job."""
        return Spoken(self.job)

    @cached_property
    def network(self) -> Network:
        """What is really connected."""
        return Network(self.job, self.electrics.network)

    @reading(*MEASURED)
    def tests(self) -> dict[str, ContinuityTest]:
        """The continuity test of each wire that has both ends."""
        wires = self.plan.bench.wires.values()
        return {wire.code: continuity_test(wire, self.job.settings) for wire in wires}

    @reading(*MEASURED, "readings")
    def proof(self) -> dict[str, Verdict]:
        """What the readings say of each wire that has both ends."""
        return verdicts(self.plan)

    @reading(*MEASURED, "readings")
    def plan(self) -> ProofPlan:
        """What is measured on the bench, and what was found."""
        return ProofPlan(self.job, self._plan_before, self.routed_m)

    @reading(*MEASURED)
    def routed_m(self) -> dict[str, float]:
        """What wires are cut to along their ways, m, where one of them has no length of its own."""
        if self.job.routing.looms and any(wire.length_m is None for wire in self.job.wires):
            return {code: cut.cut_m for code, cut in self.cut_lengths.items()}
        return {}

    @reading(*MEASURED)
    def buses(self) -> tuple[Bus, ...]:
        """Each bus of the job."""
        return buses(self.network, self.routed_m)

    @reading("loom", *MEASURED)
    def lies_in(self) -> dict[str, frozenset[str]]:
        """The stretches each wire runs through, by its code: of the looms to build, and of the loom
        as found.
        """
        found = {
            code: {step.run for step in way.steps} for code, way in self.electrics.ways.of.items()
        }
        for wire in self.job.loom.wires:
            if wire.wire:
                way = self.loom.ways[wire.code]
                found.setdefault(wire.wire, set()).update(one.segment for one in way)
        return {code: frozenset(runs) for code, runs in found.items() if runs}

    @property
    def plan_is_near(self) -> bool:
        """Whether the plan is made, or takes no time: since one was, nothing but readings came."""
        plan = self.__dict__.get("plan")
        if plan is not None:
            return "measurements" in plan.__dict__
        before = self._plan_before
        return (
            before is not None
            and "measurements" in before.__dict__
            and all(getattr(before.job, name) is getattr(self.job, name) for name in MEASURED)
        )

    @reading("loom", "left_out", *MEASURED)
    def simulator(self) -> FaultSimulator:
        """What faults make of the job: played through as it is asked, and kept."""
        return FaultSimulator(self.network, Bench(self.job, self.routed_m), self.lies_in)

    @reading(*MEASURED, "readings")
    def sheets(self) -> tuple[Sheet, ...]:
        """The sheets of the job."""
        return wire_list(self.network), continuity_list(self.network, self.plan)

    @reading("loom")
    def loom(self) -> LoomTree:
        """The loom as found."""
        return LoomTree(self.job.loom)

    @reading("wires", "routing", "settings", *PARTS_WITH_CODES)
    def cut_lengths(self) -> dict[str, CutLength]:
        """What each wire with a way is cut to."""
        return cut_lengths(self.job, self.electrics.ways)

    @reading("wires", "routing", "settings", "loom", *PARTS_WITH_CODES)
    def sections(self) -> dict[str, Section]:
        """What lies in each run of the looms to build, and how thick it is."""
        return sections(self.job, self.electrics.ways, looseness(self.job, self.loom))

    @reading("stock", "shelf")
    def stock(self) -> tuple[StockItem, ...]:
        """What there is for the job: its own, and what is free on the shelf."""
        return self.shelf.stock(self.job.stock)

    @reading("loom", "stock", "taken", "shelf")
    def shortages(self) -> tuple[Shortage, ...]:
        """What the decisions about the loom as found take, against what there is."""
        return shortages(self.loom, self.stock, self.job.taken)

    @reading("loom", "stock", "taken", "shelf")
    def stock_left(self) -> dict[str, float]:
        """How much of each thing in stock the decisions leave, by code: none is promised twice."""
        return stock_left(self.stock, self.shortages)

    @reading(*COVERED)
    def covers(self) -> dict[str, Cover]:
        """What covers each run of the looms to build."""
        return covers(self.job, self.stock, self.sections)

    @reading(*COVERED)
    def assembly(self) -> Assembly:
        """In which order the looms to build are put together."""
        return assembly(self.job, self.electrics.ways, self.covers)

    @reading("wires", "routing", "settings", *PARTS_WITH_CODES)
    def hole_clearances(self) -> tuple[HoleClearance, ...]:
        """The plugs that do not pass the holes they are threaded through."""
        return hole_clearances(self.job, self.electrics.ways)

    @reading("wires", "routing", "settings", *PARTS_WITH_CODES)
    def splice_places(self) -> dict[str, SplicePlaces]:
        """Where each splice of the looms to build lies best, and where it lies."""
        if not self.electrics.ways.of:
            return {}
        return {
            splice.code: splice_places(self.job, self.electrics.ways, splice.code)
            for splice in self.job.splices
        }

    @reading("routing", "board", "connectors", "photos")
    def placed(self) -> dict[str, Placed]:
        """How each loom to build lies on the board."""
        return {loom.code: placed_on_board(self.job, loom.code) for loom in self.job.routing.looms}

    def board(self, loom: str) -> "Board":
        """Return a loom to build at full size. Raises ValueError for one without ends."""

        return lay_on_board(
            self.job.routing,
            loom,
            self.sections,
            self.placed.get(loom),
            plugs_of(self.job, self.network, loom),
        )

    def board_sheet(self, loom: str, on: str = "", *, tables: bool = True) -> "BoardSheet":
        """Return the drawing of a board that one builds from. on: the date; tables: with what goes
        into each cavity, or names only. Raises ValueError.
        """
        from molvik.routing.board.sheet import board_sheet

        return board_sheet(self.board(loom), self.network, on, tables=tables)

    @reading("routing", "loom")
    def loom_changes(self) -> dict[str, tuple[Change, ...]]:
        """What of the loom as found is another in each loom to build."""
        return {loom.code: changes(self.job, loom.code) for loom in self.job.routing.looms}

    @reading(*CONNECTED, "repins", "pinouts", "ticks")
    def plans(self) -> dict[str, RepinPlan]:
        """The plan of each repin set."""
        return {repin_set.code: RepinPlan(self.network, repin_set) for repin_set in self.job.repins}

    def look_over(self) -> None:
        """Compute all that is shown of a job beside its findings, so that asking takes no time."""
        _ = self.proof, self.tests, self.electrics.ways.of, self.cut_lengths, self.sections
        _ = self.plan.judged
        self.electrics.look_over()

    def operating_point(self, state: State) -> OperatingPoint:
        """Return the electrical solution in a state, computed once."""
        return self.electrics.operating_point(state)

    def solved(self, states: tuple[State, ...]) -> "tuple[OperatingPoint, ...] | None":
        """Return the solutions of states if all of them are there already."""
        return self.electrics.solved(states)

    def story(self, code: str) -> tuple[StoryStop, ...]:
        """Return a wire's stops from end to end."""
        return story(self.network, self.network.wires[code])

    def known(self, compute: "Callable[[Analysis], Result]") -> "Result | None":
        """Return what ``once`` has computed already; None while it has not."""
        return self._kept.get(compute)

    def once(self, compute: "Callable[[Analysis], Result]") -> Result:
        """Return what a function of a layer above makes of this analysis, computed once."""
        if compute not in self._kept:
            self._kept[compute] = compute(self)
        result: Result = self._kept[compute]
        return result
