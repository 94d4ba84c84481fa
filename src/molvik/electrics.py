"""What the electrical side of a job comes to: what is alive, and what is asked of each wire.

It reads no names of wires, colours, notes, pinouts, photos or readings: whatever is done to those
leaves it standing.
"""

import math

from molvik.circuits.charging import charging_a
from molvik.circuits.loss import Path, PathLoss, path_losses, paths
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import generators
from molvik.devices.states import CRANK, RUN, RUNNING, STATES, State
from molvik.electrical.solve import round_significant
from molvik.lazy import cached_property
from molvik.model.job import Job
from molvik.model.parts import Connector, Wire, WireSize, plain_fields
from molvik.netlist.network import PARTS, Network
from molvik.routing.alike import Alike, alike
from molvik.routing.installation import lies_along
from molvik.routing.ways import Ways
from molvik.sizes.fuses import FuseWork, fuse_work
from molvik.sizes.hot import temperature_c
from molvik.sizes.short import FarShort, far_short
from molvik.sizes.sizing_case import SizingCase, on_paths, sizing_case, use_of
from molvik.sizes.warm import Warm, warmed
from molvik.sizes.wire import Sizing, judge, smallest
from molvik.stopping import look_up
from molvik.views import Reads, Results

LEAST_A = 0.001
"""A wire that carries less than this in every state has no current that is known."""


