"""When the program itself goes wrong: said, kept, reported, and nothing half done."""

import logging
import subprocess
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from conftest import put_job, small_job, wire
from molvik.cli import main
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import KEEPING
from molvik.desktop.window import MainWindow
from molvik.files.recovery import leftovers
from molvik.files.reports import MOST_REPORTS, keep_report
from molvik.model import edits

NOTHING: dict[str, int] = {}


def reports(tmp_path: Path) -> list[Path]:
    return sorted((tmp_path / "xdg_state_home" / "molvik" / "reports").glob("*.txt"))


@pytest.fixture
def opened(window: MainWindow) -> MainWindow:
    window.files.new()
    window.store.do("a job", lambda job: replace(small_job(wire("W1", "C1/1", "C2/1")), id=job.id))
    return window


def click(window: MainWindow, qtbot: QtBot, raises: object) -> None:
    """Click a button whose slot raises, as Python hands it over."""
    button = QPushButton(window)
    button.clicked.connect(raises)
    button.show()
    with qtbot.captureExceptions() as raised:
        give_back = window.troubles.take_over()
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        qtbot.wait(10)
        give_back()
    assert len(raised) == 1


def test_a_slot_that_raises_is_told_kept_and_reported(
    opened: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    opened.store.do("a note", lambda job: edits.change_wire(job, "W1", note="the last word"))
    click(opened, qtbot, lambda: NOTHING["lost"])
    qtbot.waitUntil(lambda: "went wrong in the program itself" in opened.notice.text())
    assert "KeyError: 'lost'" in opened.notice.text()
    assert "The job is safe: a copy of it was kept just now." in opened.notice.text()
    (report,) = reports(tmp_path)
    assert str(report) in opened.notice.text()
    text = report.read_text()
    assert 'File "' in text
    assert "Doing: a note" in text
    assert "the last word" not in text, "nothing of the job"
    assert report.stat().st_mode & 0o077 == 0 or report.parent.stat().st_mode & 0o077 == 0
    assert opened.files.keeper.recovery is not None
    (kept,) = opened.files.keeper.recovery.photos.parent.glob("*.recovery")
    assert b"the last word" in kept.read_bytes()
    assert opened.store.job.wires[0].note == "the last word"
    opened.store.do("on", lambda job: edits.change_wire(job, "W1", note="it goes on"))
    assert leftovers() == [], "it is still open"


def test_what_had_half_happened_is_undone(opened: MainWindow, qtbot: QtBot) -> None:
    before, steps = opened.store.job, opened.store.history.count()

    def paste() -> None:
        opened.store.begin("Paste")
        opened.store.do("one", lambda job: edits.change_wire(job, "W1", note="half"))
        raise RuntimeError("in the middle")

    click(opened, qtbot, paste)
    qtbot.waitUntil(lambda: not opened.store.batch)
    assert opened.store.job == before
    qtbot.waitUntil(lambda: "What it had begun was undone" in opened.notice.text())
    qtbot.waitUntil(lambda: "a copy of it was kept" in opened.notice.text())
    assert "What it had begun was undone" in opened.notice.text(), "neither takes the other's place"
    opened.store.do("after", lambda job: edits.change_wire(job, "W1", note="after"))
    assert opened.store.history.index() == steps + 1
    opened.store.history.undo()
    assert opened.store.job == before


def test_a_run_of_edits_goes_on_beside_a_slot_that_raises(opened: MainWindow, qtbot: QtBot) -> None:
    """What raises is somebody who follows the edits, not who makes them."""

    def follow(old: object, new: object) -> None:
        raise RuntimeError("beside")

    def paste() -> None:
        opened.store.changed.connect(follow)
        opened.store.begin("Paste")
        opened.store.do("one", lambda job: edits.change_wire(job, "W1", note="whole"))
        opened.store.changed.disconnect(follow)
        opened.store.end()

    click(opened, qtbot, paste)
    assert opened.store.job.wires[0].note == "whole"
    assert not opened.store.batch


def test_work_aside_that_goes_wrong_leaves_a_report(
    opened: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    task = Task(lambda _: NOTHING["lost"], opened)
    with qtbot.waitSignal(task.failed):
        task.start()
    assert "KeyError" in reports(tmp_path)[0].read_text()
    task = Task(lambda _: int("x"), opened)
    with qtbot.waitSignal(task.failed):
        task.start()
    assert len(reports(tmp_path)) == 1, "a ValueError is for the user"


def test_reports_do_not_pile_up(tmp_path: Path) -> None:
    for n in range(MOST_REPORTS + 5):
        keep_report(RuntimeError(f"number {n}"))
    kept = reports(tmp_path)
    assert len(kept) == MOST_REPORTS
    assert f"number {MOST_REPORTS + 4}" in kept[-1].read_text()


def test_a_command_that_goes_wrong_says_so_and_keeps_a_report(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "a.molvik"
    put_job(small_job(), path)
    monkeypatch.setattr("molvik.cli.jobs.job_at", lambda _: NOTHING["lost"])
    assert main(["check", str(path)]) == 2
    (report,) = reports(tmp_path)
    said = capsys.readouterr().err
    assert "went wrong in the program itself ('lost')" in said
    assert str(report) in said


def test_it_is_quiet_unless_it_is_asked_to_speak(tmp_path: Path) -> None:
    path = tmp_path / "a.molvik"
    put_job(small_job(), path)
    words = [sys.executable, "-m", "molvik", "survey", str(path)]
    quiet = subprocess.run(words, capture_output=True, text=True, check=True)
    assert quiet.stderr == ""
    spoken = subprocess.run([*words, "--debug"], capture_output=True, text=True, check=True)
    assert spoken.stdout == quiet.stdout
    assert "DEBUG MainThread molvik: molvik" in spoken.stderr
    log = tmp_path / "xdg_state_home" / "molvik" / "logs" / "molvik.log"
    assert "survey" in log.read_text()
    assert logging.getLogger("molvik").level != logging.DEBUG
    assert KEEPING.is_idle
