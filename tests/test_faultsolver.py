"""The network near the sound one, held against the same network solved in full."""

import math
import random
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy
import pytest
from msgspec.structs import replace

from molvik import devices
from molvik.circuits.behaviour import working
from molvik.circuits.faultsolver import FaultPoint, FaultSolver
from molvik.circuits.simulate import OperatingPoint
from molvik.demo import demo_job
from molvik.devices.kind import Acting, DeviceStates, Kind, across
from molvik.devices.nodes import Vehicle, owner_of
from molvik.devices.states import CRANK, RUN, RUNNING, Fault, State
from molvik.electrical.solve import Solution
from molvik.model.job import Job
from molvik.model.parts import Device, End, Wire, WireSize
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.causes import causes
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.scoring import get_ready
from test_alive import job_of

sys.path.insert(0, str(Path(__file__).parent.parent / "benchmarks"))
from large import large_job

OFF_V = 0.03
"""What a diode's curve, taken for straight, may be off; readings are held against 0.15 V."""


@pytest.mark.parametrize(
    ("name", "state", "every"),
    [
        ("marten", RUN, 6),
        ("marten", CRANK, 14),
        ("marten", RUNNING, 14),
        ("plover", RUN, 1),
        ("plover", RUNNING, 3),
    ],
)
def test_any_fault_shows_what_the_whole_solution_shows(name: str, state: State, every: int) -> None:
    """Voltages at every node, which nodes float, what works and which fuses blow."""
    network = Network(demo_job(name))
    rest = FaultSolver(OperatingPoint(network, RUN)) if state is RUNNING else None
    solver = FaultSolver(OperatingPoint(network, state), rest=rest)
    stood = {d.code: solver.faulty(frozenset()).stands(d.code) for d in network.job.devices}
    tried = quick = other = 0
    for cause in causes(network)[::every]:
        for fault in (*cause.faults[:1], *cause.faults[3:4]):
            found = solver.faulty(frozenset({fault}))
            whole = OperatingPoint(network, state._replace(faults=frozenset({fault})))
            tried += 1
            quick += isinstance(found, FaultPoint)
            if (found.on, set(found.blown)) != (whole.on, set(whole.blown)):
                other += 1  # a relay at the edge, a fuse that blows in the one order only
                continue
            for node in solver.index:
                one, wanted = found.solution.volts.get(node), whole.solution.volts.get(node)
                if wanted is None:
                    assert one is None, (str(fault), node)
                else:
                    assert one == pytest.approx(wanted, abs=OFF_V), (str(fault), node)
            for device in network.job.devices:
                load = whole.load.get(device.code)
                assert found.stands(device.code) == (load.state if load else ""), str(fault)
            stands = {code: found.stands(code) for code in stood}
            assert stood | found.otherwise(stood) == stands, str(fault)
    assert other <= 0.01 * tried
    assert quick >= (0.75 if state is RUNNING else 0.9) * tried, "most are not solved in full"


@pytest.mark.parametrize("name", ["marten", "plover"])
def test_what_is_open_or_stuck_stands_otherwise_however_little_moves(name: str) -> None:
    """A device that takes next to nothing moves no voltage when it is open; a relay that is stuck
    moves none of its coil.
    """
    network = Network(demo_job(name))
    solver = FaultSolver(OperatingPoint(network, RUN))
    stood = {d.code: solver.faulty(frozenset()).stands(d.code) for d in network.job.devices}
    for device in network.job.devices:
        for kind in ("open", "stuck"):
            found = solver.faulty(frozenset({Fault(kind, device.code)}))
            stands = {code: found.stands(code) for code in stood}
            assert stood | found.otherwise(stood) == stands, (kind, device.code)


def test_a_lamp_that_takes_next_to_nothing_is_dead_when_it_is_open() -> None:
    """0.2 mA move no voltage that anything else is told by."""
    job = demo_job("marten")
    small = tuple(
        replace(one, values=(("A", 0.0002),)) if one.kind == "lamp" else one for one in job.devices
    )
    solver = FaultSolver(OperatingPoint(Network(replace(job, devices=small)), RUN))
    stood = {one.code: solver.faulty(frozenset()).stands(one.code) for one in small}
    lamps = [one.code for one in small if one.kind == "lamp" and stood[one.code] == "alive"]
    assert lamps
    for code in lamps:
        found = solver.faulty(frozenset({Fault("open", code)})).otherwise(stood)
        assert found.get(code) == "dead"


