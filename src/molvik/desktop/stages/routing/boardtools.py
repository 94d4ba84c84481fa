"""What is done with a loom on the board: drawn, turned, measured, compared, written full size."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QAction, QKeySequence, QShortcut
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from molvik.analysis import Analysis
from molvik.desktop.cards.benchcards import at_the_bench, no_tick
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.routing.routeview import Drawn, RouteView, joint_of
from molvik.desktop.widgets.canvastools import CanvasTools
from molvik.desktop.widgets.small import button, column, label, row
from molvik.model import routing_edits, run_edits
from molvik.model.job import Job
from molvik.model.parts import Splice
from molvik.routing.drawing import SHOWN, USUAL
from molvik.routing.measuring import measured, measuring_steps, read_measured_m
from molvik.steps import Step
from molvik.typed.routed import type_drawn, type_splice

CAUTION = (
    "Keep a loom off what is hot, sharp or moving, and off fuel. Battery off before one is laid in."
)


class BoardTools(QWidget):
    """The buttons over a loom, and what they do. The page says which loom is shown.

    whole_page(on): the board is to have the page to itself, or no longer. first_stretch: of a loom
    without any one is wanted.
    """

    whole_page = Signal(bool)
    first_stretch = Signal()

    def __init__(self, page: StagePage, view: RouteView) -> None:
        super().__init__()
        self._page, self._view = page, view
        self._loom, self._bare = "", True
        self.drawn = CanvasTools(view, "Loom", lambda: view.drawing, page.notice)
        self.caution = label(CAUTION, "faint", wrap=True)
        self.draw_button = button(
            "Draw",
            "Drag a stretch out of a node, then type its length; without it, dragging "
            "turns a branch or bends a stretch",
            self._draw,
        )
        self.draw_button.setCheckable(True)
        self.vehicle_button = button(
            "Places",
            "Which place each stretch passes, in columns, in place of angles",
            self._show_places,
        )
        self.vehicle_button.setCheckable(True)
        self.anew_button = button("Lay again", "Reset the layout of this branch", self._anew)
        self.measure_button = button(
            "Measure…",
            "Stretch by stretch with a string in the vehicle: one card at a time, "
            "driven with one hand",
            self.measure,
        )
        self.whole_button = button(
            "Whole page", "The board alone, without its tables (F9)", self._whole_page
        )
        self.whole_button.setCheckable(True)
        QShortcut(QKeySequence("F9"), page).activated.connect(self.whole_button.click)
        self.show_button = QToolButton()
        self.show_button.setText("Show…")
        self.show_button.setFixedHeight(28)
        self.show_button.setAccessibleName("Show on the board")
        self.show_button.setToolTip("Lengths, wires, covers, clips, and what is hot, wet or moves")
        self.show_button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        self.shown: dict[str, QAction] = {}
        for key, words in SHOWN.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(key in USUAL)
            action.toggled.connect(self._show_only)
            self.shown[key] = action
        self.show_button.setMenu(menu)
        tip = "As one builds from it, on paper at full size: tiles or a roll, PDF, SVG or DXF"
        self.full_size = button("Full size…", tip, self.show_full_size)
        above = row(self.caution, self.show_button)
        above.setStretch(0, 1)
        self.setLayout(
            column(
                above,
                row(
                    self.draw_button,
                    self.vehicle_button,
                    self.anew_button,
                    self.measure_button,
                    1,
                    *(tool for tool in self.drawn.every if tool is not self.drawn.save),
                    self.whole_button,
                    self.full_size,
                ),
            )
        )
        view.turned.connect(self._turned)
        view.drawn.connect(self._ask_length)

    def show_loom(self, analysis: Analysis, loom: str) -> None:
        """Offer what can be done with a loom as the job has it."""
        self._loom = loom
        own = {joint.code for joint in analysis.job.routing.joints if joint.loom == loom}
        self.drawn.enable(bool(own))
        runs = {run.code for run in analysis.job.routing.runs if run.start in own}
        self.draw_button.setEnabled(True)
        for tool in (self.full_size, self.whole_button, self.vehicle_button):
            tool.setEnabled(bool(own))
        self._bare = not own
        self.measure_button.setEnabled(bool(runs))
        self.anew_button.setEnabled(any(pose.run in runs for pose in analysis.job.board))

    # on the board

    def _draw(self) -> None:
        if self._bare:  # there is nothing yet to draw a stretch out of
            self.draw_button.setChecked(False)
            self.first_stretch.emit()
            return
        self._view.draws = self.draw_button.isChecked()

    def _whole_page(self) -> None:
        self.whole_page.emit(self.whole_button.isChecked())

    def _show_places(self) -> None:
        self._view.show_zones(self.vehicle_button.isChecked())

    def _show_only(self) -> None:
        chosen = (key for key, action in self.shown.items() if action.isChecked())
        self._view.show_only(frozenset(chosen))

    def _turned(self, turns: dict[str, tuple[float, float]]) -> None:
        self._page.attempt(
            lambda: self._page.store.do(
                "Turn on the board", lambda job: run_edits.turned(job, turns)
            )
        )

    def _anew(self) -> None:
        loom = self._loom
        self._page.store.do("Lay out again", lambda job: run_edits.laid_anew(job, loom))

    def draw_from_hand(self) -> None:
        """Draw a stretch from the joint in hand, without the mouse."""
        joint = joint_of(self._page.store.job, self._page.hand.subject)
        if joint is None:
            self._page.notice.say("Select an end or a breakout first.")
        else:
            self._ask_length(Drawn(joint.code, "", None, 0.3))

    def _ask_length(self, out: Drawn) -> None:
        """Ask how long what was drawn is; what is refused stays in the question to be mended."""
        store = self._page.store
        at = joint_of(store.job, out.joint)
        name = f"{out.joint} {at.name}" if at else out.joint
        end = joint_of(store.job, out.to)
        words = (
            f"How long is it from {name} to {out.to} {end.name}?"
            if end
            else (f"From {name}: how long is it, and what is at its end? 480 mm, C5")
        )
        made: list[str] = []

        def take(text: str) -> None:
            placed = self._page.analysis.placed.get(self._loom)
            turns = placed.turns if placed else {}
            typed = type_drawn(store.job, out.joint, out.to, text, turns, out.heading)
            made.append(store.take(typed))

        shown = f"{out.length_m * 1000:.0f} mm"
        if ask_line(self, "A new stretch", words, shown, take) is not None and made:
            self._page.hand.pick(made[-1])

    # in the vehicle

    def measure(self) -> None:
        """Go through the stretches card by card."""
        page, loom = self._page, self._loom

        def steps() -> tuple[Step, ...]:
            analysis = page.analysis
            return measuring_steps(analysis.job, analysis.electrics.ways.graph, loom)

        def answer(step: Step, text: str) -> None:
            length = read_measured_m(text)
            page.store.do(
                f"Length of {step.subject}",
                partial(_with_length, run=step.subject, length_m=length),
            )

        at_the_bench(
            page,
            "Measuring",
            steps,
            lambda: measured(page.store.job),
            no_tick,
            no_tick,
            "routing",
            answer=answer,
        )

    # splices

    def put_splice(self) -> None:
        """Lay the splice in hand along a stretch; offered is where it lies best."""
        page = self._page
        store, code = page.store, page.hand.subject
        if not isinstance(store.job.part(code), Splice):
            page.notice.say("Select a splice first.")
            return
        places = page.analysis.splice_places.get(code)
        best = places.best if places else None
        if best is not None and not best.run:
            page.notice.say(f"{code} lies best where it is.")
            return
        words = "In which stretch, and how far from its start? "
        words += (
            "Offered is where its wires take the least copper."
            if best
            else (
                "No place is far enough from breakouts and plugs, or its wires have no routes yet."
            )
        )
        shown = f"{best.run} {best.at_m * 1000:.0f} mm" if best else ""
        ask_line(
            self,
            f"Lay {code}",
            words,
            shown,
            lambda text: store.take(type_splice(store.job, code, text)),
        )

    def show_full_size(self) -> None:
        """Show the chosen loom at full size, to be printed or written."""
        from molvik.desktop.stages.routing.boarddialog import BoardDialog

        dialog = BoardDialog(self, self._page.store, self._loom)
        if ask(dialog):
            self._page.about.setText(dialog.said)


def _with_length(job: Job, run: str, length_m: float) -> Job:
    return routing_edits.change(job, run, length_m=length_m, length_from="measured")
