"""What an import asks: colours that can be read in more than one way, and tables over others."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.widgets.small import Choice, button, label, row
from molvik.model.parts import Connector, Pin
from molvik.parsing.colours import ColourError, read_any_colour
from molvik.pinouts.table import ColourAsk
from molvik.reference.colours import colour_name


class ColourAsks(QWidget):
    """One colour of the table at a time, for all its rows. said(text, colour): it was chosen;
    refused(words): it was typed, and is none.
    """

    said = Signal(str, object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.asks: tuple[ColourAsk, ...] = ()
        self.words = label("", "look")
        self.choice = Choice()
        self.choice.setEditable(True)
        self.choice.setMinimumWidth(230)
        self.choice.setAccessibleName("What this colour is")
        self.choice.setToolTip("Choose one, or type it: BU, BK/WH, light blue")
        field = self.choice.lineEdit()
        assert field is not None
        field.setPlaceholderText("choose, or type a colour")
        self.choice.activated.connect(lambda _: self.take())
        field.returnPressed.connect(self.take)
        self.take_button = button("For all its rows", "This text means this colour", self.take)
        self.left = label("", "faint")
        self.setLayout(row(self.words, self.choice, self.take_button, self.left, 1))
        self.hide()

    def show_asks(self, asks: tuple[ColourAsk, ...]) -> None:
        """Ask the first of some; hide where there were none, but stay where all were said: what is
        below must not jump under a hand that is about to click.
        """
        had = bool(self.asks) or self.isVisible()
        self.asks = asks
        self.setVisible(bool(asks) or had)
        for widget in (self.choice, self.take_button):
            widget.setEnabled(bool(asks))
        if not asks:
            self.words.setText("Every colour is said." if had else "")
            self.choice.clear()
            self.left.setText("")
            return
        first = asks[0]
        rows = "1 row" if first.rows == 1 else f"{first.rows} rows"
        self.words.setText(f"“{first.text[:24]}” in {rows} is")
        self.choice.clear()
        for colour, names in first.options:
            words = f"{colour}  {colour_name(colour.base, colour.tracer)} ({', '.join(names)})"
            self.choice.addItem(words, colour)
        self.choice.setCurrentIndex(-1)
        more = len(asks) - 1
        self.left.setText(f"{more} more to say" if more else "")

    def take(self) -> None:
        """Take what was chosen or typed for all rows with this text."""
        if not self.asks:
            return
        text = self.choice.currentText().strip()
        index = self.choice.findText(text)
        colour = self.choice.itemData(index) if index >= 0 else None
        if colour is None:
            if not text:
                return
            try:
                colour = read_any_colour(text)
            except ColourError as error:
                self.refused.emit(str(error))
                return
        self.said.emit(self.asks[0].text, colour)


def overwritten(connector: Connector, pins: tuple[Pin, ...]) -> int:
    """Return how many cavities of a connector would say something else than they do."""
    was = {pin.cavity: pin for pin in connector.pins if pin != Pin(pin.cavity)}
    return sum(pin.cavity in was and was[pin.cavity] != pin for pin in pins)


def ask_overwrite(parent: QWidget, connector: Connector, count: int) -> str:
    """Ask whether a table may replace what a connector's says; return over, variant or nothing."""
    cavities = "1 cavity" if count == 1 else f"{count} cavities"
    return question(
        parent,
        f"{connector.code} has a pinout",
        f"{cavities} of {connector.name} ({connector.code}) would say something else.",
        "Write over what they say? Or keep this table beside it, as a variant: another year, what "
        "the plug is to become?",
        [Answer("variant", "Keep as a variant"), Answer("over", f"Overwrite {count}", loses=True)],
    )
