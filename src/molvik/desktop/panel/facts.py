"""Facts in two columns: a name, a text, and the role the text is shown in."""

from collections.abc import Collection

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from molvik.analysis import Analysis
from molvik.desktop.widgets.fieldrows import INSET_PX, NAME_PX, SPACE_PX
from molvik.desktop.widgets.small import label, set_role
from molvik.model.parts import End

Fact = tuple[str, str, str]
"""Name, text, and the role the text is shown in."""

Facts = list[Fact]

MOST_WIRES = 14
"""So many of a part's wires are named; the rest are counted."""


def wires_at(analysis: Analysis, code: str, more: Collection[End] = ()) -> Facts:
    """Return the wires at a part. more: cavities elsewhere that belong to it."""
    known = analysis.network.wires_at
    ends = [end for end in known if end.at == code or end in more]
    wires = sorted({f"{w.code} {w.function}".strip() for end in ends for w in known[end]})
    facts: Facts = [("Wires", f"{len(wires)}", "")]
    facts += [("", text, "") for text in wires[:MOST_WIRES]]
    if len(wires) > MOST_WIRES:
        facts.append(("", f"and {len(wires) - MOST_WIRES} more", ""))
    return facts


class FactList(QWidget):
    """Facts in two columns, as many as there are."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(6)
        self._grid.setHorizontalSpacing(SPACE_PX + INSET_PX)
        self._grid.setColumnMinimumWidth(0, NAME_PX)
        self._grid.setColumnStretch(1, 1)
        self._rows: list[tuple[QLabel, QLabel]] = []

    def show_facts(self, facts: Facts) -> None:
        """Show facts, re-using the labels there are."""
        while len(self._rows) < len(facts):
            index = len(self._rows)
            pair = label("", "faint"), label("", wrap=True)
            pair[1].setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self._grid.addWidget(pair[0], index, 0, Qt.AlignmentFlag.AlignTop)
            self._grid.addWidget(pair[1], index, 1)
            self._rows.append(pair)
        for index, (name, value) in enumerate(self._rows):
            used = index < len(facts)
            if name.isHidden() == used:  # shown anew it is laid out anew, which takes its time
                name.setVisible(used)
                value.setVisible(used)
            if used and (name.text(), value.text()) != facts[index][:2]:
                name.setText(facts[index][0])
                value.setText(facts[index][1])
            if used:
                set_role(value, facts[index][2])
