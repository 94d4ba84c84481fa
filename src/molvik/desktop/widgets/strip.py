"""The findings strip: how many, the worst one in words, and the whole list on demand."""

from collections import Counter

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.theme import colour
from molvik.desktop.widgets.marks import Mark
from molvik.desktop.widgets.small import ShortButton, button, copyable, label, row
from molvik.findings import unjudged
from molvik.findings.accepting import Judged
from molvik.findings.finding import Finding
from molvik.findings.kinds import KINDS, SEVERITIES, count_of

AT_ONCE = 300
"""Findings put into the list at once."""


class FindingsStrip(QWidget):
    """The strip at the bottom of the window.

    followed(finding): go there. accepted(finding, reason), withdrawn(finding): the user judged it.
    """

    followed = Signal(object)
    accepted = Signal(object, str)
    withdrawn = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._open: tuple[Finding, ...] = ()
        self._left: list[Judged] = []
        self._kept: Judged | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._fill)
        self.counts: dict[str, QLabel] = {}
        line = QHBoxLayout()
        line.setContentsMargins(14, 2, 14, 2)
        line.setSpacing(6)
        for severity in SEVERITIES:
            line.addWidget(Mark(severity))
            self.counts[severity] = label("")
            line.addWidget(self.counts[severity])
            line.addSpacing(8)
        self.unjudged = label("", "look")
        self.unjudged.setToolTip(
            "Wires the battery feeds, of which a size, current or length is "
            "missing: a note says of each what"
        )
        line.addWidget(self.unjudged)
        line.addSpacing(8)
        self.worst = ShortButton("")
        self.worst.setProperty("role", "quiet")
        self.worst.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.worst.setToolTip("Go to the place of this finding")
        self.worst.clicked.connect(self._follow_worst)
        line.addWidget(self.worst, 1)
        self.saved = label("", "faint")
        line.addWidget(self.saved)
        self.toggle = button("All findings", "Show every finding (F8)", self._toggle)
        line.addWidget(self.toggle)

        self._build_list()
        detail = self._detail()
        self.panel = QWidget()
        panel = QHBoxLayout(self.panel)
        panel.setContentsMargins(14, 10, 14, 4)
        panel.addWidget(self.list, 3)
        panel.addWidget(detail, 2)
        self.panel.setFixedHeight(230)
        self.panel.hide()
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.panel)
        whole.addLayout(line)

    def _detail(self) -> QWidget:
        """Return what is said of the finding that is chosen in the list."""
        self.story = label("", wrap=True)
        self.story.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.go = button("Show me", "Go to its place (Enter)", self._follow, "action")
        self.judge = button("Accept…", "Keep it as it is, with your reason", self._judge)
        detail = QWidget()
        column = QVBoxLayout(detail)
        column.setContentsMargins(4, 2, 4, 2)
        whole_story = QScrollArea()  # with an old reason it can be longer than the strip is high
        whole_story.setWidget(self.story)
        whole_story.setWidgetResizable(True)
        for widget in (whole_story.viewport(), self.story):
            widget.setAutoFillBackground(False)  # it lies on the strip
        whole_story.setFrameShape(QScrollArea.Shape.NoFrame)
        whole_story.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(whole_story, 1)
        column.addLayout(row(self.go, self.judge, 1))
        return detail

    def _build_list(self) -> None:
        self.list = QListWidget()
        self.list.setAccessibleName("Findings")
        self.list.setWordWrap(True)
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        copyable(self.list)
        self.list.itemActivated.connect(lambda _: self._follow())
        self.list.currentItemChanged.connect(lambda *_: self._explain())

    def show_findings(self, findings: tuple[Judged, ...], *, pending: bool = False) -> None:
        """Show all findings, those that somebody has to judge first."""
        waiting = [judged for judged in findings if judged.is_open]
        self._open = tuple(judged.finding for judged in waiting)
        counts = Counter(finding.severity for finding in self._open)
        for severity in SEVERITIES:
            self.counts[severity].setText("…" if pending else count_of(severity, counts[severity]))
        self.unjudged.setText("" if pending else unjudged(judged.finding for judged in findings))
        first = next(iter(self._open), None)
        self.worst.setEnabled(first is not None)
        if pending:
            self.worst.setText("Checking the job …")
        elif first is None:
            self.worst.setText("Nothing found. That is no proof: measure before power.")
        else:
            self.worst.setText(f"{first.word.capitalize()}: {first.what}")
            self.worst.setToolTip("\n".join((first.what, first.why, first.remedy)))
        self._rest.stop()
        self._kept = self._current()
        self._left = [*waiting, *(judged for judged in findings if not judged.is_open)]
        self._left.reverse()
        self.list.clear()
        if len(self._left) <= AT_ONCE or self.panel.isVisible():
            self._fill()

    def _fill(self) -> None:
        """Put the next findings into the list: thousands of them would hold the window up."""
        kept = self._kept
        for _ in range(min(AT_ONCE, len(self._left))):
            judged = self._left.pop()
            finding = judged.finding
            state = "accepted" if not judged.is_open else finding.severity
            back = " · was accepted" if judged.changed else ""
            word = finding.word if judged.is_open else state
            item = QListWidgetItem(f"{word}{back} · {finding.what}")
            item.setData(Qt.ItemDataRole.UserRole, judged)
            role = {"stop": "stop", "look": "ink"}.get(state, "faint")
            item.setForeground(colour(role))
            self.list.addItem(item)
            if kept is not None and kept.finding.key == finding.key:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0 and self.list.count():
            self.list.setCurrentRow(0)
        if self._left:
            self._rest.start()
        self._explain()

    def _current(self) -> Judged | None:
        item = self.list.currentItem()
        found: Judged | None = item.data(Qt.ItemDataRole.UserRole) if item else None
        return found

    def _explain(self) -> None:
        judged = self._current()
        self.go.setEnabled(judged is not None)
        self.judge.setEnabled(judged is not None)
        if judged is None:
            self.story.setText("")
            return
        finding = judged.finding
        lines = [finding.what, finding.why, finding.remedy]
        if judged.words:
            lines.insert(1, judged.sentence)
        self.story.setText("\n\n".join(lines))
        self.story.setToolTip(f"{finding.rule}: {KINDS[finding.rule].when}")
        self.judge.setText("Accept…" if judged.is_open else "Take back")

    def _toggle(self) -> None:
        self.panel.setVisible(not self.panel.isVisible())
        self.toggle.setText("Close" if self.panel.isVisible() else "All findings")
        if self.panel.isVisible():
            if self._left:
                self._fill()
            self.list.setFocus()

    def show_all(self) -> None:
        """Open or close the whole list."""
        self._toggle()

    def _follow_worst(self) -> None:
        if self._open:
            self.followed.emit(self._open[0])

    def _follow(self) -> None:
        judged = self._current()
        if judged is not None:
            self.followed.emit(judged.finding)

    def _judge(self) -> None:
        judged = self._current()
        if judged is None:
            return
        if not judged.is_open:
            self.withdrawn.emit(judged.finding)
            return
        words = (
            f"{judged.finding.what}\n\nWhy is it right as it is? The reason is printed with the "
            "job. It comes back when it gets worse."
        )
        was = judged.acceptance.reason if judged.acceptance else ""
        reason = ask_line(self, "Accept a finding", words, was)
        if reason is not None:
            self.accepted.emit(judged.finding, reason)
