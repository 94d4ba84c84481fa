"""The file side of the window: nothing is written over or dropped without a word."""

import gc
import json
import os
import shutil
import sqlite3
import subprocess
import sys
import weakref
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QDialog, QFileDialog, QTabWidget
from pytestqt.qtbot import QtBot

from conftest import answer, looked_over, open_window, page, press, put_job, small_job
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.demo import PHOTOS
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.jobfile import files as jobfiles
from molvik.desktop.jobfile import keeping
from molvik.desktop.jobfile import questions as filequestions
from molvik.desktop.window import FIRST_STAGE, MainWindow
from molvik.electrics import Electrics
from molvik.files.jobfile import open_job, read_job
from molvik.files.photobox import PhotoBox
from molvik.files.places import state_folder
from molvik.files.recovery import Recovery, leftovers
from molvik.model import edits
from molvik.model.job import Job
from molvik.stages import STAGES
from old_jobs import put_old


def note(window: MainWindow, text: str) -> None:
    window.store.do("note", lambda job: edits.change_wire(job, "W1", note=text))


@pytest.fixture
def path(tmp_path: Path, demo: Job) -> Path:
    path = tmp_path / "job.molvik"
    put_job(demo, path)
    return path


@pytest.mark.parametrize("how", ["deleted", "replaced", "written over", "changed inside"])
def test_a_file_that_changed_underneath_is_told_and_nothing_is_lost(
    window: MainWindow, path: Path, tmp_path: Path, how: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert window.files.open(path)
    note(window, "mine")
    theirs = tmp_path / "theirs.molvik"
    put_job(replace(small_job(), title="theirs"), theirs)
    if how == "deleted":
        path.unlink()
    elif how == "replaced":
        os.replace(theirs, path)
    elif how == "written over":
        shutil.copyfile(theirs, path)
    else:
        plain = sqlite3.connect(path)
        plain.execute("DELETE FROM photos")
        plain.commit()
        plain.close()
    answer(Question, press("Cancel"))
    assert not window.files.save()
    assert window.store.unsaved
    elsewhere = tmp_path / "mine.molvik"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(elsewhere), ""))
    if how in ("written over", "changed inside"):  # the photos' bytes are gone, and that is told
        answer(Question, press("Save elsewhere"))
        real = filequestions.ask_missing
        asked: list[str] = []

        def agree(_: object, error: Exception) -> bool:
            asked.append(str(error))
            return True

        monkeypatch.setattr(jobfiles, "ask_missing", agree)
        assert window.files.save()
        assert "cannot be read any more" in asked[0]
        monkeypatch.setattr(jobfiles, "ask_missing", real)
    else:
        answer(Question, press("Save elsewhere"))
        assert window.files.save()
        file = open_job(elsewhere)
        assert all(file.photo(one.file) is not None for one in file.job.photos)
    assert window.header.about.text().endswith("saved")
    assert read_job(elsewhere).wires[0].note == "mine"
    if how in ("replaced", "written over"):
        assert read_job(path).title == "theirs"


def test_saving_here_keeps_both(window: MainWindow, path: Path, tmp_path: Path) -> None:
    assert window.files.open(path)
    note(window, "mine")
    theirs = tmp_path / "theirs.molvik"
    put_job(replace(small_job(), title="theirs"), theirs)
    os.replace(theirs, path)
    answer(Question, press("keep both"))
    assert window.files.save()
    assert read_job(path).wires[0].note == "mine"
    assert read_job(tmp_path / "job.molvik~").title == "theirs"
    note(window, "more")
    assert window.files.save(), "and from then on as usual"


def test_a_deleted_file_can_be_saved_again_with_its_photos(window: MainWindow, path: Path) -> None:
    assert window.files.open(path)
    path.unlink()
    note(window, "mine")
    answer(Question, press("Save again"))
    assert window.files.save()
    file = open_job(path)
    assert len(file.job.photos) > 2
    assert all(file.photo(one.file) is not None for one in file.job.photos)


def test_a_photo_that_is_damaged_in_the_file_is_told_after_opening(
    window: MainWindow, path: Path, qtbot: QtBot
) -> None:
    plain = sqlite3.connect(path)
    plain.execute("UPDATE photos SET data = zeroblob(length(data)) WHERE id = 1")
    plain.commit()
    plain.close()
    assert window.files.open(path)
    qtbot.waitUntil(lambda: "photos in the file are damaged" in window.notice.text())
    note(window, "mine")
    assert window.files.save(), "what is left of it stays as it is"


def test_an_old_zip_cut_short_is_opened_told_and_saved_whole(
    window: MainWindow, tmp_path: Path, demo: Job
) -> None:
    path = tmp_path / "old.molvik"
    put_old(demo, path, PhotoBox(PHOTOS))
    put_old(replace(demo, title="newest"), path, PhotoBox(PHOTOS))
    path.write_bytes(path.read_bytes()[:-400])
    assert window.files.open(path)
    assert "may not be the newest" in window.notice.text()
    assert window.store.unsaved
    assert window.files.save()
    file = open_job(path)
    assert all(file.photo(one.file) is not None for one in demo.photos)
    assert (tmp_path / "old.molvik~").exists()


