"""Unsaved work of a program that was killed: its photos, and the question at its file."""

from pathlib import Path

import pytest
from msgspec.structs import replace
from PIL import Image
from PySide6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from conftest import answer, small_job, wire
from molvik.demo import PHOTOS, demo_job
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.threads.lanes import KEEPING
from molvik.desktop.window import MainWindow
from molvik.files.photobox import PhotoBox
from molvik.files.recovery import leftovers
from molvik.files.saving import save_job
from molvik.model import edits
from molvik.model.differing import differing
from molvik.model.job import Job


def killed(window: MainWindow, qtbot: QtBot) -> None:
    """End a window as a kill does: its copy and its locks stay as they are, and nobody has them."""
    window.files.keeper.keep()
    qtbot.waitUntil(lambda: window.files.keeper.task is None or window.files.keeper.task.has_ended)
    recovery = window.files.keeper.recovery
    assert recovery is not None
    assert recovery._lock is not None
    recovery._lock.release()
    recovery._lock = None
    if window.files._lock is not None:
        window.files._lock.release()
        window.files._lock = None
    window.files.keeper.recovery = None  # nothing of it is tidied away
    window.store.history.setClean()


@pytest.fixture
def saved(tmp_path: Path) -> Path:
    """A job of four photos in a file."""
    path = tmp_path / "marten.molvik"
    job = demo_job("marten")
    assert len(job.photos) >= 4
    box = PhotoBox(tmp_path / "box")
    box.take_over(PHOTOS)
    save_job(job, path, box)
    return path


def another(tmp_path: Path, name: str) -> MainWindow:
    return MainWindow(QSettings(str(tmp_path / f"{name}.ini"), QSettings.Format.IniFormat))


def test_a_copy_beside_another_window_keeps_the_photos_of_its_original(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, saved: Path
) -> None:
    """Opened as a copy, edited, killed, taken up again: eight photos were lost that lay whole."""
    assert window.files.open(saved)
    second = another(tmp_path, "second")
    answer(Question, lambda asked: asked.buttons[0].click())
    assert second.files.open(saved)
    assert second.store.path is None
    second.store.do("a note", lambda job: edits.change_wire(job, "W42", note="by the second"))
    picture = tmp_path / "new.png"
    Image.new("RGB", (90, 30), (9, 80, 70)).save(picture)
    had = len(second.store.job.photos)
    second.beside.add_photos([picture])
    qtbot.waitUntil(lambda: len(second.store.job.photos) == had + 1)
    killed(second, qtbot)
    (left,) = leftovers()
    assert left.origin is None
    third = another(tmp_path, "third")
    third.files.recover(left)
    job = third.store.job
    assert job.wire("W42").note == "by the second"  # type: ignore[union-attr]
    assert [one.code for one in job.photos if third.files.photos.read(one.file) is None] == []
    assert third.store.path is None, "it is the first window's file"
    # What was taken up is kept anew, and taken up once more, with all its photos.
    qtbot.waitUntil(lambda: not left.file.exists())
    killed(third, qtbot)
    (again,) = leftovers()
    fourth = another(tmp_path, "fourth")
    fourth.files.recover(again)
    assert all(fourth.files.photos.read(one.file) for one in fourth.store.job.photos)
    # Whoever took the copy up does not have the original: it is opened without a question.
    assert window.files.close_job()
    qtbot.waitUntil(lambda: KEEPING.is_idle)
    fifth = another(tmp_path, "fifth")
    fifth.files.recover(again)
    assert window.files.open(saved)
    assert window.store.path == saved
    for one in (second, third, fourth, fifth):
        one.store.history.setClean()
        one.close()


@pytest.mark.parametrize("taken", [True, False])
def test_a_file_with_unsaved_work_asks_by_name_and_says_what_differs(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, saved: Path, taken: bool
) -> None:
    first = another(tmp_path, "first")
    assert first.files.open(saved)
    first.store.do("a note", lambda job: edits.change_wire(job, "W42", note="not saved"))
    killed(first, qtbot)
    said: list[str] = []

    def say(asked: Question) -> None:
        said.append(f"{asked.heading.text()} {asked.text.text()} {asked.more.text()}")
        asked.buttons[0 if taken else 1].click()

    answer(Question, say)
    assert window.files.open(saved)
    assert "Unsaved work on marten.molvik" in said[0]
    assert "1 wire changed" in said[0]
    note = window.store.job.wire("W42").note  # type: ignore[union-attr]
    assert (note == "not saved") is taken
    assert window.store.path == saved
    if taken:
        qtbot.waitUntil(lambda: leftovers() == [])
    else:
        assert len(leftovers()) == 1, "what was not taken up waits"
    first.close()


def test_cancel_leaves_both_and_the_job_that_is_open(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, saved: Path
) -> None:
    first = another(tmp_path, "first")
    assert first.files.open(saved)
    first.store.do("a note", lambda job: edits.change_wire(job, "W42", note="not saved"))
    killed(first, qtbot)
    answer(Question, lambda asked: asked.reject())
    assert not window.files.open(saved)
    assert not window.files.has_job
    assert len(leftovers()) == 1
    answer(Question, lambda asked: asked.buttons[1].click())
    assert window.files.open(saved), "the lock was given back"
    first.close()


def test_what_differs_is_told_in_words() -> None:
    one = small_job(wire("W1", "C1/1", "C2/1"), wire("W2", "C1/2", "C2/2"))
    changed = replace(
        edits.change_wire(one, "W1", note="x"),
        title="Another",
        wires=(*edits.change_wire(one, "W1", note="x").wires[:1],),
    )
    assert differing(one, changed) == "the title, 1 wire changed, 1 wire fewer"
    assert differing(one, one) == ""
    assert differing(one, replace(one, wires=one.wires[::-1])) == "the order of wires"
    assert differing(Job("x"), replace(Job("y"), spent=(("W", 3),))) == ""
