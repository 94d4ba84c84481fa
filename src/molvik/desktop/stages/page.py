"""What every stage's page has: a work list for the left, a middle, and a way to be refreshed."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QTabWidget, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import ShortLabel
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import ThingsModel
from molvik.model.job import Job

AT_ONCE = 400
"""Up to so many wires the whole job is computed at once; for more, pages show what is known and
fill in the rest when it was computed in the background.
"""


def known_now(analysis: Analysis) -> bool:
    """Return whether wires are judged, or would be before anybody noticed."""
    return len(analysis.job.wires) <= AT_ONCE or analysis.electrics.is_judged


def plan_known(analysis: Analysis) -> bool:
    """Return whether it is known how the loom is measured, or would be before anybody noticed."""
    return len(analysis.job.wires) <= AT_ONCE or analysis.plan_is_near


class StagePage(QWidget):
    """A page of the window. ``work`` is put on the left, the page itself in the middle.

    wished(stage, method): something is to be done on the page of another stage; of the window where
    the stage is empty.
    """

    wished = Signal(str, str)

    def __init__(self, store: Store, hand: Hand, title: str) -> None:
        super().__init__()
        self.store, self.hand = store, hand
        self.work = QWidget()
        self.work_column = QVBoxLayout(self.work)
        self.work_column.setContentsMargins(8, 14, 8, 8)
        self.work_column.setSpacing(6)
        self.title: QLabel = ShortLabel(title)
        self.title.setObjectName("pageTitle")
        self.about: QLabel = ShortLabel()
        self.about.setProperty("role", "faint")
        self.notice = Notice(over=True)
        self.hand_card: QWidget | None = None
        """What this stage has to say of what is in hand; shown in the panel while it is open."""
        self.middle = QVBoxLayout(self)
        self.middle.setContentsMargins(16, 12, 16, 10)
        self.middle.setSpacing(10)

    @property
    def every_table(self) -> "list[ThingsTable[Any]]":
        """The tables on this page."""
        return [*self.findChildren(ThingsTable), *self.work.findChildren(ThingsTable)]

    @property
    def models(self) -> list[ThingsModel[Any]]:
        """The tables' models on this page."""
        return [table.things for table in self.every_table]

    def take_current(self) -> None:
        """Take in hand what is current in the table in view."""
        table = next((table for table in self.every_table if table.isVisible()), None)
        if table is not None and table.current_key():
            table.picked.emit(table.current_key())

    def refresh(self) -> None:
        """Show the job as it stands."""
        raise NotImplementedError

    def fill_in(self) -> None:
        """The job was looked over in the background: show what was waited for."""

    def begin(self) -> None:
        """Another job was opened: begin as with the first, with nothing carried over."""
        self.notice.say("")
        for tabs in self.findChildren(QTabWidget):
            tabs.setCurrentIndex(0)

    def leave(self) -> None:
        """Another page is shown: let go of what is computed of the job as it stood, or it stays in
        memory beside what is computed of the job after each edit.
        """

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        for model in self.models:
            model.show_things([])

    def follow(self, subject: str) -> None:
        """Something was taken in hand; show it here if it belongs here."""

    @property
    def analysis(self) -> Analysis:
        """Everything computed from the job as it stands."""
        return self.store.analysis

    def wish(self, stage: str, method: str) -> Callable[[], None]:
        """Return what asks for something on another page."""
        return partial(self.wished.emit, stage, method)

    def macro(self, text: str, begin: bool) -> None:
        """Begin or end a run of edits that is undone as one."""
        if begin:
            self.store.begin(text)
        else:
            self.store.end()

    def remove_each(self, codes: list[str], remove: Callable[[Job, str], Job]) -> None:
        """Take things out as one step; say here what holds one of them."""
        wanted = [code for code in codes if code]

        def edit(job: Job) -> Job:
            for code in wanted:
                job = remove(job, code)
            return job

        if wanted:
            words = f"Delete {', '.join(wanted[:3])}"
            self.attempt(lambda: self.store.do(words, edit))

    def attempt(self, change: Callable[[], None]) -> bool:
        """Make a change; say here, in words, when it is refused."""
        try:
            change()
        except ValueError as error:
            self.notice.say(str(error))
            return False
        self.notice.say("")
        return True
