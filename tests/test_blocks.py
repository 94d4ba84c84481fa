"""Blocks: laid into an empty job and into the demo, each is alive where it should be."""

import functools
import itertools
import random
import re

import pytest

from conftest import found
from molvik.analysis import Analysis
from molvik.blocks.arrangements import BLOCKS, ONE_PAIR, lay
from molvik.blocks.chargers import ARRANGEMENTS
from molvik.circuits.scenario import go_through, scenarios, states_of
from molvik.devices.states import CRANK, ISOLATED, KEY_OFF_RUNNING, OFF, PRIME, RUN, RUNNING
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job, Settings
from molvik.model.parts import Connector, Grid

EMPTY = Job("x")
KEY_ON = {"first seconds", "run", "crank", "running"}
ALWAYS = {"off", *KEY_ON}
TURNING = {"crank", "running"}
STATES = (OFF, PRIME, RUN, CRANK, RUNNING)

WANTED = [
    ("Relay feed", {}, {"Load": KEY_ON, "Load relay": KEY_ON}),
    ("Fused feed", {}, {"Load": ALWAYS}),
    ("Key feed", {}, {"Load": KEY_ON}),
    ("Engine computer, main relay", {"name": "ECU"}, {"ECU": ALWAYS, "Main relay": KEY_ON}),
    ("Fuel pump", {"name": "Pump"}, {"Pump": {"first seconds", *TURNING}, "Pump timer": KEY_ON}),
    ("Fuel pump", {"name": "Pump", "by": "key alone"}, {"Pump": KEY_ON}),
    ("Fans", {}, {"Fan": KEY_ON}),
    ("Fans", {"many": "two"}, {"Fan, low": KEY_ON, "Fan, high": KEY_ON}),
    ("Starter", {}, {"Starter": {"crank"}}),
    ("Starter", {"by": "push button"}, {"Starter": {"crank"}}),
    ("Starter", {"by": "helper relay"}, {"Starter": {"crank"}, "Start relay": {"crank"}}),
    ("Charging", {}, {"Charge lamp": KEY_ON - {"running"}, "Alternator": {"running"}}),
    ("Charging", {"by": "resistor"}, {"Alternator": {"running"}}),
    *(
        ("Charging", {"by": by}, {"Charge lamp": KEY_ON - {"running"}, name: {"running"}})
        for by, name in (
            ("lamp and sense wire", "Alternator"),
            ("engine computer", "Alternator"),
            ("regulator beside it", "Alternator"),
            ("dynamo", "Dynamo"),
        )
    ),
    ("Isolator", {}, {}),
    ("Isolator", {"contacts": ONE_PAIR}, {}),
    (
        "Run stand",
        {},
        {
            "Starter": {"crank"},
            "Ignition coil": KEY_ON,
            "Oil lamp": KEY_ON - {"running"},
            "Alternator": {"running"},
        },
    ),
    (
        "Standalone engine computer",
        {},
        {"Injector 4": TURNING, "Coil 2": TURNING, "Main relay": KEY_ON, "Throttle sensor": ALWAYS},
    ),
    ("Sensor, screened cable", {}, {"Engine computer": ALWAYS}),
]


THERE_ALREADY = {
    ("Starter", ""),
    ("Run stand", ""),
    *(("Charging", by) for by in ("", *ARRANGEMENTS) if by != "resistor"),
}
"""The demo has its starter and its charge lamp."""


VOLTS = (6.0, 12.0, 24.0)


@functools.lru_cache(2)
def told(job: Job) -> set[str]:
    """Every stop and every look."""
    return {one.key for every in found(job).values() for one in every if one.severity != "note"}


def empty(volts: float) -> Job:
    return Job("x", settings=Settings(system_v=volts))


def laid(job: Job, title: str, answers: dict[str, str]) -> Job:
    """Lay a block, or leave it where another is there already, as the window says."""
    try:
        return lay(job, title, answers)
    except EditError as error:
        if not re.search("already|begins with an empty job|no free second contacts", str(error)):
            raise
        return job


@pytest.mark.parametrize("volts", VOLTS)
@pytest.mark.parametrize(("title", "answers", "wanted"), WANTED)
def test_a_block_in_an_empty_job_is_alive_where_it_should_be_and_passes_its_own_check(
    title: str, answers: dict[str, str], wanted: dict[str, set[str]], volts: float
) -> None:
    job = lay(empty(volts), title, answers)
    assert not told(job)
    analysis = Analysis(job)
    by_name = {one.name: one.code for one in job.devices}
    for name, states in wanted.items():
        point = {
            state.name
            for state in STATES
            if analysis.operating_point(state).load[by_name[name]].state == "alive"
        }
        assert point == states, name


@pytest.mark.parametrize(("title", "answers", "wanted"), WANTED)
def test_a_block_in_the_demo_raises_nothing_that_was_not_there(
    demo: Job, title: str, answers: dict[str, str], wanted: dict[str, set[str]]
) -> None:
    if (title, answers.get("by", "")) in THERE_ALREADY:
        with pytest.raises(EditError, match="already"):
            lay(demo, title, answers)
        return
    job = lay(demo, title, answers)
    before = {one.code for one in demo.devices}
    assert not told(job) - told(demo)
    analysis = Analysis(job)
    new = {one.name: one.code for one in job.devices if one.code not in before}
    for name, states in wanted.items():
        if name in new and states != {"running"}:
            for state in (RUN, CRANK):
                point = analysis.operating_point(state).load[new[name]].state == "alive"
                assert point == (state.name in states), (name, state.name)


