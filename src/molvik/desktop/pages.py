"""The pages of the stages: made when first opened, or while nothing else goes on."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QStackedWidget

from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.registry import ENTRIES
from molvik.desktop.store import Store
from molvik.desktop.threads.lanes import COMPUTING
from molvik.desktop.widgets.table import ThingsTable
from molvik.drawing.lettering import load_faces
from molvik.stages import STAGES

READY_MS = 150


class Pages(QObject):
    """Holds the pages with what stands on their left. wished(stage, method): a page asks for what
    another page, or the window, does.
    """

    wished = Signal(str, str)

    def __init__(self, store: Store, hand: Hand, settings: QSettings) -> None:
        super().__init__()
        self._store, self._hand, self._settings = store, hand, settings
        self.built: dict[int, StagePage] = {}
        self.left, self.centre = QStackedWidget(), QStackedWidget()
        self.left.setObjectName("work")
        self.centre.setMinimumWidth(560)

    def of(self, index: int) -> StagePage:
        """Return the page of a stage, made when it is not there yet."""
        if index not in self.built:
            stage = STAGES[index]
            page = ENTRIES[stage.key].build(self._store, self._hand, stage)
            self.built[index] = page
            page.wished.connect(self.wished)
            for table in page.every_table:
                keep_columns(self._settings, table)
            self.left.addWidget(page.work)
            self.centre.addWidget(page)
        return self.built[index]

    def show_page(self, index: int) -> StagePage:
        """Bring the page of a stage into view."""
        page = self.of(index)
        before = self.centre.currentWidget()
        if isinstance(before, StagePage) and before is not page:
            before.leave()
        self.left.setCurrentWidget(page.work)
        self.centre.setCurrentWidget(page)
        return page

    def get_ready(self, goes_on: Callable[[], bool]) -> None:
        """Build the pages that were not visited yet, one at a time, as long as the window lives.

        Their first visit is quick then. It begins on the first screen, where nobody types.
        """
        left = [index for index in range(len(STAGES)) if index not in self.built]
        if left and goes_on():
            self.of(left[0])
            QTimer.singleShot(READY_MS, lambda: self.get_ready(goes_on))
        elif goes_on():
            COMPUTING.start(load_faces)  # what the first drawing would wait for


def keep_columns(settings: QSettings, table: ThingsTable[Any]) -> None:
    """Show a table's columns as the user left them, and keep how they leave them."""
    key = f"columns/{table.accessibleName()}"
    table.fitting.restore(str(settings.value(key, "")))
    table.fitting.changed.connect(lambda: settings.setValue(key, table.fitting.kept()))
