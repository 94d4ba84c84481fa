"""What the readings mean: likely causes, and the measurement that tells most. Computed aside."""

from collections import Counter
from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.stages.page import StagePage
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import CheckedField, button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.devices.states import RUN
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.netlist.network import Network
from molvik.proving.diagnose import Diagnosis, Proposal
from molvik.proving.observations import seen_of
from molvik.proving.points import where_words
from molvik.proving.readings import reading_of, seen_of_text
from molvik.proving.scoring import get_ready
from molvik.proving.touching import isolation_words, what_else_touches
from molvik.proving.troublecodes import code_evidence, last_codes
from molvik.proving.validity import mended_text, standing
from molvik.stopping import may_stop
from molvik.wording import some

HOW = "D12 dead in run; C2/14 0.1 V in crank; C2/14 C9/1 OL"
MENDED = "W56 new terminal at D7"
READY_WIRES = 400
"""Jobs of up to so many wires are played through before anything is asked: some seconds of work."""


def likely_text(share: float) -> str:
    """Return how likely a cause is, in words: none is impossible."""
    return f"{share * 100:.0f} %" if share >= 0.01 else "below 1 %"


class Line(NamedTuple):
    """A line of the table: a group of causes that nothing tells apart."""

    key: str
    share: float
    words: str
    on: str
    name: str


def name_of(network: Network, code: str) -> str:
    """Return what a wire is for, or what a part is called."""
    wire = network.wires.get(code)
    return wire.function if wire is not None else getattr(network.parts.get(code), "name", "")


