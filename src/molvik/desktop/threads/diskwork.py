"""Saving and opening without holding the window: the disk is waited for on another thread, and not
for ever.
"""

from collections.abc import Callable

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import Lane

SHOWN_AFTER_MS = 400


class DiskWork(QObject):
    """One thing at a time. What is done meanwhile by hand waits, until the user waits no longer.

    lane: what it may have to wait for.
    """

    def __init__(self, window: QWidget, lane: Lane) -> None:
        super().__init__(window)
        self._window, self._lane = window, lane
        self._task: Task | None = None

    @property
    def goes_on(self) -> bool:
        """Whether something is being done at this moment."""
        return self._task is not None and not self._task.has_ended

    def run(self, words: str, work: Callable[[], None], late: Callable[[str], None]) -> bool:
        """Do it; return whether it is done. What goes wrong is raised here. words: what is done.

        With a disk that hangs the user may go on: then it is not done, and late is called with
        what went wrong, or nothing, once it has ended.
        """
        ended: list[Exception | None] = []
        loop = QEventLoop()
        task = self._task = Task(lambda _: work(), self, self._lane)

        def end(error: Exception | None) -> None:
            ended.append(error)
            loop.quit()

        task.done.connect(lambda _: end(None))
        task.failed.connect(end)
        task.start()
        QTimer.singleShot(SHOWN_AFTER_MS, loop.quit)
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        if not ended:
            self._wait_visibly(words, loop)
        if not ended:
            task.done.connect(lambda _: late(""))
            task.failed.connect(lambda error: late(str(error)))
            return False
        if ended[0] is not None:
            raise ended[0]
        return True

    def _wait_visibly(self, words: str, loop: QEventLoop) -> None:
        slow = f"{words}. The disk takes its time."
        progress = QProgressDialog(slow, "Go on without waiting", 0, 0, self._window)
        progress.setWindowModality(Qt.WindowModality.WindowModal)
        progress.setMinimumDuration(0)
        progress.canceled.connect(loop.quit)
        progress.show()
        loop.exec()
        progress.reset()
        progress.deleteLater()
