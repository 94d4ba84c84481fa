"""Facts in two columns: a name, a text, and the role the text is shown in."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from molvik.desktop.widgets.small import label, set_role

Facts = list[tuple[str, str, str]]
"""Name, text and role of each fact."""


class FactList(QWidget):
    """Facts in two columns, as many as there are."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnMinimumWidth(0, 86)
        self._grid.setColumnStretch(1, 1)
        self._rows: list[tuple[QLabel, QLabel]] = []

    def show_facts(self, facts: Facts) -> None:
        """Show facts, re-using the labels there are."""
        while len(self._rows) < len(facts):
            at = len(self._rows)
            pair = label("", "faint"), label("", wrap=True)
            pair[1].setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self._grid.addWidget(pair[0], at, 0, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(pair[1], at, 1)
            self._rows.append(pair)
        for at, (name, value) in enumerate(self._rows):
            used = at < len(facts)
            name.setVisible(used)
            value.setVisible(used)
            if used:
                name.setText(facts[at][0])
                value.setText(facts[at][1])
                set_role(value, facts[at][2])
