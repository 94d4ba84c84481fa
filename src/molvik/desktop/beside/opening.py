"""What stands beside the stages: notes, the clock, the logbook, the stock, the photos."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from molvik.desktop.beside.logline import JotDialog
from molvik.desktop.beside.shelfkeeper import ShelfKeeper
from molvik.desktop.dialogs.opening import put_up
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.hand import Hand
from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button
from molvik.numbers import read_number

if TYPE_CHECKING:
    from molvik.desktop.beside.logbook import LogbookWindow
    from molvik.desktop.beside.photos import PhotoDesk
    from molvik.desktop.beside.stock import StockWindow


class Beside(QObject):
    """Opens each when it is first asked for. stage: the name of the stage in view.

    told(text, good): say what came of something.
    """

    told = Signal(str, bool)

    def __init__(
        self,
        window: QWidget,
        store: Store,
        hand: Hand,
        files: JobFiles,
        shelf: ShelfKeeper,
        stage: Callable[[], str],
    ) -> None:
        super().__init__(window)
        self._window, self._store, self._hand, self._files = window, store, hand, files
        self._shelf, self._stage = shelf, stage
        self.logbook: LogbookWindow | None = None
        self.stock: StockWindow | None = None
        self.photos: PhotoDesk | None = None
        self.clock_button = button("", "", self.set_clock)
        self._minute = QTimer(self)
        self._minute.setInterval(30_000)
        self._minute.timeout.connect(self.show_clock)
        self._minute.start()

    def forget(self) -> None:
        """The job was closed: its windows go, with what they show and the pixels they keep."""
        for window in (self.logbook, self.stock):
            if window is not None:
                window.deleteLater()
        self.logbook = self.stock = None
        if self.photos is not None:
            self.photos.forget()

    def jot(self) -> None:
        """Take a note on what is in hand."""

        put_up(JotDialog(self._window, self._store, self._hand, self._stage()))

    def set_clock(self) -> None:
        """Start or stop the clock."""
        from molvik.desktop.beside.logbook import forgotten_since, set_clock

        since, worked = forgotten_since(self._store), None
        if since is not None:
            words = f"The clock runs since {since:%d %b %H:%M}. How many hours were worked?"
            typed = ask_line(self._window, "Forgotten clock", words, "2", _hours)
            if typed is None:
                return
            worked = _hours(typed)
        set_clock(self._store, self._stage(), worked)

    def show_clock(self) -> None:
        """Say on its button whether the clock runs."""
        from molvik.desktop.beside.logbook import clock_text

        text, tip = clock_text(self._store)
        self.clock_button.setText(text)
        self.clock_button.setToolTip(tip)
        self.clock_button.setAccessibleName(text)

    def show_logbook(self) -> None:
        """Open the logbook."""
        from molvik.desktop.beside.logbook import LogbookWindow

        if self.logbook is None:
            self.logbook = LogbookWindow(self._window, self._store)
            self.logbook.photo_wanted.connect(self.show_photo)
        self.logbook.show()
        self.logbook.raise_()

    def show_stock(self) -> None:
        """Open the stock."""
        from molvik.desktop.beside.stock import StockWindow

        if self.stock is None:
            self.stock = StockWindow(self._window, self._store, self._shelf)
        self.stock.show()
        self.stock.raise_()

    # photos

    def _desk(self) -> "PhotoDesk":
        from molvik.desktop.beside.photos import PhotoDesk

        if self.photos is None:
            self.photos = PhotoDesk(
                self._window, self._store, self._hand, lambda: self._files.photos
            )
            self.photos.told.connect(self.told)
        return self.photos

    def ask_photos(self) -> None:
        """Ask for photos of what is in hand."""
        self._desk().ask(self._stage())

    def add_photos(self, paths: list[Path]) -> None:
        """Add photos of what is in hand."""
        self._desk().add(paths, self._stage())

    def show_photo(self, code: str) -> None:
        """Show a photo large."""
        self._desk().show(code)


def _hours(text: str) -> float:
    """Return typed hours of a day's work."""
    return read_number(text, "number of hours, 0 to 12", "2.5", least=0, most=12)
