"""Ask what another wire comes to in the place of one, and put it there."""

from PySide6.QtWidgets import QDialog, QLineEdit, QVBoxLayout, QWidget

from molvik.desktop.panel.facts import FactList
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, label, row, set_role
from molvik.model import edits
from molvik.model.parts import WireSize
from molvik.model.stock import StockItem
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import read_size
from molvik.reference.insulation import INSULATIONS, insulation
from molvik.sizes.substitute import Substitute, in_words, substitute

TYPED = "typed below"


class SubstituteDialog(QDialog):
    """Compares a wire with another: from stock, or of any size and insulation."""

    def __init__(self, parent: QWidget, store: Store, code: str) -> None:
        super().__init__(parent)
        self._store, self._code = store, code
        wire = store.analysis.network.wires[code]
        self.found: Substitute | None = None
        self.setWindowTitle(f"Another wire for {code} {wire.function}".strip())
        self.resize(620, 520)
        wires = [item for item in store.analysis.stock if item.kind == "wire" and item.size]
        items = [(_stocked(item), item.code) for item in wires]
        self.stock = choice("From stock", [(TYPED, ""), *items])
        self.section = QLineEdit(str(wire.size or ""))
        self.section.setToolTip("14 AWG or 2.5 mm2")
        self.kind = choice(
            "Insulation", [(insulation(one).name, one) for one in INSULATIONS], wire.insulation
        )
        self.tint = QLineEdit(str(wire.colour or ""))
        self.tint.setToolTip("Its colour, where it is another: RD/WH")
        self.stock.currentIndexChanged.connect(lambda _: self._from_stock())
        self.kind.currentIndexChanged.connect(lambda _: self.look())
        for field, name in ((self.section, "Size"), (self.tint, "Colour")):
            field.setAccessibleName(name)
            field.textEdited.connect(lambda _: self.look())
        self.verdict = label("", wrap=True)
        self.facts = FactList()
        self.notice = Notice()
        tip = "Give the wire this size, insulation and colour, as one step that can be undone"
        self.act = button("Put it there", tip, self.put, "action")
        whole = QVBoxLayout(self)
        whole.addLayout(row(label("From stock", "faint"), self.stock, 1))
        whole.addLayout(
            row(
                label("Size", "faint"),
                self.section,
                label("insulation", "faint"),
                self.kind,
                label("colour", "faint"),
                self.tint,
            )
        )
        whole.addWidget(self.notice)
        whole.addWidget(self.verdict)
        whole.addWidget(self.facts)
        whole.addStretch(1)
        whole.addWidget(
            label(
                "Mark a wire of another colour at both ends, and write it down: the "
                "next person reads the diagram.",
                "faint",
                wrap=True,
            )
        )
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), self.act))
        self.look()

    def _from_stock(self) -> None:
        code = self.stock.currentData()
        item = next((item for item in self._store.analysis.stock if item.code == code), None)
        if item is not None:
            self.section.setText(str(item.size))
            self.kind.setCurrentIndex(max(0, self.kind.findData(item.insulation)))
            self.tint.setText(str(item.colour or ""))
        self.look()

    def _typed(self) -> WireSize:
        return read_size(self.section.text())

    def look(self) -> None:
        """Compare what is typed with what is there."""
        analysis = self._store.analysis
        wire = analysis.network.wires[self._code]
        try:
            size = self._typed()
            if self.tint.text().strip():
                read_any_colour(self.tint.text())
        except ValueError as error:
            self.found = None
            self.notice.say(str(error))
            self.verdict.setText("")
            self.facts.show_facts([])
            self.act.setEnabled(False)
            return
        self.notice.say("")
        kind = insulation(self.kind.currentData())
        found = substitute(wire.size, analysis.electrics.sizing_cases[self._code], size, kind)
        self.found = found
        will = "will do" if found.will_do else "will not do"
        self.verdict.setText(f"{size} {kind.name} {will} in the place of {wire.size or 'none'}.")
        set_role(self.verdict, "proved" if found.will_do else "bad")
        self.facts.show_facts(list(in_words(found)))
        self.act.setEnabled(True)

    def put(self) -> None:
        """Make it the wire's own."""
        if self.found is None:
            return
        code, found = self._code, self.found
        tint = read_any_colour(self.tint.text()) if self.tint.text().strip() else None
        self._store.do(
            f"{code} as {found.size} {found.kind.code}",
            lambda job: edits.change_wire(
                job, code, size=found.size, insulation=found.kind.code, colour=tint
            ),
        )
        self.accept()


def _stocked(item: StockItem) -> str:
    return f"{item.size} {item.insulation} {item.colour or ''}, {item.amount:g} m"
