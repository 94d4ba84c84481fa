"""What was found about the thing in hand, the worst first, each a line that leads there."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QWidget

from molvik.desktop.widgets.marks import draw_mark
from molvik.desktop.widgets.small import column, set_role
from molvik.findings.accepting import Judged
from molvik.findings.finding import Finding

MOST = 4
"""So many are named; the others are counted."""

ROLES = {"stop": "bad", "look": "look", "note": "faint"}


class _Line(QLabel):
    """One finding: its mark and what it says."""

    chosen = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.finding: Finding | None = None
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setContentsMargins(20, 0, 0, 0)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the words, and the mark of the severity before them."""
        super().paintEvent(event)
        if self.finding is not None:
            draw_mark(QPainter(self), QRectF(1, 4, 11, 11), self.finding.severity)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to it."""
        self.chosen.emit()


class Problems(QWidget):
    """What was found about one subject. chosen(finding): the user wants to see it."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._found: dict[str, list[Finding]] = {}
        self.lines = [_Line() for _ in range(MOST)]
        self.more = _Line()
        for line in (*self.lines, self.more):
            line.chosen.connect(partial(self._choose, line))
        self.setLayout(column(*self.lines, self.more, spacing=3))
        self.hide()

    def take(self, findings: Sequence[Judged]) -> None:
        """Take up what was found in the job: what is not accepted, by what it is about."""
        self._found = {}
        for judged in findings:
            if judged.is_open:
                self._found.setdefault(judged.finding.leads_to, []).append(judged.finding)

    def show_on(self, subject: str) -> None:
        """Show what was found about a subject."""
        found = self._found.get(subject, [])
        for index, line in enumerate(self.lines):
            line.finding = found[index] if index < len(found) else None
            line.setVisible(line.finding is not None)
            if line.finding is not None:
                set_role(line, ROLES[line.finding.severity])
                line.setText(line.finding.what)
                line.setToolTip(f"{line.finding.why}\n{line.finding.remedy}")
                line.setAccessibleName(f"{line.finding.word}: {line.finding.what}")
        self.more.setVisible(len(found) > MOST)
        self.more.setText(f"and {len(found) - MOST} more: F8 shows all")
        self.setVisible(bool(found))

    def _choose(self, line: _Line) -> None:
        if line.finding is not None:
            self.chosen.emit(line.finding)