def test_the_command_line_keeps_out_of_a_job_that_is_open_in_the_window(
    window: MainWindow, path: Path, tmp_path: Path
) -> None:
    table = tmp_path / "w.csv"
    table.write_text("from,to\nC1/1,C2/1\n")
    assert window.files.open(path)
    before = path.read_bytes()
    assert main(["import-wires", str(path), str(table)]) == 2
    assert path.read_bytes() == before
    assert window.files.close_job()
    assert main(["import-wires", str(path), str(table)]) == 0


def test_a_version_gets_a_name_and_can_be_taken_up_again(
    window: MainWindow, path: Path, demo: Job, qtbot: QtBot
) -> None:
    from molvik.desktop.jobfile.versions import VersionsDialog

    assert window.files.open(path)
    assert window.files.name_version("before the repin")
    note(window, "later")
    assert window.files.save()
    dialog = VersionsDialog(window, window.files)
    shown = [dialog.text(row) for row in range(dialog.list.count())]
    assert "before the repin" in shown[1]
    assert len(shown) == 2
    dialog.list.setCurrentRow(1)
    qtbot.waitUntil(lambda: dialog.model.rowCount() > 0)
    ((_, one),) = dialog.model.things
    code = demo.wires[0].code
    assert one == (code, "note", demo.wires[0].note, "later"), "looked at before it is taken up"
    dialog.list.setCurrentRow(0)
    qtbot.waitUntil(lambda: dialog.differs.text() == "The job is as it was then.")
    dialog.list.setCurrentRow(1)
    dialog.take.click()
    assert window.store.job.wires[0].note == demo.wires[0].note
    assert window.store.unsaved
    window.store.history.undo()
    assert window.store.job.wires[0].note == "later", "taking a version up is one step"


# recovery


