"""Many sizes at once: the list of what would change, and one step that can be undone."""

from collections.abc import Mapping

from PySide6.QtWidgets import QDialog, QListWidget, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, choice, copyable, label, row
from molvik.model.job import Job
from molvik.sizes.resize import Resize, resized, resizes
from molvik.sizes.sizing_case import SizingCase


class ResizeDialog(QDialog):
    """Asks which wires and which sizes, and shows each change before it is made."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.changes: tuple[Resize, ...] = ()
        self.setWindowTitle("Set many sizes")
        self.resize(640, 520)
        self.which = choice(
            "Which wires",
            [("wires that fail, or have no size", "failing"), ("all wires, thick ones too", "all")],
        )
        self.system = choice("Sizes", [("mm²", "metric"), ("AWG", "awg")])
        for combo_box in (self.which, self.system):
            combo_box.currentIndexChanged.connect(lambda _: self._look())
        self.about = label("", wrap=True)
        self.list = QListWidget()
        self.list.setAccessibleName("What changes")
        copyable(self.list)
        tip = "Give them these sizes, as one step that can be undone"
        self.act = button("Set them", tip, self.set_them, "action")
        whole = QVBoxLayout(self)
        whole.addLayout(row(self.which, self.system, 1))
        whole.addWidget(self.about)
        whole.addWidget(self.list, 1)
        note = "Each was judged with the others changed. Mind that it fits its terminal and seal."
        whole.addWidget(label(note, "faint", wrap=True))
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), self.act))
        self._look()

    def _look(self) -> None:
        analysis = self._store.analysis
        network = analysis.network
        failing = self.which.currentData() == "failing"

        def ask(job: Job) -> Mapping[str, SizingCase]:
            return (analysis if job is analysis.job else Analysis(job)).electrics.sizing_cases

        self.changes = resizes(analysis.job, ask, self.system.currentData(), failing_only=failing)
        self.list.clear()
        for resize in self.changes:
            name = network.wires[resize.wire].function
            self.list.addItem(f"{resize.wire} {name}: {resize.old or 'no size'} to {resize.new}")
        self.about.setText(
            f"{len(self.changes)} wires change. Those without a current or a length "
            "are left as they are."
        )
        self.act.setEnabled(bool(self.changes))

    def set_them(self) -> None:
        """Make the changes."""
        changes = self.changes
        words = f"Set {len(changes)} sizes"
        self._store.do(words, lambda job: resized(job, changes))
        self.accept()
