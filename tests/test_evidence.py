"""A verdict goes no further than its evidence."""

import math
import random

import pytest
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.devices.states import NAMED, Fault
from molvik.model import edits, log_edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.loom import FoundWire, Loom, Node, Segment
from molvik.model.parts import End, WireSize
from molvik.model.routing import LoomNode, NewLoom, Routing, Run
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.causes import causes
from molvik.proving.diagnose import ODD, Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation
from molvik.proving.points import Point
from molvik.proving.practice.record import KINDS
from molvik.proving.practice.round import Round
from molvik.proving.proofplan import ProofPlan
from test_plan import loom_job


@pytest.fixture(scope="module")
def marten() -> FaultSimulator:
    network = Network(demo_job("marten"))
    return FaultSimulator(network, Bench(network.job))


def three() -> Job:
    return loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"), ("C1/3", "C2/3"), ("C1/5", "C2/5"))


def ohms(one: str, other: str, shown: float | None) -> Observation:
    red, black = (End(*text.split("/")) for text in (one, other))
    return Observation(Point.of("resistance", red, black), shown)


def test_nothing_is_wrong_is_never_said_beside_a_reading_that_shows_something() -> None:
    """0.4 ohm between two nets that are not neighbours: no cause has it, nor has a sound loom."""
    found = Diagnosis(Network(three()), [ohms("C1/1", "C1/5", 0.4)])
    assert "Nothing is wrong" not in found.verdict
    assert "0.40 Ω at “ohms from C1/1 to C1/5, power off”, where open is expected" in found.verdict
    sound = Diagnosis(Network(three()), [ohms("C1/1", "C1/5", None), ohms("C1/1", "C2/1", 0.02)])
    assert sound.verdict == "Nothing is wrong, as far as was measured."


def laid(job: Job) -> Job:
    """Lay C1/1 and C1/2 to C2 along one stretch of 12 m, C3 and C4 along another."""
    joints = (
        LoomNode("J1", "H1", "from", carries=("C1",)),
        LoomNode("J2", "H1", "to", carries=("C2",)),
        LoomNode("J3", "H1", "a", carries=("C3",)),
        LoomNode("J4", "H1", "b", carries=("C4",)),
    )
    runs = (Run("R1", "J1", "J2", 12.0), Run("R2", "J3", "J4", 1.0))
    return replace(job, routing=Routing((NewLoom("H1", "loom"),), joints, runs))


def test_a_routed_length_counts_for_what_is_wrong_as_for_the_plan() -> None:
    """It need not be taken: 12 m of 0.5 mm² are 0.44 ohm (IEC 60228: 37 ohm/km at most)."""
    job = laid(loom_job(("C1/1", "C2/1")))
    job = replace(job, wires=(replace(job.wires[0], length_m=None, size=WireSize("metric", 0.5)),))
    analysis = Analysis(job)
    seen = [ohms("C1/1", "C2/1", 12.1 * 0.0371)]
    found = Diagnosis(analysis.network, seen, analysis.simulator)
    assert found.verdict == "Nothing is wrong, as far as was measured."
    assert "Nothing is wrong" not in Diagnosis(analysis.network, seen).verdict, "a short wire"


def test_wires_that_lie_together_touch_sooner_than_those_that_nowhere_do() -> None:
    """Two nets of two wires each touch: where they run through a stretch together."""
    job = laid(loom_job(("C1/1", "C2/1"), ("C3/1", "C1/1"), ("C1/9", "C2/9"), ("C4/9", "C1/9")))
    analysis = Analysis(job)
    found = Diagnosis(analysis.network, [ohms("C1/1", "C1/9", 0.0)], analysis.simulator)
    likeliest = max(
        (one for one in found.causes if one.faults[0].kind == "short"), key=lambda one: one.odds
    )
    assert likeliest.on == ("W1", "W3")
    assert found.ranked[0].causes == (likeliest,)


def test_of_many_wires_those_that_lie_together_are_thought_of_first() -> None:
    """Two nets of nine wires each: the last of each are the ones that share a stretch."""
    one = [(f"C1/{n}", "S1") for n in range(1, 9)]
    other = [(f"C5/{n}", "S2") for n in range(1, 9)]
    job = loom_job(*one, ("C3/1", "S1"), *other, ("C3/12", "S2"))
    joints = (
        LoomNode("J3", "H1", "a", carries=("C3",)),
        LoomNode("J4", "H1", "b", carries=("S1", "S2")),
    )
    routing = Routing((NewLoom("H1", "loom"),), joints, (Run("R2", "J3", "J4", 1.0),))
    analysis = Analysis(replace(job, routing=routing))
    found = Diagnosis(analysis.network, [ohms("C1/1", "C5/1", 0.0)], analysis.simulator)
    shorts = [one for one in found.causes if one.faults[0].kind == "short"]
    assert ("W9", "W18") in {one.on for one in shorts}
    assert max(shorts, key=lambda one: one.odds).on == ("W9", "W18")


def test_what_was_struck_out_of_the_log_suspects_nothing() -> None:
    at = "2026-11-02T10:00:00+01:00"
    job = edits.log(three(), LogEntry(at, "done", "", "W2", "", "", "splice", 1, 9))
    odds = {cause.key: cause.odds for cause in causes(Network(job))}
    struck = {cause.key: cause.odds for cause in causes(Network(log_edits.strike(job, 0, at)))}
    assert odds["open W2"] == 4 * struck["open W2"]


