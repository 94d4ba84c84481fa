"""The logbook's window, and the clock."""

from datetime import datetime, timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDialog, QLineEdit, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.beside.logline import CorrectDialog, PartDialog
from molvik.desktop.dialogs.opening import put_up
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.logbook.clock import (
    forgotten,
    forgotten_text,
    hours_by_stage,
    hours_text,
    now_text,
    running,
)
from molvik.logbook.estimate import OPERATIONS, rates
from molvik.logbook.story import Line, matching, story
from molvik.model import edits, log_edits
from molvik.model.log import LogEntry
from molvik.stages import name_of
from molvik.wording import figures


def set_clock(store: Store, stage: str, worked_h: float | None = None) -> None:
    """Stop the clock if it runs, start it on a stage if not.

    worked_h: how long was really worked, when the clock was forgotten; it is stopped then.
    """
    session = running(store.job.log)
    moment = datetime.now().astimezone()
    if session is not None and worked_h is not None:
        moment = session.begin + timedelta(hours=worked_h)
    entry = LogEntry(
        moment.isoformat(timespec="seconds"),
        "clock on" if session is None else "clock off",
        stage,
        by=store.job.settings.measured_by,
    )
    words = "Clock on" if session is None else "Clock off"
    store.do(words, lambda job: edits.log(job, entry))


def forgotten_since(store: Store) -> datetime | None:
    """Return when the clock that runs was started, if it was plainly forgotten."""
    session = running(store.job.log)
    if session is None or not session.forgotten(datetime.now().astimezone()):
        return None
    return session.begin


def clock_text(store: Store) -> tuple[str, str]:
    """Return what the clock's button says, and its tooltip."""
    now = datetime.now().astimezone()
    log = store.job.log
    total = hours_text(sum(hours_by_stage(log, now).values()))
    session = running(log)
    if session is None:
        lost = forgotten(log, now)
        words = f"{len(lost)} forgotten clocks are not counted. " if lost else ""
        return f"Clock off · {total}", f"{words}Start the clock on this stage (Ctrl+T)"
    if session.forgotten(now):
        return (
            f"Clock forgotten? · {total}",
            f"It runs since {session.begin:%d %b %H:%M}; more than 12 h are not counted. "
            "Stop it (Ctrl+T)",
        )
    return f"On the clock · {total}", f"On {name_of(session.stage)}. Stop the clock (Ctrl+T)"


