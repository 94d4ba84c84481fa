"""How long the diagram of a whole job takes: make bench."""

from typing import Any

import pytest

from large import large_job
from molvik.circuits.diagram.tracks import diagram
from molvik.netlist.network import Network


@pytest.mark.parametrize("wires", [137, 400, 2000])
def test_the_diagram_of_a_job(benchmark: Any, wires: int) -> None:
    network = Network(large_job(wires))
    assert network.net_of
    benchmark.pedantic(lambda: diagram(network), rounds=3)
