"""The wave on a bus, against the transmission lines of ngspice and against worked cases."""

import random
import re
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest

from molvik.circuits.bus.wave import Line, Load, simulate, simulate_each
from molvik.reference.bus import DELAY_NS_PER_M, DRIVER_OHM, DRIVER_V, EDGE_NS, LINE_OHM

END = Load(120.0)
NODE = Load(30_000.0, 50.0)

Topology = tuple[list[Line], dict[str, list[Load]], str]


def straight(*metres: float, ends: tuple[bool, bool] = (True, True)) -> Topology:
    """Return nodes along one line, so far apart, terminated at its ends."""
    names = [f"n{number}" for number in range(len(metres) + 1)]
    lines = [Line(a, b, m) for a, b, m in zip(names, names[1:], metres, strict=False)]
    loads = {name: [NODE] for name in names}
    for name, has in zip((names[0], names[-1]), ends, strict=True):
        if has:
            loads[name] = [NODE, END]
    return lines, loads, names[0]


def stubbed(metres: float, stubs: list[float], *, third: bool = False) -> Topology:
    """Return a line with stubs along it at even distances."""
    lines, loads, sender = straight(*[metres / (len(stubs) + 1)] * (len(stubs) + 1))
    for number, stub in enumerate(stubs, 1):
        lines.append(Line(f"n{number}", f"s{number}", stub))
        loads[f"s{number}"] = [NODE, END] if third and number == 1 else [NODE]
        loads[f"n{number}"] = []
    return lines, loads, sender


def ring(metres: float) -> Topology:
    lines, loads, sender = straight(metres, metres, metres)
    return [*lines, Line("n3", "n0", metres)], loads, sender


CASES: dict[str, tuple[Topology, float]] = {
    "two nodes": (straight(10.0), 1000.0),
    "no length": (straight(0.0), 1000.0),
    "long": (straight(20.0, 20.0), 2000.0),
    "no terminator": (straight(5.0, 5.0, ends=(False, False)), 4000.0),
    "one terminator": (straight(8.0, 2.0, ends=(True, False)), 2000.0),
    "the other": (straight(8.0, 2.0, ends=(False, True)), 2000.0),
    "short stubs": (stubbed(12.0, [0.3, 0.3, 0.3]), 1000.0),
    "long stub": (stubbed(12.0, [5.0]), 2000.0),
    "many stubs": (stubbed(20.0, [1.0, 3.0, 0.5, 2.0, 1.5]), 2000.0),
    "third terminator": (stubbed(10.0, [2.0], third=True), 2000.0),
    "star": (stubbed(0.4, [6.0, 7.0, 8.0]), 4000.0),
    "ring": (ring(4.0), 2000.0),
    "sent from a stub": ((*stubbed(12.0, [3.0, 1.0])[:2], "s1"), 2000.0),
    "slow": (straight(30.0, 10.0), 8000.0),
}


def ngspice(
    topology: Topology, bit_ns: float, folder: Path
) -> dict[str, tuple[np.ndarray, np.ndarray]]:
    """Return times, ns, and volts of every place by ngspice."""
    lines, loads, sender = topology
    program = shutil.which("ngspice")
    assert program, "scripts/setup test installs ngspice"
    names = list(dict.fromkeys([*(p for one in lines for p in one[:2]), *loads]))
    deck = ["bus"]
    for number, line in enumerate(lines):
        delay = line.length_m * DELAY_NS_PER_M
        if delay:
            deck.append(f"T{number} {line.a} 0 {line.b} 0 Z0={LINE_OHM:g} TD={delay:g}n")
        else:
            deck.append(f"R{number}x {line.a} {line.b} 1u")
    for name, hung in loads.items():
        for number, load in enumerate(hung):
            deck.append(f"R{name}q{number} {name} 0 {load.ohm:g}")
            if load.pf:
                deck.append(f"C{name}q{number} {name} 0 {load.pf:g}p")
    delays = [line.length_m * DELAY_NS_PER_M for line in lines if line.length_m]
    step = min(1.0, *(delay / 2 for delay in delays)) if delays else 1.0
    edges = f"0 0 {EDGE_NS}n 1 {bit_ns}n 1 {bit_ns + EDGE_NS}n 0"
    deck += [
        f"Vg gate 0 PWL({edges})",
        f"Bd 0 {sender} I = V(gate)/{DRIVER_OHM:g}*({DRIVER_V:g}-V({sender}))",
        *(f"Rleak{name} {name} 0 1e9" for name in names),
        ".options reltol=1e-4",
        f".tran 1n {2 * bit_ns}n 0 {step:g}n",
        f".print tran {' '.join(f'V({name})' for name in names)}",
        ".end",
    ]
    path = folder / "bus.cir"
    path.write_text("\n".join(deck) + "\n")
    said = subprocess.run(
        [program, "-b", str(path)], capture_output=True, text=True, check=False, timeout=120
    ).stdout
    found: dict[str, list[tuple[float, float]]] = {name: [] for name in names}
    columns: list[str] = []
    for row in said.splitlines():
        words = row.split()
        if row.startswith("Index"):
            columns = [m[1] if (m := re.match(r"v\((\w+)\)", word)) else word for word in words]
        elif re.match(r"\d+\t", row) and columns:
            for name, value in zip(columns[2:], words[2:], strict=False):
                found[name].append((float(words[1]) * 1e9, float(value)))
    return {name: tuple(np.array(points).T) for name, points in found.items()}


