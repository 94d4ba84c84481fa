"""One end of a wire to be run: a part and its terminal, or a cavity pointed at on its face."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.small import Choice, column, label, row
from molvik.model.job import code_order
from molvik.model.parts import Connector, End, terminals_of
from molvik.model.refs import end_text


class EndPicker(QWidget):
    """One end of a wire to be run: a part, and its cavity or terminal. changed: it is another.
    begins: with which of the parts, by its place.
    """

    changed = Signal()

    def __init__(self, store: Store, hand: Hand, name: str, begins: int) -> None:
        super().__init__()
        self._store, self._hand, self._begins = store, hand, begins
        self._listed: tuple[tuple[object, ...] | None, ...] = (None,) * 5
        """The lists of parts that are shown to choose from."""
        self.part = Choice()
        self.part.setAccessibleName(f"{name}: part")
        self.part.setMinimumContentsLength(16)
        self.part.activated.connect(lambda _: self._part_chosen())
        self.terminal = Choice()
        self.terminal.setAccessibleName(f"{name}: terminal")
        self.terminal.activated.connect(lambda _: self.changed.emit())
        self.face = FaceView(largest=34)
        self.face.chosen.connect(self._cavity_chosen)
        self.plain = label("", "faint", wrap=True)
        names = row(label(name, "head"), self.part, self.terminal)
        names.setStretch(1, 1)
        self.setLayout(column(names, self.plain, self.face))
        self.layout().setStretch(2, 1)  # type: ignore[union-attr]

    def end(self) -> End:
        """Return the end that is chosen, a loose one when it is not complete."""
        code = self.part.currentData() or ""
        part = self._store.job.part(code)
        if isinstance(part, Connector):
            return End(code, self.face.cavity) if self.face.cavity else End()
        if part is None:
            return End()
        return End(code, self.terminal.currentText())

    def choose(self, end: End) -> None:
        """Show an end."""
        index = self.part.findData(end.at)
        if index < 0:
            return
        if index != self.part.currentIndex():
            self.part.setCurrentIndex(index)
            self._show_part()
        self.face.choose(end.cavity)
        self.terminal.setCurrentIndex(max(0, self.terminal.findText(end.cavity)))

    def refresh(self) -> None:
        """Show the parts of the job as it stands."""
        job = self._store.job
        parts = (job.connectors, job.fuses, job.splices, job.earths, job.devices)
        if any(one is not was for one, was in zip(parts, self._listed, strict=True)):
            self._listed = parts
            ordered = sorted(job.parts(), key=lambda one: code_order(one.code))
            wanted = [(f"{one.code}  {one.name}".strip(), one.code) for one in ordered]
            kept = self.part.currentData()
            self.part.clear()
            for text, code in wanted:
                self.part.addItem(text, code)
            found = self.part.findData(kept)
            self.part.setCurrentIndex(found if found >= 0 else min(self._begins, len(wanted) - 1))
        self._show_part()

    def forget(self) -> None:
        """Let go of the parts of a job that was closed."""
        self._listed = (None,) * 5
        self.part.clear()

    def _part_chosen(self) -> None:
        self._show_part()
        self.changed.emit()

    def _show_part(self) -> None:
        code = self.part.currentData() or ""
        part = self._store.job.part(code)
        is_connector = isinstance(part, Connector)
        self.face.setVisible(is_connector)
        self.terminal.setVisible(part is not None and not is_connector)
        self.plain.setVisible(not is_connector)
        if isinstance(part, Connector):
            self.face.show_connector(part, self._store.analysis)
        elif part is not None:
            kept = self.terminal.currentText()
            self.terminal.clear()
            self.terminal.addItems(list(terminals_of(part)))
            self.terminal.setCurrentIndex(max(0, self.terminal.findText(kept)))
            self.plain.setText(f"{part.name or part.code}: choose its terminal above.")
        else:
            self.plain.setText("Add a connector or another part first.")

    def _cavity_chosen(self, cavity: str) -> None:
        self.changed.emit()
        self._hand.pick(end_text(self.part.currentData(), cavity))
