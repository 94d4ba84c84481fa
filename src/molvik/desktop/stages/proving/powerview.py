"""Bringing power up in steps: what to do, what to expect, and what if not. Solved aside."""

import weakref
from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.cards.benchcards import TickList, at_the_bench
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.supplybar import SupplyBar
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.electrics import Electrics
from molvik.proving.power import POWER, as_steps, power_steps
from molvik.proving.powerstep import PowerStep
from molvik.stopping import may_stop

CAUTION = (
    "Battery isolator within reach, extinguisher at hand, everyone clear of belts and fans. High "
    "voltage, airbags and gas stay with those licensed for them."
)

NONE = "Without a battery, or with a state that cannot be solved, there is nothing to bring up."


class PowerView(QWidget):
    """The steps of a job, ticked in the table's cards."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.ticks = TickList(page.store, POWER)
        self.steps: tuple[PowerStep, ...] = ()
        self._of: weakref.ref[Electrics] | None = None
        self._task: Task | None = None
        columns: list[Column[PowerStep]] = [
            Column("Done", self._done, width=50, role=lambda step: "proved"),
            Column("Do", lambda step: step.do, width=280, grow=1),
            Column("Expect", lambda step: step.expect, width=300, grow=3),
            Column("If not", lambda step: step.otherwise, width=200, grow=2, hidden=True),
            Column("Before", lambda step: step.before, width=160, grow=1, hidden=True),
        ]
        self.model: ThingsModel[PowerStep] = ThingsModel(columns, lambda step: step.key)
        self.table: ThingsTable[PowerStep] = ThingsTable(self.model, "Power, step by step")
        self.table.picked.connect(self._pick)
        self.words = label(CAUTION, "faint", wrap=True)
        self.bench_button = button(
            "Step by step…", "One step a card, ticked with one hand", self.begin
        )
        above = row(self.words, self.bench_button)
        above.setStretch(0, 1)
        self.supply = SupplyBar(page)
        self.setLayout(column(above, self.supply, self.table))

    def _done(self, step: PowerStep) -> str:
        return "✓" if step.key in self.ticks.ticked() else ""

    def show_job(self, analysis: Analysis) -> None:
        """Show the steps of the job as it stands, as soon as its states are solved."""
        if self._of is not None and self._of() is analysis.electrics:
            self.model.show_things(list(self.steps))
            return
        self._of = weakref.ref(analysis.electrics)
        if self._task is not None:
            self._task.stop()
        self.words.setText("The states of the key are being solved …")
        self.bench_button.setEnabled(False)

        def work(stop: Callable[[], bool]) -> tuple[PowerStep, ...]:
            with may_stop(stop):
                return power_steps(analysis.network, analysis.operating_point)

        self._task = Task(work, self)
        self._task.done.connect(self._show)
        self._task.failed.connect(
            lambda error: self.words.setText(f"The steps were not found: {error}")
        )
        self._task.start()

    @property
    def is_at_rest(self) -> bool:
        """Whether nothing is being solved."""
        return self._task is None or self._task.has_ended

    def _show(self, steps: tuple[PowerStep, ...]) -> None:
        self.steps = steps
        self.model.show_things(list(steps))
        self.bench_button.setEnabled(bool(steps))
        self.words.setText(CAUTION if steps else NONE)

    def _pick(self, key: str) -> None:
        subject = next((step.subject for step in self.steps if step.key == key), "")
        if subject:
            self._page.hand.pick(subject)

    def begin(self) -> None:
        """Go through the steps card by card."""
        ticks = self.ticks
        at_the_bench(
            self._page,
            "Power",
            lambda: as_steps(self.steps),
            ticks.ticked,
            ticks.tick,
            ticks.clear,
            "proving",
        )

    def forget(self) -> None:
        """The job was closed: let go of it."""
        if self._task is not None:
            self._task.stop()
            self._task = None  # it holds the job
        self.supply.forget()
        self._of, self.steps = None, ()
        self.model.show_things([])