class Electrics(Results):
    """The electrical side of one job."""

    reads = Reads(
        ("settings", *PARTS, "wires", "bundles", "routing"),
        {"wires": plain_fields(Wire), "connectors": plain_fields(Connector)},
    )

    def __init__(self, job: Job, before: "Electrics | None" = None) -> None:
        super().__init__(job)
        known = before.__dict__ if before is not None else {}
        if "network" in known:
            self.__dict__["network"] = Network(job, known["network"])
        self._was: dict[str, tuple[SizingCase, Sizing]] = {}
        """Verdicts from before an edit: a size asked the same question gets the same."""
        if "sizing_cases" in known and "sizings" in known:
            requirements = known["sizing_cases"]
            self._was = {code: (requirements[code], one) for code, one in known["sizings"].items()}
        self._least: dict[str, tuple[SizingCase, WireSize | None]] = {}
        if "sizing_cases" in known and "least_sizes" in known:
            requirements = known["sizing_cases"]
            self._least = {
                code: (requirements[code], one) for code, one in known["least_sizes"].items()
            }
        self.is_judged = False
        """Whether all was looked over, so that asking for it takes no time."""
        self._points: dict[State, OperatingPoint] = {}

    @cached_property
    def network(self) -> Network:
        """What is really connected."""
        return Network(self.job)

    @cached_property
    def ways(self) -> Ways:
        """The way of each wire along the looms to build."""
        return Ways(self.job)

    @cached_property
    def alike(self) -> tuple[Alike, ...]:
        """The plugs that can be swapped, and what a swap would do."""
        if not self.ways.of:
            return ()
        return alike(self.job, self.network, self.ways, self.operating_point)

    @cached_property
    def sizing_cases(self) -> dict[str, SizingCase]:
        """What is asked of each wire."""
        settings, paths = self.job.settings, self.path_losses
        return {
            code: on_paths(settings, entry, paths.get(code, ()))
            for code, entry in self.warm.requirements.items()
        }

    @cached_property
    def warm(self) -> Warm:
        """The states a vehicle is used in, all copper as warm as they make it."""
        solved, crank, rated = self.worst_amps, self.crank_amps, self.charging_a
        lies = lies_along(self.network, self.ways, solved)
        cold = {
            wire.code: sizing_case(
                self.network,
                wire,
                solved.get(wire.code),
                crank.get(wire.code),
                lies[wire.code],
                rated=rated.get(wire.code, 0.0) >= solved.get(wire.code, math.inf),
            )
            for wire in self.job.wires
        }
        states = self._solvable((RUN, CRANK, RUNNING))
        return warmed(self.network, tuple(self.operating_point(state) for state in states), cold)

    @cached_property
    def worst_amps(self) -> dict[str, float]:
        """The largest current each wire carries in any state but crank, A; cranking is short."""
        found: dict[str, float] = {}
        for state in self._solvable(tuple(state for state in STATES if not state.shortly)):
            for code, amps in self.operating_point(state).wire_amps.items():
                found[code] = max(found.get(code, 0.0), abs(amps))
        for code, amps in self.charging_a.items():
            if code in self.network.wires:
                found[code] = max(found.get(code, 0.0), amps)
        # What carries nothing in any state is not known, rather than nothing.
        return {code: round_significant(amps) for code, amps in found.items() if amps >= LEAST_A}

    @cached_property
    def crank_amps(self) -> dict[str, float]:
        """What each wire carries while the engine is cranked, A."""
        if not any(device.kind == "starter" for device in self.job.devices):
            return {}
        return {
            code: round_significant(abs(amps))
            for state in self._solvable((CRANK,))
            for code, amps in self.operating_point(state).wire_amps.items()
            if abs(amps) >= LEAST_A
        }

    @cached_property
    def paths(self) -> tuple[Path, ...]:
        """The way of each load that works, in the states a vehicle is used in."""
        return tuple(paths(self.network, self.warm.points))

    @cached_property
    def path_losses(self) -> dict[str, tuple[PathLoss, ...]]:
        """The paths each wire hurts most, in the states a vehicle is used in."""
        settings = self.job.settings
        return path_losses(
            self.network,
            self.paths,
            lambda code: use_of(settings, code).drop_share * settings.system_v,
        )

    @cached_property
    def fuse_work(self) -> dict[str, FuseWork]:
        """What each fuse has to bear."""
        states = tuple(state for state in STATES if not state.isolated)
        solved = [self.operating_point(state) for state in self._solvable(states)]
        return fuse_work(self.network, solved, self.charging_a)

    @cached_property
    def charging_a(self) -> dict[str, float]:
        """What each wire and fuse between an alternator and the battery must bear, A."""
        if not generators(self.job.devices):
            return {}
        return next(
            (charging_a(self.operating_point(state)) for state in self._solvable((RUNNING,))), {}
        )

    def _solvable(self, states: tuple[State, ...]) -> tuple[State, ...]:
        """Return the states that can be solved, none where there is no battery."""
        if not any(device.kind == "battery" for device in self.job.devices):
            return ()
        # Where one cannot, a finding says so.
        return tuple(state for state in states if not self.operating_point(state).problem)

    @cached_property
    def sizings(self) -> dict[str, Sizing]:
        """The verdict on the size of each wire that has one."""
        found, was = {}, self._was
        for wire in self.job.wires:
            if wire.size is None:
                continue
            look_up()
            requirements = self.sizing_cases[wire.code]
            before, sizing = was.get(wire.code, (None, None))
            if sizing is None or sizing.size != wire.size or before != requirements:
                sizing = judge(wire.size, requirements)
            found[wire.code] = sizing
        self._was = {}
        return found

    @cached_property
    def least_sizes(self) -> dict[str, WireSize | None]:
        """The smallest size of its own system for each wire with a known current, None where none
        passes.
        """
        found, was = {}, self._least
        for wire in self.job.wires:
            requirements = self.sizing_cases[wire.code]
            if requirements.load_a is None:
                continue
            look_up()
            system = wire.size.system if wire.size else "metric"
            before, least = was.get(wire.code, (None, None))
            if before != requirements or (least is not None and least.system != system):
                least = smallest(requirements, system)
            found[wire.code] = least
        self._least = {}
        return found

    @cached_property
    def shorts(self) -> dict[str, FarShort]:
        """What a short at the far end of each wire behind a fuse comes to."""
        found: dict[str, FarShort] = {}
        for wire in self.job.wires:
            look_up()
            short = far_short(self.network, wire, self.sizing_cases[wire.code])
            if short is not None:
                found[wire.code] = short
        return found

    @cached_property
    def copper_c(self) -> dict[str, float]:
        """How hot the copper of each wire gets where it lies, deg C, where that is known."""
        found = (
            (wire.code, temperature_c(wire.size, self.warm.requirements[wire.code]))
            for wire in self.job.wires
            if wire.size is not None
        )
        return {code: hot for code, hot in found if hot is not None}

    def look_over(self) -> None:
        """Compute all that is shown of a job beside its findings, so that asking takes no time."""
        _ = self.sizings, self.fuse_work, self.least_sizes, self.copper_c
        for sizing in self.sizings.values():
            _ = sizing.passes, sizing.binding, sizing.is_tight
        for point in (self.operating_point(state) for state in STATES if state in self._points):
            _ = point.wire_amps, point.wire_volts, point.load
        self.is_judged = True

    def operating_point(self, state: State) -> OperatingPoint:
        """Return the electrical solution in a state, computed once."""
        if state not in self._points:
            look_up()
            before = None
            if state.was_running:
                before = self.operating_point(
                    state._replace(
                        name=RUNNING.name, key=RUNNING.key, isolated=False, was_running=False
                    )
                )
            self._points[state] = OperatingPoint(self.network, state, before=before)
        return self._points[state]

    def solved(self, states: tuple[State, ...]) -> "tuple[OperatingPoint, ...] | None":
        """Return the solutions of states if all of them are there already."""
        if not all(state in self._points for state in states):
            return None
        return tuple(self._points[state] for state in states)
