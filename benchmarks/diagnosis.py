"""How well hidden faults are found: 400 single ones and 100 double ones in the two demos and random
looms, by what is proposed to be measured, and how long that takes.

    .venv/bin/python benchmarks/diagnosis.py [--powered | --large]
"""

import math
import random
import resource
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from molvik.demo import demo_job
from molvik.devices.states import RUN
from molvik.model.job import Job
from molvik.model.parts import End
from molvik.proving.benchfault import FaultyBench
from molvik.proving.diagnose import Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation
from molvik.proving.points import Point
from test_diagnose import Hidden, place_of
from test_plan import loom_job


def random_loom(seed: int) -> Job:
    """Return wires between cavities and splices."""
    chosen = random.Random(seed)
    places = [f"C{n}/{m}" for n in range(1, 8) for m in range(1, 11)]
    chosen.shuffle(places)
    pairs = [(places.pop(), places.pop()) for _ in range(24)]
    pairs += [(f"S{n % 4}", places.pop()) for n in range(14)]
    return loom_job(*pairs)


def singles(hidden: Hidden, count: int) -> tuple[int, int, int, float, float]:
    """Return how often the cause stands first and among three, the measurements, the bits there
    were, and the longest answer, s.
    """
    first = among = steps = done = 0
    bits = longest = 0.0
    while done < count:
        cause, fault = hidden.hide()
        faulty = FaultyBench(hidden.bench, (fault,))
        odd = hidden.odd(hidden.readings(faulty))
        if not odd:
            continue
        done += 1
        seen = odd[:1]
        begun = time.perf_counter()
        found = hidden.diagnose(seen)
        bits += math.log2(max(2, len(found.groups)))
        while (proposal := found.next) is not None:
            longest = max(longest, time.perf_counter() - begun)
            point: Point = proposal.point
            seen.append(Observation(point, hidden.shown(faulty, point.red, point.black)))
            steps += 1
            begun = time.perf_counter()
            found = hidden.diagnose(seen)
        place = place_of(found, {cause.key})
        first, among = first + (place == 0), among + (place < 3)
    return first, among, steps, bits, longest


def doubles(hidden: Hidden, count: int) -> int:
    """Return how often both causes stand together among the first five."""
    hits = done = 0
    while done < count:
        pair = [hidden.hide() for _ in range(2)]
        if set(pair[0][0].on) & set(pair[1][0].on) or not all(
            hidden.odd(hidden.readings(FaultyBench(hidden.bench, (fault,)))) for _, fault in pair
        ):
            continue
        done += 1
        seen = hidden.readings(FaultyBench(hidden.bench, tuple(fault for _, fault in pair)))
        hits += place_of(hidden.diagnose(seen), {cause.key for cause, _ in pair}) < 5
    return hits


def powered(hidden: Hidden, count: int) -> tuple[int, int, int, float, float]:
    """Return how often a fault that shows with the power on is among the first causes, and among
    three, from one dead device on by what is proposed; how many steps that took, and the mean and
    the longest answer, s.
    """
    first = among = steps = done = 0
    times: list[float] = []
    sound = hidden.simulator.solved((), RUN)
    while done < count:
        cause = hidden.chosen.choice(hidden.every)
        fault = hidden.chosen.choice(cause.faults)
        now = hidden.simulator.solved((fault,), RUN)
        odd = [
            device.code
            for device in hidden.job.devices
            if now.stands(device.code) in ("dead", "weak") and sound.stands(device.code) == "alive"
        ]
        if not odd or now.chatter:
            continue
        done += 1
        code = hidden.chosen.choice(odd)
        seen = [Observation(Point.of("device", End(code), End(), "run"), now.stands(code))]
        simulator = FaultSimulator(hidden.network, hidden.bench)
        while True:
            begun = time.perf_counter()
            found = Diagnosis(hidden.network, seen, simulator)
            proposal = found.next
            times.append(time.perf_counter() - begun)
            if proposal is None or len(seen) > 25:
                break
            shown = hidden.simulator.predicted((fault,), proposal.point)
            if isinstance(shown, float):
                shown += hidden.chosen.gauss(0, 0.02)
            seen.append(Observation(proposal.point, shown))
            steps += 1
        place = place_of(found, {cause.key})
        first, among = first + (place == 0), among + (place < 3)
        if place > 2:
            print("   not among three:", fault, code, found.verdict[:100])
    return first, among, steps, sum(times) / len(times), max(times)


def large(count: int) -> None:
    """Print how long a job of so many wires takes: its plan, a reading of it, dead devices."""
    from large import large_job
    from molvik.analysis import Analysis

    analysis = Analysis(large_job(count))
    begun = time.perf_counter()

    def told(what: str) -> None:
        nonlocal begun
        most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        print(f"{count} wires, {what}: {time.perf_counter() - begun:.2f} s, {most} MB so far")
        begun = time.perf_counter()

    measured = analysis.plan.measurements[100]
    told("the plan")
    point = Point.of("resistance", measured.red, measured.black)
    for shown in (None, 9.0):
        _ = Diagnosis(analysis.network, [Observation(point, shown)], analysis.simulator).next
        told(f"a reading, {'open' if shown is None else 'too high'}")
    alive = [load.device for load in analysis.operating_point(RUN).loads if load.state == "alive"]
    told("the solution of a state")
    for code in alive[3:6]:
        seen = [Observation(Point.of("device", End(code), End(), "run"), "dead")]
        _ = Diagnosis(analysis.network, seen, analysis.simulator).next
        told(f"{code} dead")


def main() -> None:
    """Print what was found of each."""
    if "--large" in sys.argv:
        large(2000)
        return
    if "--powered" in sys.argv:
        first, among, steps, mean, longest = powered(Hidden(demo_job("marten"), 5), 30)
        print(
            f"with the power on: {first} of 30 first, {among} among three, {steps / 30:.1f} "
            f"steps, {mean:.2f} s an answer, {longest:.2f} s at most"
        )
        return
    looms = [
        Hidden(demo_job("marten"), 11),
        Hidden(demo_job("plover"), 12),
        *(Hidden(random_loom(seed), seed) for seed in range(20, 24)),
    ]
    share = [134, 134, 33, 33, 33, 33]
    total = [0.0] * 5
    for hidden, count in zip(looms, share, strict=True):
        found = singles(hidden, count)
        total = [
            *(a + b for a, b in zip(total[:4], found[:4], strict=True)),
            max(total[4], found[4]),
        ]
        first, among, steps, bits, longest = found
        print(
            f"{hidden.job.title}: {first} of {count} first, {among} among three, "
            f"{steps / bits:.2f} measurements a bit, {longest:.2f} s at most"
        )
    many = sum(share)
    print(
        f"{many} single: first {total[0] / many:.1%}, among three {total[1] / many:.1%}, "
        f"{total[2] / total[3]:.2f} measurements a bit"
    )
    sound = sum(
        bool(hidden.diagnose(hidden.readings(FaultyBench(hidden.bench, ()))).ranked[0].causes)
        for hidden in looms[:2]
        for _ in range(50)
    )
    print(f"sound looms accused: {sound} of 100")
    hits = sum(doubles(hidden, 25) for hidden in looms[:4])
    print(f"double among five: {hits} of 100")


if __name__ == "__main__":
    main()
