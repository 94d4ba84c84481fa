"""What bus, charging and gauges have in common: a list, a line, and answers found aside."""

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import ShortLabel, label
from molvik.desktop.widgets.worklist import WorkList


class TabView(QWidget):
    """A tab with a list on the left and a line that says what comes of it. waits: what is shown is
    still being found.
    """

    def __init__(self, store: Store, hand: Hand, heading: str, listed: str, comes: str) -> None:
        super().__init__()
        self._store, self._hand = store, hand
        self._task: Task | None = None
        self.waits = False
        self.list = WorkList(listed)
        self.left = QWidget()
        beside = QVBoxLayout(self.left)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(label(heading, "head"))
        beside.addWidget(self.list, 1)
        self.said = ShortLabel()
        self.said.setAccessibleName(comes)
        self.notice = Notice(over=True)

    def aside(self, work: Callable[[], Any], then: Callable[[Any], None]) -> None:
        """Find something aside, in place of what was being found before."""
        self.stop()

        def found(answer: Any) -> None:
            self.waits = False
            then(answer)

        self.waits = True
        self._task = Task(lambda _: work(), self)
        self._task.done.connect(found)
        self._task.failed.connect(self._failed)
        self._task.start()

    def stop(self) -> None:
        """Give up what is being found."""
        if self._task is not None:
            self._task.stop()
        self.waits = False

    def _failed(self, error: Exception) -> None:
        self.waits = False
        self.fail(str(error))

    def fail(self, why: str) -> None:
        """Say why nothing was found."""
        self.said.setText("")
        self.notice.say(why)
