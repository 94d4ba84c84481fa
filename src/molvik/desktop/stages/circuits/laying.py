"""Laying a block: choose it, answer its questions, see what comes, and put it into the job."""

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.blocks.arrangements import BLOCKS, PLACES, begun
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, column, copyable, label, row
from molvik.model.job import Job
from molvik.model.parts import Device, EarthPoint, Fuse, Wire


class BlockDialog(QDialog):
    """Blocks on the left, questions and what comes of them on the right."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self._task: Task | None = None
        self._then_lay = False
        self.laid: Job | None = None
        self.setWindowTitle("Lay a block")
        self.resize(980, 640)
        self.list = QListWidget()
        self.list.setAccessibleName("Blocks")
        self.list.addItems(list(BLOCKS))
        self.list.currentTextChanged.connect(self._choose)
        self.title = label("")
        self.title.setObjectName("pageTitle")
        self.about = label("", "faint", wrap=True)
        self._form_box = QWidget()
        self._form = QFormLayout(self._form_box)
        self._form.setContentsMargins(0, 0, 0, 0)
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self.notice = Notice()
        self.comes = QListWidget()
        self.comes.setAccessibleName("What is laid")
        copyable(self.comes)
        self.act = button(
            "Lay it",
            "Put it into the job, as one step that can be undone (Enter)",
            self.lay_it,
            "action",
        )
        self.act.setDefault(True)
        left = QWidget()
        left.setLayout(column(label("BLOCKS", "head"), self.list))
        right = QWidget()
        self.head = label("WHAT IS LAID", "head")
        inside = column(self.title, self.about, self._form_box, self.notice, self.head, self.comes)
        inside.setStretch(5, 1)
        right.setLayout(inside)
        both = row(left, right, spacing=14)
        both.setStretch(0, 2)
        both.setStretch(1, 4)
        whole = QVBoxLayout(self)
        whole.addLayout(both, 1)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), self.act))
        self.list.setCurrentRow(0)

    def _choose(self, title: str) -> None:
        block = BLOCKS[title]
        self.title.setText(block.title)
        self.about.setText(block.about)
        while self._form.rowCount():
            self._form.removeRow(0)
        self.fields = {}
        for ask in (*block.asks, *PLACES):
            made: QLineEdit | QComboBox
            if ask.choices:
                made = choice(ask.text, [(entry, entry) for entry in ask.choices], ask.default)
                made.currentIndexChanged.connect(lambda _: self._preview())
            else:
                made = QLineEdit(ask.default)
                made.setAccessibleName(ask.text)
                made.textChanged.connect(lambda _: self._preview())
            self._form.addRow(ask.text, made)
            self.fields[ask.key] = made
        self._preview()

    def answers(self) -> dict[str, str]:
        """Return what is answered."""
        return {
            key: field.currentText() if isinstance(field, QComboBox) else field.text().strip()
            for key, field in self.fields.items()
        }

    def _preview(self) -> None:
        """Show at once what is laid, and work out its sizes and fuses aside."""
        self._forget()
        self.comes.clear()
        try:
            layer = begun(self._store.job, self.list.currentItem().text(), self.answers())
        except ValueError as error:
            self.notice.say(str(error))
            self.act.setEnabled(False)
            return
        self.notice.say("")
        self.act.setEnabled(True)
        self.comes.addItems(changes(self._store.job, layer.job))
        self.head.setText("WHAT IS LAID (sizes and fuses are being worked out)")
        task = Task(layer.finished, self)
        task.done.connect(self._show)
        task.failed.connect(self._failed)
        self._task = task
        task.start()

    def _forget(self) -> None:
        self.laid = None
        self._then_lay = False
        if self._task is not None:
            self._task.stop()
            self._task = None

    def _failed(self, error: Exception) -> None:
        self._forget()
        self.head.setText("WHAT IS LAID")
        self.notice.say(str(error))
        self.act.setEnabled(False)

    def _show(self, job: Job) -> None:
        then_lay = self._then_lay
        self._forget()
        self.laid = job
        self.head.setText("WHAT IS LAID")
        self.comes.clear()
        self.comes.addItems(changes(self._store.job, job))
        if then_lay:
            self.lay_it()

    def lay_it(self) -> None:
        """Put the block into the job, as soon as its sizes are known."""
        job = self.laid
        if job is None:
            self._then_lay = self._task is not None
            self.act.setEnabled(False)
            return
        self._store.do(f"Lay {self.list.currentItem().text().lower()}", lambda _: job)
        self.accept()

    def done(self, result: int) -> None:
        """End what is under way."""
        self._forget()
        super().done(result)


def changes(before: Job, after: Job) -> list[str]:
    """Return what a block brings and what it changes, a line each."""
    old = {part.code: part for part in before.parts()}
    lines = []
    for part in after.parts():
        was = old.get(part.code)
        if isinstance(was, Fuse) and isinstance(part, Fuse) and was != part:
            lines.append(
                f"{part.code}  {part.name}: {was.rating_a:g} A {was.kind} becomes "
                f"{part.rating_a:g} A {part.kind}, for what it carries now"
            )
        if was is not None:
            continue
        what = part.kind if isinstance(part, Device) else type(part).__name__.lower()
        if isinstance(part, EarthPoint):
            what = "earth point"
        if isinstance(part, Fuse):
            what = f"{part.rating_a:g} A {part.kind} fuse"
        lines.append(f"{part.code}  {part.name}, {what}")
    known = {wire.code: wire for wire in before.wires}
    return lines + [
        _wire_line(known.get(wire.code), wire)
        for wire in after.wires
        if known.get(wire.code) != wire
    ]


def _wire_line(was: Wire | None, wire: Wire) -> str:
    size = str(wire.size) if wire.size else ""
    if was is not None and was.ends == wire.ends:
        parts = []
        if was.size != wire.size:
            parts.append(f"{was.size or 'no size'} becomes {size}, for what it carries now")
        if was.load_a != wire.load_a and was.load_a is not None:
            parts.append(f"its typed {was.load_a:g} A become {wire.load_a:g} A")
        return f"{wire.code}  {wire.function}: {'; '.join(parts) or 'changed'}"
    verb = "moves: " if was is not None else ""
    words = f"{wire.code}  {verb}{wire.function}: {wire.start} to {wire.finish}"
    return f"{words}, {wire.colour or ''} {size}"
