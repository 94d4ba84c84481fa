"""How long the wave on a bus takes, beside ngspice on the same case: make bench."""

import sys
import time
from pathlib import Path
from typing import Any

import pytest

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from molvik.circuits.bus.wave import simulate
from test_bus_wave import CASES, ngspice


@pytest.mark.parametrize("name", ["long", "many stubs", "slow"])
def test_the_wave_of_a_bit_against_ngspice(benchmark: Any, name: str, tmp_path: Path) -> None:
    topology, bit_ns = CASES[name]
    begin = time.perf_counter()
    ngspice(topology, bit_ns, tmp_path)
    spice_s = time.perf_counter() - begin
    benchmark(lambda: simulate(*topology, bit_ns))
    benchmark.extra_info["ngspice_s"] = round(spice_s, 3)
    print(f"{name}: ngspice {spice_s:.3f} s, {spice_s / benchmark.stats['mean']:.1f} times ours")
