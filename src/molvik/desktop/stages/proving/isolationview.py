"""Isolation: whether circuits are shorted together, card by card, and what came of it."""

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.stages.proving.isolate import IsolationRun, ask_clips, ask_high_voltage
from molvik.desktop.widgets.small import button, column, label, row
from molvik.proving.touching import isolation_words, what_else_touches
from molvik.wording import counted

HOW = (
    "Circuits are clipped together in halves, and the meter goes between: each answer halves what "
    "is left, so that a loom of hundreds takes some dozens of probes."
)


class IsolationView(QWidget):
    """What was found of circuits that touch, and the way to it."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.said = label("", wrap=True)
        self.said.setObjectName("handTitle")
        self.touches = label("", wrap=True)
        self.how = label(HOW, "faint", wrap=True)
        self.begin_button = button(
            "Short test…", "Which circuits are shorted together, card by card", self.begin, "action"
        )
        self.high_button = button(
            "At high voltage…",
            "With an insulation tester, once nothing is plugged in that it could harm",
            self.begin_high,
        )
        self.setLayout(
            column(
                self.said,
                self.touches,
                self.how,
                row(self.begin_button, self.high_button, 1),
                1,
            )
        )

    def show_job(self, analysis: Analysis) -> None:
        """Say what came of it, as the job stands."""
        if not plan_known(analysis):
            self.said.setText("The plan is being made …")
            return
        plan = analysis.plan
        self.said.setText(isolation_words(plan))
        touches = what_else_touches(plan)
        self.touches.setText(touches)
        self.touches.setVisible(bool(touches))
        nets = len(plan.bench.nets)
        self.how.setText(f"{counted(nets, 'circuit')} on the bench. {HOW}")
        for one in (self.begin_button, self.high_button):
            one.setEnabled(nets > 1)

    def begin(self) -> None:
        """Go through isolation card by card: each next one follows from the answers."""
        clips = ask_clips(self._page)
        if clips is not None:
            IsolationRun(self._page, clips=clips).begin()

    def begin_high(self) -> None:
        """Go through isolation at a high voltage, once it is confirmed that nothing is harmed."""
        volts = ask_high_voltage(self._page)
        clips = ask_clips(self._page) if volts else None
        if clips is not None:
            IsolationRun(self._page, volts, clips).begin()
