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

from molvik.circuits.blocks import BLOCKS, PLACES, lay
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import Notice, button, choice, column, copyable, label, row
from molvik.model.job import Job
from molvik.model.parts import Device, Fuse


class BlockDialog(QDialog):
    """Blocks on the left, questions and what comes of them on the right."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
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
        self.act = button("Lay it", "Put it into the job, as one step that can be undone (Enter)",
                          self.lay_it, "action")  # fmt: skip
        self.act.setDefault(True)
        left = QWidget()
        left.setLayout(column(label("BLOCKS", "head"), self.list))
        right = QWidget()
        inside = column(self.title, self.about, self._form_box, self.notice,
                        label("WHAT IS LAID", "head"), self.comes)  # fmt: skip
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
                made = choice(ask.text, [(one, one) for one in ask.choices], ask.default)
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

    def _laid(self) -> Job | None:
        try:
            job = lay(self._store.job, self.list.currentItem().text(), self.answers())
        except ValueError as error:
            self.notice.say(str(error))
            return None
        self.notice.say("")
        return job

    def _preview(self) -> None:
        job = self._laid()
        self.act.setEnabled(job is not None)
        self.comes.clear()
        if job is None:
            return
        old = {one.code for one in self._store.job.parts()}
        before = {one.code: one for one in self._store.job.wires}
        for part in job.parts():
            if part.code in old:
                continue
            what = part.kind if isinstance(part, Device) else type(part).__name__.lower()
            if isinstance(part, Fuse):
                what = f"{part.rating_a:g} A {part.kind} fuse"
            self.comes.addItem(f"{part.code}  {part.name}, {what}")
        for wire in job.wires:
            if before.get(wire.code) == wire:
                continue
            verb = "moves: " if wire.code in before else ""
            size = str(wire.size) if wire.size else ""
            words = f"{wire.code}  {verb}{wire.function}: {wire.start} to {wire.finish}"
            self.comes.addItem(f"{words}, {wire.colour or ''} {size}")

    def lay_it(self) -> None:
        """Put the block into the job."""
        job = self._laid()
        if job is not None:
            made = job
            self._store.do(f"Lay {self.list.currentItem().text().lower()}", lambda _: made)
            self.accept()
