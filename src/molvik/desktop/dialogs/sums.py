"""Quick sums: one line in, one line of answer, the working below. No job is needed."""

from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QVBoxLayout, QWidget

from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, column, copyable, label, row
from molvik.sizes.quick import quick

EXAMPLES = (
    ("What is the voltage drop of a wire?", "14 awg 5 m 12 A"),
    ("Which wire, there and back?", "12 A 5 m 3 % there and back"),
    ("In other air and insulation", "14 awg 5'6\" 12 A PVC 140 °F"),
    ("Which fuse?", "fuse 1.5 mm2 8 A"),
    ("Cable for a starter", "starter cable 180 A 1.5 m"),
    ("Cable for an alternator", "charge cable 130 A 1.2 m"),
    ("Resistance of a length", "2.5 mm2 8 m"),
    ("Size in the other system", "2.5 mm2"),
    ("How thick is the bundle?", "bundle 6x1 mm2 2x2.5 mm2"),
    ("How hot does it get?", "bundle 6x1 mm2 8 A"),
    ("Twisted pair: length, turn, wire", "twist 2 m 30 mm 2.1 mm"),
    ("Resistor for a lamp", "resistor 14.4 V 2 V 20 mA"),
    ("Power in a resistor", "power 560 ohm 12 V"),
)


class SumsDialog(QDialog):
    """A line to type, its answer, and examples to begin from."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Quick sums")
        self.resize(800, 500)
        self.field = QLineEdit()
        self.field.setAccessibleName("Sum")
        self.field.setPlaceholderText("14 awg 5 m 12 A")
        self.field.textChanged.connect(lambda _: self._answer())
        self.answer = label("", "strong", wrap=True)
        self.notice = Notice()
        self.working = QListWidget()
        self.working.setAccessibleName("Working")
        self.working.setWordWrap(True)
        copyable(self.working)
        self.examples = QListWidget()
        self.examples.setAccessibleName("Examples")
        for what, line in EXAMPLES:
            self.examples.addItem(f"{what}\n{line}")
        self.examples.itemClicked.connect(lambda _: self._take())
        self.examples.itemActivated.connect(lambda _: self._take())
        left, right = QWidget(), QWidget()
        left.setLayout(column(label("LIKE THIS", "head"), self.examples))
        right.setLayout(
            column(self.field, self.notice, self.answer, label("WORKING", "head"), self.working)
        )
        both = row(left, right, spacing=14)
        both.setStretch(0, 2)
        both.setStretch(1, 3)
        whole = QVBoxLayout(self)
        whole.addLayout(both, 1)
        whole.addLayout(row(1, button("Close", "Esc", self.reject)))
        self.field.setFocus()

    def _take(self) -> None:
        self.field.setText(EXAMPLES[self.examples.currentRow()][1])
        self.field.setFocus()

    def _answer(self) -> None:
        self.working.clear()
        self.answer.setText("")
        text = self.field.text()
        try:
            found = quick(text) if text.strip() else None
        except ValueError as error:
            self.notice.say(str(error))
            return
        self.notice.say("")
        if found is not None:
            self.answer.setText(found.line)
            self.working.addItems(list(found.working))
