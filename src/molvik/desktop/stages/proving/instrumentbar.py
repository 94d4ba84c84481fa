"""Meters and testers in the window: found, read into the plan, or left to run it by themselves."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QProgressDialog

from molvik.desktop.background import Task
from molvik.desktop.logbook import now_text
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.instrumentline import InstrumentLine
from molvik.desktop.widgets.small import button
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.proving.plan import Measurement
from molvik.proving.taken import taken
from molvik.wording import some


class InstrumentBar(InstrumentLine):
    """A meter or a loom tester. chosen: returns the measurement that a reading is for."""

    name = "Meter"
    example = "TCPIP::192.168.1.5::5025::SOCKET, USB0::…::INSTR, ASRL/dev/ttyUSB0::INSTR"
    stand_in_tip = "A meter and loom tester of our own: it measures this job's loom, sound"
    _measured = Signal(object)

    def __init__(self, page: StagePage, chosen: Callable[[], Measurement | None]) -> None:
        self._chosen = chosen
        self.progress: QProgressDialog | None = None
        self._came: Callable[[], None] | None = None
        self.find_button = button("Find", "Look for instruments on USB, serial lines and the "
                                  "network; then choose one", self.look_for)  # fmt: skip
        self.read_button = button("Read", "The meter's reading into the chosen measurement",
                                  self.read)  # fmt: skip
        self.run_button = button("Run…", "The tester goes through the plan and isolation by itself",
                                 self.run)  # fmt: skip
        super().__init__(page, self.find_button, self.read_button, self.run_button)
        self._search: Task | None = None
        self._measured.connect(self._keep)

    def opened(self, address: str) -> tuple[Any, str]:
        """Open a meter by its VISA name."""
        from molvik.instruments.visa import Instrument

        made = Instrument(address)
        try:
            return made, made.identity()
        except ValueError:
            made.close()
            raise

    def stand_in(self) -> tuple[Any, str]:
        """Return a stand-in that measures the loom."""
        from molvik.instruments.standin import Server, StandIn

        server = Server(StandIn(self._page.store.job))
        return server, server.resource

    def able(self, *, can: bool) -> None:
        """Offer reading and running."""
        self.read_button.setEnabled(can)
        self.run_button.setEnabled(can)

    def look_for(self) -> None:
        """Look for instruments, and offer them in the field."""
        from molvik.instruments.visa import search

        self.find_button.setEnabled(False)
        self._page.notice.say("Looking for instruments …")
        task = Task(lambda _: search(), self)
        task.done.connect(self._found)
        task.failed.connect(self._not_found)
        self._search = task
        task.start()

    def _found(self, names: tuple[str, ...]) -> None:
        self.find_button.setEnabled(True)
        if not names:
            self._page.notice.say("No instrument was found: is it on, its cable in? One on the "
                                  "network may have to be typed by its address.")  # fmt: skip
            return
        self._page.notice.say(f"Found: {some(names)}. Choose one in the field.")
        self.address.offer(names)
        self.address.enter()

    def _not_found(self, error: object) -> None:
        self.find_button.setEnabled(True)
        self._page.notice.say(f"The search failed: {error}")

    # reading

    def read(self) -> None:
        """Read the meter into the chosen measurement."""
        one = self._chosen()
        if one is None:
            self._page.notice.say("Choose a measurement of the plan first.")
            return
        self.read_for(one, lambda: None)

    def read_for(self, one: Measurement, came: Callable[[], None]) -> bool:
        """Read the meter into a measurement; came is called when that is done, or failed. Returns
        whether there is a meter that can be read now.
        """
        from molvik.instruments.standin import channels

        meter = self.instrument
        if meter is None or not self.is_at_rest:
            return False
        self._came = came
        channel = channels(self._page.analysis.plan.bench)
        stands_in = self.stands_in

        def work(_: Callable[[], bool]) -> float | None:
            if stands_in:  # it has no probes to be put anywhere
                meter.connect([channel[one.red]], [channel[one.black]])
            ohm: float | None = meter.ohm()
            return ohm

        self.work(work, lambda ohm: self._record(one, ohm))
        return True

    def run(self) -> None:
        """Let the tester go through the plan; each reading is kept as it comes."""
        from molvik.instruments.tester import run_plan

        tester = self.instrument
        if tester is None:
            return
        plan = self._page.analysis.plan
        progress = QProgressDialog("The tester goes through the plan", "Stop", 0,
                                   len(plan.measurements), self._page.window())  # fmt: skip
        progress.setWindowModality(Qt.WindowModality.WindowModal)
        progress.setMinimumDuration(400)
        self.progress = progress

        def work(stop: Callable[[], bool]) -> str:
            touching = []
            count = 0
            for one in run_plan(plan, tester, stop):
                count += 1
                self._measured.emit(one)
                if one.pair is not None:
                    touching.append(one.pair)
            if stop():
                return ""
            nets = plan.bench.nets
            said = ", ".join(f"{nets[a].name} touches {nets[b].name}" for a, b in touching)
            return f"{count} measurements. {said or 'Nothing touches that should not'}."

        def done(said: str) -> None:
            self._page.notice.say("" if "Nothing touches" in said else said)
            if said:
                self._note(said)

        self.work(work, done)
        progress.canceled.connect(self.stop)

    def ended(self) -> None:
        """The run is over."""
        if self.progress is not None:
            self.progress.reset()
            self.progress = None
        super().ended()
        came, self._came = self._came, None
        if came is not None:
            came()

    def _keep(self, one: object) -> None:
        from molvik.instruments.tester import Done

        assert isinstance(one, Done)
        if self.progress is not None:
            self.progress.setMaximum(one.of)
            self.progress.setValue(one.done)
        if one.measurement is not None:
            self._record(one.measurement, one.ohm)

    def _record(self, one: Measurement, ohm: float | None) -> None:
        """Keep a reading in the job; the leads of an instrument are its own matter."""
        store = self._page.store
        settings = store.job.settings
        item = one.key if store.job.wire(one.key) is not None else ""
        value = None if ohm is None else round(ohm + settings.meter_leads_ohm, 4)
        reading = taken(settings, now_text(), "resistance", value, (one.red, one.black), item=item,
                        instrument=self.identity[:80], sign=one.sign)  # fmt: skip

        def edit(job: Job) -> Job:
            return edits.record(job, reading)

        store.do(f"Reading {one.red} to {one.black}", edit)

    def _note(self, said: str) -> None:
        by = self._page.store.job.settings.measured_by
        entry = LogEntry(now_text(), "note", "proving", "", f"Loom tester: isolation, {said}",
                         by=by)  # fmt: skip
        self._page.store.do("Loom tester", lambda job: edits.log(job, entry))
