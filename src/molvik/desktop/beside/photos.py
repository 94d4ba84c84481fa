"""Photos: added from files with one key, shown large, marked."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QByteArray, QObject, Qt, Signal
from PySide6.QtGui import QImage, QKeySequence, QShortcut, QTransform
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QListWidget,
    QProgressDialog,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.picture import PictureView
from molvik.desktop.widgets.small import CheckedField, button, column, label, row
from molvik.files.errors import JobFileError
from molvik.files.photobox import PhotoBox, read_photos
from molvik.files.photos import SUFFIXES, is_kept_picture
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text
from molvik.model import photo_edits
from molvik.model.photos import Mark, MarkKind, Photo
from molvik.parsing.quantities import read_length_m
from molvik.routing.tracing import traced
from molvik.survey.photo_lengths import contradiction
from molvik.typed.photo_faults import marked, recorded
from molvik.wording import counted

KINDS = f"Photos ({' '.join(f'*{s} *{s.upper()}' for s in SUFFIXES)});;All files (*)"
TOOLS: tuple[tuple[MarkKind, str, str], ...] = (
    ("arrow", "A", "Drag from the words to what they are about (A)"),
    ("circle", "C", "Drag from the middle outwards (C)"),
    ("length", "L", "Drag along something, then type how long it is (L)"),
    (
        "trace",
        "T",
        "Click along a loom, from breakout to breakout: each leg becomes a stretch to "
        "build; T again ends it (T)",
    ),
)


class PhotoDesk(QObject):
    """Adds photos to the job. told(text, good): say what came of it."""

    told = Signal(str, bool)
    _so_far = Signal(int)

    def __init__(
        self, window: QWidget, store: Store, hand: Hand, box: Callable[[], PhotoBox]
    ) -> None:
        super().__init__(window)
        self._window, self._store, self._hand, self._box = window, store, hand, box
        self.progress: QProgressDialog | None = None
        self._task: Task | None = None
        self._so_far.connect(self._show_progress)
        self.shown: PhotoWindow | None = None

    def ask(self, stage: str) -> None:
        """Ask for photos of what is in hand."""
        about = self._hand.subject or "the job"
        names, _ = QFileDialog.getOpenFileNames(self._window, f"Photos of {about}", "", KINDS)
        if names:
            self.add([Path(name) for name in names], stage)

    def add(self, paths: list[Path], stage: str) -> None:
        """Add photos of what is in hand; given up half way, none is added."""
        subject, box = self._hand.subject, self._box()
        progress = QProgressDialog(
            f"Reading {counted(len(paths), 'photo')}", "Stop", 0, len(paths), self._window
        )
        progress.setWindowModality(Qt.WindowModality.WindowModal)
        progress.setMinimumDuration(400)
        task = Task(lambda stop: read_photos(paths, box, stop, self._so_far.emit), self)
        progress.canceled.connect(task.stop)
        progress.canceled.connect(lambda: self.told.emit("Stopped: no photo was added", True))
        task.done.connect(partial(self._take, subject, stage))
        task.done.connect(progress.reset)
        task.failed.connect(
            lambda error: self.told.emit(f"The photos were not read: {error}", False)
        )
        task.failed.connect(progress.reset)
        self.progress, self._task = progress, task
        task.start()

    def _show_progress(self, done: int) -> None:
        if self.progress is not None and not self.progress.wasCanceled():
            self.progress.setValue(done)

    def _take(self, subject: str, stage: str, result: tuple[list[Photo], list[str]]) -> None:
        photos, problems = result
        by = self._store.job.settings.measured_by
        made = tuple(
            replace(photo, on=subject, stage=stage, by=by, at=photo.at or now_text())
            for photo in photos
        )
        if made:
            words = "Photo" if len(made) == 1 else f"{counted(len(made), 'photo')}"
            self._store.do(
                f"{words} of {subject or 'the job'}", lambda job: photo_edits.add(job, made)
            )
        if problems:
            more = f" ({len(problems) - 1} more could not be added)" if len(problems) > 1 else ""
            self.told.emit(f"{problems[0]}{more}", False)
        elif made:
            self.told.emit(
                f"{counted(len(made), 'photo')} added" if len(made) > 1 else "Photo added", True
            )

    def show(self, code: str) -> None:
        """Show a photo large."""
        if self.shown is None:
            self.shown = PhotoWindow(self._window, self._store, self._hand, self.read)
        self.shown.show_photo(code)
        self.shown.show()
        self.shown.raise_()

    def forget(self) -> None:
        """Let go of the window that shows one large."""
        if self.shown is not None:
            self.shown.deleteLater()
            self.shown = None

    def read(self, photo: Photo) -> bytes | None:
        """Return the bytes of a photo."""
        return self._box().read(photo.file)


class PhotoWindow(QDialog):
    """One photo large, with its marks; Page up and Page down go through those of the same thing."""

    def __init__(
        self,
        parent: QWidget,
        store: Store,
        hand: Hand,
        read: Callable[[Photo], bytes | None],
    ) -> None:
        super().__init__(parent)
        self._store, self._hand, self._read = store, hand, read
        self.code = ""
        self._image_of = "", 0
        self._image = QImage()
        self.setWindowModality(Qt.WindowModality.NonModal)
        self.resize(1160, 720)
        self.view = PictureView()
        self.view.drawn.connect(self._drawn)
        self.view.chosen.connect(self._choose)
        self.view.moved.connect(self._moved)
        self._build_tools()
        self.count = label("", "faint")
        back = button("Before", "The photo before (Page up)", partial(self._step, -1))
        back.setShortcut(QKeySequence(Qt.Key.Key_PageUp))
        on = button("Next", "The next photo (Page down)", partial(self._step, 1))
        on.setShortcut(QKeySequence(Qt.Key.Key_PageDown))
        self.caption = CheckedField("Caption", "What it shows, in a few words", self._caption)
        self.taken = label("", "faint", wrap=True)
        self._build_marks()
        self.notice = Notice()
        for field in (self.caption, self.says):
            field.refused.connect(self.notice.say)
        side = QWidget()
        side.setFixedWidth(280)
        side.setLayout(
            column(
                label("CAPTION", "head"),
                self.caption,
                self.taken,
                label("MARKS", "head"),
                self.marks,
                self.says_label,
                self.says,
                self.notice,
                row(self.off_button, 1),
                row(self.faults_button, 1),
                row(self.stretches_button, 1),
                row(
                    button("Save a copy…", "As a JPEG file, without the marks", self._ask_copy),
                    button("Delete the photo", "Can be undone", self._remove, "quiet"),
                ),
            )
        )
        turn = button("Turn", "By a quarter, clockwise, with its marks (R)", self.turn)
        QShortcut(QKeySequence("R"), self.view, self.turn)
        whole = QVBoxLayout(self)
        whole.addLayout(
            row(label("Mark:", "faint"), *self.tools.values(), 1, turn, self.count, back, on)
        )
        whole.addLayout(row(self.view, side, spacing=14), 1)
        store.changed.connect(self._changed)

    def _build_tools(self) -> None:
        self.tools: dict[MarkKind, QPushButton] = {}
        for kind, key, tip in TOOLS:
            made = button(kind.capitalize(), tip, partial(self.take_tool, kind))
            made.setCheckable(True)
            QShortcut(QKeySequence(key), self.view, partial(self.take_tool, kind))
            self.tools[kind] = made

    def _build_marks(self) -> None:
        self.marks = QListWidget()
        self.marks.setAccessibleName("Marks")
        self.marks.currentRowChanged.connect(self._choose)
        QShortcut(QKeySequence("Delete"), self.marks, self._unmark)
        self.off_button = button("Take the mark off", "Delete, in the list", self._unmark)
        self.stretches_button = button(
            "Create stretches from the trace",
            "By the measured length on this photo; a length that was typed or measured stays",
            self._make_stretches,
            "action",
        )
        self.faults_button = button(
            "Record the faults",
            "A fault for each arrow and circle that says what is wrong: chewed 3, L17 burnt 4 (F)",
            self._record_faults,
            "action",
        )
        QShortcut(QKeySequence("F"), self.view, self._record_faults)
        self.says_label = label("Says", "faint")
        self.says = CheckedField("Says", "What is written beside the mark", self._say)

    def photo(self) -> Photo | None:
        """Return the photo that is shown, as the job has it."""
        return next((photo for photo in self._store.job.photos if photo.code == self.code), None)

    def _same(self) -> list[str]:
        """Return the photos of the same thing."""
        photo = self.photo()
        return [found.code for found in self._store.job.photos_on(photo.on)] if photo else []

    def show_photo(self, code: str) -> None:
        """Show a photo."""
        for field in (self.caption, self.says):
            field.finish()
        self.code = code
        self.view.choose(-1)
        self.refresh()
        self.view.setFocus()

    def _changed(self, old: object, new: object) -> None:
        if self.isVisible():
            if self.photo() is None:
                self.close()
            else:
                self.refresh()

    def refresh(self) -> None:
        """Show the photo as the job has it."""
        photo = self.photo()
        if photo is None:
            return
        if self._image_of != (photo.file, photo.turned):
            data = self._read(photo)
            kept = data if data is not None and is_kept_picture(data) else b""
            self._image = QImage()
            self._image.loadFromData(QByteArray(kept), "JPG")
            self._image = self._image.transformed(QTransform().rotate(90.0 * photo.turned))
            self._image_of = photo.file, photo.turned
        self.view.show_photo(photo, self._image)
        self.setWindowTitle(f"{photo.code}, photo of {photo.on or 'the job'}")
        same = self._same()
        self.count.setText(
            f"{same.index(photo.code) + 1} of {len(same)} photos of {photo.on or 'the job'}"
        )
        self.caption.show_value(photo.text)
        by = f" by {photo.by}" if photo.by else ""
        self.taken.setText(f"Taken {photo.at[:10]} {photo.at[11:16]}{by}")
        self.marks.blockSignals(True)
        self.marks.clear()
        for index, mark in enumerate(photo.marks):
            said = self.view.label_of(index)
            self.marks.addItem(f"{mark.kind}: {said}" if said else mark.kind)
        self.marks.setCurrentRow(self.view.at)
        self.marks.blockSignals(False)
        self._show_mark()
        count = len(marked(self._store.job, self.code))
        self.faults_button.setVisible(count > 0)
        self.faults_button.setText(f"Record {count} fault{'s' * (count != 1)}")
        self.stretches_button.setVisible(any(mark.kind == "trace" for mark in photo.marks))
        self.notice.say(contradiction(photo))

    def _show_mark(self) -> None:
        photo, index = self.photo(), self.view.at
        held = photo is not None and 0 <= index < len(photo.marks)
        self.says.setVisible(held)
        self.says_label.setVisible(held)
        self.says_label.setText("Says")
        if not held or photo is None:
            self.says.show_value("")
            return
        mark = photo.marks[index]
        if mark.kind == "length":
            self.says_label.setText("Measured, for example 120 mm; empty to have it estimated")
            self.says.show_value("" if mark.length_m is None else f"{mark.length_m * 1000:.4g} mm")
        else:
            self.says.show_value(mark.text)

    def turn(self) -> None:
        """Turn the photo by a quarter."""
        self.view.fit_all()
        self._store.do(f"Turn {self.code}", lambda job: photo_edits.turn(job, self.code))

    # marks

    def take_tool(self, kind: MarkKind | None) -> None:
        """Take a tool up, or lay it down when it is in use."""
        kind = None if kind == self.view.tool else kind
        for name, push_button in self.tools.items():
            push_button.setChecked(name == kind)
        self.view.take_tool(kind)

    def _drawn(self, mark: Mark) -> None:
        try:
            self._store.do(f"Mark {self.code}", lambda job: photo_edits.mark(job, self.code, mark))
        except ValueError as error:
            self.notice.say(str(error))
            return
        if mark.kind == "trace":  # it goes on
            return
        self.take_tool(None)
        photo = self.photo()
        self._choose(len(photo.marks) - 1 if photo else -1)
        self.says.setFocus()

    def _make_stretches(self) -> None:
        """Make a stretch to build of each leg that is traced, in the loom looked at last."""

        self.take_tool(None)
        code, loom = self.code, self._hand.loom
        try:
            self._store.do(f"Stretches of {code}", lambda job: traced(job, code, loom))
        except ValueError as error:
            self.notice.say(str(error))

    def _record_faults(self) -> None:
        """Record a fault for each mark that tells of one."""
        self.says.finish()
        code = self.code
        try:
            self._store.do(f"Faults on {code}", lambda job: recorded(job, code))
        except ValueError as error:
            self.notice.say(str(error))

    def _choose(self, index: int) -> None:
        self.says.finish()
        self.view.choose(index)
        self.marks.blockSignals(True)
        self.marks.setCurrentRow(index)
        self.marks.blockSignals(False)
        self._show_mark()

    def _moved(self, index: int, mark: Mark) -> None:
        fields = {name: getattr(mark, name) for name in ("x1", "y1", "x2", "y2")}
        self._change(index, f"Move a mark on {self.code}", fields)

    def _say(self, text: str) -> None:
        photo, index = self.photo(), self.view.at
        if photo is None or not 0 <= index < len(photo.marks):
            return
        if photo.marks[index].kind == "length":
            length = read_length_m(text) if text.strip() else None
            self._put(index, f"Length on {self.code}", {"length_m": length})
        else:
            self._put(index, f"Words on {self.code}", {"text": text.strip()})

    def _change(self, index: int, words: str, fields: dict[str, object]) -> None:
        try:
            self._put(index, words, fields)
        except ValueError as error:
            self.notice.say(str(error))

    def _put(self, index: int, words: str, fields: dict[str, object]) -> None:
        code = self.code
        self._store.do(words, lambda job: photo_edits.change_mark(job, code, index, **fields))

    def _unmark(self) -> None:
        photo, index = self.photo(), self.view.at
        if photo is not None and 0 <= index < len(photo.marks):
            self.view.choose(-1)
            code = self.code
            self._store.do(f"Mark off {code}", lambda job: photo_edits.unmark(job, code, index))

    # the photo

    def _caption(self, text: str) -> None:
        code = self.code
        self._store.do(
            f"Caption of {code}", lambda job: photo_edits.change(job, code, text=text.strip())
        )

    def _step(self, by: int) -> None:
        same = self._same()
        if self.code in same:
            self.show_photo(same[(same.index(self.code) + by) % len(same)])

    def _remove(self) -> None:
        code, same = self.code, self._same()
        others = [one for one in same if one != code]
        if others:
            self.code = others[min(same.index(code), len(others) - 1)]
        self._store.do(f"Delete {code}", lambda job: photo_edits.remove(job, code))

    def _ask_copy(self) -> None:
        photo = self.photo()
        name, _ = QFileDialog.getSaveFileName(
            self, "Save a copy", f"{self.code}.jpg", "JPEG (*.jpg)"
        )
        data = self._read(photo) if photo else None
        if name and data is not None:
            try:
                write_file(Path(name), data)
            except JobFileError as error:
                self.notice.say(str(error))
