"""The log can be corrected: each step is undone by one step, and leaves a trace."""

from datetime import datetime

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from conftest import answer
from molvik.analysis import Analysis
from molvik.desktop.beside.logbook import LogbookWindow
from molvik.desktop.beside.logline import CorrectDialog, JotDialog, PartDialog
from molvik.desktop.window import MainWindow
from molvik.logbook.clock import forgotten_text, hours_by_stage
from molvik.logbook.estimate import START_MIN, rates, unlike
from molvik.logbook.logsheet import logbook_sheet
from molvik.logbook.story import story
from molvik.model import edits, log_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.log import LogEntry

AT, LATER = "2026-11-02T10:00:00+01:00", "2026-11-03T09:00:00+01:00"
NOW = datetime.fromisoformat("2026-11-06T20:00:00+01:00")


def splices(quantity: float, minutes: float) -> LogEntry:
    return LogEntry(AT, "done", "survey", "X1", "", "", "splice", quantity, minutes)


def clock(kind: str, at: str, stage: str = "survey") -> LogEntry:
    return LogEntry(at, kind, stage)  # type: ignore[arg-type]


def logged(*entries: LogEntry) -> Job:
    job = Job("x")
    for entry in entries:
        job = edits.log(job, entry)
    return job


def test_what_a_line_said_stays_with_it() -> None:
    job = log_edits.correct(logged(splices(1, 900)), 0, LATER, minutes=9.0)
    again = log_edits.correct(job, 0, LATER, quantity=2.0)
    (entry,) = again.log
    assert (entry.quantity, entry.minutes) == (2, 9)
    assert entry.was == (
        "2026-11-02 10:00 done survey splice, 1 in 900 min, until 2026-11-03 09:00; "
        "2026-11-02 10:00 done survey splice, 1 in 9 min, until 2026-11-03 09:00"
    )
    (line,) = story(again)
    assert "was: 2026-11-02 10:00" in line.text
    assert log_edits.correct(again, 0, LATER, quantity=2.0) is again, "nothing was changed"
    with pytest.raises(EditError, match="above zero"):
        log_edits.correct(again, 0, LATER, minutes=-1.0)
    with pytest.raises(EditError, match="no such line"):
        log_edits.strike(again, 7, LATER)


def test_a_line_is_parted_in_two_that_are_the_whole() -> None:
    job = log_edits.part(logged(splices(3, 45), clock("clock on", AT)), 0, LATER, 1, 5)
    assert [(one.quantity, one.minutes) for one in job.log[:2]] == [(1, 5), (2, 40)]
    assert all("3 in 45 min" in one.was for one in job.log[:2])
    assert job.log[2].kind == "clock on"
    for quantity, minutes in ((3, 5), (1, 45), (0, 5)):
        with pytest.raises(EditError, match="between 0 and"):
            log_edits.part(logged(splices(3, 45)), 0, LATER, quantity, minutes)
    with pytest.raises(EditError):
        log_edits.part(job, 2, LATER, 1, 1)


def test_what_is_struck_out_stays_in_view_and_counts_no_more() -> None:
    job = logged(
        clock("clock on", AT), clock("clock off", "2026-11-02T12:00:00+01:00"), splices(4, 80)
    )
    assert rates(job.log)["splice"].learnt_from == 4
    gone = log_edits.strike(log_edits.strike(job, 2, LATER), 0, LATER)
    assert rates(gone.log)["splice"].minutes == START_MIN["splice"]
    assert hours_by_stage(gone.log, NOW) == {}
    assert [line.struck for line in story(gone)] == [True, True, False]
    rows = logbook_sheet(Analysis(gone)).tables[0].rows
    assert sum("struck out 2026-11-03 09:00" in row[4] for row in rows) == 2
    assert log_edits.strike(gone, 2, LATER).log[2] == job.log[2], "it counts again"


def test_a_clock_that_ran_too_long_is_asked_for_and_counts_once_it_is_corrected() -> None:
    job = logged(clock("clock on", AT), clock("clock off", "2026-11-03T08:00:00+01:00"))
    assert hours_by_stage(job.log, NOW) == {"survey": 0.0}
    assert "02 Nov 10:00 to 03 Nov 08:00" in forgotten_text(job.log, NOW)
    assert any("Not counted" in str(block) for block in logbook_sheet(Analysis(job)).blocks)
    right = log_edits.correct(job, 1, LATER, at="2026-11-02T12:30:00+01:00")
    assert hours_by_stage(right.log, NOW) == {"survey": 2.5}
    assert forgotten_text(right.log, NOW) == ""


