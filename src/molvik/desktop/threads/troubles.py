"""When the program itself goes wrong: it is said in words, the job is kept at once, a report stays
on this machine, and what had half happened is undone.
"""

import sys
from collections.abc import Callable
from types import TracebackType

from PySide6.QtCore import QObject, QTimer, Signal

from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.store import Store
from molvik.files.reports import keep_report

SAFE = " The job is safe: a copy of it was kept just now."
LOST = " Save the job: no copy of it could be kept."
UNDONE = " What it had begun was undone."


class Troubles(QObject):
    """Takes up what no code of ours expected. told(text): for the user."""

    told = Signal(str)

    def __init__(self, parent: QObject, store: Store, files: JobFiles) -> None:
        super().__init__(parent)
        self._store, self._files = store, files
        self._busy = False
        self._words: list[
            str
        ] = []  # of the last trouble; keeping and undoing add to it in any order

    def take_over(self) -> Callable[[], None]:
        """Have Python hand over what slots raise; return what gives that back."""
        before = sys.excepthook

        def hook(
            kind: type[BaseException], error: BaseException, trace: TracebackType | None
        ) -> None:
            before(kind, error, trace)
            if isinstance(error, Exception):
                self.take(error)

        sys.excepthook = hook

        def give_back() -> None:
            if sys.excepthook is hook:
                sys.excepthook = before

        return give_back

    def take(self, error: Exception) -> None:
        """Keep the job and a report, and say so."""
        if self._busy:  # telling it went wrong too
            return
        self._busy = True
        try:
            report = keep_report(error, self._store.history.undoText())
            name = type(error).__name__
            said = f"Something went wrong in the program itself ({name}: {str(error)[:120]})."
            where = f" A report is kept in {report}." if report else ""
            self._words = words = [said]
            if self._files.has_job:
                self._files.keeper.keep_at_once(
                    lambda kept: self._add(words, SAFE if kept else LOST, where)
                )
            else:
                self._add(words, where)
            # What raised may be a slot beside a run of edits that goes on, and is ended by itself.
            QTimer.singleShot(0, self._abandon)
        finally:
            self._busy = False

    def _add(self, words: list[str], *more: str) -> None:
        """Say what is known of a trouble by now, unless another came after it."""
        words += more
        if words is self._words:
            self.told.emit("".join(words))

    def _abandon(self) -> None:
        """Undo a run of edits that nobody ends any more."""
        if self._store.batch:
            self._store.abandon()
            self._add(self._words, UNDONE)