@pytest.mark.parametrize("seed", range(8))
def test_many_cavities_swapped_at_once_are_as_the_whole_solution_has_them(seed: int) -> None:
    """A wire with both its ends in swapped cavities is moved once."""
    chance = random.Random(seed)
    network = Network(demo_job("marten"))
    wired = sorted((end for end in network.wires_at if end.cavity), key=str)
    both_ends = chance.choice([w for w in network.job.wires if w.start.cavity and w.finish.cavity])
    some = [*both_ends.ends, *chance.sample([e for e in wired if e not in both_ends.ends], 6)]
    chance.shuffle(some)
    pairs = zip(some[::2], some[1::2], strict=True)
    faults = frozenset(Fault("swap", str(a), str(b)) for a, b in pairs)
    solver = FaultSolver(OperatingPoint(network, RUN))
    found = solver.faulty(faults)
    whole = OperatingPoint(network, RUN._replace(faults=faults))
    assert (found.on, set(found.blown)) == (whole.on, set(whole.blown))
    for node, wanted in whole.solution.volts.items():
        assert found.solution.volts.get(node) == pytest.approx(wanted, abs=OFF_V), node


def test_what_is_put_beside_the_network_follows_what_works() -> None:
    """Where a computer is dead, what it puts on its cavities is gone."""
    from molvik.proving.bench import Bench
    from molvik.proving.faultsimulator import FaultSimulator

    network = Network(demo_job("marten"))
    simulator = FaultSimulator(network, Bench(network.job))
    sound = simulator.solved((), RUN).solution.volts
    assert sound["C2/27"] == pytest.approx(2.66, abs=0.05), "5 V through 2.2 and 2.5 kilohms"
    off = simulator.solved((Fault("open", "W33"),), RUN).solution.volts
    assert off["C2/27"] == pytest.approx(5.0, abs=0.05)
    dead = simulator.solved((Fault("open", "W13"),), RUN)
    assert "D11" not in dead.on
    assert dead.solution.volts.get("C2/27", 0.0) == pytest.approx(0.0, abs=0.05)


@pytest.mark.parametrize("state", [RUN, CRANK])
def test_what_stands_as_before_is_what_is_worked_out_anew(state: State) -> None:
    """Of every device, with what computers put on their cavities."""
    from molvik.proving.bench import Bench
    from molvik.proving.faultsimulator import FaultSimulator

    network = Network(demo_job("marten"))
    simulator = FaultSimulator(network, Bench(network.job))
    asked = 0
    for cause in causes(network)[::9]:
        found = simulator.solved(cause.faults[:1], state)
        for device in network.job.devices:
            asked += 1
            anew = OperatingPoint.stands(found, device.code)
            assert found.stands(device.code) == anew, (str(cause.faults[0]), device.code)
    assert asked > 1000


def small(*parts: tuple[Device, str, str]) -> Network:
    """Return a battery with what lies between two nodes each: D1/+ is its plus, D1/- its minus."""
    devices = [Device("D1", "Battery", "battery", ("+", "-"))]
    wires: list[Wire] = []
    for device, plus, minus in parts:
        devices.append(device)
        names = ("86", "85") if device.kind == "relay" else device.terminals
        for end, name in ((plus, names[0]), (minus, names[1])):
            wires.append(
                Wire(
                    f"W{len(wires) + 1}",
                    End.of(end),
                    End(device.code, name),
                    size=WireSize("metric", 1.0),
                    length_m=1.0,
                )
            )
    return Network(Job("x", devices=tuple(devices), wires=tuple(wires)))


def both(network: Network, fault: Fault) -> tuple[OperatingPoint, OperatingPoint]:
    found = FaultSolver(OperatingPoint(network, RUN)).faulty(frozenset({fault}))
    return found, OperatingPoint(network, RUN._replace(faults=frozenset({fault})))


def test_a_relay_that_would_only_hold_is_not_taken_for_pulled_in() -> None:
    """A coil of 90 ohms behind 120 has 5.4 V: it would hold with that, but does not pull in."""
    relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"))
    found, whole = both(small((relay, "D1/+", "D1/-")), Fault("bad", "W1", "", 120.0))
    assert found.solution.volts["K1/86"] == pytest.approx(12.6 * 90 / 210, abs=0.1)
    assert "K1" not in whole.on
    assert found.on == whole.on


