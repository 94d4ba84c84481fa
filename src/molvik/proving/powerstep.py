"""One step of bringing power up, and how the states it speaks of are solved."""

from collections.abc import Callable
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import CRANK, State, all_off
from molvik.model.job import Job
from molvik.model.parts import LOOSE, End
from molvik.parsing.quantities import amps_text
from molvik.proving.probing import Function

Solved = Callable[[State], OperatingPoint]


MOVED = frozenset({"running", "standing", "start"})
"""Names of positions that the engine puts a switch in, or a hand that starts it."""


def switches_off(job: Job) -> tuple[tuple[str, str], ...]:
    """Return every switch off that somebody may have left on; what the engine moves, and the button
    that starts it, stand as the state has them.
    """
    moved = {
        device.code
        for device in job.devices
        if MOVED & {position.name.lower() for position in device.positions}
    }
    return tuple(one for one in all_off(job) if one[0] not in moved)


def still(job: Job, solved: Solved) -> Solved:
    """Return how states are solved with every switch but the key off, and those that a state
    names: nobody left one on.
    """
    return _with_off(solved, switches_off(job))


def _with_off(solved: Solved, off: tuple[tuple[str, str], ...]) -> Solved:
    def with_switches_off(state: State) -> OperatingPoint:
        switches = dict(off) | dict(state.switches)
        return solved(state._replace(switches=tuple(sorted(switches.items()))))

    return with_switches_off


def ready_to_start(job: Job, solved: Solved) -> tuple[Solved, tuple[str, ...]]:
    """Return how states are solved with every switch off but those that the engine needs, and the
    codes of these: a pump's, an ignition's. Where it starts with none, or not at all, none. With
    all on a fuse may blow: then one alone is looked for.
    """
    off = switches_off(job)

    def starts(down: tuple[tuple[str, str], ...]) -> bool:
        return not solved(CRANK._replace(switches=tuple(sorted(down)))).no_start

    if starts(off):
        return _with_off(solved, off), ()
    if not starts(()):
        # All on at once may be too much for a fuse: then one that is on alone may do.
        alone = (one for one in off if solved(CRANK).blown)
        needs = next((one for one in alone if starts(tuple(s for s in off if s != one))), None)
        down = tuple(one for one in off if one != needs)
        return _with_off(solved, down), (needs[0],) if needs else ()
    down = ()
    needed = list[str]()
    # Few are needed of many: whole groups are tried off, and those halved with which it stops.
    groups = [off]
    while groups:
        group = groups.pop()
        half = len(group) // 2
        if starts((*down, *group)):
            down += group
        elif half:
            groups += group[half:], group[:half]
        else:
            needed.append(group[0][0])
    return _with_off(solved, down), tuple(needed)


ALLOWED_TIMES, ALLOWED_A = 1.5, 0.2
"""So much more than reckoned may flow, as a factor and in amperes (our choice)."""


def allowed_a(point: OperatingPoint) -> float:
    """Return the current past which a state is not what the job says, A."""
    return max(0.0, point.source_amps) * ALLOWED_TIMES + ALLOWED_A


class Figure(NamedTuple):
    """A figure that a step expects: in a state, volts at a place or amps through a fuse or from the
    battery, whose code then stands for the place.
    """

    state: str
    place: End
    value: float


class Setup(NamedTuple):
    """How the bench stands in a step. states: the key, by the names of the states, the first one
    first; out: the codes of what is not in yet; function, red, black: the meter, an empty end for
    the battery's earthed pole; figures: what is expected, by the network with just that out;
    most_a: what the battery may give at most in each state, A; apart: whether the battery is off
    and all unplugged.
    """

    states: tuple[str, ...] = ()
    out: tuple[str, ...] = ()
    function: Function = "V"
    red: End = LOOSE
    black: End = LOOSE
    figures: tuple[Figure, ...] = ()
    most_a: tuple[tuple[str, float], ...] = ()
    apart: bool = False


class PowerStep(NamedTuple):
    """A step. subject: what to take in hand; before: what is unplugged or kept ready; expect: what
    is seen or read, otherwise: what to do if it is not.
    """

    key: str
    subject: str
    do: str
    why: str
    before: str
    expect: str
    otherwise: str
    setup: Setup = Setup()

    @property
    def limit(self) -> str:
        """Past which current it is switched off, in words; empty where nothing is fed."""
        return ", ".join(f"{state} {amps_text(amps)}" for state, amps in self.setup.most_a)