def test_every_block_is_in_the_list_above() -> None:
    new = {title: block for title, block in BLOCKS.items() if not block.alters}
    assert {title for title, *_ in WANTED} == set(new)
    for block in new.values():
        asked = [ask.choices for ask in block.asks if ask.choices]
        told = [a for title, a, _ in WANTED if title == block.title]
        assert len(told) == len(list(itertools.product(*asked)))


def threes() -> list[tuple[int, ...]]:
    """Return threes of blocks in which every two of them come together, about as few as do: always
    the three with the most pairs that are still missing.
    """
    numbers = range(len(WANTED))
    missing = set(itertools.combinations(numbers, 2))
    found: list[tuple[int, ...]] = []
    while missing:
        found.append(
            max(
                itertools.combinations(numbers, 3),
                key=lambda three: len(missing.intersection(itertools.combinations(three, 2))),
            )
        )
        missing.difference_update(itertools.combinations(found[-1], 2))
    return found


THREES = threes()


@pytest.mark.parametrize("at", range(len(THREES)))
def test_any_two_blocks_pass_their_check_together(at: int) -> None:
    """Every pair, with a third, in one order and at one voltage, in turn; make torture draws from
    all of them.
    """
    job = empty(VOLTS[at % 3])
    for number in THREES[at][:: 1 if at % 2 else -1]:
        job = laid(job, *WANTED[number][:2])
    assert not told(job)


@pytest.mark.parametrize("seed", range(2))
def test_all_blocks_pass_their_check_in_any_order(seed: int) -> None:
    chance = random.Random(seed)
    order = [one for one in WANTED if one[0] != "Run stand" or seed % 4 == 0]
    chance.shuffle(order)
    job = empty(VOLTS[seed % 3])
    for title, answers, _ in order:
        job = laid(job, title, answers)
    assert len(job.wires) > 90
    assert not told(job)


@pytest.mark.parametrize(
    "order", list(itertools.permutations(("Charging", "Isolator", "Engine computer, main relay")))
)
def test_an_isolator_stops_an_engine_with_a_computer_and_charging(order: tuple[str, ...]) -> None:
    job = EMPTY
    for title in order:
        job = lay(job, title)
    assert not told(job)


def test_a_run_stand_cranks_starts_and_stops_on_its_isolator_and_its_key() -> None:
    job = lay(EMPTY, "Run stand")
    told = {one.name: one for one in scenarios(job)}
    network = Analysis(job).network
    for name, last in (
        ("start and stop with the key", "stops"),
        ("stop with the isolator", "stops"),
    ):
        engine = [step.engine for step in go_through(network, states_of(told[name]))]
        assert "turns and starts" in engine
        assert "runs" in engine
        assert engine[-1].startswith(last)


def test_an_isolator_put_into_the_demo_stops_its_engine(demo: Job) -> None:
    assert not Analysis(demo).operating_point(ISOLATED).lost
    assert Analysis(lay(demo, "Isolator")).operating_point(ISOLATED).lost


def test_a_charge_lamp_with_its_diode_does_not_keep_the_engine_alive() -> None:
    job = lay(lay(lay(EMPTY, "Starter"), "Charging"), "Engine computer, main relay")
    assert "K1" in Analysis(job).operating_point(RUNNING).on
    assert "K1" not in Analysis(job).operating_point(KEY_OFF_RUNNING).on


def test_a_screened_cable_has_its_cores_twisted_and_its_screen_earthed_once() -> None:
    job = lay(EMPTY, "Sensor, screened cable")
    cores = [w for w in job.wires if w.cable == "Cam sensor cable"]
    assert [(w.use, w.lay_length_mm) for w in cores] == [
        ("sensor", 30.0),
        ("sensor", 30.0),
        ("screen", None),
    ]
    assert "screen-earths" not in found(job)


def test_what_is_in_the_way_is_said(demo: Job) -> None:
    for title, answers, said in (
        ("Relay feed", {"amps": "much"}, "“much”"),
        ("Relay feed", {"amps": "90 A"}, "up to 40 A"),
        ("Key feed", {"amps": "9 A"}, "lay a relay feed instead"),
        ("Starter", {"by": "magic"}, "one of key, push button, helper relay"),
        ("Relay feed", {"earth": "C99 1"}, "no C99"),
        ("Relay feed", {"key": "C3 5"}, "C3/5 is full: it holds W55"),
        ("Run stand", {}, "begins with an empty job"),
    ):
        with pytest.raises(ValueError, match=said):
            lay(demo, title, answers)


def test_a_place_that_is_named_is_used() -> None:
    job = edits.add(lay(EMPTY, "Key feed"), Connector("C1", "Bulkhead", Grid(1, 4), contact="16"))
    job = lay(job, "Relay feed", {"name": "Horn", "key": "C1 2", "earth": "E1"})
    coil = next(w for w in job.wires if w.function == "Horn relay coil")
    assert str(coil.start) == "C1/2"