def test_a_relay_that_is_taken_out_is_not_pulled_in_though_its_feed_is_there() -> None:
    relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"))
    found, whole = both(small((relay, "D1/+", "D1/-")), Fault("open", "K1"))
    assert isinstance(found, FaultPoint)
    assert found.on == whole.on == frozenset()


def test_a_diode_that_carries_much_less_is_not_taken_for_straight() -> None:
    """Without the lamp a thousandth of the current is left: the diode holds 0.3 V less."""
    parts = (
        (Device("D2", "Diode", "diode", ("+", "-")), "D1/+", "D3/+"),
        (Device("D4", "Lamp", "lamp", ("+", "-")), "D3/+", "D1/-"),
        (
            Device("D3", "Resistor", "resistor", ("+", "-"), values=(("ohm", 10_000.0),)),
            "D3/+",
            "D1/-",
        ),
    )
    network = small(*parts)
    found, whole = both(network, Fault("open", "D4"))
    lit = OperatingPoint(network, RUN).solution.volts["D3/+"]
    assert whole.solution.volts["D3/+"] > lit + 0.2
    assert found.solution.volts["D3/+"] == pytest.approx(whole.solution.volts["D3/+"], abs=1e-3)


@pytest.mark.parametrize("others", [False, True])
def test_a_diode_that_is_open_carries_nothing(others: bool) -> None:
    """However much then lies across it, and whatever other diodes are off their lines by that:
    what it alone feeds is dead.
    """
    parts = [
        (Device("D2", "Diode", "diode", ("+", "-")), "D1/+", "D3/+"),
        (Device("D3", "Lamp", "lamp", ("+", "-")), "D3/+", "D1/-"),
    ]
    if others:
        parts += [
            (Device("D4", "LED", "LED", ("+", "-")), "D3/+", "D1/-"),
            (Device("D5", "Diode", "diode", ("+", "-")), "D3/+", "D6/+"),
            (Device("D6", "Lamp", "lamp", ("+", "-")), "D6/+", "D1/-"),
        ]
    found, whole = both(small(*parts), Fault("open", "D2"))
    assert isinstance(found, FaultPoint)
    assert found.stands("D3") == whole.stands("D3") == "dead"
    for name in ("D2", "D3", *(("D4", "D5", "D6") if others else ())):
        assert found.solution.amps[name] == pytest.approx(0.0, abs=1e-6), name
    assert found.solution.volts.get("D3/+", 0.0) == pytest.approx(0.0, abs=1e-3)


@pytest.mark.parametrize("state", [RUN, CRANK])
def test_within_its_bounds_every_device_stands_as_it_does(state: State) -> None:
    """What is said of thresholds in two places is one: at any voltages that keep the bounds, what
    works from rest is what works now; past one of them, that device does not.
    """
    point = OperatingPoint(Network(demo_job("marten")), state)
    found = FaultSolver(point)
    assert len(found.bounds.a) > 5
    nodes = sorted(found.index, key=lambda node: found.index[node])
    floats = numpy.zeros(len(nodes), bool)
    # Batteries and alternators go by currents, which are left as they are.
    rest = point.device_states._replace(
        on=frozenset(
            one
            for one in point.on
            if owner_of(one.split(" ")[0]) not in found.acting or " charging" in one
        )
    )

    def works(volts: Any) -> frozenset[str]:
        named = dict(zip(nodes, map(float, volts), strict=True))
        solution = point.solution._replace(volts=named)
        return working(point.wiring, state, rest, solution).on

    chosen, kept = numpy.random.default_rng(5), 0
    for _ in range(400):
        volts = found.volts + chosen.normal(0, chosen.choice([0.05, 0.5, 2]), len(nodes))
        if not found.bounds.passed(volts, floats):
            kept += 1
            assert works(volts) == point.on
    assert 20 < kept < 400
    for _, a, b, low, high in zip(*found.bounds, strict=True):
        for edge, out in ((low, -0.01), (high, 0.01)):
            if not math.isfinite(edge):
                continue
            volts = found.volts.copy()
            volts[a] = volts[b] + edge - out
            inside = not found.bounds.passed(volts, floats)
            volts[a] = volts[b] + edge + out
            assert found.bounds.passed(volts, floats), "past it by a hundredth of a volt"
            if inside:
                assert works(volts) != point.on, nodes[a]


