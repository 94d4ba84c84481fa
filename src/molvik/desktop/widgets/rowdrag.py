"""Dragging a line of a table to another place."""

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QTableView


class RowDrag(QObject):
    """dropped(begin, end): a line was dragged by its first column to the place of another."""

    dropped = Signal(int, int)

    def __init__(self, table: QTableView) -> None:
        super().__init__(table)
        self._table = table
        self._begin = -1
        self._at = QPoint()
        table.viewport().installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Watch the mouse over the first column."""
        if isinstance(event, QMouseEvent):
            point = event.position().toPoint()
            if event.type() == QEvent.Type.MouseButtonPress:
                index = self._table.indexAt(point)
                dragged = index.isValid() and index.column() == 0
                self._begin, self._at = (index.row() if dragged else -1), point
            elif event.type() == QEvent.Type.MouseMove and self._begin >= 0:
                far = (point - self._at).manhattanLength() >= QApplication.startDragDistance()
                if far:
                    self._table.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)
                return True  # or the drag would select every line it passes
            elif event.type() == QEvent.Type.MouseButtonRelease and self._begin >= 0:
                begin, self._begin = self._begin, -1
                self._table.viewport().unsetCursor()
                end = self._table.rowAt(point.y())
                if end >= 0 and end != begin:
                    self.dropped.emit(begin, end)
                    return True
        return super().eventFilter(watched, event)
