"""Crossover. Targets: 300 cavities planned in 50 ms, 300 functions matched in 300 ms."""

import random
from typing import Any

import pytest

from molvik.analysis import Analysis
from molvik.crossover.order import order
from molvik.crossover.repinplan import RepinPlan
from molvik.model import crossover_edits
from molvik.model.crossover import RepinSet
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Grid, Pin, Wire

THINGS = (
    "injector",
    "coil",
    "temperature",
    "pressure",
    "relay driver",
    "lamp",
    "sensor signal",
    "sensor return",
    "switch",
    "heater",
    "valve",
    "supply",
)
PLACES = ("front", "rear", "left", "right", "gearbox", "tank", "cabin", "roof", "axle")


@pytest.fixture(scope="module")
def large() -> Job:
    """Return a job with two housings of 300 cavities, each with a function in every cavity."""
    chance = random.Random(1)
    names = [
        f"{chance.choice(PLACES)} {chance.choice(THINGS)} {chance.randrange(1, 40)}"
        for _ in range(300)
    ]
    turned = random.Random(2).sample(names, 300)
    pins = [tuple(Pin(str(n), name) for n, name in enumerate(row, 1)) for row in (names, turned)]
    grid = Grid(10, 30)
    connectors = (
        Connector("C1", "One", grid, pins=pins[0]),
        Connector("C2", "Two", grid, pins=pins[1]),
    )
    wires = tuple(Wire(f"W{n}", End("C1", str(n)), End("C1", "")) for n in range(1, 301))
    job = Job("x", connectors=connectors, wires=wires)
    return crossover_edits.add(job, RepinSet("", "x", ("C1",), "C2"))


def test_match_300_functions_against_300(benchmark: Any, large: Job) -> None:
    from molvik.parsing.functions.words import said

    network = Analysis(large).network
    assert network.wires_at

    def match() -> int:
        said.cache_clear()
        return len(RepinPlan(network, large.repins[0]).matches)

    assert benchmark(match) == 300


def test_order_300_moves(benchmark: Any) -> None:
    seated = [f"C1/{n}" for n in range(300)]
    ends = random.Random(3).sample(seated, 300)
    moves = {a: b for a, b in zip(seated, ends, strict=True) if a != b}
    rank = {place: (0, n // 30, n % 30) for n, place in enumerate(seated)}
    ops, blocked = benchmark(order, moves, (), (), seated, rank)
    assert len(ops) >= len(moves)
    assert not blocked


def test_plan_300_cavities_with_their_steps(benchmark: Any, large: Job) -> None:
    network = Analysis(large).network
    found = RepinPlan(network, large.repins[0]).matches

    def plan() -> int:
        made = RepinPlan(network, large.repins[0])
        made.matches = found  # measured above
        return len(made.steps)

    assert benchmark(plan) >= 250


def test_read_a_table_of_5000_rows(benchmark: Any) -> None:
    from molvik.parsing.tables import RawRow, RawTable
    from molvik.pinouts.columns import find_columns
    from molvik.pinouts.table import read_table

    lines = [("Pin", "Function", "Colour", "Size")]
    lines += [(str(n), f"Signal {n}", "R/W", "0.5") for n in range(1, 5001)]
    raw = RawTable("t", tuple(RawRow(n, cells) for n, cells in enumerate(lines, 1)))
    assert len(benchmark(lambda: read_table(raw, find_columns(raw))).rows) == 5000
