"""Meters and testers in the window: found, read into the plan, or left to run it by themselves."""

from collections.abc import Callable
from functools import reduce
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QProgressDialog

from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.instrumentline import InstrumentLine
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import INSTRUMENTS
from molvik.desktop.widgets.small import button
from molvik.instruments.tester import Done, LeadsError, run_plan
from molvik.instruments.visa import Instrument, search
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.job import Job
from molvik.proving.channels import channels
from molvik.proving.proofplan import Measurement, ProofPlan
from molvik.proving.taken import taken
from molvik.proving.touching import Pair, between, isolated
from molvik.wording import some


class InstrumentBar(InstrumentLine):
    """A meter or a loom tester. chosen: returns the measurement that a reading is for. ran(wrong):
    a tester went through the plan; whether anything of it failed.
    """

    ran = Signal(bool)

    name = "Meter"
    example = "TCPIP::192.168.1.5::5025::SOCKET, USB0::…::INSTR, ASRL/dev/ttyUSB0::INSTR"
    stand_in_tip = "A meter and loom tester of our own: it measures this job's loom, sound"
    _measured = Signal(object)

    def __init__(self, page: StagePage, chosen: Callable[[], Measurement | None]) -> None:
        self._chosen = chosen
        self.progress: QProgressDialog | None = None
        self._came: Callable[[], None] | None = None
        self._stands_for: Job | None = None
        """The job that the stand-in measures."""
        self._running: ProofPlan | None = None
        """The plan that a tester goes through: its nets are told by their numbers."""
        self.find_button = button(
            "Find",
            "Look for instruments on USB, serial lines and the network; then choose one",
            self.look_for,
        )
        self.read_button = button(
            "Read", "The meter's reading into the chosen measurement", self.read
        )
        self.run_button = button(
            "Run…",
            "The tester goes through the plan and the short test by itself",
            lambda: self.run(),
        )
        super().__init__(page, self.find_button, self.read_button, self.run_button)
        self._search: Task | None = None
        self._measured.connect(self._keep)

    def opened(self, address: str) -> tuple[Any, str]:
        """Open a meter by its VISA name."""

        made = Instrument(address)
        try:
            return made, made.identity()
        except ValueError:
            made.close()
            raise

    def stand_in(self) -> tuple[Any, str]:
        """Return a stand-in that measures the loom."""
        from molvik.instruments.standin import Server, StandIn

        self._stands_for = self._page.store.job
        server = Server(StandIn(self._stands_for))
        return server, server.resource

    def _follow(self) -> None:
        """Let the stand-in measure the loom as it is now: its points are told by their numbers."""
        job, server = self._page.store.job, self._server
        if server is not None and job is not self._stands_for:
            from molvik.instruments.standin import StandIn

            self._stands_for = job
            with server.lock:
                server.stand_in = StandIn(job)

    def able(self, *, can: bool) -> None:
        """Offer reading and running."""
        self.read_button.setEnabled(can)
        self.run_button.setEnabled(can)

    def look_for(self) -> None:
        """Look for instruments, and offer them in the field."""

        self.find_button.setEnabled(False)
        self._page.notice.say("Looking for instruments …")
        task = Task(lambda _: search(), self, INSTRUMENTS)
        task.done.connect(self._found)
        task.failed.connect(self._not_found)
        self._search = task
        task.start()

    def _found(self, names: tuple[str, ...]) -> None:
        self.find_button.setEnabled(True)
        if not names:
            self._page.notice.say(
                "No instrument was found: is it on, its cable in? One on the "
                "network may have to be typed by its address."
            )
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
        meter = self.instrument
        if meter is None or not self.is_at_rest:
            return False
        self._came = came
        self._follow()
        channel = channels(self._page.analysis.plan.bench)
        stands_in = self.stands_in

        def work(_: Callable[[], bool]) -> float | None:
            if stands_in:  # it has no probes to be put anywhere
                meter.connect([channel[one.red]], [channel[one.black]])
            ohm: float | None = meter.ohm()
            return ohm

        leads_ohm = 0.0 if stands_in else None
        self.work(work, lambda ohm: self._record(one, ohm, leads_ohm))
        return True

    def run(self, *, sure: bool = False) -> None:
        """Let the tester go through the plan; each reading is kept as it comes. sure: its leads
        were looked at.
        """

        tester = self.instrument
        if tester is None:
            return
        self._follow()
        plan = self._running = self._page.analysis.plan
        progress = QProgressDialog(
            "The tester goes through the plan",
            "Stop",
            0,
            len(plan.measurements),
            self._page.window(),
        )
        progress.setWindowModality(Qt.WindowModality.WindowModal)
        progress.setMinimumDuration(400)
        self.progress = progress

        def work(stop: Callable[[], bool]) -> list[Done] | None:
            made = []
            for one in run_plan(plan, tester, stop, sure=sure):
                self._measured.emit(one)
                made.append(one)
            return None if stop() else made

        def done(made: list[Done] | None) -> None:
            if made is not None:
                isolation = [one for one in made if one.measurement is None]
                self._isolated(plan, [one.pair for one in isolation if one.pair], len(isolation))

        self.work(work, done)
        progress.canceled.connect(self.stop)

    def _failed(self, error: object) -> None:

        if not isinstance(error, LeadsError):
            super()._failed(error)
            return
        self.ended()
        more = (
            "Are its leads on, and on this loom? That is what leads in the air, or leads "
            "shorted together, look like. Nothing of it was kept."
        )
        if question(
            self._page, "The leads", str(error), more, [Answer("on", "They are on: measure it all")]
        ):
            self.run(sure=True)

    def ended(self) -> None:
        """The run is over."""
        if self.progress is not None:
            self.progress.reset()
            self.progress = None
        self._running = None
        super().ended()
        came, self._came = self._came, None
        if came is not None:
            came()

    def forget(self) -> None:
        """Let the instrument go, and what it measures."""
        super().forget()
        self._running = self._stands_for = None

    def _keep(self, one: object) -> None:

        assert isinstance(one, Done)
        plan = self._running
        if plan is None:
            return  # the job was closed meanwhile
        if self.progress is not None:
            self.progress.setMaximum(one.of)
            self.progress.setValue(one.done)
        if one.measurement is not None:
            self._record(one.measurement, one.ohm, one.leads_ohm)
        elif one.pair is not None:
            made = between(
                plan, one.pair, one.ohm, now_text(), self._called, "short test", one.leads_ohm
            )
            self._page.store.do(
                "{} is shorted to {}".format(*made.points), lambda job: edits.record(job, made)
            )

    @property
    def _called(self) -> str:
        """What the instrument is called in readings."""
        return self.identity[:80]

    def _record(self, one: Measurement, ohm: float | None, leads_ohm: float | None) -> None:
        """Keep a reading in the job. leads_ohm: what of it is the leads, None for the meter's."""
        store = self._page.store
        item = one.key if store.job.wire(one.key) is not None else ""
        shown = None if ohm is None else round(ohm, 4)
        reading = taken(
            store.job.settings,
            now_text(),
            "resistance",
            shown,
            (one.red, one.black),
            item=item,
            instrument=self._called,
            fingerprint=one.fingerprint,
            leads_ohm=leads_ohm,
        )
        store.do(f"Reading {one.red} to {one.black}", lambda job: edits.record(job, reading))

    def _isolated(self, plan: ProofPlan, found: list[Pair], count: int) -> None:
        """Keep what came of a whole run. found: what touches; count: measurements of isolation."""
        page = self._page
        made = isolated(plan, found, count, now_text(), self._called, "short test")
        page.store.do("Loom tester", lambda job: reduce(edits.record, made, job))
        page.notice.say(f"{made[-1].said}." if found else "")
        passes = all(one.outcome == "passed" for one in page.analysis.plan.judged.values())
        self.ran.emit(bool(found) or not passes)
