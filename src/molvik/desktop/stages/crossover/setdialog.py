"""The window that makes a repin set or changes one."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import Choice, button, label, row
from molvik.model import crossover_edits
from molvik.model.crossover import RepinSet

KINDS = {
    "crossover": "one pinout becomes another",
    "one to one": "a broken housing is changed: cavity to cavity",
}
APPROACHES = {
    "mixed": "Mixed: each wire is described by the diagram it came from. Note which on its label.",
    "donor's wiring": "Convert fully to the donor's wiring: the donor's diagram describes all of "
    "it; what the donor has and this job does not is cut back and capped, not thrown away.",
    "chassis wiring": "Keep the chassis wiring and adapt: the chassis diagram describes all of "
    "it; donor wires it has no use for are removed.",
}
"""Both have followers; the next person who looks for a fault needs to know which it was."""


class SetDialog(QDialog):
    """From where, into what. ``code`` is the set's once it is kept."""

    def __init__(self, parent: QWidget, store: Store, repin: RepinSet | None) -> None:
        super().__init__(parent)
        self._store, self._old = store, repin
        self.code = repin.code if repin else ""
        self.setWindowTitle("Repin set" if repin else "Add a repin set")
        self.setMinimumWidth(560)
        repin_set = repin or RepinSet("", "")
        self.name = QLineEdit(repin_set.name)
        self.name.setPlaceholderText("Which plug is repinned, for example Engine computer plug")
        self.kind, self.target, self.wanted, self.approach = (Choice() for _ in range(4))
        for key, words in KINDS.items():
            self.kind.addItem(words, key)
        self.kind.setCurrentIndex(self.kind.findData(repin_set.kind))
        self._offer_connectors(repin_set)
        for approach in APPROACHES:
            self.approach.addItem(approach, approach)
        self.approach.setCurrentIndex(self.approach.findData(repin_set.approach))
        self.means = label("", "faint", wrap=True)
        form = QFormLayout()
        for name, field in (
            ("Name", self.name),
            ("Kind", self.kind),
            ("Wires come from", self.sources),
            ("To be right in the end", self.target),
            ("By the table", self.wanted),
            ("Approach", self.approach),
        ):
            field.setAccessibleName(name)
            form.addRow(name, field)
        self.notice = Notice()
        keep = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        keep.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(form)
        whole.addWidget(self.means)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))
        self.target.currentIndexChanged.connect(lambda _: self._offer_tables())
        self.approach.currentIndexChanged.connect(lambda _: self._explain())
        self._offer_tables()
        self.wanted.setCurrentIndex(max(0, self.wanted.findData(repin_set.wanted)))
        self._explain()

    def _offer_connectors(self, repin_set: RepinSet) -> None:
        self.sources = QListWidget()
        self.sources.setMaximumHeight(150)
        for connector in self._store.job.connectors:
            words = f"{connector.code} {connector.name}"
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, connector.code)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            chosen = connector.code in repin_set.sources
            item.setCheckState(Qt.CheckState.Checked if chosen else Qt.CheckState.Unchecked)
            self.sources.addItem(item)
            self.target.addItem(words, connector.code)
        self.target.setCurrentIndex(max(0, self.target.findData(repin_set.target)))

    def _offer_tables(self) -> None:
        """Offer the tables of the chosen connector."""
        code = self.target.currentData()
        self.wanted.clear()
        self.wanted.addItem("its own pinout", "")
        for pinout in self._store.job.pinouts:
            if pinout.connector == code:
                self.wanted.addItem(pinout.name, pinout.name)

    def _explain(self) -> None:
        self.means.setText(APPROACHES[self.approach.currentData()])

    def _chosen(self) -> tuple[str, ...]:
        items = [self.sources.item(n) for n in range(self.sources.count())]
        return tuple(
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item.checkState() == Qt.CheckState.Checked
        )

    def accept(self) -> None:
        """Put the set into the job."""
        fields = {
            "name": self.name.text().strip(),
            "sources": self._chosen(),
            "target": self.target.currentData() or "",
            "wanted": self.wanted.currentData() or "",
            "kind": self.kind.currentData(),
            "approach": self.approach.currentData(),
        }
        try:
            if self._old is None:
                made = RepinSet("", **fields)
                self._store.do("Add a repin set", lambda job: crossover_edits.add(job, made))
                self.code = self._store.job.repins[-1].code
            else:
                self._store.do(
                    f"Change {self.code}",
                    lambda job: crossover_edits.change(job, self.code, **fields),
                )
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()
