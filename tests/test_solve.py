"""The electrical solution, against worked sums and against ngspice, a published simulator."""

import random
import re
import shutil
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from molvik.electrical.elements import THERMAL_V, Diode, Element, Resistor, Source
from molvik.electrical.solve import Solution, solve

# By hand.


def test_a_voltage_divider() -> None:
    # 12 V over 1 + 3 + 8 ohms is 1 A; 8 V are left over the last.
    found = solve(
        (Source("B", "p", "0", 12, 1), Resistor("R1", "p", "m", 3), Resistor("R2", "m", "0", 8)),
        "0",
    )
    assert found.volts["m"] == pytest.approx(8.0)
    assert found.volts["p"] == pytest.approx(11.0)
    assert found.amps == pytest.approx({"B": 1.0, "R1": 1.0, "R2": 1.0})


def test_sixty_ohms_across_a_line_terminated_at_both_ends() -> None:
    # ISO 11898-2: 120 ohms at each end of one line; a meter's volt and ohm between them.
    line = [Resistor("T1", "h", "l", 120), Resistor("T2", "h2", "l2", 120)]
    line += [Resistor("H", "h", "h2", 0.2), Resistor("L", "l", "l2", 0.2)]
    found = solve([Source("M", "h", "l", 1, 1000), *line], "l")
    ohm = (found.volts["h"] - found.volts["l"]) / found.amps["M"]
    assert ohm == pytest.approx(60, abs=0.15)


def test_a_balanced_bridge_carries_nothing_across() -> None:
    arms = [("p", "a", 2), ("a", "0", 4), ("p", "b", 3), ("b", "0", 6)]
    bridge = [Resistor(f"R{n}", a, b, ohm) for n, (a, b, ohm) in enumerate(arms)]
    found = solve([Source("B", "p", "0", 12, 0.1), *bridge, Resistor("G", "a", "b", 5)], "0")
    assert found.amps["G"] == pytest.approx(0.0, abs=1e-12)


def test_a_short_across_the_battery_is_what_its_resistance_lets_through() -> None:
    found = solve([Source("B", "p", "0", 12.6, 0.01), Resistor("S", "p", "0", 0.0)], "0")
    assert found.amps["B"] == pytest.approx(1260, rel=1e-4)


def test_what_nothing_joins_to_the_battery_floats_and_upsets_nothing() -> None:
    found = solve(
        [
            Source("B", "p", "0", 12, 0.1),
            Resistor("R", "p", "0", 11.9),
            Resistor("F", "x", "y", 5),
        ],
        "0",
    )
    assert found.floating == {"x", "y"}
    assert found.volts["p"] == pytest.approx(11.9)
    assert found.amps["F"] == 0.0
    assert solve([], "0").volts == {"0": 0.0}


@pytest.mark.parametrize(
    "element",
    [
        Resistor("R1", "a", "0", -1),
        Resistor("R1", "a", "0", float("nan")),
        Source("R1", "a", "0", float("inf"), 1),
        Diode("R1", "a", "0", -1),
    ],
)
def test_what_cannot_be_is_refused_by_name(element: Element) -> None:
    rest: list[Element] = [
        Source("B", "b", "0", 12, 0),
        Resistor("R2", "b", "c", 1),
        Resistor("R3", "c", "0", 1),
    ]
    found = solve([element, *rest], "0")
    assert list(found.refused) == ["R1"]
    assert found.volts["c"] == pytest.approx(6.0)  # the rest still works
    assert found.amps["R1"] == 0.0


def test_ten_thousand_nodes_are_solved() -> None:
    chain = [Resistor(f"R{n}", str(n), str(n + 1), 0.01) for n in range(10_000)]
    found = solve([Source("B", "0", "10000", 12, 20), *chain], "10000")
    assert found.volts["5000"] == pytest.approx(12 / 120 * 50)


# Against ngspice (Debian's package), which a maintainer can install with scripts/setup.


@given(st.integers(0, 10_000), st.integers(20, 250), st.floats(0.8, 2.5))
def test_a_network_that_runs_anywhere_is_solved_as_a_full_matrix_is(
    seed: int, nodes: int, dense: float
) -> None:
    """Against numpy's solver for full matrices, to 1e-9."""
    import numpy

    chance = random.Random(seed)
    pairs = [(n, chance.randrange(n)) for n in range(1, nodes)]
    pairs += [(chance.randrange(nodes), chance.randrange(nodes)) for _ in range(int(nodes * dense))]
    ohms = [10 ** chance.uniform(-3, 3) for _ in pairs]
    made: list[Element] = [
        Resistor(f"R{at}", str(a), str(b), ohm)
        for at, ((a, b), ohm) in enumerate(zip(pairs, ohms, strict=True))
    ]
    made.append(Source("B", str(nodes - 1), "0", 12.6, 0.01))
    matrix, right = numpy.zeros((nodes, nodes)), numpy.zeros(nodes)
    for (a, b), ohm in (*zip(pairs, ohms, strict=True), ((nodes - 1, 0), 0.01)):
        if a != b:
            matrix[a, a] += 1 / ohm
            matrix[b, b] += 1 / ohm
            matrix[a, b] -= 1 / ohm
            matrix[b, a] -= 1 / ohm
    right[nodes - 1] = 12.6 / 0.01
    full = numpy.linalg.solve(matrix[1:, 1:], right[1:])
    found = solve(made, "0").volts
    assert [found[str(n)] for n in range(1, nodes)] == pytest.approx(full, rel=1e-9, abs=1e-9)


