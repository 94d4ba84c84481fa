"""The one place that holds the current job, its history and its analysis."""

import logging
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from molvik.analysis import Analysis
from molvik.model.job import Job
from molvik.model.stock import NO_SHELF, Shelf
from molvik.typed.field import Typed

log = logging.getLogger(__name__)

Edit = Callable[[Job], Job]

MOST_STEPS = 500
"""How far back undo goes: each step keeps the lists of a whole job, and a window stays open for
days. What lies further back is in the file's versions.
"""


class Store(QObject):
    """The job in the window.

    changed(old, new) is the one signal: emitted after every edit, undo, redo and change of job.
    """

    changed = Signal(object, object)

    def __init__(self, job: Job, path: Path | None = None) -> None:
        super().__init__()
        self.history = QUndoStack(self)
        self.history.setUndoLimit(MOST_STEPS)
        self.batch = False
        self.path = path
        self._job = job
        self._analysis = Analysis(job)
        self._shelf = NO_SHELF
        self._edits = False
        self.is_loading = False
        """Whether what changes now is another file's job, and no edit."""

    def __del__(self) -> None:
        # Collected as garbage, the steps could go before the stack that holds them: Qt crashes.
        with suppress(RuntimeError):  # the stack is gone already
            self.history.blockSignals(True)
            self.history.clear()

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self._job

    @property
    def analysis(self) -> Analysis:
        """Everything computed from the job as it stands."""
        return self._analysis

    def do(self, text: str, edit: Edit) -> None:
        """Make an edit that can be undone; an EditError passes through and nothing changes."""
        new = edit(self._job)
        if new != self._job:
            log.debug("edit: %s", text)
            self._edits = True
            try:
                self.history.push(_Change(self, text, self._job, new))
            finally:
                self._edits = False

    @property
    def goes_back(self) -> bool:
        """Whether what changes now is taken back, or done again, and not a new edit."""
        return not self._edits

    def take(self, typed: Typed) -> str:
        """Make a change that was typed; return the code of its thing."""
        self.do(typed.step, typed.edit)
        return typed.code

    def begin(self, text: str) -> None:
        """Begin a run of edits that is undone as one; ``batch`` is set until it ends.

        ``changed`` comes for each of them, so that rows can be found by their keys; who shows more
        than rows may wait for the one that comes at the end.
        """
        self.batch = True
        self.history.beginMacro(text)

    def abandon(self) -> None:
        """End the run as if it had never begun: it cannot be finished."""
        if self.batch:
            self.end()
            self.history.undo()

    def end(self) -> None:
        """End the run."""
        if not self.batch:
            return  # it was abandoned
        self.history.endMacro()
        self.batch = False
        self.changed.emit(self._job, self._job)

    @property
    def shelf(self) -> Shelf:
        """What the job sees of the shop's shelf, as it was last read."""
        return self._shelf

    def see_shelf(self, shelf: Shelf) -> None:
        """Take up what the job sees of the shelf: not an edit, and not undone."""
        if shelf == self._shelf:
            return
        self._shelf = shelf
        self._edits = True
        try:
            self._set(self._job, self._job)
        finally:
            self._edits = False

    def load(self, job: Job, path: Path | None, *, saved: bool = True) -> None:
        """Take up another job, with a fresh history. saved: whether the file holds it as it is."""
        old = self._job
        self.path = path
        if job.id != old.id:
            self._shelf = NO_SHELF  # each job sees what it has reserved itself
        self.history.clear()
        if not saved:
            self.history.resetClean()
        self.is_loading = True
        try:
            self._set(job, old)
        finally:
            self.is_loading = False

    @property
    def unsaved(self) -> bool:
        """Whether there is work the file does not hold."""
        return not self.history.isClean()

    def _set(self, new: Job, old: Job) -> None:
        self._job = new
        before = self._analysis if new.id == old.id else None
        self._analysis = Analysis(new, before, self._shelf)
        self.changed.emit(old, new)


class _Change(QUndoCommand):
    """One step of the history: the job before and after."""

    def __init__(self, store: Store, text: str, old: Job, new: Job) -> None:
        super().__init__(text)
        self._store, self._old, self._new = store, old, new

    def redo(self) -> None:
        self._store._set(self._new, self._old)

    def undo(self) -> None:
        self._store._set(self._old, self._new)
