"""Reading a file that may be large: off the interface's thread, with a way to stop."""

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QProgressDialog, QWidget

from molvik.desktop.threads.background import Task

Result = TypeVar("Result")
SHOWN_AFTER_MS = 400


def read_aside(
    parent: QWidget,
    doing: str,
    work: Callable[[Callable[[], bool]], Result],
    taken: Callable[[Result], object],
    refused: Callable[[str], object],
) -> QProgressDialog:
    """Do work on another thread; hand over what it read, or why it could not.

    What takes long shows what is being done, and can be stopped; then nothing is handed over.
    """
    progress = QProgressDialog(doing, "Stop", 0, 0, parent)
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(SHOWN_AFTER_MS)
    progress.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    task = Task(work, progress)
    progress.canceled.connect(task.stop)

    def end() -> None:
        progress.reset()
        progress.deleteLater()

    def done(result: Result) -> None:
        end()
        taken(result)

    def failed(error: Exception) -> None:
        end()
        refused(str(error))

    task.done.connect(done)
    task.failed.connect(failed)
    task.start()
    return progress
