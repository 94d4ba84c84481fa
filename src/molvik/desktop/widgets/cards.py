"""Step at the bench: one large card at a time, read from two metres, driven with one hand."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLabel, QProgressBar, QVBoxLayout, QWidget

from molvik.desktop.theme import font
from molvik.desktop.widgets.small import button, label, row, set_role
from molvik.survey.before import Step

HEADLINE_PX = 54
DETAIL_PX = 26


class StepCards(QDialog):
    """Cards for a list of steps. ticked(key): Space; cleared(key): Backspace; noted(subject): N.

    steps, done: asked anew after every key, so that the cards follow the job.
    """

    ticked = Signal(str)
    cleared = Signal(str)
    noted = Signal(str)
    shown = Signal(str)

    def __init__(
        self,
        parent: QWidget,
        title: str,
        steps: Callable[[], Sequence[Step]],
        done: Callable[[], set[str]],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(1060, 620)
        self._steps, self._done = steps, done
        self.at = 0
        self.count = label("", "faint")
        self.headline = label("", wrap=True)
        self.headline.setFont(font(HEADLINE_PX, bold=True))
        self.headline.setStyleSheet(f"font-size: {HEADLINE_PX}px; font-weight: bold;")
        self.detail = label("", wrap=True)
        self.detail.setStyleSheet(f"font-size: {DETAIL_PX}px;")
        self.state: QLabel = label("")
        self.state.setStyleSheet(f"font-size: {DETAIL_PX}px;")
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        keys = "Space: done, next    Backspace: back, not done    ← →: look    N: note    Esc: stop"
        whole = QVBoxLayout(self)
        whole.setContentsMargins(40, 26, 40, 26)
        whole.addLayout(row(self.count, 1))
        whole.addStretch(1)
        whole.addWidget(self.headline)
        whole.addWidget(self.detail)
        whole.addWidget(self.state)
        whole.addStretch(1)
        whole.addWidget(self.progress)
        tick = button("Done", "Tick it and go on (Space)", self.tick, "action")
        back = button("Back", "Go back and take the tick away (Backspace)", self.back)
        note = button("Note", "Note a problem (N)", self._note)
        for one in (tick, back, note):
            one.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # Space belongs to the card
        whole.addLayout(row(label(keys, "faint"), 1, note, back, tick))
        waiting = [n for n, step in enumerate(self._steps()) if step.key not in self._done()]
        self.at = waiting[0] if waiting else 0
        self.refresh()

    def current(self) -> Step | None:
        """Return the step on the card."""
        steps = self._steps()
        return steps[self.at] if 0 <= self.at < len(steps) else None

    def refresh(self) -> None:
        """Show the card."""
        steps, done = self._steps(), self._done()
        self.at = max(0, min(self.at, len(steps) - 1))
        step = self.current()
        ticked = sum(one.key in done for one in steps)
        self.progress.setRange(0, max(1, len(steps)))
        self.progress.setValue(ticked)
        if step is None:
            self.headline.setText("Nothing to do here.")
            self.detail.setText("")
            self.state.setText("")
            self.count.setText("")
            return
        self.count.setText(f"Step {self.at + 1} of {len(steps)} · {ticked} done")
        self.headline.setText(step.do)
        self.detail.setText(step.detail)
        is_done = step.key in done
        all_done = ticked == len(steps)
        words = "✓ done" if is_done else "not done yet"
        self.state.setText(f"{words} · all steps are done" if all_done else words)
        set_role(self.state, "proved" if is_done else "look")
        self.setAccessibleName(f"{step.do}. {step.detail}. {words}")
        self.shown.emit(step.subject)

    def tick(self) -> None:
        """Tick the step and go on to the next."""
        step = self.current()
        if step is not None:
            self.ticked.emit(step.key)
            self.at += 1
            self.refresh()

    def back(self) -> None:
        """Go back, taking the tick away."""
        step = self.current()
        if step is not None and step.key not in self._done():
            self.at -= 1
            self.at = max(0, self.at)
            step = self.current()
        if step is not None:
            self.cleared.emit(step.key)
        self.refresh()

    def _note(self) -> None:
        step = self.current()
        if step is not None:
            self.noted.emit(step.subject)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Drive the cards with one hand."""
        match event.key():
            case Qt.Key.Key_Space | Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.tick()
            case Qt.Key.Key_Backspace:
                self.back()
            case Qt.Key.Key_N:
                self._note()
            case Qt.Key.Key_Left:
                self.at -= 1
                self.refresh()
            case Qt.Key.Key_Right:
                self.at += 1
                self.refresh()
            case _:
                super().keyPressEvent(event)
