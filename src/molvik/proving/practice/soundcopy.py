"""The job as it would be without its own mistakes, to practise on."""

from msgspec.structs import replace

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import STATES
from molvik.model.job import Job
from molvik.netlist.network import Network
from molvik.reference.fuses import LOAD_FACTOR, RATINGS_A

MOST_ROUNDS = 6


def sound_copy(job: Job) -> Job:
    """Return a job in which no fuse blows while nothing is wrong: those that did have the next
    rating that bears what they carried. What is dead in it stays so, and is left out of practice.
    """
    for _ in range(MOST_ROUNDS):
        carried: dict[str, float] = {}
        network = Network(job)
        for state in STATES:
            point = OperatingPoint(network, state)
            for code, blown in point.blown.items():
                carried[code] = max(carried.get(code, 0.0), blown.amps)
        if not carried:
            return job
        job = replace(
            job,
            fuses=tuple(
                replace(fuse, rating_a=_bears(fuse.kind, carried[fuse.code]))
                if fuse.code in carried
                else fuse
                for fuse in job.fuses
            ),
        )
    return job


def _bears(kind: str, amps: float) -> float:
    """Return the least rating that bears a current for hours; of more than any, a round number."""
    least = amps / LOAD_FACTOR
    fitting = (rating for rating in RATINGS_A[kind] if rating >= least)
    return float(next(fitting, round(least + 5, -1)))
