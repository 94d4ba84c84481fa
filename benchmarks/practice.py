"""Two hundred rounds of practice: the program's way beside those of learners of three habits.

Run it as ``python benchmarks/practice.py [rounds of each degree]``; it prints minutes at the bench.
"""

import sys
import time
from pathlib import Path
from statistics import mean

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from learners import HABITS, cab
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.practice.after import program_way
from molvik.proving.practice.hiding import DEGREES
from molvik.proving.practice.round import Round


def main(rounds: int) -> None:
    """Play so many rounds of each degree."""
    network = Network(cab())
    simulator = FaultSimulator(network, Bench(network.job))
    every: dict[str, list[float]] = {}
    for degree in DEGREES:
        begun = time.perf_counter()
        took: dict[str, list[float]] = {}
        wrong = lost = 0
        for seed in range(rounds):
            played = Round(network, degree, seed, simulator=simulator)
            way = program_way(played)
            took.setdefault("program", []).append(way.minutes)
            wrong += sum(step.badly == "guessed" for step in way.steps)
            lost += not way.is_over
            for habit in HABITS:
                minutes = habit(played.again(), seed).play()
                took.setdefault(habit.__name__, []).append(minutes)
        for name, minutes_of in took.items():
            every.setdefault(name, []).extend(minutes_of)
        means = ", ".join(f"{name} {mean(some):.1f}" for name, some in took.items())
        seconds = time.perf_counter() - begun
        print(f"{degree}: {means} min; {wrong} wrong names, {lost} not found; {seconds:.0f} s")
    print("all: " + ", ".join(f"{name} {mean(some):.1f}" for name, some in every.items()))


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 40)