@pytest.mark.parametrize("name", CASES)
def test_peaks_and_levels_agree_with_ngspice(name: str, tmp_path: Path) -> None:
    """Peaks, levels before each edge, and the whole course apart from steps: within 3 % of the
    swing.
    """
    topology, bit_ns = CASES[name]
    wave = simulate(*topology, bit_ns)
    spice = ngspice(topology, bit_ns, tmp_path)
    swing = max(np.ptp(volts) for _, volts in spice.values())
    assert swing > 1
    for place, (times, volts) in spice.items():
        own = wave.volts[place]
        assert own.max() == pytest.approx(volts.max(), abs=0.03 * swing), place
        assert own.min() == pytest.approx(volts.min(), abs=0.03 * swing), place
        for when in (0.5, 0.8, 0.99, 1.5, 1.8, 1.98):
            ours = np.interp(when * bit_ns, wave.times_ns, own)
            theirs = np.interp(when * bit_ns, times, volts)
            assert ours == pytest.approx(theirs, abs=0.03 * swing), (place, when)
        course = np.interp(times, wave.times_ns, own) - volts
        assert np.sqrt(np.mean(course**2)) < 0.02 * swing, place


def test_a_terminated_line_has_the_level_of_two_terminators() -> None:
    """By hand: 2.8 V behind 24 ohms into 60 ohms is 2 V."""
    wave = simulate(*straight(10.0), 2000.0)
    for volts in wave.volts.values():
        assert volts[wave.times_ns < 2000][-1] == pytest.approx(2.0, abs=0.005)
        assert volts.max() < 2.3  # what comes back meets the driver's own resistance
        assert volts[-1] == pytest.approx(0.0, abs=0.005)


def test_it_arrives_five_nanoseconds_a_metre_later() -> None:
    wave = simulate(*straight(20.0, 20.0), 2000.0)

    def rises(place: str) -> float:
        return float(wave.times_ns[np.argmax(wave.volts[place] > 0.9)])

    assert rises("n1") - rises("n0") == pytest.approx(100, abs=6)
    assert rises("n2") - rises("n1") == pytest.approx(100, abs=6)


def test_without_terminators_it_does_not_come_to_rest_in_a_bit() -> None:
    wave = simulate(*straight(5.0, 5.0, ends=(False, False)), 1000.0)
    assert max(volts[-1] for volts in wave.volts.values()) > 0.5


@pytest.mark.parametrize("seed", range(6))
def test_energy_never_grows_by_itself(seed: int) -> None:
    """Once the driver lets go, no voltage is ever above the largest there was before."""
    chosen = random.Random(seed)
    lines, loads, _ = stubbed(
        chosen.uniform(1, 30), [chosen.uniform(0.1, 6) for _ in range(chosen.randint(1, 6))]
    )
    sender = chosen.choice([*loads])
    wave = simulate(lines, loads, sender, 1500.0)
    before = max(volts[wave.times_ns <= 1500 + EDGE_NS].max() for volts in wave.volts.values())
    after = max(
        np.abs(volts[wave.times_ns > 1500 + EDGE_NS]).max() for volts in wave.volts.values()
    )
    assert after <= before * 1.05


def test_what_is_not_on_the_line_sends_nothing_and_a_bit_takes_time() -> None:
    lines, loads, _ = straight(3.0)
    with pytest.raises(ValueError, match="is not on this line"):
        simulate(lines, loads, "n9", 1000.0)
    with pytest.raises(ValueError, match="above zero"):
        simulate(lines, loads, "n0", 0.0)
    alone = simulate([], {"n0": [NODE]}, "n0", 1000.0)
    assert alone.volts["n0"].max() == pytest.approx(DRIVER_V, abs=0.01)


@pytest.mark.parametrize("name", ["two nodes", "short stubs", "one terminator"])
def test_several_senders_at_once_come_to_what_each_comes_to(name: str) -> None:
    (lines, loads, _), bit_ns = CASES[name]
    senders = [place for place, hung in loads.items() if hung]
    for sender, wave in zip(senders, simulate_each(lines, loads, senders, bit_ns), strict=True):
        alone = simulate(lines, loads, sender, bit_ns)
        for place, volts in wave.volts.items():
            assert volts == pytest.approx(alone.volts[place], abs=0.02)
