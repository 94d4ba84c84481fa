"""Find (Ctrl+K): a code, cavity, colour, function or size, or a small sum."""

from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.widgets.small import copyable, label
from molvik.model.parts import Connector
from molvik.parsing.colours import ColourError, read_any_colour
from molvik.parsing.quantities import QuantityError
from molvik.reference.colours import colour_name
from molvik.sizes.sums import quick

MOST = 60


class Hit(NamedTuple):
    """Something found. subject: where to go, empty for an answer."""

    text: str
    subject: str


def search(analysis: Analysis, text: str) -> list[Hit]:
    """Return what matches a text: first an answer to a sum, then exact codes, then words."""
    wanted = text.strip().lower()
    if not wanted:
        return []
    hits: list[Hit] = []
    try:
        answer = quick(text)
    except QuantityError as error:
        hits.append(Hit(str(error), ""))
    else:
        hits += [Hit(answer.line, "")] if answer else []
    try:
        colour = read_any_colour(wanted)
    except ColourError:
        colour = None
    exact: list[Hit] = []
    loose: list[Hit] = []
    cavity = wanted.replace("/", " ").split()
    for wire in analysis.job.wires:
        named = colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else ""
        words = (wire.function, wire.circuit, wire.note, named, str(wire.size or ""))
        hit = Hit(" · ".join(filter(None, (wire.code, wire.function, named))), wire.code)
        if wire.code.lower() == wanted or (colour is not None and wire.colour == colour):
            exact.append(hit)
        elif any(wanted in word.lower() for word in words):
            loose.append(hit)
    for part in analysis.job.parts():
        name = part.name or part.code
        hit = Hit(f"{part.code} · {name}", part.code)
        if part.code.lower() == wanted:
            exact.append(hit)
        elif wanted in name.lower():
            loose.append(hit)
        if not isinstance(part, Connector):
            continue
        if len(cavity) == 2 and part.code.lower() == cavity[0]:
            for name_of in analysis.network.cavities[part.code]:
                if name_of.lower() == cavity[1]:
                    subject = f"{part.code}/{name_of}"
                    exact.append(Hit(f"{subject} · {part.name}, cavity {name_of}", subject))
        for pin in part.pins:
            if pin.function and (wanted in pin.function.lower() or wanted == pin.circuit.lower()):
                subject = f"{part.code}/{pin.cavity}"
                loose.append(
                    Hit(f"{subject} · {part.name}, cavity {pin.cavity}: {pin.function}", subject)
                )
    for thing in analysis.job.loom.things():
        name = getattr(thing, "name", "") or getattr(thing, "function", "") or thing.note
        if thing.code.lower() == wanted:
            exact.append(Hit(f"{thing.code} · {name}", thing.code))
        elif wanted in name.lower():
            loose.append(Hit(f"{thing.code} · {name} (loom as found)", thing.code))
    return (hits + exact + loose)[:MOST]


class FindBox(QDialog):
    """The box that finds. followed(subject): go there."""

    followed = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self.setAccessibleName("Find")
        self._window = parent
        self._analysis: Analysis | None = None
        self.field = QLineEdit()
        self.field.setPlaceholderText(
            "Code, cavity (C2 15), colour, function, or a sum: 14 awg 5 m 12 A"
        )
        self.field.setAccessibleName("What to find")
        self.field.textChanged.connect(self._search)
        self.field.returnPressed.connect(self._follow)
        self.field.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.setWordWrap(True)
        copyable(self.list)
        self.list.itemActivated.connect(lambda _: self._follow())
        self.list.itemClicked.connect(lambda _: self._follow())
        self.hint = label("Up and down to choose, Enter to go there, Esc to close.", "faint")
        column = QVBoxLayout(self)
        column.addWidget(self.field)
        column.addWidget(self.list)
        column.addWidget(self.hint)
        self.resize(560, 380)

    def ask(self, analysis: Analysis) -> None:
        """Open on a job."""
        self._analysis = analysis
        self.field.selectAll()
        self._search(self.field.text())
        window = self._window
        corner = window.mapToGlobal(window.rect().topRight())
        self.move(corner.x() - self.width() - 20, corner.y() + 64)
        self.show()
        self.raise_()
        self.field.setFocus()

    def hideEvent(self, event: QHideEvent) -> None:
        """Let go of the job that was searched."""
        super().hideEvent(event)
        self._analysis = None
        self.list.clear()

    def _search(self, text: str) -> None:
        self.list.clear()
        if self._analysis is None:
            return
        hits = search(self._analysis, text)
        for hit in hits:
            item = QListWidgetItem(hit.text)
            item.setData(Qt.ItemDataRole.UserRole, hit.subject)
            self.list.addItem(item)
        if hits:
            self.list.setCurrentRow(0)
        elif text.strip():
            self.hint.setText(f"Nothing in this job matches “{text.strip()}”.")
            return
        self.hint.setText("Up and down to choose, Enter to go there, Esc to close.")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Let the arrows move through the list while typing."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step and self.list.count():
                index = self.list.currentRow() + step
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, index)))
                return True
        return super().eventFilter(watched, event)

    def _follow(self) -> None:
        item = self.list.currentItem()
        subject = item.data(Qt.ItemDataRole.UserRole) if item else ""
        if subject:
            self.hide()
            self.followed.emit(subject)
