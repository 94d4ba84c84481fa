"""The plan at the bench as a table: each measurement once, read and judged as it is typed."""

from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from molvik.analysis import Analysis
from molvik.desktop.cards.benchcards import at_the_bench, no_tick
from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.stages.proving.instrumentbar import InstrumentBar
from molvik.desktop.stages.proving.isolate import IsolationRun, ask_clips, ask_high_voltage
from molvik.desktop.stages.proving.ohmcolumns import ohm_column, read_text
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.parsing.quantities import read_ohm
from molvik.proving.proofplan import Judged, Measurement, ProofPlan
from molvik.proving.taken import taken
from molvik.proving.touching import isolation_words
from molvik.steps import Step
from molvik.wording import agree, counted, some

ROLES = {"passed": "proved", "not measured": "faint", "changed": "live_text"}


class PlanView(QWidget):
    """The measurements of a job, in an order in which the probes move least."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.current: Measurement | None = None
        """The measurement that is chosen: where both probes are shown."""
        self.model: ThingsModel[Measurement] = ThingsModel(self._columns(), lambda m: m.key)
        self.table: ThingsTable[Measurement] = ThingsTable(self.model, "Plan at the bench")
        self.table.enter_goes_down = True
        self.table.refused.connect(page.notice.say)
        self.table.macro = page.macro
        self.table.picked.connect(self._pick)
        self.words = label("", "faint", wrap=True)
        self.bench_button = button(
            "Measure at the bench…",
            "One measurement a card: the red probe stays, type what the meter shows",
            self.measure,
        )
        self.isolation_button = button(
            "Short test…",
            "All circuits against all others in a few measurements of tied groups; "
            "a short is closed in on by halves",
            self.isolate,
        )
        self.high_button = button(
            "At 250 or 500 V…",
            "Short test with an insulation tester, once every module is unplugged",
            self.isolate_high,
        )
        above = row(self.words, self.isolation_button, self.high_button, self.bench_button)
        above.setStretch(0, 1)
        self.instruments = InstrumentBar(page, lambda: self.current)
        self.setLayout(column(above, self.instruments, self.table))

    @property
    def _plan(self) -> ProofPlan:
        return self._page.analysis.plan

    def _columns(self) -> list[Column[Measurement]]:
        def outcome(one: Measurement) -> str:
            return self._plan.judged[one.key].outcome

        return [
            Column("Red", lambda m: str(m.red), width=74, mono=True, tip="The red probe stays"),
            Column("Black", lambda m: str(m.black), width=74, mono=True),
            Column(
                "Through",
                lambda m: " ".join(m.wires),
                width=150,
                grow=2,
                tip="The wires on the path",
            ),
            ohm_column("Expect", lambda m: m.expected_ohm, 74, "The meter's leads included"),
            ohm_column(
                "Limit",
                lambda m: m.limit_ohm,
                66,
                "Sound joints, warm copper and what the meter may be off",
            ),
            Column(
                "Read Ω",
                lambda m: read_text(self._plan.reading(m)),
                width=66,
                edit=self._read,
                tip="0.3, 1.2k, or OL for open. Enter goes on.",
            ),
            Column("Verdict", outcome, width=108, role=lambda m: ROLES.get(outcome(m), "stop")),
            Column("Doubt", lambda m: m.doubt, width=120, grow=1, hidden=True),
        ]

    def show_job(self, analysis: Analysis) -> None:
        """Show the plan of the job as it stands; of a large one once it was made aside."""
        if not plan_known(analysis):
            self.words.setText("The plan is being made …")
            return
        plan = analysis.plan
        self.model.show_things(list(plan.measurements))
        if self.current is not None:  # as the wires are now
            self.current = self.measurement(self.current.key)
        self.follow(self._page.hand.subject)
        waits = sum(one.outcome != "passed" for one in plan.judged.values())
        count = len(plan.measurements)
        words = [
            f"{counted(count, 'measurement')} {agree(count, 'proves', 'prove')} "
            f"{counted(len(plan.bench.wires), 'wire')}, {waits} to do."
        ]
        hidden = [code for wires in plan.not_told_apart for code in wires]
        if hidden:
            words.append(
                "Beside others between the same points, so not told apart: "
                f"{some(hidden)}. Load them, or measure with four wires."
            )
        if plan.unreached:
            words.append(f"No probe reaches both ends of {some(plan.unreached)}.")
        words.append(isolation_words(plan))
        self.words.setText(" ".join(words))
        self.bench_button.setEnabled(bool(plan.measurements))
        for one in (self.isolation_button, self.high_button):
            one.setEnabled(len(plan.bench.nets) > 1)

    def measurement(self, key: str) -> Measurement | None:
        """Return a measurement by its key."""
        return next((one for one in self._plan.measurements if one.key == key), None)

    def show_measurement(self, key: str) -> None:
        """Bring a measurement into view and choose it."""
        self.current = self.measurement(key)
        self.table.pick(key)
        self._take()

    def follow(self, subject: str) -> None:
        """Bring the measurement into view that goes through the wire in hand."""
        if self.current is not None and subject in self.current.wires:
            return
        through = next((one for one in self.model.things if subject in one.wires), None)
        if through is not None:
            self.current = through
            self.table.pick(through.key)

    def _pick(self, key: str) -> None:
        self.current = self.measurement(key)
        self._take()

    def _take(self) -> None:
        """Take in hand what is measured."""
        if self.current is not None and self.current.wires:
            self._page.hand.pick(self.current.wires[0])

    def _read(self, one: Measurement, text: str) -> None:
        """Keep a reading with its time and who took it."""
        judged = keep_reading(self._page, one, text)
        failed = judged.outcome not in ("passed", "not measured")
        self._page.notice.say(f"{one.red} to {one.black}: {judged.text}" if failed else "")

    # at the bench

    def measure(self) -> None:
        """Go through the measurements card by card."""
        page = self._page

        def steps() -> tuple[Step, ...]:
            return bench_steps(page.analysis)

        def done() -> set[str]:
            plan = self._plan
            return {f"prove {key}" for key, one in plan.judged.items() if one.outcome == "passed"}

        def answer(step: Step, text: str) -> str:
            one = self.measurement(step.key.removeprefix("prove "))
            judged = keep_reading(page, one, text) if one is not None else None
            if judged is None or judged.outcome == "passed":
                return ""
            return f"Kept: {judged.text}. Enter goes on; type it again once it is repaired."

        def meter(cards: StepCards, step: Step) -> bool:
            one = self.measurement(step.key.removeprefix("prove "))
            return one is not None and self.instruments.read_for(one, lambda: came(cards, one))

        def came(cards: StepCards, one: Measurement) -> None:
            """A reading came, or none: the card goes on where it passed."""
            judged = self._plan.judged[one.key]
            if not isValid(cards):
                return
            if judged.outcome == "passed":
                cards.go_on()
            else:
                cards.refresh()
                cards.notice.say(f"{page.notice.text() or judged.text}. Right arrow goes on.")

        at_the_bench(
            page,
            "Continuity",
            steps,
            done,
            no_tick,
            no_tick,
            "proving",
            answer=answer,
            meter=meter,
            reads=lambda: self.instruments.instrument is not None,
        )

    def isolate(self) -> None:
        """Go through isolation card by card: each next one follows from the answers."""
        clips = ask_clips(self._page)
        if clips is not None:
            IsolationRun(self._page, clips=clips).begin()

    def isolate_high(self) -> None:
        """Go through isolation at a high voltage, once it is confirmed that nothing is harmed."""
        volts = ask_high_voltage(self._page)
        clips = ask_clips(self._page) if volts else None
        if clips is not None:
            IsolationRun(self._page, volts, clips).begin()


def keep_reading(page: StagePage, one: Measurement, text: str) -> Judged:
    """Keep a reading of a measurement; return what it means. Raises ValueError."""
    settings = page.store.job.settings
    item = one.key if page.store.job.wire(one.key) is not None else ""
    reading = taken(
        settings,
        now_text(),
        "resistance",
        read_ohm(text),
        (one.red, one.black),
        item=item,
        fingerprint=one.fingerprint,
    )
    page.store.do(f"Reading {one.red} to {one.black}", lambda job: edits.record(job, reading))
    return page.analysis.plan.judged[one.key]


def bench_steps(analysis: Analysis) -> tuple[Step, ...]:
    """Return a card for each measurement of the plan."""
    plan, network = analysis.plan, analysis.network
    found = []
    for measurement in plan.measurements:
        judged = plan.judged[measurement.key]
        names = f"{network.end_name(measurement.red)} to {network.end_name(measurement.black)}"
        found.append(
            Step(
                f"prove {measurement.key}",
                measurement.wires[0] if measurement.wires else "",
                f"{measurement.red} → {measurement.black}",
                f"{names}; expect {measurement.expected_ohm:.2f}, "
                f"at most {measurement.limit_ohm:.2f} Ω",
                asks="0.3",
                shown="" if judged.outcome == "not measured" else judged.text,
                letters="kKMmohΩ",
                begins="oOlL",
                probes=(str(measurement.red), str(measurement.black)),
            )
        )
    return tuple(found)
