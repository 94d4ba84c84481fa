"""Fields of a dialog, each with its name, its tip and what it does when it is changed."""

from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QLineEdit, QSpinBox

Changed = Callable[[], object]


def line(
    name: str, text: str = "", tip: str = "", *, hint: str = "", typed: Changed | None = None
) -> QLineEdit:
    """Return a line to type into. hint: shown in it while it is empty."""
    made = QLineEdit(text)
    made.setAccessibleName(name)
    made.setToolTip(tip)
    made.setPlaceholderText(hint)
    made.setCursorPosition(0)
    if typed is not None:
        made.textEdited.connect(lambda _: typed())
    return made


def ticked(text: str, on: bool, changed: Changed | None = None) -> QCheckBox:
    """Return a box to tick."""
    made = QCheckBox(text)
    made.setChecked(on)
    if changed is not None:
        made.toggled.connect(lambda _: changed())
    return made


def counted(name: str, value: int, most: int, changed: Changed | None = None) -> QSpinBox:
    """Return a field for a number from 1 on."""
    made = QSpinBox()
    made.setRange(1, most)
    made.setValue(value)
    made.setAccessibleName(name)
    if changed is not None:
        made.valueChanged.connect(lambda _: changed())
    return made