class LogbookWindow(QDialog):
    """The log as a story that can be filtered, with the hours of each stage.

    photo_wanted(code): a photo in it is to be shown large.
    """

    photo_wanted = Signal(str)

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self._number: int | None = None
        self.setWindowTitle("Logbook")
        self.resize(860, 520)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Show only lines with these words")
        self.filter.setAccessibleName("Filter")
        self.filter.textChanged.connect(lambda _: self.refresh())
        columns: list[Column[tuple[int, Line]]] = [
            Column("When", lambda it: f"{it[1].at:%d %b %Y %H:%M}", width=156),
            Column("Stage", lambda it: it[1].stage, width=80),
            Column("About", lambda it: it[1].subject, width=90, mono=True),
            Column("Kind", lambda it: it[1].kind, width=76),
            Column("What", lambda it: it[1].text, width=360),
            Column("By", lambda it: it[1].by, width=70),
        ]
        self.model: ThingsModel[tuple[int, Line]] = ThingsModel(columns, lambda it: str(it[0]))
        self.table: ThingsTable[tuple[int, Line]] = ThingsTable(self.model, "Log")
        self.table.doubleClicked.connect(lambda index: self._open(index.row()))
        self.hours = label("", wrap=True)
        self.correct_button = button(
            "Correct…", "What the line says, and when (Enter)", self.correct
        )
        self.part_button = button(
            "Part…", "Two lines of one: so much of it, and the rest", self._part
        )
        self.strike_button = button(
            "Strike out", "It stays visible and no longer counts (Delete)", self.strike
        )
        self.table.removed.connect(lambda _: self.strike())
        self.table.opened.connect(self._open)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._offer())
        whole = QVBoxLayout(self)
        whole.addWidget(self.filter)
        whole.addWidget(self.table, 1)
        whole.addLayout(row(self.correct_button, self.part_button, self.strike_button, 1))
        whole.addWidget(self.hours)
        words = "Print it, or save it as CSV, in Sheets (Ctrl+8). Ctrl+J takes a note anywhere. "
        words += "Double-click a photo to see it."
        whole.addWidget(label(words, "faint"))
        self.setWindowModality(Qt.WindowModality.NonModal)
        store.changed.connect(self._changed)
        self.refresh()

    def _open(self, index: int) -> None:
        """Show the photo of a line, or correct it."""
        line = self.model.things[index][1]
        if line.kind == "photo":
            self.photo_wanted.emit(line.text.split(" ")[0])
        else:
            self.correct()

    def _line(self) -> LogEntry | None:
        """Return the line of the log that is in hand, None for what was recorded elsewhere."""
        index = self.table.currentIndex().row()
        things = self.model.things
        self._number = things[index][1].number if 0 <= index < len(things) else None
        return None if self._number is None else self._store.job.log[self._number]

    def _offer(self) -> None:
        """Offer what can be done with the line in hand."""
        line = self._line()
        self.correct_button.setEnabled(line is not None and not line.struck_at)
        self.part_button.setEnabled(line is not None and line.kind == "done" and not line.struck_at)
        self.strike_button.setEnabled(line is not None)
        self.strike_button.setText("Count it again" if line and line.struck_at else "Strike out")

    def correct(self) -> None:
        """Correct the line in hand."""
        line = self._line()
        if line is not None and self._number is not None and not line.struck_at:
            put_up(CorrectDialog(self, self._store, self._number))

    def _part(self) -> None:
        if self._line() is not None and self._number is not None:
            put_up(PartDialog(self, self._store, self._number))

    def strike(self) -> None:
        """Strike the line in hand out, or let it count again."""
        line, number = self._line(), self._number
        if line is not None and number is not None:
            words = "Count a line again" if line.struck_at else "Strike out a line"
            self._store.do(words, lambda job: log_edits.strike(job, number, now_text()))

    def _changed(self, old: object, new: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Show the log as the job has it."""
        lines = matching(story(self._store.job), self.filter.text())
        self.model.show_things(list(enumerate(lines)))
        now = datetime.now().astimezone()
        hours = hours_by_stage(self._store.job.log, now)
        words = [f"{name_of(stage) or 'no stage'} {hours_text(h)}" for stage, h in hours.items()]
        total = hours_text(sum(hours.values()))
        lost = forgotten_text(self._store.job.log, now)
        told = f"Hours: {', '.join(words)}; {total} in all" if words else "No hours yet"
        self.hours.setText(f"{told}. {lost}" if lost else told)
        self._offer()


def estimate_rows(analysis: Analysis) -> tuple[list[tuple[str, str, str, str, str]], str]:
    """Return a line for each operation still open, and which of repair and new loom is less."""
    from molvik.logbook.quote import break_even, choice

    known, both = rates(analysis.job.log), analysis.once(choice)
    repair, new = both.repair.quantities, both.new_loom.quantities
    rows = [
        (
            str(operation),
            figures(repair[operation]),
            figures(new[operation]),
            f"{known[operation].minutes:.1f}",
            _source(known[operation].learnt_from),
        )
        for operation in OPERATIONS
    ]
    if both.repair.access_h or both.new_loom.access_h:
        mend, new_loom = (f"{60 * one.access_h:.0f} min" for one in (both.repair, both.new_loom))
        rows.append(("reach it: what must come off", mend, new_loom, "", "zones of Routing"))
    return rows, break_even(both.repair, both.new_loom, analysis.job.settings)


def _source(learnt_from: float) -> str:
    return f"{learnt_from:g} logged" if learnt_from else "first figure"