def test_a_copy_is_due_in_time_however_steadily_one_works(
    window: MainWindow, path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert keeping.KEEP_WITHIN_MS <= 15_000
    assert window.files.open(path)
    window.files.keeper.timer.setInterval(400)
    window.files.keeper.latest.setInterval(1200)
    folder = state_folder("recovery")
    for n in range(200):  # never a pause of 0.4 s
        note(window, f"n{n}")
        qtbot.wait(40)
        if list(folder.glob("*.recovery")):
            break
    assert list(folder.glob("*.recovery"))


def test_paths_in_copies_are_absolute_and_photos_come_along(
    qtbot: QtBot, path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(path.parent)
    kept = Recovery()
    kept.keep(replace(read_job(path), title="unsaved"), Path(path.name))
    kept._lock.release()  # type: ignore[union-attr]  # as if it had crashed
    monkeypatch.chdir("/")
    (left,) = leftovers()
    assert left.origin == path
    window = open_window(qtbot, tmp_path)
    window.files.recover(left)
    assert window.store.path == path
    photos = window.store.job.photos
    assert photos
    assert all(window.files.photos.read(one.file) is not None for one in photos)
    assert window.files.save()
    assert read_job(path).title == "unsaved"


def test_a_full_disk_for_copies_is_shown_as_long_as_it_lasts_and_hinders_no_save(
    window: MainWindow, path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert window.files.open(path)

    def full(self: Recovery, job: Job, path: Path | None, pictures: Path | None) -> None:
        raise OSError(28, "No space left on device", "/state")

    with monkeypatch.context() as patch:
        patch.setattr(Recovery, "keep", full)
        note(window, "one")
        window.files.keeper.keep()
        qtbot.waitUntil(lambda: "No recovery copy could be kept" in window.standing.text())
        window.tell("Something went well", True)
        assert window.standing.isVisible(), "no other message hides it"
        assert window.files.save()
        assert read_job(path).wires[0].note == "one"
    note(window, "two")
    window.files.keeper.keep()
    qtbot.waitUntil(lambda: not window.standing.text())


def test_without_a_state_folder_the_window_works_and_says_so(
    qtbot: QtBot, path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("no folder")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    window = open_window(qtbot, tmp_path)
    assert window.files.open(path)
    assert "No recovery copies are kept here" in window.standing.text()
    note(window, "mine")
    assert window.files.save()
    assert main(["check", str(path)]) in (0, 1)


# the command line on odd ground


def run(words: list[str], **how: Any) -> "subprocess.CompletedProcess[str]":
    command = [sys.executable, "-m", "molvik", *words]
    return subprocess.run(command, capture_output=True, text=True, **how)


def every_tab(qtbot: QtBot, proving: Any) -> None:
    """Look at every tab of Proving, hide a fault, and wait for what is worked out."""
    for at in range(proving.tabs.count()):
        proving.tabs.setCurrentIndex(at)
    proving.practice.begin(1)
    views = (proving.causes, proving.power, proving.practice)
    qtbot.waitUntil(lambda: all(view.is_at_rest for view in views))


@pytest.mark.forgets
def test_nothing_of_a_closed_job_is_kept(window: MainWindow, qtbot: QtBot) -> None:
    """Its analysis is megabytes: views that are out of sight must not hold on to it."""
    seen: list[weakref.ref[Analysis]] = []
    opened: list[weakref.ref[QDialog]] = []
    for name in ("marten", "plover"):
        window.store.history.setClean()
        window.files.open_demo(name)
        for at in range(len(STAGES)):
            window.go(at)
            qtbot.wait(10)
        every_tab(qtbot, page(window, "Proving"))
        window.commands.open_find()
        window.beside.show_logbook()
        window.beside.show_stock()
        window.hand.pick("W5")
        looked_over(qtbot, window)
        seen.append(weakref.ref(window.store.analysis))
        opened += [weakref.ref(one) for one in window.findChildren(QDialog)]
        assert len(opened) >= 3  # each keeps its pixels while it is there, hidden or not
    window.store.history.setClean()
    assert window.files.close_job()

    def kept() -> int:
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()
        return sum(one() is not None for one in seen) + sum(one() is not None for one in opened)

    qtbot.waitUntil(lambda: kept() == 0)


@pytest.mark.forgets
def test_a_page_out_of_view_holds_nothing_that_was_computed(
    window: MainWindow, qtbot: QtBot
) -> None:
    """Else each page keeps the solution of the job as it stood when it was last looked at."""
    window.files.open_demo("marten")
    looked_over(qtbot, window)
    seen: list[tuple[str, weakref.ref[Electrics]]] = []
    for at, stage in enumerate(STAGES):
        window.go(at)
        for tabs in window.pages[at].findChildren(QTabWidget):
            for tab in range(tabs.count()):
                tabs.setCurrentIndex(tab)
                qtbot.wait(10)
        if stage.key == "proving":
            every_tab(qtbot, window.pages[at])
        looked_over(qtbot, window)
        seen.append((stage.key, weakref.ref(window.store.analysis.electrics)))
        window.go((at + 1) % len(STAGES))
        length = 1 + at / 7
        window.store.do("length", partial(edits.change_wire, code="W5", length_m=length))
        looked_over(qtbot, window)

    def kept() -> list[str]:
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.unfreeze()
        gc.collect()
        return [name for name, one in seen if one() is not None]

    qtbot.waitUntil(lambda: not kept())


def test_nothing_said_of_a_job_stands_in_the_next(window: MainWindow, tmp_path: Path) -> None:
    window.files.open_demo("plover")
    window.go(len(STAGES) - 1)
    sheets = page(window, "Sheets")
    assert window.files.save_as(tmp_path / "a.molvik")
    sheets.notice.say("The folder cannot be written.")
    sheets.done.setText("Written into a folder")
    sheets.done.show()
    window.files.new()
    assert window.stage == FIRST_STAGE, "it opens where its work begins"
    assert not window.notice.isVisible()
    window.go(len(STAGES) - 1)
    assert not sheets.notice.isVisible()
    assert sheets.done.isHidden()
    window.files.open(tmp_path / "a.molvik")
    assert window.stage == len(STAGES) - 1, "a file is taken up where the work is"


def test_a_latin_1_terminal_gets_its_answer(path: Path) -> None:
    environment = {**os.environ, "PYTHONIOENCODING": "latin-1", "LC_ALL": "C"}
    done = run(["size", str(path)], env=environment, encoding="latin-1")
    assert done.returncode in (0, 1), done.stderr
    assert "W1" in done.stdout
    done = run(["check", str(path), "--json"], env=environment, encoding="latin-1")
    assert json.loads(done.stdout)["job"]


def test_a_full_device_and_a_closed_pipe_end_in_a_line_and_a_code(path: Path) -> None:
    with Path("/dev/full").open("w") as full:
        done = subprocess.run(
            [sys.executable, "-m", "molvik", "check", str(path)],
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
        )
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "could not be written" in done.stderr
    shell = f"{sys.executable} -m molvik size {path} | head -1"
    done = subprocess.run(["bash", "-o", "pipefail", "-c", shell], capture_output=True, text=True)
    assert done.stderr == ""
    assert done.stdout.count("\n") == 1


@pytest.mark.parametrize("kind", ["fifo", "loop", "folder", "missing", "noise"])
def test_what_is_no_job_gets_a_line_and_exit_code_2(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "x.molvik"
    if kind == "fifo":
        os.mkfifo(path)
    elif kind == "loop":
        path.symlink_to(path)
    elif kind == "folder":
        path.mkdir()
    elif kind == "noise":
        path.write_bytes(os.urandom(3000))
    for command in (["check"], ["survey"], ["size"], ["export", "--out", str(tmp_path / "o")]):
        done = run([command[0], str(path), *command[1:]], timeout=600)
        assert done.returncode == 2
        assert done.stderr.count("\n") == 1, done.stderr
        assert "Traceback" not in done.stderr
