"""Facts that are edited in their place: a name and a field a row, Enter goes to the next."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from molvik.desktop.widgets.small import CheckedField, label

NAME_PX = 86
"""Width of the names, as in the lists of facts, so that both read as one."""


class FieldRows(QWidget):
    """Rows of a name and a field. over(): Enter in the last of them."""

    over = Signal()

    def __init__(self, fields: Sequence[CheckedField]) -> None:
        super().__init__()
        self.fields = list(fields)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(1)
        grid.setColumnMinimumWidth(0, NAME_PX)
        grid.setColumnStretch(1, 1)
        for index, field in enumerate(self.fields):
            field.setProperty("flat", "true")
            field.returnPressed.connect(partial(self._next, index))
            name = label(field.accessibleName(), "faint")
            name.setBuddy(field)
            name.setToolTip(field.toolTip())
            grid.addWidget(name, index, 0, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(field, index, 1)
        self.setFocusProxy(self.fields[0])

    def begin(self) -> None:
        """Put the cursor into the first field."""
        self.fields[0].enter()

    def _next(self, index: int) -> None:
        """Go on to the next field once this one was taken."""
        self.fields[index].finish()  # Qt tells of Enter before it tells that editing is over
        if self.fields[index].refuses:
            return
        if index + 1 < len(self.fields):
            self.fields[index + 1].enter()
        else:
            self.over.emit()
