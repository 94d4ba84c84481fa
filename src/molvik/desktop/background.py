"""Long work off the interface's thread, with an answer back on it and a way to stop."""

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, Signal


class Task(QObject):
    """One piece of long work. done(result) or failed(exception) comes on the interface's thread.

    The work gets a function to ask whether it should stop. After ``stop`` neither signal comes.
    """

    done = Signal(object)
    failed = Signal(object)
    _finished = Signal(object, object)

    def __init__(self, work: Callable[[Callable[[], bool]], Any], parent: QObject) -> None:
        super().__init__(parent)
        self._work = work
        self._stop = threading.Event()
        self._ended = threading.Event()
        self._finished.connect(self._answer)

    def start(self) -> None:
        """Begin."""
        QThreadPool.globalInstance().start(self.run)

    def stop(self) -> None:
        """Ask the work to end and drop its answer."""
        self._stop.set()

    def wait(self) -> None:
        """Wait until the work has ended."""
        self._ended.wait()

    def run(self) -> None:
        """Do the work; called on another thread."""
        result: Any = None
        error: Exception | None = None
        try:
            result = self._work(self._stop.is_set)
        except Exception as problem:  # handed to the interface, which shows it
            error = problem
        self._ended.set()
        with contextlib.suppress(RuntimeError):  # the window that asked is gone
            self._finished.emit(result, error)

    def _answer(self, result: Any, error: Exception | None) -> None:
        self.deleteLater()
        if self._stop.is_set():
            return
        if error is not None:
            self.failed.emit(error)
        else:
            self.done.emit(result)
