"""Find the fault: one is hidden, looked at, probed with a stand-in of a meter, and named."""

import random
from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from molvik.demo import demo_job
from molvik.desktop.stages.page import StagePage
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import CheckedField, button, choice, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.netlist.network import Network
from molvik.proving.practice import KINDS, Practice
from molvik.proving.readings import point_of_text
from molvik.stopping import may_stop

SHIPPED = ("marten",)
"""Jobs that ship with something in them that anybody would see fail."""

HOW = "C2/14 C9/1 for ohms; C2/14 in run for volts"


class PracticeView(QWidget):
    """Hides a fault in a copy of the job; nothing of it enters the job."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.practice: Practice | None = None
        self._task: Task | None = None
        self.level = choice("How hard", [(level, level) for level in KINDS], "easy")
        self.where = choice(
            "In which job",
            [
                ("in this job", ""),
                *((f"in the demo “{name.capitalize()}”", name) for name in SHIPPED),
            ],
            "",
        )
        self.begin_button = button(
            "Hide a fault", "Something is broken in a copy of this job", self.begin, "action"
        )
        self.words = label(
            "Nothing is hidden yet. What is measured here proves nothing of the "
            "job; the meter is a stand-in.",
            wrap=True,
        )
        self.words.setObjectName("handTitle")
        self.complaint = label("", wrap=True)
        self.state = CheckedField(
            "Look", "Turn the key to a state and look: run, crank, running", self._look
        )
        self.state.setPlaceholderText("run, crank, running, off …")
        self.probe = CheckedField("Probe", f"Where the probes are: {HOW}", self._measure)
        self.probe.setPlaceholderText(HOW)
        self.answer = CheckedField(
            "It is", "The code of the wire or part that is wrong: W12", self._name
        )
        self.answer.setPlaceholderText("W12, F3, K1")
        self.give_up = button(
            "Tell me", "What is hidden, and how the program would have gone", self.tell
        )
        for field in (self.state, self.probe, self.answer):
            field.refused.connect(page.notice.say)
            field.taken.connect(lambda: page.notice.say(""))
        self.model: ThingsModel[tuple[str, str, str]] = ThingsModel(
            [
                Column("No", lambda line: line[0], width=44, figures=True),
                Column("Where", lambda line: line[1], width=360, grow=3),
                Column("Shown", lambda line: line[2], width=200, grow=2),
            ],
            lambda line: line[0],
        )
        table: ThingsTable[tuple[str, str, str]] = ThingsTable(self.model, "What was measured")
        fields = row(
            label("Look", "faint"),
            self.state,
            label("Probe", "faint"),
            self.probe,
            label("It is", "faint"),
            self.answer,
            self.give_up,
        )
        fields.setStretch(3, 2)
        self.setLayout(
            column(
                row(self.where, self.level, self.begin_button, 1),
                self.complaint,
                self.words,
                fields,
                table,
            )
        )
        self.complaint.hide()
        self._offer()

    def _offer(self) -> None:
        able = self.practice is not None
        for widget in (self.state, self.probe, self.answer, self.give_up):
            widget.setEnabled(able)

    def begin(self, seed: int | None = None) -> None:
        """Hide a fault. seed: which; another each time without one."""
        where, own = self.where.currentData(), self._page.analysis.network
        level = self.level.currentData()
        number = random.randrange(1_000_000) if seed is None else seed

        def hide() -> Practice:
            network = Network(demo_job(where)) if where else own
            return Practice(network, level, number)

        self._run("A fault is being hidden …", hide, self._hidden)

    def _run(self, words: str, do: Callable[[], object], done: Callable[[object], None]) -> None:
        self.words.setText(words)
        if self._task is not None:
            self._task.stop()

        def work(stop: Callable[[], bool]) -> object:
            with may_stop(stop):
                return do()

        self._task = Task(work, self)
        self._task.done.connect(done)
        self._task.failed.connect(lambda error: self.words.setText(str(error)))
        self._task.start()

    def _hidden(self, practice: object) -> None:
        assert isinstance(practice, Practice)
        self.practice = practice
        self.model.show_things([])
        self.complaint.setText(f"Complaint: {practice.complaint}")
        self.complaint.show()
        self.words.setText("Test, then name the fault.")
        self._offer()

    @property
    def _lines(self) -> list[tuple[str, str, str]]:
        practice = self.practice
        probed = practice.probed if practice else []
        return [(str(n), one.where, one.shown) for n, one in enumerate(probed, 1)]

    def _look(self, text: str) -> None:
        if self.practice is not None and text.strip():
            self.words.setText(f"{text.strip()}: {self.practice.look(text.strip())}")

    def _measure(self, text: str) -> None:
        if self.practice is None or not text.strip():
            return
        shown = self.practice.measure(point_of_text(self.practice.network, text))
        self.model.show_things(self._lines)
        self.words.setText(f"The meter shows {shown}.")

    def _name(self, text: str) -> None:
        practice, code = self.practice, text.strip().upper()
        if practice is None or not code:
            return
        if not practice.name(code):
            raise ValueError(f"{code} is sound. Look and probe on.")
        self.tell(right=True)

    def tell(self, *, right: bool = False) -> None:
        """Say what is hidden, and how the program would have gone."""
        practice = self.practice
        if practice is None:
            return
        self.practice = None
        self._offer()
        own = len(practice.probed)
        head = "Found" if right else "It was"

        def done(steps: object) -> None:
            assert isinstance(steps, tuple)
            said = "; ".join(steps[:6]) or "none: the complaint alone tells"
            self.words.setText(
                f"{head}: {practice.answer}. You measured {own} times, the program "
                f"would have {len(steps)} times: {said}."
            )

        self._run(f"{head}: {practice.answer}. …", practice.program, done)

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being worked out."""
        return self._task is None or self._task.has_ended

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None  # it holds the job
        self.practice = None
        self.complaint.hide()
        self.model.show_things([])
        self._offer()