class CausesView(QWidget):
    """Likely causes of what was read, of what is seen, and what to measure next. isolate: goes
    through isolation at the bench. proposed(): where both probes go next is known.
    """

    proposed = Signal()

    def __init__(self, page: StagePage, isolate: Callable[[], None]) -> None:
        super().__init__()
        self._page = page
        self._task: Task | None = None
        self._of: object = None
        self._on: dict[str, str] = {}
        self.diagnosis: Diagnosis | None = None
        self.verdict = label("", wrap=True)
        self.verdict.setObjectName("handTitle")
        self.symptom = CheckedField("Seen", f"What is seen or read: {HOW}", self._add)
        self.symptom.setPlaceholderText(HOW)
        self.mended = CheckedField(
            "Repaired",
            f"What was repaired, and how: {MENDED}. Earlier "
            "readings of it no longer count; they stay in the "
            "record.",
            self._mend,
        )
        self.mended.setPlaceholderText(MENDED)
        self.next = label("", wrap=True)
        self.reading = CheckedField(
            "Reading", "What the meter shows there, Enter takes it", self._take
        )
        for field in (self.symptom, self.reading, self.mended):
            field.refused.connect(page.notice.say)
            field.taken.connect(lambda: page.notice.say(""))
        self.answers = label("", "faint", wrap=True)
        self.touches = label("", "faint", wrap=True)
        self.isolation_button = button(
            "Short test…", "Which circuits are shorted together, card by card", isolate
        )
        beside = row(self.touches, self.isolation_button)
        beside.setStretch(0, 1)
        self.counted = label("", "faint", wrap=True)
        self.left_out = label("", "faint")
        self.model: ThingsModel[Line] = ThingsModel(
            [
                Column(
                    "Likely",
                    lambda line: likely_text(line.share),
                    width=70,
                    figures=True,
                    sort=lambda line: line.share,
                ),
                Column("What is wrong", lambda line: line.words, width=380, grow=3),
                Column("On", lambda line: line.on, width=64, mono=True),
                Column("Name", lambda line: line.name, width=140, grow=1),
            ],
            lambda line: line.key,
        )
        self.table: ThingsTable[Line] = ThingsTable(self.model, "Likely causes")
        self.table.picked.connect(self._pick)
        self.reading.setMaximumWidth(120)
        asked = row(self.next, self.reading)
        asked.setStretch(0, 1)
        self.setLayout(
            column(
                row(
                    label("Seen", "faint"),
                    self.symptom,
                    label("Repaired", "faint"),
                    self.mended,
                ),
                self.counted,
                self.left_out,
                self.verdict,
                asked,
                self.answers,
                beside,
                self.table,
            )
        )

    def show_job(self, analysis: Analysis) -> None:
        """Find out what the readings of the job as it stands mean."""
        counted = standing(analysis.plan)
        seen = seen_of(counted.readings)
        codes = last_codes(counted.readings)
        of = (
            analysis.electrics,
            seen,
            codes,
            analysis.job.left_out,
            isolation_words(analysis.plan),
        )
        if of == self._of:
            return
        self._of = of
        if self._task is not None:
            self._task.stop()
        left = counted.left_out
        self.left_out.setText(
            "1 reading is of what was changed or repaired since: it does not count."
            if left == 1
            else f"{left} readings are of what was changed or repaired since: they do not count."
        )
        self.left_out.setVisible(bool(counted.left_out))
        for widget in (self.reading, self.next, self.answers, self.counted):
            widget.hide()
        self._show_touches(analysis)
        if not seen and codes is None:
            self.diagnosis = None
            self.model.show_things([])
            self.next.setText("")
            self.verdict.setText(
                "Nothing was read or seen yet: measure by the plan, or type above what is odd."
            )
            self._get_ready(analysis)
            return
        self.verdict.setText("The causes are being simulated …")

        def work(stop: Callable[[], bool]) -> Diagnosis:
            with may_stop(stop):
                simulator = analysis.simulator
                told = code_evidence(simulator, codes) if codes else ()
                made = Diagnosis(analysis.network, (*seen, *told), simulator)
                _ = made.verdict, made.next
                return made

        self._task = Task(work, self)
        self._task.done.connect(self._show)
        self._task.failed.connect(
            lambda error: self.verdict.setText(f"The causes were not found: {error}")
        )
        self._task.start()

    def _show_touches(self, analysis: Analysis) -> None:
        """Say that isolation finds what else touches, where something was read that does."""
        words = what_else_touches(analysis.plan)
        self.touches.setText(words)
        self.touches.setVisible(bool(words))
        self.isolation_button.setVisible(bool(words))

    def _get_ready(self, analysis: Analysis) -> None:
        """Play the single causes through while nothing is asked; of a large job those of what
        feeds many.
        """
        large = len(analysis.job.wires) > READY_WIRES

        def work(stop: Callable[[], bool]) -> None:
            with may_stop(stop):
                get_ready(analysis.simulator, RUN, main_only=large)

        self._task = Task(work, self)
        self._task.start()

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being played through."""
        return self._task is None or self._task.has_ended

    def _show(self, found: Diagnosis) -> None:
        self.diagnosis = found
        job = found.network.job
        self.verdict.setText(found.verdict)
        # What is odd comes before what was as it should be.
        odd = Counter(found.shortly(found.seen[n]) for n in found.odd)
        wavers = sum(seen.wavers for n, seen in enumerate(found.seen) if n not in found.odd)
        rest = len(found.seen) - odd.total() - wavers
        told = [f"{words}, {times} times" if times > 1 else words for words, times in odd.items()]
        even = f"{rest} as expected" if rest else ""
        other = f"{wavers} other than before" if wavers else ""
        self.counted.setText(
            f"Counted: {'; '.join(filter(None, (some(told, 6, '; '), other, even)))}."
        )
        self.counted.show()
        lines = []
        for group in found.groups:
            words = "; or ".join(
                " and ".join(cause.words(job) for cause in found.left_of(one.causes))
                or "nothing is wrong"
                for one in group[:4]
            )
            left = found.left_of(group[0].causes)
            on = left[0].on[0] if left else ""
            lines.append(
                Line(
                    " + ".join(cause.key for cause in left) or "sound",
                    sum(one.share for one in group),
                    words,
                    on,
                    name_of(found.network, on),
                )
            )
        self._on = {line.key: line.on for line in lines}
        self.model.show_things(lines)
        self._propose(found.next)

    def _propose(self, proposal: Proposal | None) -> None:
        for widget in (self.reading, self.next, self.answers):
            widget.setVisible(proposal is not None)
        if proposal is None or self.diagnosis is None:
            self.next.setText("")
            self.answers.setText("")
            return
        looks = proposal.point.what == "device"
        where = self.diagnosis.where(proposal.point)
        self.next.setText(f"{'Next:' if looks else 'Measure next:'} {where}")
        self.reading.setPlaceholderText("alive, dead" if looks else "")
        job = self.diagnosis.network.job
        lines = []
        for shown, left in proposal.answers[:4]:
            rest = self.diagnosis.left_of(left[0])
            words = " and ".join(c.words(job) for c in rest) or "nothing is wrong"
            more = f", or {len(left) - 1} more" if len(left) > 1 else ""
            lines.append(f"{shown}: {words}{more}")
        self.answers.setText("\n".join(lines))
        self.proposed.emit()

    def _pick(self, key: str) -> None:
        if self._on.get(key):
            self._page.hand.pick(self._on[key])

    # what is typed

    def _add(self, text: str) -> None:
        """Take up what is seen, as it is typed in one line."""
        if not text.strip():
            return
        words, _, state = text.partition(" in ")
        parts = words.split()
        if len(parts) < 2:
            raise ValueError(f"Type where and what: {HOW}.")
        shown = parts.pop()
        if shown.lower() in ("v", "mv", "ohm", "ω") and len(parts) > 1:
            shown = f"{parts.pop()} {shown}"
        black = parts[1] if len(parts) > 1 else ""
        self._read(parts[0], black, shown, state.strip())
        self.symptom.show_value("")

    def _take(self, text: str) -> None:
        """Keep the reading that was proposed in the job."""
        proposal = self.diagnosis.next if self.diagnosis else None
        if proposal is None or not text.strip():
            return
        point = proposal.point
        if point.what == "voltage" and text.strip()[-1:].lower() != "v":
            text = f"{text} V"
        self._read(str(point.red), str(point.black) if point.black.at else "", text, point.state)
        self.reading.show_value("")

    def _read(self, red: str, black: str, text: str, state: str) -> None:
        """Keep what was seen, as it is typed, in the job: the leads are in every reading of ohms.
        Raises ValueError.
        """
        page = self._page
        leads_ohm = page.store.job.settings.meter_leads_ohm
        seen = seen_of_text(page.analysis.network, red, black, text, state, leads_ohm)
        reading = reading_of(seen, page.analysis.plan, now_text(), leads_ohm)
        words = f"Seen: {where_words(seen.point, page.store.job.settings.earthed)}"
        page.store.do(words, lambda job: edits.record(job, reading))

    def _mend(self, text: str) -> None:
        """Keep what was mended: what was read of it before counts no more."""
        if not text.strip():
            return
        store = self._page.store
        reading = mended_text(store.job, text, now_text())
        self.mended.show_value("")
        store.do(f"Repaired {text.split()[0]}", lambda job: edits.record(job, reading))

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None  # it holds the job
        self._of = self.diagnosis = None
        self.model.show_things([])