def found_wires(*wires: tuple[str, str]) -> Loom:
    """A loom as found of two stretches, with wires along them by their nodes."""
    nodes = (Node("N1", "a"), Node("N2", "b"), Node("N3", "c"))
    runs = (Segment("G1", "N1", "N2", 1.0), Segment("G2", "N2", "N3", 1.0))
    lying = (
        FoundWire(f"L{n}", start=start, finish=finish, wire=f"W{n}")
        for n, (start, finish) in enumerate(wires, 1)
    )
    return Loom(nodes, runs, tuple(lying))


def test_the_loom_as_found_says_what_lies_together_too() -> None:
    job = loom_job(("C1/1", "C2/1"), ("C1/9", "C2/9"), ("C1/5", "C2/5"))
    job = replace(job, loom=found_wires(("N1", "N3"), ("N2", "N3"), ("N1", "N2")))
    assert Analysis(job).lies_in == {
        "W1": frozenset({"G1", "G2"}),
        "W2": frozenset({"G2"}),
        "W3": frozenset({"G1"}),
    }


def test_what_wavers_in_a_loom_that_is_sound_otherwise_is_measured_again() -> None:
    """However sure it is that nothing else is wrong: all of the plan passed."""
    plan = ProofPlan(three())
    seen = [ohms(str(m.red), str(m.black), m.expected_ohm - 0.2) for m in plan.measurements]
    odd = seen[0]
    found = Diagnosis(Network(three()), [*seen * 3, odd._replace(wavers=True)])
    assert found.verdict.startswith("It comes and goes")
    assert found.next is not None
    assert found.next.point == odd.point


def test_volts_that_no_cause_explains_are_the_verdict(marten: FaultSimulator) -> None:
    """20 V with the engine off."""
    lamp = next(d for d in marten.network.job.devices if d.kind == "lamp" and not d.plug)
    point = Point.of("voltage", End(lamp.code, lamp.terminals[0]), End(), "run")
    found = Diagnosis(marten.network, [Observation(point, 20.0)], marten)
    assert "Nothing is wrong" not in found.verdict
    assert "20.00 V" in found.verdict


@pytest.mark.parametrize("seed", range(3))
def test_small_resistances_under_current_are_found(marten: FaultSimulator, seed: int) -> None:
    """Joints of 0.15 to 1.2 ohm in wires that carry current, volts read at both their ends: of 35
    of them 27 were "nothing is wrong", 17 among the first 25 causes.
    """
    chance = random.Random(seed)
    sound = marten.solved((), NAMED["run"])
    wires = [
        w
        for w in marten.network.job.wires
        if abs(sound.wire_amps.get(w.code, 0.0)) > 2 and w.start.at and w.finish.at
    ]
    tried = near = 0
    for wire in chance.sample(wires, 8):
        ohm = math.exp(chance.uniform(math.log(0.15), math.log(1.2)))
        faults = (Fault("bad", wire.code, "", ohm),)
        seen = []
        for end in wire.ends:
            point = Point.of("voltage", end, End(), "run")
            shown = marten.predicted(faults, point)
            if isinstance(shown, float):
                seen.append(Observation(point, round(shown + chance.gauss(0, 0.02), 2)))
        found = Diagnosis(marten.network, seen, marten)
        tried += 1
        near += any(
            [c.key for c in one.causes] == [f"bad {wire.code}"] for one in found.ranked[:25]
        )
        if found.verdict.startswith("Nothing is wrong"):
            assert all(fit >= ODD for fit in found._sound)
    assert near >= 0.75 * tried


def test_two_open_wires_are_no_swap_until_it_is_measured_across() -> None:
    """A crushed stretch shows the same as two wires in each other's cavities."""
    network = Network(three())
    seen = [ohms("C1/1", "C2/1", None), ohms("C1/2", "C2/2", None)]
    found = Diagnosis(network, seen)
    assert found.ranked[0].share < 0.95
    keys = [{cause.key for cause in one.causes} for one in found.ranked[:6]]
    assert {"open W1", "open W2"} in keys
    assert found.next is not None
    across = Diagnosis(network, [*seen, ohms("C1/1", "C2/2", None), ohms("C1/2", "C2/1", None)])
    assert {cause.key for cause in across.ranked[0].causes} == {"open W1", "open W2"}
    swapped = Diagnosis(network, [*seen, ohms("C1/1", "C2/2", 0.02), ohms("C1/2", "C2/1", 0.02)])
    assert swapped.ranked[0].causes[0].key.startswith("swap")


@pytest.mark.parametrize("seed", [101, 110, 7])
def test_practice_with_two_faults_always_has_a_complaint(seed: int) -> None:
    """Two faults on one wire may undo each other: nothing was odd, and that raised."""
    made = Round(Network(demo_job("marten")), "two", seed)
    assert made.complaint.count(".") == 2
    first, second = (set(cause.on) for cause in made.hidden.causes)
    assert not first & second


def test_what_is_hidden_for_practice_has_any_resistance() -> None:
    network = Network(demo_job("marten"))
    simulator = FaultSimulator(network, Bench(network.job))
    weights = dict.fromkeys(KINDS, 0.0) | {"high resistance": 1.0}
    shown = {
        fault.ohm
        for seed in range(8)
        for fault in Round(network, "one", seed, weights, simulator).hidden.faults
    }
    assert len(shown) >= 3
    assert not shown & {0.25, 0.5, 0.8, 2.0, 3.0, 8.0, 10.0, 30.0, 150.0}
