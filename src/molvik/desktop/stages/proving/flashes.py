"""Counting a code off a lamp: a key goes down with each flash, and up with it."""

import time

from PySide6.QtCore import QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from molvik.desktop.theme import font
from molvik.desktop.widgets.small import button, label, row
from molvik.proving.troublecodes import flash_codes

HOW = (
    "Tap any key, or the pedal, with each flash of the lamp, and hold it while the lamp is lit. "
    "Wait as the lamp waits: a gap between figures, a longer one between codes."
)


class FlashCount(QDialog):
    """Counts flashes. codes: those counted so far."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Count flashes")
        self.setMinimumWidth(560)
        self._taps: list[tuple[float, float]] = []
        self._down: float | None = None
        self.shown = label("·")
        self.shown.setFont(font(64, bold=True, mono=True))
        self.shown.setStyleSheet("font-size: 64px; font-weight: bold;")
        self.count = label("no flash yet", "faint")
        keep = button("Take", "Take the codes as they were counted", self.accept, "action")
        again = button("Again", "Start again", self.again)
        stop = button("Cancel", "Take nothing (Esc)", self.reject)
        whole = QVBoxLayout(self)
        whole.addWidget(label(HOW, wrap=True))
        whole.addWidget(self.shown)
        whole.addWidget(self.count)
        whole.addLayout(row(1, stop, again, keep))
        for one in (keep, again, stop):
            one.setAutoDefault(False)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._show)
        self._timer.start(200)
        self.setFocus()

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes counted so far."""
        return flash_codes(self._taps)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A flash begins; Esc gives up, Enter takes."""
        if event.key() in (0x01000000, 0x01000004, 0x01000005):  # Esc, Return, Enter
            if event.key() == 0x01000000:
                self.reject()
            elif self._taps:
                self.accept()
        elif not event.isAutoRepeat():
            self._down = time.monotonic()

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """A flash ends."""
        if not event.isAutoRepeat() and self._down is not None:
            self._taps.append((self._down, time.monotonic()))
            self._down = None
            self._show()

    def again(self) -> None:
        """Begin anew."""
        self._taps.clear()
        self._down = None
        self._show()
        self.setFocus()

    def _show(self) -> None:
        self.shown.setText("  ".join(self.codes) or "·")
        flashes = len(self._taps)
        self.count.setText(f"{flashes} flashes" if flashes else "no flash yet")
