"""Jobs to begin from: each starts its engine and passes its own check."""

import pytest
from pytestqt.qtbot import QtBot

from conftest import found, page
from molvik.analysis import Analysis
from molvik.blocks.templates import SIBLINGS, TEMPLATES
from molvik.circuits.scenario import go_through, scenarios, states_of
from molvik.desktop.window import MainWindow
from molvik.model.job import Job


@pytest.mark.parametrize("title", TEMPLATES)
def test_a_job_to_begin_from_starts_its_engine_and_passes_its_own_check(title: str) -> None:
    job = TEMPLATES[title].make()
    assert not [one for every in found(job).values() for one in every if one.severity != "note"]
    told = next(one for one in scenarios(job) if one.name == "start and stop with the key")
    engine = [step.engine for step in go_through(Analysis(job).network, states_of(told))]
    assert engine[-3:-1] == ["turns and starts", "runs"]
    assert engine[-1].startswith("stops")
    assert all(wire.size is not None and wire.length_m is not None for wire in job.wires)


def test_the_sibling_swap_knows_where_each_lead_goes() -> None:
    job = TEMPLATES["Same pins, different plug (same vehicle family)"].make()
    plan = Analysis(job).plans["Q1"]
    wanted = {f"C1/{a}": f"C2/{b}" for _, a, b, _ in SIBLINGS}
    found_here = {m.lead.place: m.want.place for m in plan.matches if m.want}
    assert found_here == wanted


def test_the_six_volt_loom_draws_twice_the_current() -> None:
    job = TEMPLATES["Vintage 6 V loom"].make()
    assert job.settings.system_v == 6
    lamps = next(one for one in job.devices if one.name == "Headlamps")
    assert dict(lamps.values)["A"] == 11
    assert {fuse.kind for fuse in job.fuses} == {"blade", "bolt-down", "glass"}


def test_a_job_is_begun_from_the_first_screen(window: MainWindow, qtbot: QtBot) -> None:
    menu = window.welcome.start_button.menu()
    assert [action.text() for action in menu.actions()] == list(TEMPLATES)
    menu.actions()[1].trigger()
    assert window.store.job.title == "Bare engine"
    first: Job = window.store.job
    circuits = page(window, "Circuits")
    circuits.tabs.setCurrentIndex(1)
    qtbot.waitUntil(lambda: "the engine starts" in circuits.alive.summary.text())
    window.files.start_from("Engine run stand")
    assert window.store.job.id != first.id
