"""The protection of a wire follows the same ways as its current."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import found_of
from jobs import jobs_of_every_kind
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.devices.states import STATES
from molvik.findings import find_all, unjudged
from molvik.model.job import Job
from molvik.model.parts import (
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Output,
    Position,
    Splice,
    Wire,
    WireSize,
)
from molvik.netlist.feeds import Feed

THIN = WireSize("metric", 0.35)
STAGES = (
    "fuse",
    "switch",
    "positions",
    "key",
    "relay",
    "rest",
    "bus bar",
    "diode",
    "high side",
    "isolator",
    "splice",
    "plug",
    "socket",
)


class Chain:
    """A supply that passes one thing after another, and a lamp at the end."""

    def __init__(self) -> None:
        self.devices = [Device("D1", "Battery", "battery", ("+", "-"))]
        self.fuses: list[Fuse] = [Fuse("F1", "Coils", 5)]
        self.splices: list[Splice] = []
        self.connectors: list[Connector] = []
        self.wires: list[Wire] = []
        self.at = End("D1", "+")
        self.run(End("D1", "-"), End("E1"))
        self.run(End("D1", "+"), End("F1", "in"))

    def run(self, start: End, finish: End) -> None:
        code = f"W{len(self.wires) + 1}"
        self.wires.append(Wire(code, start, finish, size=THIN, length_m=1.0, load_a=1.0))

    def device(
        self,
        kind: str,
        terminals: tuple[str, ...],
        way: tuple[str, str],
        plug: str = "",
        **fields: object,
    ) -> str:
        code = f"D{len(self.devices) + 1}"
        made = Device(code, kind, kind, terminals, plug=plug, **fields)  # type: ignore[arg-type]
        self.devices.append(made)
        self.run(self.at, End(plug or code, way[0]))
        self.at = End(plug or code, way[1])
        return code

    def coil(self, code: str) -> None:
        self.run(End("F1", "out"), End(code, "86"))
        self.run(End(code, "85"), End("E1"))

    def add(self, stage: str) -> None:
        match stage:
            case "fuse":
                code = f"F{len(self.fuses) + 1}"
                self.fuses.append(Fuse(code, "f", 30))
                self.run(self.at, End(code, "in"))
                self.at = End(code, "out")
            case "switch":
                self.device("switch", ("in", "out"), ("in", "out"), joins=(("in", "out"),))
            case "positions":
                places = (
                    Position("off", ()),
                    Position("low", (("B", "L"),)),
                    Position("high", (("B", "L"), ("B", "H"))),
                )
                self.device("switch", ("B", "L", "H"), ("B", "H"), positions=places)
            case "key":
                self.device("switch", ("30", "15", "50"), ("30", "15"))
            case "relay":
                self.coil(self.device("relay", ("30", "87", "86", "85"), ("30", "87")))
            case "rest":
                self.device("relay", ("30", "87", "87a", "86", "85"), ("30", "87a"))
            case "bus bar":
                self.device("bus bar", ("1", "2", "3"), ("2", "3"))
            case "diode":
                self.device("diode", ("+", "-"), ("+", "-"))
            case "high side":
                acts = (Output("9", "feeds high"),)
                code = self.device(
                    "controller",
                    ("30", "31", "9"),
                    ("30", "9"),
                    supplies=("30",),
                    earths=("31",),
                    outputs=acts,
                )
                self.run(End(code, "31"), End("E1"))
            case "isolator":
                self.device("isolator", ("1", "2"), ("1", "2"), joins=(("1", "2"),))
            case "splice":
                code = f"S{len(self.splices) + 1}"
                self.splices.append(Splice(code, ""))
                self.run(self.at, End(code))
                self.at = End(code)
            case "plug":
                n = len(self.connectors)
                one, other = f"C{n + 1}", f"C{n + 2}"
                self.connectors += [
                    Connector(one, "", Grid(1, 2)),
                    Connector(other, "", Grid(1, 2), plugs_into=one),
                ]
                self.run(self.at, End(one, "1"))
                self.at = End(other, "1")
            case "socket":  # a switch whose terminals are the cavities of a plug
                code = f"C{len(self.connectors) + 1}"
                self.connectors.append(Connector(code, "", Grid(1, 2)))
                self.device("switch", ("1", "2"), ("1", "2"), code, joins=(("1", "2"),))

    def job(self) -> Job:
        lamp = Device(f"D{len(self.devices) + 1}", "Lamp", "lamp", ("+", "-"))
        self.devices.append(lamp)
        self.run(self.at, End(lamp.code, "+"))
        self.run(End(lamp.code, "-"), End("E1"))
        return Job(
            "chain",
            devices=tuple(self.devices),
            fuses=tuple(self.fuses),
            splices=tuple(self.splices),
            connectors=tuple(self.connectors),
            earths=(EarthPoint("E1", "Block"),),
            wires=tuple(self.wires),
        )


def chain(*stages: str) -> Job:
    made = Chain()
    for stage in stages:
        made.add(stage)
    return made.job()


def live(analysis: Analysis) -> set[str]:
    """Return the wires that carry the battery's current before any load, in some state."""
    found: set[str] = set()
    for state in STATES:
        if state.running:
            continue  # the alternator's own current, which it limits itself
        point = analysis.operating_point(state)
        for wire in analysis.job.wires:
            volts = [point.solution.volts.get(str(end), 0.0) for end in wire.ends]
            if (
                abs(point.wire_amps.get(wire.code, 0.0)) > 0.05
                and min(volts) > 0.75 * point.nominal
            ):
                found.add(wire.code)
    return found


