"""States gone through in order, from cranking to stopping: what the engine does in each."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QListWidget, QVBoxLayout, QWidget

from molvik.circuits.scenario import Step, go_through, scenarios, states_of
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.stages.circuits.controls import Controls
from molvik.desktop.stages.page import AT_ONCE
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import Choice, button, copyable, row
from molvik.devices.states import NAMED
from molvik.model import edits
from molvik.model.parts import Scenario

Run = Callable[[Callable[[], Any], Callable[[Any], None]], None]
"""Solves something on another thread, and shows it."""


class OrderView(QWidget):
    """A scenario and what the engine does in it. said(text): why something was refused."""

    said = Signal(str)

    def __init__(self, store: Store, controls: Controls, run: Run) -> None:
        super().__init__()
        self._store, self._controls, self._run = store, controls, run
        self.scenario = Choice()
        self.scenario.setAccessibleName("Scenario")
        self.scenario.activated.connect(lambda _: self._show())
        tip = "States to go through in order: run, crank, running"
        new = button("New…", tip, self._ask)
        self.drop = button("Remove", "Take your own scenario away", self._drop)
        self.steps = QListWidget()
        self.steps.setAccessibleName("What the engine does")
        self.steps.setWordWrap(True)
        copyable(self.steps)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 6, 0, 0)
        inside.addLayout(row(self.scenario, new, self.drop, 1))
        inside.addWidget(self.steps, 1)

    def refresh(self) -> None:
        """Show the scenarios of the job, and what comes of the one that is chosen."""
        kept = self.scenario.currentText()
        self.scenario.clear()
        self.scenario.addItems([scenario.name for scenario in scenarios(self._store.job)])
        self.scenario.setCurrentIndex(max(0, self.scenario.findText(kept)))
        self._show()

    def _show(self) -> None:
        name, job = self.scenario.currentText(), self._store.job
        self.drop.setEnabled(any(scenario.name == name for scenario in job.scenarios))
        self.steps.clear()
        chosen = next((scenario for scenario in scenarios(job) if scenario.name == name), None)
        if chosen is None:
            return
        states = [self._controls.conditions(state) for state in states_of(chosen)]
        network = self._store.analysis.network
        if len(job.wires) <= AT_ONCE:
            self._list(go_through(network, states))
        else:
            self._run(lambda: go_through(network, states), self._list)

    def _list(self, steps: tuple[Step, ...]) -> None:
        self.steps.clear()
        for step in steps:
            more = [f"{fuse} blows" for fuse in sorted(step.point.blown)]
            words = f"{step.point.state.name}: the engine {step.engine}"
            self.steps.addItem(". ".join([words, *more]))

    def _ask(self) -> None:
        words = (
            f"A name, then the states: cold start: run, crank, running\nStates: {', '.join(NAMED)}"
        )
        shown = "my start: run, crank, running, key off while running"
        text = ask_line(self, "States in order", words, shown)
        if text is not None:
            self.keep(text)

    def keep(self, text: str) -> None:
        """Keep a scenario of one's own, typed as "name: state, state"."""
        name, _, steps = text.partition(":")
        names = tuple(step.strip().lower() for step in steps.split(",") if step.strip())
        made = Scenario(name.strip(), names)
        kept = tuple(other for other in self._store.job.scenarios if other.name != made.name)
        try:
            states_of(made)
            self._store.do(
                f"Scenario {made.name}", lambda job: edits.set_scenarios(job, (*kept, made))
            )
        except ValueError as error:
            self.said.emit(str(error))
            return
        self.said.emit("")
        self.refresh()
        self.scenario.setCurrentIndex(self.scenario.findText(made.name))
        self._show()

    def _drop(self) -> None:
        name = self.scenario.currentText()
        kept = tuple(scenario for scenario in self._store.job.scenarios if scenario.name != name)
        self._store.do(f"Remove {name}", lambda job: edits.set_scenarios(job, kept))
        self.refresh()