@pytest.mark.parametrize("state", [RUN, RUNNING])
def test_diodes_that_turn_on_or_off_need_no_whole_solution(state: State) -> None:
    """LEDs and diodes across coils, all round what is wrong: each stays on its curve."""
    network = Network(large_job(180))
    rest = FaultSolver(OperatingPoint(network, RUN)) if state is RUNNING else None
    solver = FaultSolver(OperatingPoint(network, state), rest=rest)
    assert sum(kind == "LED" for kind in (d.kind for d in network.job.devices)) > 3
    tried = quick = moved = 0
    for cause in causes(network)[::3]:
        for fault in cause.faults[:2]:
            found = solver.faulty(frozenset({fault}))
            whole = OperatingPoint(network, state._replace(faults=frozenset({fault})))
            tried += 1
            quick += isinstance(found, FaultPoint)
            if (found.on, set(found.blown)) != (whole.on, set(whole.blown)):
                moved += 1
                continue
            for node in solver.index:
                one, wanted = found.solution.volts.get(node), whole.solution.volts.get(node)
                assert one == (wanted if wanted is None else pytest.approx(wanted, abs=OFF_V))
            for device in network.job.devices:
                if device.kind == "LED":
                    one = abs(found.solution.amps.get(device.code, 0.0))
                    assert one == pytest.approx(
                        abs(whole.solution.amps.get(device.code, 0.0)), abs=2e-3
                    )
                    assert found.stands(device.code) == whole.stands(device.code), str(fault)
    assert moved <= 0.02 * tried
    assert quick >= (0.94 if state is RUNNING else 0.97) * tried


@dataclass(frozen=True, kw_only=True, eq=False)
class _Sleeper(Kind):
    """It acts by a voltage, as a relay does, and nobody wrote down between which it stays."""

    acts: bool = True
    is_pulled: bool = True
    by_acting: bool = True

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        if across(solution, *self.ends(vehicle, device)) > 6.0:
            found.on.add(device.code)


def test_what_acts_and_says_no_bounds_is_asked_each_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """Within the bounds of all others it goes by what it gets, as in the whole solution."""
    kind = _Sleeper(name="sleeper", figures={"A": 0.5})
    monkeypatch.setitem(devices._FOUND, kind.name, kind)
    job = job_of("D1/+ D3/+, D3/- D1/-", Device("D3", "Sleeper", "sleeper", ("+", "-")))
    solver = FaultSolver(OperatingPoint(Network(job), RUN))
    assert "D3" in solver.point.on
    assert solver.unbound >= {"D1", "D3"}
    for fault in (Fault("open", "W1"), Fault("bad", "W2", "", 100.0)):
        found = solver.faulty(frozenset({fault}))
        whole = OperatingPoint(Network(job), RUN._replace(faults=frozenset({fault})))
        assert found.on == whole.on == frozenset()


def test_what_feeds_many_is_played_through_first() -> None:
    """A main fuse before two lamps and a telltale: what carries a twentieth of it all, and no
    more.
    """
    job = job_of(
        "D1/+ F1/in, F1/out D3/+, D3/- E1, F1/out D4/+, D4/- E1, F1/out D5/+, D5/- E1, E1 D1/-",
        Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 5.0),)),
        Device("D4", "Lamp", "lamp", ("+", "-"), values=(("A", 5.0),)),
        Device("D5", "Telltale", "lamp", ("+", "-"), values=(("A", 0.1),)),
    )
    simulator = FaultSimulator(Network(job), Bench(job))
    get_ready(simulator, RUN, main_only=True)
    telltale = {wire.code for wire in job.wires if "D5" in (wire.start.at, wire.finish.at)}
    every = simulator.causes(simulator.network)
    alone = {fault for one in every if set(one.on) <= telltale for fault in one.faults}
    played = {fault for faults, _ in simulator._solved for fault in faults}
    parts = {part for fault in played for part in simulator.parts_of(fault)}
    assert {"F1", "W1"} <= parts
    assert alone
    assert played.isdisjoint(alone)