def as_spice(elements: list[Element], path: Path) -> None:
    """Write a network as a netlist that prints every voltage to ten figures."""
    lines = ["molvik"]
    for one in elements:
        match one:
            case Resistor():
                lines.append(f"R{one.name} {one.a} {one.b} {max(one.ohm, 1e-7):.12g}")
            case Source():
                lines.append(f"V{one.name} {one.plus} {one.name}_ {one.volts:.12g}")
                lines.append(f"R{one.name} {one.name}_ {one.minus} {one.ohm:.12g}")
            case Diode():
                lines.append(f"D{one.name} {one.anode} {one.cathode} M{one.name}")
                lines.append(
                    f".model M{one.name} D(IS={one.saturation_a:.12g} N={one.emission:.12g})"
                )
    lines += [
        ".options reltol=1e-9 abstol=1e-15 vntol=1e-12 gmin=1e-12",
        ".control",
        "set numdgt=12",
        "op",
        "print all",
        ".endc",
        ".end",
    ]
    path.write_text("\n".join(lines) + "\n")


def spice(elements: list[Element], folder: Path) -> dict[str, float]:
    """Return the node voltages that ngspice finds."""
    program = shutil.which("ngspice")
    assert program, "scripts/setup test installs ngspice"
    path = folder / "net.cir"
    as_spice(elements, path)
    done = subprocess.run([program, "-b", str(path)], capture_output=True, text=True, check=False)
    found = re.findall(r"^v?\(?(n\d+)\)? = (\S+)$", done.stdout, re.MULTILINE)
    assert found, done.stdout + done.stderr
    return {node: float(value) for node, value in found}


def network(seed: int) -> list[Element]:
    """Return a made-up loom: batteries, wires of milliohms, loads, now and then a diode."""
    chance = random.Random(seed)
    size = chance.randrange(4, 30)
    nodes = ["0", *(f"n{n}" for n in range(1, size))]
    elements: list[Element] = [Source("b", "n1", "0", 12.6, 0.012)]
    for n, node in enumerate(nodes[1:], start=1):  # so that everything hangs together
        elements.append(Resistor(f"t{n}", node, chance.choice(nodes[:n]), chance.uniform(1e-3, 5)))
    for n in range(size):
        a, b = chance.sample(nodes, 2)
        elements.append(Resistor(f"w{n}", a, b, 10 ** chance.uniform(-3, 3)))
    for n in range(chance.randrange(0, 4)):
        a, b = chance.sample(nodes, 2)
        saturation, emission = 10 ** chance.uniform(-14, -9), chance.uniform(1, 2)
        elements.append(Diode(f"d{n}", a, b, saturation, emission))
    if seed % 3 == 0:
        elements.append(Source("a", nodes[-1], "0", 14.4, 0.03))
    return elements


B12 = Source("b", "n1", "0", 12, 0.01)
B124 = Source("b", "n1", "0", 12.4, 0.01)
HAND_MADE: list[list[Element]] = [
    [B12, Resistor("1", "n1", "n2", 0.004), Resistor("2", "n2", "0", 0.5)],
    # A charge lamp between battery and an alternator that stands, then one that charges.
    [B124, Resistor("l", "n1", "n2", 48), Resistor("f", "n2", "0", 9)],
    [
        B124,
        Source("g", "n2", "0", 14.4, 0.03),
        Resistor("l", "n1", "n2", 48),
        Resistor("c", "n1", "n2", 0.005),
    ],
    # A relay coil with its diode, and a lamp of light-emitting kind behind a resistor.
    [
        B12,
        Resistor("k", "n1", "n2", 90),
        Diode("d", "n2", "n1", 1e-9, 1.8),
        Resistor("s", "n2", "0", 0.05),
    ],
    [B12, Resistor("r", "n1", "n2", 560), Diode("d", "n2", "0", 1e-18, 2)],
]


@pytest.mark.parametrize("case", range(35))
def test_voltages_agree_with_ngspice(case: int, tmp_path: Path) -> None:
    elements = HAND_MADE[case] if case < len(HAND_MADE) else network(case)
    ours, theirs = solve(elements, "0"), spice(elements, tmp_path)
    largest = max(abs(value) for value in theirs.values())
    assert theirs.keys() >= {node for node in ours.volts if node != "0"}
    for node, value in theirs.items():
        assert ours.volts[node] == pytest.approx(value, rel=1e-6, abs=1e-6 * largest)


# What holds for any network.


@given(st.integers(0, 10_000))
def test_what_flows_into_a_node_flows_out_of_it(seed: int) -> None:
    elements = network(seed)
    found = solve(elements, "0")
    assert balance(elements, found) < 1e-6


def balance(elements: list[Element], found: Solution) -> float:
    """Return the largest current that is lost at a node, as a share of the largest there is."""
    sums: dict[str, float] = {}
    for one in elements:
        match one:
            case Resistor():
                begin, end = one.a, one.b
            case Source():
                begin, end = one.minus, one.plus
            case Diode():
                begin, end = one.anode, one.cathode
        sums[begin] = sums.get(begin, 0.0) - found.amps[one.name]
        sums[end] = sums.get(end, 0.0) + found.amps[one.name]
    most = max(abs(value) for value in found.amps.values())
    return max(abs(value) for value in sums.values()) / most


def test_the_thermal_voltage_is_that_of_27_degrees() -> None:
    # CODATA 2018: k = 1.380649e-23 J/K, q = 1.602176634e-19 C.
    assert pytest.approx(1.380649e-23 * 300.15 / 1.602176634e-19, rel=1e-6) == THERMAL_V
