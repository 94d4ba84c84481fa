"""Meters and testers in the window: found, read into the plan, or left to run it by themselves."""

import threading
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QProgressDialog, QWidget

from molvik.desktop.background import Task
from molvik.desktop.logbook import now_text
from molvik.desktop.stages.page import StagePage
from molvik.desktop.widgets.small import CheckedField, ShortLabel, button, label, row
from molvik.model import edits
from molvik.model.job import Job
from molvik.proving.plan import Measurement
from molvik.proving.taken import taken

EXAMPLE = "TCPIP::192.168.1.5::5025::SOCKET, USB0::…::INSTR, ASRL/dev/ttyUSB0::INSTR"


class InstrumentBar(QWidget):
    """One instrument at a time. chosen: returns the measurement that a reading is for."""

    _measured = Signal(object)

    def __init__(self, page: StagePage, chosen: Callable[[], Measurement | None]) -> None:
        super().__init__()
        self._page, self._chosen = page, chosen
        self._instrument: object | None = None
        self._server: object | None = None
        self.stands_in = False
        self.identity = ""
        """What the instrument says it is, as readings keep it."""
        self._task: Task | None = None
        self.progress: QProgressDialog | None = None
        self.address = CheckedField("Instrument", f"Its VISA name: {EXAMPLE}", self._connect)
        self.address.setPlaceholderText("VISA name of a meter or tester")
        self.address.refused.connect(page.notice.say)
        self.stand_in_button = button("Stand-in", "A meter and loom tester of our own: it measures "
                                      "this job's loom, sound", self.use_stand_in)  # fmt: skip
        self.read_button = button("Read", "The meter's reading into the chosen measurement",
                                  self.read)  # fmt: skip
        self.run_button = button("Run…", "The tester goes through the plan and isolation by itself",
                                 self.run)  # fmt: skip
        self.said = ShortLabel("no instrument")
        self.said.setProperty("role", "faint")
        bar = row(label("Instrument", "faint"), self.address, self.stand_in_button, self.said,
                  self.read_button, self.run_button)  # fmt: skip
        bar.setStretch(1, 3)
        bar.setStretch(3, 2)
        self.setLayout(bar)
        self._measured.connect(self._keep)
        self._offer()

    def _offer(self) -> None:
        busy = self._task is not None and not self._task.has_ended
        for one in (self.read_button, self.run_button):
            one.setEnabled(self._instrument is not None and not busy)

    def _connect(self, text: str) -> None:
        """Open an instrument by its name, aside: one that is not there takes a while."""
        if text.strip():
            self._open(text.strip(), stands_in=False)

    def use_stand_in(self) -> None:
        """Begin a stand-in that measures the job as it stands, and use it."""
        from molvik.instruments.standin import Server, StandIn

        self.forget()
        server = Server(StandIn(self._page.store.job))
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self._server = server
        self._open(server.resource, stands_in=True)

    def _open(self, name: str, *, stands_in: bool) -> None:
        from molvik.instruments.visa import Instrument

        self.said.setText("is looked for …")

        def work(_: Callable[[], bool]) -> tuple[Instrument, str]:
            made = Instrument(name)
            return made, made.identity()

        def done(found: tuple[Instrument, str]) -> None:
            self._instrument, identity = found
            self.stands_in = stands_in
            self.identity = f"stand-in: {identity}" if stands_in else identity
            self.said.setText("stand-in, not a real one" if stands_in else identity)
            self.said.setToolTip(identity)
            self._page.notice.say("")
            self._offer()

        self._work(work, done)

    def _work(
        self, work: Callable[[Callable[[], bool]], object], done: Callable[[object], None] | object
    ) -> None:
        task = Task(work, self)
        task.done.connect(done)
        task.done.connect(lambda _: self._ended())
        task.failed.connect(self._failed)
        self._task = task
        task.start()
        self._offer()

    def _ended(self) -> None:
        if self.progress is not None:
            self.progress.reset()
            self.progress = None
        self._task = None
        self._offer()

    def _failed(self, error: object) -> None:
        """Say what went wrong; what was read before stays."""
        self._page.notice.say(str(error))
        self._instrument = None
        self.said.setText("no instrument")
        self._ended()

    # reading

    def read(self) -> None:
        """Read the meter into the chosen measurement."""
        from molvik.instruments.standin import channels
        from molvik.instruments.visa import Instrument

        meter, one = self._instrument, self._chosen()
        if one is None:
            self._page.notice.say("Choose a measurement of the plan first.")
            return
        if not isinstance(meter, Instrument):
            return
        channel = channels(self._page.analysis.plan.bench)
        stands_in = self.stands_in

        def work(_: Callable[[], bool]) -> tuple[Measurement, float | None]:
            if stands_in:  # it has no probes to be put anywhere
                meter.connect([channel[one.red]], [channel[one.black]])
            return one, meter.ohm()

        def done(found: tuple[Measurement, float | None]) -> None:
            self._record(*found)

        self._work(work, done)

    def run(self) -> None:
        """Let the tester go through the plan; each reading is kept as it comes."""
        from molvik.instruments.tester import run_plan
        from molvik.instruments.visa import Instrument

        tester = self._instrument
        if not isinstance(tester, Instrument):
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
            nets = plan.bench.nets
            said = ", ".join(f"{nets[a].name} touches {nets[b].name}" for a, b in touching)
            return f"{count} measurements. {said or 'Nothing touches that should not'}."

        def done(said: str) -> None:
            self._page.notice.say(said if "touches n" not in said and "Nothing" not in said else "")
            self._note(said)

        self._work(work, done)
        progress.canceled.connect(self._stop)

    def _stop(self) -> None:
        if self._task is not None:
            self._task.stop()
        self._ended()

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
        from molvik.model.log import LogEntry

        by = self._page.store.job.settings.measured_by
        entry = LogEntry(now_text(), "note", "proving", "", f"Loom tester: isolation, {said}",
                         by=by)  # fmt: skip
        self._page.store.do("Loom tester", lambda job: edits.log(job, entry))

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being read."""
        return self._task is None or self._task.has_ended

    def forget(self) -> None:
        """Let the instrument go, and end the stand-in."""
        from molvik.instruments.visa import Instrument

        if self._task is not None:
            self._task.stop()
            self._task = None
        if isinstance(self._instrument, Instrument):
            self._instrument.close()
        server = self._server
        if server is not None:
            server.shutdown()  # type: ignore[attr-defined]
            server.server_close()  # type: ignore[attr-defined]
        self._instrument = self._server = None
        self.stands_in = False
        self.said.setText("no instrument")
        self._offer()
