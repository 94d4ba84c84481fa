"""A line with one instrument: its address, a stand-in for it, and what it says it is."""

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QWidget

from molvik.desktop.stages.page import StagePage
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import INSTRUMENTS
from molvik.desktop.widgets.small import CheckedField, ShortLabel, button, label, row


class InstrumentLine(QWidget):
    """One instrument at a time. Those who inherit say how it is opened, what its stand-in is, and
    what can be done with it (``able``: called whenever that changes).
    """

    name = "Instrument"
    example = ""
    stand_in_tip = ""

    def __init__(self, page: StagePage, *more: QWidget) -> None:
        super().__init__()
        self._page = page
        self.instrument: Any = None
        self._server: Any = None
        self.stands_in = False
        self.identity = ""
        """What the instrument says it is, as readings keep it."""
        self._task: Task | None = None
        self._enough = threading.Event()
        self.address = CheckedField(self.name, f"Its address: {self.example}", self._connect)
        self.address.setPlaceholderText(self.example)
        self.address.refused.connect(page.notice.say)
        self.stand_in_button = button("Stand-in", self.stand_in_tip, self.use_stand_in)
        self.said = ShortLabel("not connected")
        self.said.setProperty("role", "faint")
        bar = row(label(self.name, "faint"), self.address, self.stand_in_button, self.said, *more)
        bar.setStretch(1, 3)
        bar.setStretch(3, 2)
        bar.setContentsMargins(0, 0, 0, 0)
        self.setLayout(bar)
        self.able(can=False)

    # what those who inherit say

    def opened(self, address: str) -> tuple[Any, str]:
        """Open an instrument, aside; return it with what it says it is. Raises ValueError."""
        raise NotImplementedError

    def stand_in(self) -> tuple[Any, str]:
        """Return a stand-in of the job as it stands, as a server, and its address."""
        raise NotImplementedError

    def able(self, *, can: bool) -> None:
        """Offer what can be done with the instrument, or nothing."""
        raise NotImplementedError

    # connecting

    def _connect(self, text: str) -> None:
        """Open an instrument by its address, aside: one that is not there takes a while."""
        if text.strip():
            self.forget()
            self._open(text.strip(), stands_in=False)

    def use_stand_in(self) -> None:
        """Begin a stand-in that knows the job as it stands, and use it."""
        self.forget()
        try:
            server, address = self.stand_in()
        except ValueError as error:
            self._page.notice.say(str(error))
            return
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self._server = server
        self._open(address, stands_in=True)

    def _open(self, address: str, *, stands_in: bool) -> None:
        self.said.setText("is looked for …")

        def done(found: tuple[Any, str]) -> None:
            self.instrument, identity = found
            self.stands_in = stands_in
            self.identity = f"stand-in: {identity}" if stands_in else identity
            self.said.setText("a stand-in" if stands_in else identity)
            self.said.setToolTip(identity)
            self._page.notice.say("")

        self.work(lambda _: self.opened(address), done)

    def work(self, work: Callable[[Callable[[], bool]], Any], done: Callable[[Any], None]) -> None:
        """Do something with the instrument aside, then what comes of it here. What went wrong is
        said, and the instrument let go.
        """
        self._enough = enough = threading.Event()
        task = Task(lambda stop: work(lambda: stop() or enough.is_set()), self, INSTRUMENTS)
        task.done.connect(done)
        task.done.connect(lambda _: self.ended())
        task.failed.connect(self._failed)
        self._task = task
        task.start()
        self.able(can=False)

    def ended(self) -> None:
        """What was done aside has ended."""
        self._task = None
        self.able(can=self.instrument is not None)

    def _failed(self, error: object) -> None:
        """Say what went wrong; what was read before stays."""
        self._page.notice.say(str(error))
        self.forget()
        self.ended()

    def stop(self) -> None:
        """End what is done aside; what came of it is kept."""
        self._enough.set()

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being done."""
        return self._task is None or self._task.has_ended

    def forget(self) -> None:
        """Let the instrument go, and end the stand-in: once what is done with it has ended, so that
        a supply is switched off before.
        """
        task, instrument, server = self._task, self.instrument, self._server
        self.stop()
        self._task = self.instrument = self._server = None

        def close() -> None:
            if task is not None:
                task.wait()
            if instrument is not None:
                instrument.close()
            if server is not None:
                server.shutdown()
                server.server_close()

        if task is not None:
            task.stop()
        if instrument is not None or server is not None:
            INSTRUMENTS.start(close)  # what does not answer keeps nobody here
        self.stands_in = False
        self.said.setText("not connected")
        self.able(can=False)
