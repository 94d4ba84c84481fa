"""Checking the job in the background after every change: findings, verdicts, what is alive."""

import logging
import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from molvik.analysis import Analysis
from molvik.desktop.stages.page import AT_ONCE
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import LOOKING
from molvik.electrics import Electrics
from molvik.findings import find_all
from molvik.stopping import may_stop

log = logging.getLogger(__name__)

LOOK_AFTER_MS = 80
LOOK_LATER_MS = 300
"""In a large job, where looking it over takes time: once the user pauses."""


class LookOver(QObject):
    """Looks the job over, one look at a time. done(analysis): of the job as it still stands.
    failed(text): it could not be looked over.
    """

    done = Signal(object)
    failed = Signal(str)

    def __init__(self, parent: QObject, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self._looking: Task | None = None
        self._looked_at: Electrics | None = None
        self._shown: Analysis | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._look)

    def soon(self) -> None:
        """Look after a moment, in which more may be typed."""
        large = len(self._store.job.wires) > AT_ONCE
        self._timer.start(LOOK_LATER_MS if large else LOOK_AFTER_MS)

    @property
    def is_at_rest(self) -> bool:
        """Whether the job as it stands was looked over and is shown."""
        return not self._timer.isActive() and self._shown is self._store.analysis

    def stop(self) -> None:
        """Look no more: the window closes."""
        self._timer.stop()

    def forget(self) -> bool:
        """The job was closed: let go of it; say whether there was anything to let go of."""
        if self._looking is None:
            return False
        self._looking.stop()
        self._looking = self._looked_at = self._shown = None
        return True

    def _look(self) -> None:
        analysis = self._store.analysis
        if self._looking is not None and not self._looking.has_ended:
            if self._looked_at is not analysis.electrics:
                self._looking.stop()  # else what it computes is wanted
            self._timer.start(LOOK_AFTER_MS)
            return
        self._looked_at = analysis.electrics
        task = Task(lambda stop: _looked_over(analysis, stop), self, LOOKING)
        task.done.connect(lambda _: self._show(analysis))
        task.failed.connect(
            lambda error: self.failed.emit(f"The job could not be checked: {error}")
        )
        self._looking = task
        task.start()

    def _show(self, analysis: Analysis) -> None:
        if analysis is self._store.analysis:
            self._shown = analysis
            self.done.emit(analysis)


def _looked_over(analysis: Analysis, stop: Callable[[], bool]) -> None:
    """Compute what the window shows of a job: findings, verdicts, what is alive."""
    with may_stop(stop):
        began = time.monotonic()
        analysis.once(find_all)
        analysis.look_over()
        log.debug("looked over in %.2f s", time.monotonic() - began)
