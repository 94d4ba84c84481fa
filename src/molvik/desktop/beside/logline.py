"""Lines of the log, written and corrected: a note from anywhere, what was done, when."""

from datetime import datetime

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import Choice, button, choice, label, row
from molvik.logbook.clock import now_text
from molvik.logbook.estimate import OPERATIONS, unlike
from molvik.model import edits, log_edits
from molvik.model.log import LogEntry
from molvik.numbers import read_number
from molvik.stages import STAGES, key_of
from molvik.wording import figures

WHEN = "%Y-%m-%d %H:%M"


class _LineDialog(QDialog):
    """What a line says: a note, or what was done, how much of it, in how many minutes."""

    def __init__(self, parent: QWidget, store: Store, title: str) -> None:
        super().__init__(parent)
        self._store = store
        self._asked: tuple[str, float, float] | None = None
        self.setWindowTitle(title)
        self.setMinimumWidth(460)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("Note")
        self.text.setPlaceholderText("What you saw, did or must remember")
        self.text.setTabChangesFocus(True)
        self.text.setMaximumHeight(110)
        self.operation = Choice()
        self.operation.setAccessibleName("Done")
        self.operation.addItem("just a note", "")
        for operation in OPERATIONS:
            self.operation.addItem(operation, operation)
        self.operation.activated.connect(lambda _: self._show_amounts())
        self.quantity, self.minutes = QLineEdit(), QLineEdit()
        self.quantity.setToolTip("Metres for covering and wire, else how many")
        self.form = QFormLayout()
        self.notice = Notice()
        keep = button("Keep", "Write it into the log (Ctrl+Enter)", self.accept, "action")
        keep.setShortcut("Ctrl+Return")
        self.above = QVBoxLayout()
        whole = QVBoxLayout(self)
        whole.addLayout(self.above)
        whole.addWidget(self.text)
        whole.addLayout(self.form)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Write nothing (Esc)", self.reject), keep))

    def _lay_amounts(self) -> None:
        self.form.addRow("Done", self.operation)
        self.form.addRow("How much", self.quantity)
        self.form.addRow("Minutes", self.minutes)
        self._show_amounts()

    def _show_amounts(self) -> None:
        counts = bool(self.operation.currentData())
        self.form.setRowVisible(self.quantity, counts)
        self.form.setRowVisible(self.minutes, counts)

    def _amounts(self) -> tuple[float, float]:
        if not self.operation.currentData():
            return 0.0, 0.0
        return read_number(self.quantity.text()), read_number(self.minutes.text())

    def accept(self) -> None:
        """Write the line into the log, and close; or say why it was refused."""
        try:
            entry = self._entry()
            if self._asks_again(entry):
                return
            self._keep(entry)
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()

    def _asks_again(self, entry: LogEntry) -> bool:
        """Ask, once, whether what took so unlike as long as usual is right."""
        usual = unlike(self._others(), entry)
        said = entry.operation, entry.quantity, entry.minutes
        if usual is None or said == self._asked:
            return False
        self._asked = said
        each = entry.minutes / entry.quantity
        self.notice.say(
            f"That is {figures(each)} min each, where {figures(usual)} are usual. If it is right, "
            "press Keep again: it counts as worked, but no estimate learns from it."
        )
        return True

    def _others(self) -> tuple[LogEntry, ...]:
        """Return the lines that it is held against."""
        return self._store.job.log

    def _entry(self) -> LogEntry:
        """Return the line as it was typed. Raises ValueError."""
        raise NotImplementedError

    def _keep(self, entry: LogEntry) -> None:
        """Write the line into the log. Raises ValueError."""
        raise NotImplementedError


class JotDialog(_LineDialog):
    """A note on what is in hand; or what was done, how much of it, in how many minutes."""

    def __init__(self, parent: QWidget, store: Store, hand: Hand, stage: str) -> None:
        about = f" on {hand.subject}" if hand.subject else ""
        super().__init__(parent, store, f"Note{about}")
        self._subject, self._stage = hand.subject, stage
        self._lay_amounts()

    def _entry(self) -> LogEntry:
        operation = self.operation.currentData()
        return LogEntry(
            now_text(),
            "done" if operation else "note",
            self._stage,
            self._subject,
            self.text.toPlainText().strip(),
            self._store.job.settings.measured_by,
            operation,
            *self._amounts(),
        )

    def _keep(self, entry: LogEntry) -> None:
        self._store.do("Note", lambda job: edits.log(job, entry))


