"""Find the fault: one is hidden, looked at, probed on the bench, and named by pointing at it."""

import random
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from molvik.demo import demo_job
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.practicebench import PracticeBench
from molvik.desktop.stages.proving.practicesteps import PracticeSteps, cause_lines
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import CheckedField, button, choice, column, held, label, row
from molvik.files.practicerecord import add_round, load_record, record_path
from molvik.logbook.clock import now_text
from molvik.netlist.network import Network
from molvik.proving.practice.after import Debrief, debrief
from molvik.proving.practice.hiding import DEGREES, NONE_SHOWS, Degree
from molvik.proving.practice.record import Played, Record
from molvik.proving.practice.round import Named, Round
from molvik.proving.practice.soundcopy import sound_copy
from molvik.stopping import may_stop

SHIPPED = ("marten",)
"""Jobs that ship with something in them that anybody would see fail."""

BEGIN = (
    "A fault is hidden in a copy of the job, and a customer complains. Look, probe and pull on the "
    "bench, then point at what is wrong. Nothing of it enters the job; the meter is a stand-in."
)
POINTING = "Click the wire's end, fuse, relay or part that is wrong. Esc: not yet."
CAUTION = "In a real vehicle: airbags and high voltage stay with those licensed for them."


class PracticeView(QWidget):
    """Hides a fault in a copy of the job; nothing of it enters the job."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.round: Round | None = None
        self.record = Record()
        """As it was read last."""
        self.after: Debrief | None = None
        self._task: Task | None = None
        self._keeping: Task | None = None
        """What reads the record, or adds to it."""
        self._counted = 0
        """How many causes were left when it was asked last, none when it was not."""
        self._asked_at = -1
        """After how many things that were seen it was asked what is left."""
        self.degree = choice("How hard", [(words, key) for key, words in DEGREES.items()], "one")
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
        self.complaint = label("", wrap=True)
        self.complaint.setObjectName("handTitle")
        self.words = label(BEGIN, "faint", wrap=True)
        self.kinds = label("", "faint", wrap=True)
        self._build_bench()
        self._build_naming()
        self.steps = PracticeSteps()
        self.causes = label("", "faint", wrap=True)
        self.causes.setObjectName("said")
        self.causes.setMargin(8)
        self.causes.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.causes.setMaximumHeight(152)
        self.causes.hide()
        below = row(self.steps, self.causes)
        below.setStretch(0, 3)
        below.setStretch(1, 2)
        self.again_button = button("Another round", "Hide something else", self.another)
        head = row(self.complaint, self.again_button)
        head.setStretch(0, 1)
        self._choices = held(self.where, self.degree, self.begin_button)
        whole = column(
            self._choices,
            head,
            self.words,
            self.bench,
            self._naming,
            below,
            self.kinds,
            spacing=6,
        )
        whole.setStretch(3, 5)
        whole.setStretch(5, 2)
        self.setLayout(whole)
        self.complaint.hide()
        self._offer()

    def _build_bench(self) -> None:
        self.bench = PracticeBench(
            self._page.notice, partial(self._run, "…"), lambda: self.is_at_rest
        )
        self.bench.acted.connect(self._show)
        self.bench.named.connect(self.name)
        self.bench.canvas.left.connect(self._leave_pointing)

    def _build_naming(self) -> None:
        self.point_button = button("Point at it", POINTING, self._point)
        self.point_button.setCheckable(True)
        self.answer = CheckedField(
            "It is", "The code of the wire or part that is wrong: W12", self.name
        )
        self.answer.setPlaceholderText("W12, F3, K1")
        self.answer.setMaximumWidth(120)
        self.answer.refused.connect(self._page.notice.say)
        self.answer.taken.connect(lambda: self._page.notice.say(""))
        self.nothing_button = button(
            "Nothing is wrong", "It is meant to be so, or is repaired", self.nothing
        )
        self.leaves_button = button(
            "What does that leave?", "Which causes all that was seen leaves: free", self.ask
        )
        self.hint_button = button("Hint", "Where the program would measure next: 5 min", self.hint)
        self.give_up = button(
            "Tell me", "What is hidden, and how the program would have gone", self.tell
        )
        self._naming = QWidget()
        self._naming.setLayout(
            row(
                label("It is", "strong"),
                self.point_button,
                self.answer,
                self.nothing_button,
                1,
                self.leaves_button,
                self.hint_button,
                self.give_up,
            )
        )

    def another(self) -> None:
        """Leave the round, and choose another."""
        self.forget()
        self.look_up_record()

    # a round begins

    def begin(self, seed: int | None = None) -> None:
        """Hide a fault. seed: which; another each time without one."""
        where, own = self.where.currentData(), self._page.store.job
        degree: Degree = self.degree.currentData()
        number = random.randrange(1_000_000) if seed is None else seed
        weights = self.record.weights

        def hide() -> Round:
            job = sound_copy(demo_job(where) if where else own)
            return Round(Network(job), degree, number, weights)

        self._run("A fault is being hidden …", hide, self._hidden)

    def look_up_record(self) -> None:
        """Read the record of what was practised, aside."""
        self._keep(load_record)

    def _keep(self, do: Callable[[], Record]) -> None:
        """Read the record, or add to it, and show it."""
        self._keeping = Task(lambda _: do(), self)
        self._keeping.done.connect(self._take_record)
        self._keeping.failed.connect(
            lambda why: self._page.notice.say(
                f"The record of practice is left as it is: {why} Move {record_path()} away to "
                "begin another."
            )
        )
        self._keeping.start()

    def _take_record(self, record: Record) -> None:
        self.record = record
        self._show_record()

    def _show_record(self) -> None:
        """Say how often each kind was found."""
        record = self.record
        said = " · ".join(f"{kind} {n} of {of}" for kind, (n, of) in record.by_kind.items())
        weak = record.weakest
        more = f". More of {weak} next." if weak else ""
        self.kinds.setText(f"Your rounds, found at once: {said}{more}" if said else "")

    def _run(self, words: str, do: Callable[[], object], done: Callable[..., None]) -> None:
        """Do something aside that takes a while; meanwhile nothing else is done."""
        self.words.setText(words)
        if self._task is not None:
            self._task.stop()

        def work(stop: Callable[[], bool]) -> object:
            with may_stop(stop):
                return do()

        self._task = Task(work, self)
        self._task.done.connect(done)
        self._task.done.connect(lambda _: self._offer())
        self._task.failed.connect(self._failed)
        self._task.start()
        self._offer(busy=True)

    def _failed(self, error: object) -> None:
        if self.round is not None:
            self._show()
            self._page.notice.say(str(error))
        else:
            self.words.setText(str(error))
        if self.round is None and str(error) == NONE_SHOWS:
            self.where.setCurrentIndex(1)
        self._offer()

    def _offer(self, *, busy: bool = False) -> None:
        """Offer what can be done now."""
        played = self.round
        able = played is not None and not played.is_over and not busy
        self.bench.setVisible(played is not None)
        self._choices.setVisible(played is None)
        self.again_button.setVisible(played is not None)
        self.steps.setVisible(played is not None)
        is_on = played is not None and not played.is_over
        self.kinds.setVisible(not is_on)
        self._naming.setVisible(is_on)
        self._naming.setEnabled(able)
        self.bench.offer(able=able, is_on=is_on)
        self.begin_button.setEnabled(not busy)

    def _hidden(self, played: Round) -> None:
        self.round, self.after = played, None
        self.complaint.setText(f"“{played.complaint}”")
        self.complaint.show()
        self.bench.play(played)
        self.answer.offer([*played.network.wires, *played.network.parts])
        self.point_button.setChecked(False)
        self._show()
        self._offer()  # what is not enabled takes no focus
        self.bench.canvas.setFocus()

    def _show(self, said: str = "") -> None:
        """Show the round as it stands."""
        played = self.round
        if played is None:
            return
        if self._asked_at != len(played.told):
            self.causes.hide()  # more was seen since
        self.steps.show_round(played, self.after)
        mistakes = played.own_mistakes
        codes = ", ".join(mistakes)
        left = f" Left out, for nobody can see it work here: {codes}." if mistakes else ""
        usual = f"{DEGREES[played.degree].capitalize()} · {played.minutes:.1f} min so far.{left}"
        self.words.setText(said or usual)

    # naming it

    def _point(self) -> None:
        """The next click names what is wrong."""
        pointing = self.point_button.isChecked()
        self.bench.canvas.pointing = pointing
        if pointing:
            self._show(POINTING)
            self.bench.canvas.setFocus()
        else:
            self._show()

    def _leave_pointing(self) -> None:
        if self.point_button.isChecked():
            self.point_button.click()

    def name(self, text: str) -> None:
        """Say that a wire or part is what is wrong. Raises ValueError for what there is not."""
        played, code = self.round, text.strip().upper()
        if played is None or not code or not self.is_at_rest:
            return
        known = {one.upper(): one for one in (*played.network.wires, *played.network.parts)}
        if code not in known:
            raise ValueError(f"There is no {text.strip()} here: W12, F3, K1.")
        self.answer.show_value("")
        self._run(f"{known[code]}: …", lambda: played.name(known[code]), self._named)

    def nothing(self) -> None:
        """Say that nothing is wrong, or nothing any more."""
        played = self.round
        if played is not None:
            self._run("…", played.nothing, self._named)

    def _named(self, named: Named) -> None:
        self.point_button.setChecked(False)
        self.bench.canvas.pointing = False
        self._show(named.words)
        self._page.notice.say("" if named.right else named.words)
        if named.over:
            self.tell()

    def ask(self) -> None:
        """Say what all that was seen leaves."""
        played = self.round
        if played is None:
            return

        self._asked_at = len(played.told)
        before = self._counted
        self._run(
            "What is left is being worked out …", lambda: cause_lines(played, before), self._left
        )

    def _left(self, found: tuple[int, str]) -> None:
        self._counted, said = found
        self.causes.setText(said)
        self.causes.show()
        self._show()

    def hint(self) -> None:
        """Say where the program would measure next."""
        played = self.round
        if played is not None:
            self._run("…", played.hint, lambda said: self._show(f"Hint: {said}."))

    # after it

    def tell(self) -> None:
        """Say what is hidden, what each step told, and how the program would have gone."""
        played = self.round
        if played is None:
            return
        found = played.is_over
        played.is_over = True
        self.causes.hide()
        self._page.notice.say("")
        self._run(
            f"It was: {played.answer}. What each step told is being worked out …",
            lambda: debrief(played),
            lambda after: self._told(after, found=found),
        )

    def _told(self, after: Debrief, *, found: bool) -> None:
        played = self.round
        if played is None:
            return
        self.after = after
        wrong = any(step.badly == "guessed" for step in played.steps)
        kind = played.hidden.kind(played.job)
        made = Played(
            kind,
            played.degree,
            found and not wrong,
            round(after.minutes, 1),
            round(after.program_minutes, 1),
            now_text(),
        )
        self._keep(lambda: add_round(made))
        head = "Found" if found else "It was"
        change = after.habit.words if after.habit else "No habit to change in this round."
        self._show(
            f"{head}: {after.answer}. You took {after.minutes:.1f} min for {after.bits:.1f} bits, "
            f"the program would have taken {after.program_minutes:.1f}. {change} {CAUTION}"
        )

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being worked out."""
        return self._task is None or self._task.has_ended

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None  # it holds the job
        self.round = self.after = None
        self._counted, self._asked_at = 0, -1
        self.causes.hide()
        self.complaint.hide()
        self.words.setText(BEGIN)
        self.bench.clear()
        self.steps.clear()
        self._offer()
