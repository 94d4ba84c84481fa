"""States gone through in order: does the engine start, does it go on, does it stop?"""

from collections.abc import Iterable
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import (
    ACCESSORY,
    CRANK,
    ISOLATED,
    KEY_OFF_RUNNING,
    NAMED,
    OFF,
    PRIME,
    RUN,
    RUNNING,
    State,
)
from molvik.model.job import Job
from molvik.model.parts import Scenario
from molvik.netlist.network import Network
from molvik.spoken import as_written
from molvik.wording import some

SHIPPED = (
    Scenario(
        "start and stop with the key",
        tuple(s.name for s in (OFF, ACCESSORY, PRIME, RUN, CRANK, RUNNING, KEY_OFF_RUNNING)),
    ),
    Scenario("stop with the isolator", (PRIME.name, CRANK.name, RUNNING.name, ISOLATED.name)),
)
"""What every job can go through; a job may have its own."""


class Step(NamedTuple):
    """A state of a scenario, solved. engine: what it does, in words; runs: whether it runs now."""

    point: OperatingPoint
    engine: str
    runs: bool


def scenarios(job: Job) -> tuple[Scenario, ...]:
    """Return the scenarios of a job, its own first."""
    own = {scenario.name for scenario in job.scenarios}
    return (*job.scenarios, *(scenario for scenario in SHIPPED if scenario.name not in own))


def states_of(scenario: Scenario) -> tuple[State, ...]:
    """Return a scenario's states; ValueError names one that is not known."""
    steps = [name if name in NAMED else as_written(name) for name in scenario.steps]
    for name in steps:
        if name not in NAMED:
            known = ", ".join(NAMED)
            raise ValueError(f"There is no state “{name}”. The states are: {known}.")
    return tuple(NAMED[name] for name in steps)


def go_through(network: Network, states: Iterable[State]) -> tuple[Step, ...]:
    """Solve states in order; each begins with what was held in the one before.

    The engine starts in crank when it turns and all it needs is alive, and stops when that is lost.
    """
    steps: list[Step] = []
    before: OperatingPoint | None = None
    runs = False
    for state in states:
        wanted = state
        if state.running and not runs:
            # The key stands so, but the engine never started.
            wanted = state._replace(turning=False, running=False, was_running=False)
        point = OperatingPoint(network, wanted, before)
        if wanted.turning and not wanted.running:
            runs = not point.no_start
            engine = "turns and starts" if runs else f"does not start: {point.no_start}"
        elif not wanted.running:
            engine, runs = "stands", False
        elif point.lost:
            names = [device.name for device in point.lost]
            engine, runs = f"stops: {some(names, 2)} dead", False
            stopped = wanted._replace(turning=False, running=False, was_running=False)
            point = OperatingPoint(network, stopped, point)
        else:
            engine = "runs on" if wanted.was_running else "runs"
        steps.append(Step(point, engine, runs))
        before = point
    return tuple(steps)
