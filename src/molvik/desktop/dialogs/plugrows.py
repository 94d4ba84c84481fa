"""The window that adds several connectors at once, a line each, read as they are typed."""

from functools import reduce

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QListWidget, QPlainTextEdit, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, column, label, row
from molvik.model import edits
from molvik.model.geometry import cavities
from molvik.pinouts.plugrows import HOW, read_plug_rows
from molvik.wording import counted

EXAMPLE = "Bulkhead, engine side 2x8\nCrank sensor 3 way\nFuel pump 1x2"


class PlugRowsDialog(QDialog):
    """Lines on the left, what each makes on the right. ``codes``: of those that were added."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.codes: tuple[str, ...] = ()
        self.setWindowTitle("Add several connectors")
        self.resize(720, 420)
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("Connectors, one in a line")
        self.text.setPlaceholderText(EXAMPLE)
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self._show)
        self.made = QListWidget()
        self.made.setAccessibleName("What each line makes")
        self.made.setWordWrap(True)
        self.add_button = button("Add", "Put them into the job (Ctrl+Enter)", self.add, "action")
        enter = QShortcut(QKeySequence("Ctrl+Return"), self)
        enter.activated.connect(self.add_button.click)
        sides = row(self.text, self.made)
        sides.setStretch(0, 1)
        sides.setStretch(1, 1)
        words = (
            f"One in a line: what it plugs into, and rows x columns or how many cavities ({HOW}). "
            "Rows copied from a spreadsheet are read too: name, rows, columns."
        )
        whole = column(
            label(words, "faint", wrap=True),
            sides,
            row(1, button("Cancel", "Change nothing (Esc)", self.reject), self.add_button),
        )
        whole.setContentsMargins(14, 12, 14, 12)
        self.setLayout(whole)
        self._show()

    def _show(self) -> None:
        """Say of each line what it makes."""
        rows = read_plug_rows(self.text.toPlainText())
        self.made.clear()
        for one in rows:
            if one.plug is None:
                self.made.addItem(f"✕ {one.text[:40]}: {one.problem}")
            else:
                grid = one.plug.grid
                count = counted(len(cavities(grid)), "cavity", "cavities")
                size = f"{grid.rows} × {grid.columns}, {count}"
                self.made.addItem(f"{one.plug.name}: {size}")
        good = bool(rows) and all(one.plug is not None for one in rows)
        self.add_button.setEnabled(good)
        self.add_button.setText(f"Add {counted(len(rows), 'connector')}" if good else "Add")

    def add(self) -> None:
        """Add them, as one undo step."""
        plugs = [one.plug for one in read_plug_rows(self.text.toPlainText()) if one.plug]
        before = {plug.code for plug in self._store.job.connectors}
        self._store.do(
            f"Add {counted(len(plugs), 'connector')}", lambda job: reduce(edits.add, plugs, job)
        )
        self.codes = tuple(
            plug.code for plug in self._store.job.connectors if plug.code not in before
        )
        self.accept()