class CorrectDialog(_LineDialog):
    """A line of the log, to be corrected. number: of the line in the log."""

    def __init__(self, parent: QWidget, store: Store, number: int) -> None:
        super().__init__(parent, store, "Correct a line of the log")
        self._number = number
        self._line = line = store.job.log[number]
        self.when = QLineEdit(f"{datetime.fromisoformat(line.at):{WHEN}}")
        self.when.setToolTip("Date and time: 2026-11-02 10:30")
        self.stage = choice(
            "Stage",
            [("no stage", ""), *((one.name, one.key) for one in STAGES)],
            key_of(line.stage),
        )
        self.subject = QLineEdit(line.subject)
        self.form.addRow("When", self.when)
        self.form.addRow("Stage", self.stage)
        if line.kind.startswith("clock"):
            self.text.hide()
        else:
            self.form.addRow("About", self.subject)
            self.text.setPlainText(line.text)
            at = self.operation.findData(line.operation)
            self.operation.setCurrentIndex(max(0, at))
            if line.kind == "done":
                self.quantity.setText(f"{line.quantity:g}")
                self.minutes.setText(f"{line.minutes:g}")
            self._lay_amounts()
        self.form.addRow(label("What it said stays with it, and is told in the log.", "faint"))

    def _others(self) -> tuple[LogEntry, ...]:
        log = self._store.job.log
        return (*log[: self._number], *log[self._number + 1 :])

    def _entry(self) -> LogEntry:
        line = self._line
        zone = datetime.fromisoformat(line.at).tzinfo
        try:
            when = datetime.strptime(self.when.text().strip(), WHEN).replace(tzinfo=zone)
        except ValueError:
            raise ValueError(f"“{self.when.text()}” is not a time: 2026-11-02 10:30") from None
        at = (
            line.at
            if f"{datetime.fromisoformat(line.at):{WHEN}}" == f"{when:{WHEN}}"
            else (when.isoformat(timespec="seconds"))
        )
        new = replace(line, at=at, stage=self.stage.currentData() or "")
        if line.kind.startswith("clock"):
            return new
        operation = self.operation.currentData()
        quantity, minutes = self._amounts()
        return replace(
            new,
            kind="done" if operation else "note",
            operation=operation,
            subject=self.subject.text().strip(),
            quantity=quantity,
            minutes=minutes,
            text=self.text.toPlainText().strip(),
        )

    def _keep(self, entry: LogEntry) -> None:
        fields = {name: getattr(entry, name) for name in entry.__struct_fields__}
        number, now = self._number, now_text()
        self._store.do("Correct the log", lambda job: log_edits.correct(job, number, now, **fields))


class PartDialog(QDialog):
    """A line of what was done, to be parted in two. number: of the line in the log."""

    def __init__(self, parent: QWidget, store: Store, number: int) -> None:
        super().__init__(parent)
        self._store, self._number = store, number
        line = store.job.log[number]
        self.setWindowTitle("Part a line of the log")
        self.setMinimumWidth(420)
        self.quantity, self.minutes = QLineEdit(), QLineEdit()
        self.notice = Notice()
        form = QFormLayout()
        form.addRow("How much of it", self.quantity)
        form.addRow("In minutes", self.minutes)
        keep = button("Part", "The rest is another line (Ctrl+Enter)", self.accept, "action")
        keep.setShortcut("Ctrl+Return")
        whole = QVBoxLayout(self)
        whole.addWidget(label(f"{line.says}. What is left stays a line by itself.", wrap=True))
        whole.addLayout(form)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))

    def accept(self) -> None:
        """Part it, and close; or say why that was refused."""
        number, now = self._number, now_text()
        try:
            quantity, minutes = (read_number(one.text()) for one in (self.quantity, self.minutes))
            self._store.do(
                "Part a line of the log",
                lambda job: log_edits.part(job, number, now, quantity, minutes),
            )
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()