def said(analysis: Analysis, code: str) -> bool:
    """Return whether a wire is judged against a fuse, or it is said why not."""
    told = found_of(analysis, "no-fuse", "cannot-be-judged", "far-fuse")
    named = any(one.subject == code or code in one.what.split() for one in told)
    judged = code in analysis.electrics.sizings and any(
        one.name == "fuse" for one in analysis.electrics.sizings[code].criteria
    )
    wire = analysis.network.wires[code]
    to_fuse = any(isinstance(analysis.network.parts.get(end.at), Fuse) for end in wire.ends)
    return judged or to_fuse or named


@settings(max_examples=60, deadline=None)
@given(st.lists(st.sampled_from(STAGES), max_size=6))
def test_a_wire_that_carries_current_has_a_judged_fuse_or_a_finding(stages: list[str]) -> None:
    analysis = Analysis(chain(*stages))
    for code in live(analysis):
        assert analysis.network.feed(analysis.network.wires[code]) is not None, code
        assert said(analysis, code), code


@settings(max_examples=60, deadline=None)
@given(jobs_of_every_kind())
def test_so_has_it_in_any_job(job: Job) -> None:
    analysis = Analysis(job)
    for code in live(analysis):
        assert said(analysis, code) or analysis.network.wires[code].use == "starter", code


@pytest.mark.parametrize("stage", [one for one in STAGES if one != "fuse"])
def test_a_thin_wire_behind_whatever_passes_current_is_a_stop(stage: str) -> None:
    """0.35 mm² behind 30 A: behind the fuse alone it is one, so it is behind anything else."""
    job = chain("fuse", stage)
    analysis = Analysis(job)
    lamp = next(one for one in job.wires if one.finish.at == job.devices[-1].code)
    assert lamp.code in live(analysis)
    assert analysis.network.feed(lamp) == Feed(30, "F2")
    assert ("fuse-too-large", lamp.code) in {(one.rule, one.subject) for one in find_all(analysis)}


@pytest.mark.parametrize("stage", [one for one in STAGES if one != "fuse"])
def test_without_any_fuse_it_is_a_stop_as_well(stage: str) -> None:
    job = chain(stage)
    analysis = Analysis(job)
    lamp = next(one for one in job.wires if one.finish.at == job.devices[-1].code)
    assert ("no-fuse", lamp.code) in {(one.rule, one.subject) for one in find_all(analysis)}


def test_a_diode_feeds_one_way_only() -> None:
    made = Chain()
    made.add("fuse")
    made.device("diode", ("+", "-"), ("-", "+"))
    assert Analysis(job := made.job()).network.feed(job.wires[-2]) is None


def test_a_fuse_with_a_wire_round_it_protects_nothing() -> None:
    made = Chain()
    made.add("fuse")
    made.run(End("D1", "+"), End("F2", "out"))
    analysis = Analysis(made.job())
    rules = {(one.rule, one.subject) for one in find_all(analysis)}
    assert ("no-fuse", "W4") in rules


def test_a_second_supply_of_a_module_keeps_its_own_fuse() -> None:
    """A module decouples its supplies as a rule; what has no other feed gets it through one."""
    made = Chain()
    made.add("fuse")
    made.device(
        "controller", ("30", "15", "31"), ("30", "15"), supplies=("30", "15"), earths=("31",)
    )
    job = made.job()
    assert Analysis(job).network.feed(job.wires[-2]) == Feed(30, "F2")
    made = Chain()
    made.add("fuse")
    made.device(
        "controller", ("30", "15", "31"), ("30", "15"), supplies=("30", "15"), earths=("31",)
    )
    made.run(End("F1", "out"), End("D2", "15"))
    job = made.job()
    assert Analysis(job).network.feed(job.wires[-2]) == Feed(5, "F1")


def test_what_cannot_be_judged_is_counted_beside_the_findings() -> None:
    made = Chain()
    made.add("fuse")
    job = made.job()
    bare = replace(job, wires=tuple(replace(one, size=None) for one in job.wires))
    assert unjudged(find_all(Analysis(job))) == ""
    # The cable to the fuses, and the two wires behind them.
    assert unjudged(find_all(Analysis(bare))).endswith("live wires not judged")
    without = replace(job, devices=job.devices[1:])
    assert unjudged(find_all(Analysis(without))) == "no wire judged: there is no battery"


def test_behind_a_load_no_fuse_is_asked_for() -> None:
    """A fault there draws no more than the load lets through."""
    job = demo_job("marten")
    analysis = Analysis(job)
    assert analysis.network.feed(analysis.network.wires["W54"]) is None
    assert all(not math.isnan(feed.limit_a) for feed in analysis.network.feeds.values())
