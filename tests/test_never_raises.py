"""Whatever stands in a job, everything computed from it comes to an answer."""

import pytest
from hypothesis import given, settings

from jobs import jobs_of_every_kind
from molvik.analysis import Analysis
from molvik.circuits.drain import drain, parked
from molvik.circuits.route import route
from molvik.circuits.why import why
from molvik.desktop.stages.circuits.facts import alive_facts
from molvik.devices import KINDS
from molvik.devices.states import CRANK, RUN, RUNNING, STATES, Fault
from molvik.electrics import Electrics
from molvik.findings import find_all
from molvik.lazy import cached_property
from molvik.logbook.quote import choice
from molvik.model.job import Job
from molvik.model.parts import Device, EarthPoint, End, Fuse, Wire
from molvik.sheetset import every_sheet
from molvik.sizes.resize import resizes
from molvik.sizes.sizing_case import used_text
from molvik.sizes.voltage import parts_then, wires_then


def everything(job: Job) -> None:
    """Ask for all that is computed from a job."""
    analysis = Analysis(job)
    every_sheet(analysis)
    for computed in (analysis, analysis.electrics, analysis.network):
        for name, value in vars(type(computed)).items():
            if isinstance(value, cached_property):
                getattr(computed, name)
    for sizing in analysis.electrics.sizings.values():
        if sizing.binding:
            used_text(sizing.binding.margin)
    for wire in job.wires:
        analysis.story(wire.code)
    things: list[Wire | Fuse | Device] = [*job.wires, *job.fuses, *job.devices]
    for thing in things:
        alive_facts(analysis, thing)
    for state in (*STATES, parked(job)):
        point = analysis.operating_point(state)
        drain(point)
        for device in job.devices:
            why(point, device.code)
            route(point, device.code)
    wires_then(job, analysis.electrics, 6.0, "metric", Electrics)
    parts_then(job, 24.0)
    analysis.once(choice)
    analysis.once(find_all)


@settings(max_examples=60)
@given(jobs_of_every_kind())
def test_a_job_of_any_parts_never_raises(job: Job) -> None:
    everything(job)


@settings(max_examples=20)
@given(jobs_of_every_kind())
def test_nor_does_it_with_something_broken(job: Job) -> None:
    analysis = Analysis(job)
    faults = [Fault("open", wire.code) for wire in job.wires[:1]]
    faults += [Fault("short", wire.code, "earth") for wire in job.wires[1:2]]
    for state in (RUN, CRANK, RUNNING):
        analysis.operating_point(state._replace(faults=frozenset(faults)))


@settings(max_examples=15)
@given(jobs_of_every_kind())
def test_nor_when_sizes_are_proposed(job: Job) -> None:
    resizes(job, lambda one: Analysis(one).electrics.sizing_cases, "metric", failing_only=False)


def alone(device: Device) -> Job:
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    wire = Wire("W1", End("D1", "-"), End("E1"))
    return Job(
        "alone", devices=(battery, device), earths=(EarthPoint("E1", "Block"),), wires=(wire,)
    )


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_a_device_with_nothing_at_its_terminals_is_no_trouble(kind: str) -> None:
    for count in range(len(KINDS[kind].terminals) + 1):
        everything(alone(Device("D2", "It", kind, KINDS[kind].terminals[:count])))


def test_a_one_wire_alternator_with_nothing_connected_is_no_trouble() -> None:
    """A current that can come back nowhere does not flow."""
    job = alone(Device("D2", "Alternator", "alternator", ("B+",), case="E1"))
    everything(job)
    assert Analysis(job).operating_point(RUNNING).problem == ""
    assert "cannot-solve" not in {one.rule for one in find_all(Analysis(job))}


@pytest.mark.parametrize("figure", [0.0, -1.0, 1e-308, 1e-12, 1e12, 1e308])
def test_figures_that_cannot_be_are_named_and_the_rest_works(figure: float) -> None:
    lamp = Device("D9", "Lamp", "lamp", ("+", "-"))
    for kind, entry in KINDS.items():
        for name in entry.figures:
            terminals = KINDS[kind].terminals
            odd = Device("D2", "Odd", kind, terminals, values=((name, figure),))
            job = alone(odd)
            ends = [
                ("D1", "+", "D9", "+"),
                ("D9", "-", "D1", "-"),
                ("D1", "+", "D2", terminals[0]),
                ("D2", terminals[-1], "D1", "-"),
            ]
            wires = tuple(
                Wire(f"W{n}", End(a, b), End(c, d)) for n, (a, b, c, d) in enumerate(ends, start=2)
            )
            whole = Job(
                "odd", devices=(*job.devices, lamp), wires=(*job.wires, *wires), earths=job.earths
            )
            everything(whole)
            point = Analysis(whole).operating_point(RUN)
            assert not point.problem, (kind, name)
            if kind not in ("battery", "alternator"):
                assert point.load["D9"].state in ("alive", "weak", "dead")
