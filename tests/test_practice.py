"""Finding faults for practice, in the core and in the window."""

from typing import Any

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import page, type_field
from molvik.desktop.window import MainWindow
from molvik.model.job import Job
from molvik.netlist.network import Network
from molvik.proving.practice import KINDS, Practice
from molvik.proving.readings import point_of_text
from test_diagnose import lamp
from test_plan import loom_job


@pytest.mark.parametrize("level", KINDS)
@pytest.mark.parametrize("seed", range(4))
def test_what_is_hidden_shows_and_can_be_found(level: Any, seed: int) -> None:
    practice = Practice(Network(lamp()), level, seed)
    assert practice.complaint.endswith((" in run.", " in crank.", " in running."))
    assert {cause.faults[0].kind for cause in practice.hidden} <= set(KINDS[level])
    assert Practice(Network(lamp()), level, seed).answer == practice.answer
    assert practice.name(practice.hidden[0].on[0])
    assert not practice.name("W99")
    assert all(":" in step for step in practice.program())


def test_the_meter_shows_the_job_with_its_fault_and_an_error() -> None:
    network = Network(lamp())
    practice = next(
        made
        for seed in range(60)
        if (made := Practice(network, "easy", seed)).answer == "W2 is off"
    )
    assert practice.complaint == "Lamp (D2) is dead in run."
    assert practice.measure(point_of_text(network, "F1/out D2/+")) == "open"
    volts = float(practice.measure(point_of_text(network, "D2/+ in run")).split()[0])
    assert abs(volts) < 0.2
    fed = float(practice.measure(point_of_text(network, "f1/out in run")).split()[0])
    assert fed > 12
    assert practice.probed[0].where == "ohms from D2/+ to F1/out, power off"
    assert "Lamp" in practice.look("run").split("dead or weak")[1]
    for text, told in (
        ("D2/+", "two points"),
        ("D2/+ D2/+", "Both probes"),
        ("D2/+ in space", "no state"),
        ("D9 D2/+", "no D9"),
    ):
        with pytest.raises(ValueError, match=told):
            point_of_text(network, text)
    with pytest.raises(ValueError, match="no state"):
        practice.look("flying")


def test_nothing_is_hidden_where_nobody_would_see_it() -> None:
    with pytest.raises(ValueError, match="No fault hidden here would show"):
        Practice(Network(loom_job(("C1/1", "C2/1"))), "easy", 1)


def test_a_fault_is_found_in_the_window_and_nothing_enters_the_job(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()
    made = lamp()
    job = Job(
        window.store.job.id,
        devices=made.devices,
        wires=made.wires,
        fuses=made.fuses,
        earths=made.earths,
    )
    window.store.do("a lamp", lambda _: job)
    shown = page(window, "Proving").practice
    shown._page.tabs.setCurrentWidget(shown)
    assert not shown.probe.isEnabled()
    shown.begin(seed=3)
    qtbot.waitUntil(lambda: shown.practice is not None)
    assert "Complaint:" in shown.complaint.text()
    before = window.store.job
    wrong = shown.practice.hidden[0].on[0]
    shown.probe.setText("D2/+ in run")
    shown._measure(shown.probe.text())
    assert "The meter shows" in shown.words.text()
    assert shown.model.rowCount() == 1
    shown._look("run")
    assert "dead or weak" in shown.words.text()
    with pytest.raises(ValueError, match="is sound"):
        shown._name("D1")
    shown._name(wrong.lower())
    qtbot.waitUntil(lambda: "You measured 1 times" in shown.words.text())
    assert shown.words.text().startswith("Found:")
    assert not shown.probe.isEnabled()
    assert window.store.job is before
    shown.begin(seed=4)
    qtbot.waitUntil(lambda: shown.practice is not None)
    qtbot.mouseClick(shown.give_up, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: shown.words.text().startswith("It was: "))


def test_a_fault_is_hidden_in_a_shipped_job_too(window: MainWindow, qtbot: QtBot) -> None:
    """From an empty job: nothing of it enters the job."""
    window.files.new()
    before = window.store.job
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.practice)
    view = shown.practice
    view.where.setCurrentIndex(view.where.findData("marten"))
    view.begin(3)
    qtbot.waitUntil(lambda: view.practice is not None)
    assert view.practice.network.job.title == "Marten fire tender"
    type_field(view.probe, "C2/1 in run")
    assert view.words.text().startswith("The meter shows")
    assert window.store.job == before
