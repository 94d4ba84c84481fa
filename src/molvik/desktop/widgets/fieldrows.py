"""Facts that are edited in their place: a name and a field a row, Enter goes to the next."""

from collections.abc import Collection, Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from molvik.desktop.widgets.small import CheckedField, label

NAME_PX, SPACE_PX, INSET_PX = 92, 5, 6
"""Width of the names, the space after them, and how far the text of a field lies in it: so that
rows to type into and lists of facts read as one.
"""


class FieldRows(QWidget):
    """Rows of a name and a field. over(): Enter in the last of them."""

    over = Signal()

    def __init__(self, fields: Sequence[CheckedField]) -> None:
        super().__init__()
        self.fields = list(fields)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(1)
        grid.setHorizontalSpacing(SPACE_PX)
        grid.setColumnMinimumWidth(0, NAME_PX)
        grid.setColumnStretch(1, 1)
        self._names: list[QLabel] = []
        for index, field in enumerate(self.fields):
            field.setProperty("flat", "true")
            field.returnPressed.connect(partial(self._next, index))
            name = label(field.accessibleName(), "faint")
            name.setBuddy(field)
            name.setToolTip(field.toolTip())
            self._names.append(name)
            grid.addWidget(name, index, 0, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(field, index, 1)
        self.setFocusProxy(self.fields[0])

    def begin(self) -> None:
        """Put the cursor into the first field."""
        self.fields[0].enter()

    def show_only(self, names: Collection[str]) -> None:
        """Show the rows of these fields; a name may teach something else now."""
        for name, field in zip(self._names, self.fields, strict=True):
            seen = field.accessibleName() in names
            name.setToolTip(field.toolTip())
            name.setVisible(seen)
            field.setVisible(seen)

    def _next(self, index: int) -> None:
        """Go on to the next field once this one was taken."""
        self.fields[index].finish()  # Qt tells of Enter before it tells that editing is over
        if self.fields[index].refuses:
            return
        for field in self.fields[index + 1 :]:
            if not field.isHidden():
                field.enter()
                return
        self.over.emit()
