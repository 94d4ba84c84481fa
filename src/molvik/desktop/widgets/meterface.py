"""A meter's face: what it shows in large digits, and what it is turned to."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QGridLayout, QLabel, QPushButton, QVBoxLayout

from molvik.desktop.theme import font
from molvik.proving.probing import FUNCTIONS, Function

TIPS: dict[Function, str] = {
    "V": "Volts between red and black, with the power on (key V)",
    "Ω": "Ohms, with all unplugged: never on a live wire (key O)",
    "tone": "Sounds below 30 Ω, with all unplugged (key T)",
    "diode": "Diode test, with all unplugged (key D)",
    "A": "Amps, in place of a fuse that is pulled: both probes in its clips (key A)",
    "lamp": "A test lamp of 5 W instead of the meter: never on a computer's lines (key L)",
}
KEYS: dict[str, Function] = {
    "v": "V",
    "o": "Ω",
    "t": "tone",
    "d": "diode",
    "a": "A",
    "l": "lamp",
}
"""Keys by which the meter is turned, with the bench in hand."""

DIGITS_PX, WORDS_PX = 30, 16


class MeterFace(QFrame):
    """What the meter shows, and its functions. turned(function): it was turned to another."""

    turned = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("meter")
        self.function: Function = "V"
        self.digits = QLabel("")
        self.digits.setObjectName("digits")
        self.digits.setTextFormat(Qt.TextFormat.PlainText)
        self.digits.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.digits.setFixedHeight(52)
        self.digits.setWordWrap(True)
        self.digits.setAccessibleName("The meter shows")
        self.buttons: dict[Function, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(4)
        group = QButtonGroup(self)
        group.setExclusive(True)
        for place, function in enumerate(FUNCTIONS):
            made = QPushButton(function)
            made.setCheckable(True)
            made.setFixedHeight(30)
            made.setToolTip(TIPS[function])
            made.setAccessibleName(f"Meter: {function}")
            made.setProperty("role", "meter")
            made.clicked.connect(lambda _, to=function: self._turn(to))
            group.addButton(made)
            grid.addWidget(made, place // 3, place % 3)
            self.buttons[function] = made
        self.buttons["V"].setChecked(True)
        inner = QVBoxLayout(self)
        inner.setContentsMargins(8, 8, 8, 8)
        inner.setSpacing(6)
        inner.addWidget(self.digits)
        inner.addLayout(grid)
        self.show_digits("")

    def sizeHint(self) -> QSize:
        """Return the size of a meter in the hand."""
        return QSize(190, super().sizeHint().height())

    def turn_to(self, function: Function) -> None:
        """Show it turned to a function, without a signal."""
        self.function = function
        self.buttons[function].setChecked(True)

    def _turn(self, function: Function) -> None:
        if function != self.function:
            self.function = function
            self.turned.emit(function)

    def show_digits(self, words: str) -> None:
        """Show a reading: figures large, words smaller."""
        self.digits.setText(words or "– – –")
        large = len(words) <= 9
        self.digits.setFont(font(DIGITS_PX if large else WORDS_PX, bold=True, mono=large))
