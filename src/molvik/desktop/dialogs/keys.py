"""The list of all keys (F1): read from the commands, the stages and the tables."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QDialog, QScrollArea, QVBoxLayout, QWidget

from molvik.desktop.dialogs.find import name_of
from molvik.desktop.panel.facts import FactList, Facts
from molvik.desktop.stages.registry import page_keys
from molvik.desktop.widgets.small import button, column, label, row

TABLES: Facts = [
    ("type, F2", "edit the cell; Enter keeps, Esc gives up", ""),
    ("arrows", "walk the table; Tab leaves it", ""),
    ("Ctrl+C, Ctrl+V", "copy and paste cells, from and to a spreadsheet", ""),
    ("Delete", "deletes wires (Ctrl+Z brings them back)", ""),
    ("Ctrl+D", "in the wire list: fill the cell down", ""),
]
FIELDS: Facts = [
    ("Enter", "takes the value and goes to the next row", ""),
    ("Esc", "gives up what was typed", ""),
]
PHOTOS: Facts = [("A, C, L", "draw an arrow, a circle, a length", "")]


class KeysDialog(QDialog):
    """All keys, by where they hold."""

    def __init__(self, parent: QWidget, commands: Sequence[QAction]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(560, 620)
        everywhere: Facts = [
            (", ".join(key.toString() for key in action.shortcuts()), name_of(action), "")
            for action in commands
            if action.shortcuts()
        ]
        stages: Facts = [("", line, "") for line in page_keys().splitlines() if line]
        self.lists = {
            "Everywhere": everywhere,
            "On the pages": stages,
            "In a table": TABLES,
            "In the panel": FIELDS,
            "In a photo": PHOTOS,
        }
        body = QWidget()
        inside = column(spacing=8)
        for name, facts in self.lists.items():
            inside.addWidget(label(name.upper(), "head"))
            shown = FactList()
            shown.show_facts(facts)
            inside.addWidget(shown)
        inside.addStretch(1)
        body.setLayout(inside)
        scroll = QScrollArea()
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        whole = QVBoxLayout(self)
        whole.addWidget(scroll, 1)
        whole.addLayout(row(1, button("Close", "Close the list (Esc)", self.close)))
