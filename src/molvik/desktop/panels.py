"""The window's three parts side by side, and how they give way to one another."""

from PySide6.QtCore import QObject, QSettings, Qt
from PySide6.QtWidgets import QSplitter, QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.panel.inhand import InHand

LEFT_PX, LEAST_LEFT_PX, HAND_PX = 190, 170, 316
NARROW_PX = 1150
"""In a window narrower than this the panel on the right is folded until it is wanted."""


class Panels(QObject):
    """The work list, the page and the panel in a splitter. The panel is a narrow strip while
    nothing is in hand, and in a narrow window, until the user wants it otherwise.
    """

    def __init__(self, hand: Hand, in_hand: InHand, left: QWidget, centre: QWidget) -> None:
        super().__init__(in_hand)
        self._hand, self._in_hand = hand, in_hand
        self._left, self._wide = LEFT_PX, HAND_PX
        self._wanted: bool | None = None
        """Whether the user opened or folded the panel; None leaves it to the window's width."""
        self._narrow = False
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        left.setMinimumWidth(LEAST_LEFT_PX)
        for widget in (left, centre, in_hand):
            self.splitter.addWidget(widget)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setHandleWidth(1)
        self.splitter.setSizes([LEFT_PX, 1280 - LEFT_PX - HAND_PX, HAND_PX])
        self.splitter.splitterMoved.connect(lambda *_: self._note_width())
        in_hand.opened.connect(self.open_panel)
        in_hand.folded.connect(self.fold_panel)
        hand.picked.connect(lambda _: self.fit())

    def fit(self) -> None:
        """Fold or open the panel as the window's width and what is in hand want it."""
        narrow = self.splitter.window().width() < NARROW_PX
        if narrow != self._narrow:
            self._narrow, self._wanted = narrow, None
        folded = not self._hand.subject or (narrow if self._wanted is None else not self._wanted)
        if folded == self._in_hand.is_folded:
            return
        self._in_hand.fold(folded)
        self._lay_out()

    def _lay_out(self) -> None:
        folded = self._in_hand.is_folded
        wide = self._in_hand.minimumWidth() if folded else self._wide
        middle = max(0, self.splitter.width() - self._left - wide)
        self.splitter.setSizes([self._left, middle, wide])

    def open_panel(self) -> None:
        """Open the panel, however narrow the window is."""
        self._wanted = True
        self.fit()

    def fold_panel(self) -> None:
        """Fold the panel, however wide the window is."""
        self._wanted = False
        self.fit()

    def _note_width(self) -> None:
        self._left = self.splitter.sizes()[0]
        if not self._in_hand.is_folded:
            self._wide = self.splitter.sizes()[2]

    def keep(self, settings: QSettings) -> None:
        """Keep the widths."""
        self._note_width()
        settings.setValue("widths", [self._left, self._wide])

    def restore(self, settings: QSettings) -> None:
        """Take up the widths that were kept, as far as they can be read."""
        try:
            left, wide = (int(width) for width in settings.value("widths", []) or [])  # type: ignore[attr-defined]
        except (ValueError, TypeError):
            return
        self._left = max(LEAST_LEFT_PX, min(600, left))
        self._wide = max(self._in_hand.LEAST_PX, min(900, wide))
        self._lay_out()
