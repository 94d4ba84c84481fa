"""The link to an engine computer in the window: its codes, live data, and what is heard."""

import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal

from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.instrumentline import InstrumentLine
from molvik.desktop.widgets.small import button
from molvik.instruments.ecusession import EcuSession, read_address
from molvik.instruments.j1979 import PIDS

EVERY_S = 0.4
LISTEN_S = 2.0
READY_S = 30.0
"""For so long the stand-in may take to solve the job."""


class LinkBar(InstrumentLine):
    """read(set, pending, which computer): codes came; told(words): live data, or what was heard."""

    name = "Scan tool"
    example = "socketcan:can0, slcan:/dev/ttyUSB0@500000"
    stand_in_tip = "An engine computer of our own: it answers from this job, as if all were well"
    read = Signal(object)
    told = Signal(str)

    def __init__(self, page: StagePage) -> None:
        self.read_button = button(
            "Read codes", "Ask which codes are set, and which are not sure yet", self.read_codes
        )
        self.clear_button = button("Clear…", "Clear the codes of the computer", self.clear)
        self.live_button = button("Live", "Show its figures until it is stopped", self.live)
        self.listen_button = button(
            "Listen",
            "Two seconds without asking: which modules send, how busy the bus is",
            self.listen,
        )
        self._buttons = (self.read_button, self.clear_button, self.live_button, self.listen_button)
        super().__init__(page, *self._buttons)

    def opened(self, address: str) -> tuple[Any, str]:
        """Open a bus by its address, and ask who is there."""

        if self._server is not None:
            self._server.stand_in.ready.wait(READY_S)
        link = EcuSession(read_address(address))
        try:
            numbers = link.computers()
            about = link.about(numbers[0])
        except ValueError:
            # One may still listen: silence is what is to be explained.
            return link, "a bus, no answer"
        named = ", ".join(filter(None, (about.get("name"), about.get("calibration"))))
        return link, f"{len(numbers)} answer: {named or 'no name'}"

    def stand_in(self) -> tuple[Any, str]:
        """Return a stand-in that answers from the job."""
        from molvik.instruments.ecu import StandInComputer
        from molvik.instruments.ecubus import BusServer

        server = BusServer(StandInComputer(self._page.store.job))
        return server, server.resource

    def able(self, *, can: bool) -> None:
        """Offer what can be asked; what goes on can be stopped."""
        for one in self._buttons:
            one.setEnabled(can)
        self.live_button.setText("Live")
        if self._task is not None and self.instrument is not None:
            self.live_button.setText("Stop")
            self.live_button.setEnabled(True)

    def read_codes(self) -> None:
        """Read the codes of every computer that answers."""
        link = self.instrument

        def work(_: Callable[[], bool]) -> tuple[tuple[str, ...], tuple[str, ...]]:
            found: list[tuple[str, ...]] = [(), ()]
            for number in link.computers():
                for place, codes in enumerate(link.codes(number)):
                    found[place] = (*found[place], *codes)
            return found[0], found[1]

        self.work(work, self.read.emit)

    def clear(self) -> None:
        """Clear the codes, asked twice: with them goes what tells of faults that come and go."""
        for text, more, answer in (
            (
                "Clear the codes?",
                "Codes are the only record of an intermittent fault. Read them "
                "first: what was read stays in the job.",
                "Clear",
            ),
            (
                "Were the codes read and kept?",
                "Its memory of the mixture may go too: it learns "
                "again over some miles. Key in run, engine "
                "stopped.",
                "Clear them now",
            ),
        ):
            if not question(
                self._page, "Clear codes", text, more, [Answer("yes", answer, loses=True)]
            ):
                return
        link = self.instrument

        def work(_: Callable[[], bool]) -> str:
            for number in link.computers():
                link.clear(number)
            return "Codes were cleared: turn the key off and on, and read again."

        self.work(work, self.told.emit)

    def live(self) -> None:
        """Show live data until it is stopped."""

        if self._task is not None:
            self.stop()
            return
        link, told = self.instrument, self.told

        def work(stop: Callable[[], bool]) -> None:
            pids = link.pids()
            while not stop():
                values = link.live(pids)
                told.emit(
                    "; ".join(
                        f"{PIDS[pid].name} {value:.4g} {PIDS[pid].unit}"
                        for pid, value in values.items()
                    )
                )
                time.sleep(EVERY_S)

        self.work(work, lambda _: None)

    def listen(self) -> None:
        """Listen, and say who speaks or what silence means."""
        link = self.instrument

        def work(stop: Callable[[], bool]) -> str:
            words: str = link.listen(LISTEN_S, stop).words(link.address)
            return words

        self.work(work, self.told.emit)
