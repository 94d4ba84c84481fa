"""Bringing power up in steps: what to do, what to expect, and what if not. Solved aside."""

import weakref
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QWidget

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
    """The steps of a job on the left, the chosen one as a card. chosen(): another is shown."""

    chosen = Signal()

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.ticks = TickList(page.store, POWER)
        self.steps: tuple[PowerStep, ...] = ()
        self._of: weakref.ref[Electrics] | None = None
        self._task: Task | None = None
        self._key = ""
        columns: list[Column[PowerStep]] = [
            Column("Done", self._done, width=46, role=lambda step: "proved"),
            Column("Do", lambda step: step.do, width=280, grow=1),
            Column("Expect", lambda step: step.expect, width=300, grow=3, hidden=True),
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
        beside = row(self.supply, self.supply.digits)
        beside.setStretch(0, 1)
        self._build_card()
        both = row(self.table, self._card)
        both.setStretch(0, 2)
        both.setStretch(1, 5)
        whole = column(above, beside, both, spacing=6)
        whole.setStretch(2, 1)
        self.setLayout(whole)

    def _build_card(self) -> None:
        """The chosen step: what to do, and in columns what is expected, the limit, why, what if
        not.
        """
        self._card = QFrame()
        self._card.setObjectName("card")
        self.do = label("", wrap=True)
        self.do.setObjectName("handTitle")
        self.before = label("", "faint", wrap=True)
        self.tick_button = button("Done", "Tick this step, and go on to the next", self._tick)
        head = row(self.do, self.tick_button)
        head.setStretch(0, 1)
        columns = QHBoxLayout()
        columns.setSpacing(14)
        self.facts: dict[str, QLabel] = {}
        for name, wide in (("Expect", 5), ("Limit", 3), ("Why", 4), ("If not", 4)):
            said = label("", wrap=True)
            said.setAccessibleName(name)
            said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            columns.addLayout(column(label(name.upper(), "head"), said, 1, spacing=2), wide)
            self.facts[name] = said
        inner = column(head, self.before, columns, 1, spacing=6)
        inner.setContentsMargins(12, 8, 12, 8)
        self._card.setLayout(inner)

    def _show_step(self) -> None:
        """Show the step that is chosen, the first one that is not done at first."""
        step = self.current
        self._card.setVisible(step is not None)
        if step is None:
            return
        self.do.setText(step.do)
        self.before.setText(step.before)
        self.before.setVisible(bool(step.before))
        self.facts["Expect"].setText(step.expect)
        self.facts["Limit"].setText(step.limit or "nothing is fed")
        self.facts["Why"].setText(step.why)
        self.facts["If not"].setText(step.otherwise)
        self.supply.most_a, self.supply.out = step.setup.most_a, step.setup.out
        done = step.key in self.ticks.ticked()
        self.tick_button.setText("Not done" if done else "Done")

    @property
    def current(self) -> PowerStep | None:
        """The step that is chosen."""
        found = next((step for step in self.steps if step.key == self._key), None)
        if found is not None or not self.steps:
            return found
        ticked = self.ticks.ticked()
        return next((step for step in self.steps if step.key not in ticked), self.steps[0])

    def _tick(self) -> None:
        step = self.current
        if step is None:
            return
        done = step.key in self.ticks.ticked()
        card = next(one for one in as_steps(self.steps) if one.key == step.key)
        (self.ticks.clear if done else self.ticks.tick)(card, step.key)
        if not done:
            at = self.steps.index(step)
            self._key = self.steps[min(at + 1, len(self.steps) - 1)].key
        self._show_current()

    def _show_current(self) -> None:
        """Show the chosen step everywhere."""
        step = self.current
        self.model.show_things(list(self.steps))
        if step is not None:
            self.table.pick(step.key)
        self._show_step()
        self.chosen.emit()

    def _done(self, step: PowerStep) -> str:
        return "✓" if step.key in self.ticks.ticked() else ""

    def show_job(self, analysis: Analysis) -> None:
        """Show the steps of the job as it stands, as soon as its states are solved."""
        if self._of is not None and self._of() is analysis.electrics:
            self.model.show_things(list(self.steps))
            self._show_step()
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
        self._show_current()
        self.bench_button.setEnabled(bool(steps))
        self.words.setText(CAUTION if steps else NONE)

    def _pick(self, key: str) -> None:
        step = next((step for step in self.steps if step.key == key), None)
        if step is None or key == self._key:
            return
        self._key = key
        if step.subject:
            self._page.hand.pick(step.subject)
        self._show_step()
        self.chosen.emit()

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
        self._of, self.steps, self._key = None, (), ""
        self.model.show_things([])
