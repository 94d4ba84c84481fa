"""Laying a block: choose it, answer its questions, see what comes, what is done step by step and
what it takes, and put it into the job.
"""

from collections.abc import Callable
from datetime import datetime
from typing import NamedTuple

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.blocks.arrangements import BLOCKS, PLACES, Block, begun
from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.excitation import excitation, reads_words
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, column, copyable, label, row
from molvik.devices import kind_of
from molvik.logbook.rework import Rework, rework, takes_lines
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.parts import Device, EarthPoint, Fuse, Wire
from molvik.model.stock import StockItem
from molvik.netlist.network import Network


class Laid(NamedTuple):
    """A block as it is laid. reads: what what charges should read, a line each."""

    job: Job
    work: Rework
    reads: tuple[str, ...]


class BlockDialog(QDialog):
    """Blocks on the left, questions and what comes of them on the right. title: the block that is
    chosen to begin with.
    """

    def __init__(self, parent: QWidget, store: Store, title: str = "") -> None:
        super().__init__(parent)
        self._store = store
        self._task: Task | None = None
        self._then_lay = False
        self.laid: Laid | None = None
        self.setWindowTitle("Lay a block")
        self.resize(1040, 680)
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
        self.comes, self.steps, self.takes, self.reads = (
            _lines(name) for name in ("What is laid", "Step by step", "What it takes", "It reads")
        )
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("What is laid, step by step, what it takes, what it reads")
        for page in (self.comes, self.steps, self.takes, self.reads):
            self.tabs.addTab(page, page.accessibleName())
        self.log = QCheckBox("Write the steps into the log")
        self.log.setToolTip("So that they are at hand at the bench; undone with the block")
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
        self.head = label("", "faint")
        inside = column(self.title, self.about, self._form_box, self.notice, self.head, self.tabs)
        inside.setStretch(5, 1)
        right.setLayout(inside)
        both = row(left, right, spacing=14)
        both.setStretch(0, 2)
        both.setStretch(1, 4)
        whole = QVBoxLayout(self)
        whole.addLayout(both, 1)
        end = button("Cancel", "Change nothing (Esc)", self.reject)
        whole.addLayout(row(self.log, 1, end, self.act))
        self.list.setCurrentRow(list(BLOCKS).index(title) if title in BLOCKS else 0)

    def _choose(self, title: str) -> None:
        block = BLOCKS[title]
        self.title.setText(block.title)
        self.about.setText(block.about)
        self.log.setChecked(block.alters)
        self.tabs.setCurrentWidget(self.steps if block.alters else self.comes)
        self.tabs.setTabVisible(self.tabs.indexOf(self.reads), block.charges)
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
        for page in (self.comes, self.steps, self.takes, self.reads):
            page.clear()
        self.head.setText("")
        try:
            layer = begun(self._store.job, self.list.currentItem().text(), self.answers())
        except ValueError as error:
            self.notice.say(str(error))
            self.act.setEnabled(False)
            return
        self.notice.say("")
        self.act.setEnabled(True)
        self.comes.addItems(changes(self._store.job, layer.job))
        self.head.setText("sizes and fuses are being worked out …")
        block = BLOCKS[self.list.currentItem().text()]
        task = Task(_work(self._store.job, layer, block, self._store.analysis.stock), self)
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
        self.head.setText("")
        self.notice.say(str(error))
        self.act.setEnabled(False)

    def _show(self, laid: Laid) -> None:
        then_lay = self._then_lay
        self._forget()
        self.laid = laid
        self.head.setText("")
        self.comes.clear()
        self.comes.addItems(changes(self._store.job, laid.job))
        self.steps.addItems(laid.work.lines)
        self.takes.addItems(takes_lines(laid.work.cost, self._store.job.settings))
        self.reads.addItems(list(laid.reads))
        if then_lay:
            self.lay_it()

    def lay_it(self) -> None:
        """Put the block into the job, as soon as its sizes are known."""
        if self.laid is None:
            self._then_lay = self._task is not None
            self.act.setEnabled(False)
            return
        title, job = self.list.currentItem().text(), self.laid.job
        if self.log.isChecked():
            takes = takes_lines(self.laid.work.cost, job.settings)
            text = "\n".join((f"{title}:", *self.laid.work.lines, "It takes:", *takes))
            job = edits.log(job, _note(text, job.settings.measured_by))
        self._store.do(f"Lay {title.lower()}", lambda _: job)
        self.accept()

    def done(self, result: int) -> None:
        """End what is under way."""
        self._forget()
        super().done(result)


def _lines(name: str) -> QListWidget:
    made = QListWidget()
    made.setAccessibleName(name)
    made.setWordWrap(True)
    made.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
    copyable(made)
    return made


def _note(text: str, by: str) -> LogEntry:
    now = datetime.now().astimezone().isoformat(timespec="seconds")
    return LogEntry(now, stage="circuits", text=text, by=by)


def _work(
    before: Job, layer: CircuitBuilder, block: Block, stock: tuple[StockItem, ...]
) -> Callable[[Callable[[], bool]], Laid]:
    """Return the work of laying a block: with its sizes and fuses, steps, costs and readings."""

    def work(stop: Callable[[], bool]) -> Laid:
        job = layer.finished(stop)
        found = excitation(Network(job)) if block.charges else None
        reads = tuple(reads_words(found)) if found is not None else ()
        return Laid(job, rework(before, job, stock), reads)

    return work


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
        if isinstance(was, Device) and isinstance(part, Device) and was.kind == part.kind:
            if was.terminals != part.terminals and not kind_of(part).is_computer:
                ends = f"{', '.join(was.terminals)} become {', '.join(part.terminals)}"
                lines.append(f"{part.code}  {part.name}: another one, {ends}")
            continue
        if isinstance(was, Device) and isinstance(part, Device):
            lines.append(f"{part.code}  {was.name}: {was.kind} becomes {part.kind}")
        if was is not None:
            continue
        what = part.kind if isinstance(part, Device) else type(part).__name__.lower()
        if isinstance(part, EarthPoint):
            what = "earth point"
        if isinstance(part, Fuse):
            what = f"{part.rating_a:g} A {part.kind} fuse"
        lines.append(f"{part.code}  {part.name}, {what}")
    known = {wire.code: wire for wire in before.wires}
    kept = {part.code for part in after.parts()}
    lines += [f"{code}  {part.name} goes" for code, part in old.items() if code not in kept]
    there = {wire.code for wire in after.wires}
    lines += [
        f"{wire.code}  {wire.function or 'wire'} goes: {wire.start} to {wire.finish}"
        for wire in before.wires
        if wire.code not in there
    ]
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
