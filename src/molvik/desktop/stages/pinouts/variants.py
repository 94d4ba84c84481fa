"""The tables of one connector side by side: what is the same, moved, came, went or changed."""

from collections import Counter

from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import Choice, button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.model import crossover_edits
from molvik.model.parts import Colour, Pin
from molvik.pinouts.compare import Difference, compare

OWN = "its own pinout"
_ROLES = {"gone": "stop", "added": "proved", "same": "faint"}


class VariantsDialog(QDialog):
    """Compares two tables of a connector."""

    def __init__(self, parent: QWidget, store: Store, code: str) -> None:
        super().__init__(parent)
        self._store, self._code = store, code
        connector = store.job.connector(code)
        self.setWindowTitle(f"Tables of {code} {connector.name if connector else ''}")
        self.resize(1000, 620)
        self.first, self.second = Choice(), Choice()
        for box, name in ((self.first, "First table"), (self.second, "Second table")):
            box.setAccessibleName(name)
            box.activated.connect(lambda _: self.refresh())
        self.only = QCheckBox("only what differs")
        self.only.setChecked(True)
        self.only.toggled.connect(lambda _: self.refresh())
        self.summary = label("", wrap=True)
        self.model: ThingsModel[tuple[int, Difference]] = ThingsModel(
            self._columns(), lambda one: str(one[0])
        )
        self.table: ThingsTable[tuple[int, Difference]] = ThingsTable(self.model, "Differences")
        self.notice = Notice(over=True)
        own = button("Use the second", "It becomes the pinout of the connector", self.take)
        forget = button("Remove the second", "Delete that table from the job", self.forget, "quiet")
        whole = QVBoxLayout(self)
        whole.addLayout(
            row(label("From", "faint"), self.first, label("to", "faint"), self.second, self.only, 1)
        )
        whole.addWidget(self.summary)
        whole.addWidget(self.notice)
        whole.addWidget(self.table, 1)
        whole.addLayout(row(own, forget, 1, button("Close", "Esc", self.accept)))
        self._offer()

    def _columns(self) -> list[Column[tuple[int, Difference]]]:
        def of(pin: Pin | None, field: str) -> str:
            return str(getattr(pin, field) or "") if pin else ""

        def tint(pin: Pin | None) -> Colour | None:
            return pin.colour if pin else None

        return [
            Column(
                "What",
                lambda it: ", ".join(it[1].change),
                width=150,
                role=lambda it: _ROLES.get(it[1].change[0], "live_text"),
            ),
            Column("Was in", lambda it: of(it[1].was, "cavity"), width=62, mono=True),
            Column("Is in", lambda it: of(it[1].now, "cavity"), width=62, mono=True),
            Column("Function was", lambda it: of(it[1].was, "function"), width=190),
            Column("Function is", lambda it: of(it[1].now, "function"), width=190),
            Column(
                "Colour was",
                lambda it: of(it[1].was, "colour"),
                width=102,
                colour=lambda it: tint(it[1].was),
            ),
            Column(
                "Colour is",
                lambda it: of(it[1].now, "colour"),
                width=102,
                colour=lambda it: tint(it[1].now),
            ),
            Column("Size was", lambda it: of(it[1].was, "size"), width=80),
            Column("Size is", lambda it: of(it[1].now, "size"), width=80),
        ]

    def _offer(self) -> None:
        names = [
            pinout.name for pinout in self._store.job.pinouts if pinout.connector == self._code
        ]
        for box in (self.first, self.second):
            box.clear()
            box.addItem(OWN, "")
            for name in names:
                box.addItem(name, name)
        self.second.setCurrentIndex(min(1, self.second.count() - 1))
        self.refresh()

    def _pins(self, box: QComboBox) -> tuple[Pin, ...]:
        name = box.currentData()
        if name:
            tables = (p for p in self._store.job.pinouts if p.connector == self._code)
            return next((p.pins for p in tables if p.name == name), ())
        connector = self._store.job.connector(self._code)
        return connector.pins if connector else ()

    def refresh(self) -> None:
        """Compare the two chosen tables."""
        found = compare(self._pins(self.first), self._pins(self.second))
        counts = Counter(change for difference in found for change in difference.change)
        words = ", ".join(f"{count} {change}" for change, count in counts.items())
        if self.second.count() < 2:
            words = "There is one table only: import another one and give it a variant's name."
        self.summary.setText(words or "Both tables are empty.")
        shown = [
            difference
            for difference in found
            if not self.only.isChecked() or difference.change != ("same",)
        ]
        self.model.show_things(list(enumerate(shown)))

    def take(self) -> None:
        """Make the second table the connector's own; what was its own is kept as a variant."""
        name = self.second.currentData()
        connector = self._store.job.connector(self._code)
        if not name or connector is None:
            self.notice.say("The second is its own already. Choose another table.")
            return
        code = self._code
        words = f"Pinout of {code}: {name}"
        try:
            self._store.do(words, lambda job: crossover_edits.exchange_pinout(job, code, name))
        except ValueError as error:
            self.notice.say(str(error))
            return
        self._offer()

    def forget(self) -> None:
        """Take the second table out of the job."""
        name, code = self.second.currentData(), self._code
        if not name:
            self.notice.say("A connector keeps its own pinout. Choose another table.")
            return
        try:
            self._store.do(
                f"Forget {name}", lambda job: crossover_edits.remove_pinout(job, code, name)
            )
        except ValueError as error:
            self.notice.say(str(error))
            return
        self._offer()