def test_what_was_corrected_lies_where_its_time_is() -> None:
    job = logged(
        clock("clock on", AT),
        clock("clock off", "2026-11-02T12:00:00+01:00"),
        clock("clock on", "2026-11-02T13:00:00+01:00", "sizes"),
        clock("clock off", "2026-11-02T14:00:00+01:00"),
    )
    moved = log_edits.correct(job, 2, LATER, at="2026-11-02T11:00:00+01:00")
    assert hours_by_stage(moved.log, NOW) == {"survey": 1.0, "sizes": 1.0}


def test_a_line_unlike_all_others_teaches_nothing() -> None:
    """1 splice in 900 minutes, between others of some 8; ten times slower each time is learnt."""
    log = [splices(2, 16), splices(1, 9), splices(3, 22)]
    assert unlike(log, splices(1, 900)) == 8.0
    assert unlike(log, splices(1, 12)) is None
    assert unlike(log, splices(60, 6)) == 8.0, "sixty in six minutes were no sixty"
    assert rates([*log, splices(1, 900)]) == rates(log)
    slow = rates([splices(1, 100)] * 30)["splice"]
    assert slow.learnt_from == 30
    assert slow.minutes > 90


def opened(window: MainWindow, *entries: LogEntry) -> LogbookWindow:
    window.files.new()
    for entry in entries:
        window.store.do("x", lambda job, entry=entry: edits.log(job, entry))  # type: ignore[misc]
    log = LogbookWindow(window, window.store)
    log.show()
    log.activateWindow()
    assert QTest.qWaitForWindowActive(log)
    return log


def test_a_line_is_corrected_parted_and_struck_out_in_the_window(
    window: MainWindow, qtbot: QtBot
) -> None:
    log = opened(window, splices(3, 45), LogEntry(LATER, text="seen"))
    assert not log.correct_button.isEnabled()
    log.table.selectRow(0)
    assert log.part_button.isEnabled()

    def part(dialog: PartDialog) -> None:
        dialog.quantity.setText("5")
        dialog.minutes.setText("10")
        dialog.accept()
        assert "between 0 and 3" in dialog.notice.text()
        dialog.quantity.setText("1")
        dialog.accept()

    qtbot.mouseClick(log.part_button, Qt.MouseButton.LeftButton)
    answer(PartDialog, part)
    qtbot.waitUntil(lambda: len(window.store.job.log) == 3)
    log.table.selectRow(2)
    assert not log.part_button.isEnabled(), "a note has no parts"

    def correct(dialog: CorrectDialog) -> None:
        dialog.when.setText("tomorrow")
        dialog.accept()
        assert "not a time" in dialog.notice.text()
        dialog.when.setText("2026-11-03 08:15")
        dialog.text.setPlainText("seen by both")
        dialog.accept()

    log.activateWindow()
    assert QTest.qWaitForWindowActive(log)
    log.table.setFocus()
    QTest.keyClick(log.table, Qt.Key.Key_Return)
    answer(CorrectDialog, correct)
    qtbot.waitUntil(lambda: window.store.job.log[2].text == "seen by both")
    assert window.store.job.log[2].at == "2026-11-03T08:15:00+01:00"
    log.activateWindow()
    assert QTest.qWaitForWindowActive(log)
    log.table.selectRow(2)
    QTest.keyClick(log.table, Qt.Key.Key_Delete)
    assert window.store.job.log[2].struck_at
    assert log.strike_button.text() == "Count it again"
    for _ in range(3):
        window.store.history.undo()
    assert window.store.job.log == (splices(3, 45), LogEntry(LATER, text="seen"))
    log.close()


def test_what_took_so_unlike_as_long_as_usual_is_asked_at_once(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()

    def write(dialog: JotDialog) -> None:
        dialog.operation.setCurrentText("splice")
        dialog.operation.activated.emit(0)
        dialog.quantity.setText("1")
        dialog.minutes.setText("900")
        dialog.accept()
        assert dialog.isVisible()
        assert "900 min each, where 10 are usual" in dialog.notice.text()
        dialog.accept()

    window.beside.jot()
    answer(JotDialog, write)
    qtbot.waitUntil(lambda: bool(window.store.job.log))
    assert rates(window.store.job.log)["splice"].minutes == 10
