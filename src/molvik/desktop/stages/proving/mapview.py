"""Where on the loom it failed: every plug with what was found at each of its cavities."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QWidget

from molvik.analysis import Analysis
from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.widgets.plugmap import MarksLegend, PlugMapView
from molvik.desktop.widgets.small import button, column, label, row
from molvik.drawing.marks import FOUND, Marked
from molvik.model.parts import Connector, End
from molvik.netlist.plugmap import PlugMap
from molvik.proving.found import found_at

NOTHING = "No wire has both ends yet: there is nothing to measure."


class MapView(QWidget):
    """What was found at each point. wanted(key): a measurement of the plan is to be looked at."""

    wanted = Signal(str)

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self._found: dict[End, Marked] = {}
        self._chosen = End()
        self.only = QCheckBox("Only what failed")
        self.only.setToolTip("Leave out plugs at which nothing failed or is shorted")
        self.only.toggled.connect(lambda _: self._show())
        self.turn_button = button(
            "Turn over", "Wire side or mating face (F in the drawing)", self._turn
        )
        self.words = label("", "faint", wrap=True)
        self.map = PlugMapView("What was found at each cavity", NOTHING)
        self.map.picked.connect(self._pick)
        self.map.turned.connect(lambda _: self._say())
        self.said = label("", wrap=True)
        self.measure_button = button("Measure it", "To this measurement in the plan", self._measure)
        above = row(self.words, self.only, self.turn_button)
        above.setStretch(0, 1)
        below = row(self.said, self.measure_button)
        below.setStretch(0, 1)
        self.setLayout(column(above, row(MarksLegend(FOUND), 1), self.map, below))

    def show_job(self, analysis: Analysis) -> None:
        """Show what was found, as the job stands."""
        if not plan_known(analysis):
            self._found = {}
            self.map.empty = "The plan is being made …"
            self.map.show_map(None)
            self._say()
            return
        self._found = found_at(analysis.plan)
        self._show()

    def forget(self) -> None:
        """The job was closed."""
        self._found, self._chosen = {}, End()
        self.map.show_map(None)

    def _show(self) -> None:
        network = self._page.analysis.network
        self.map.empty = "Nothing failed so far." if self._found else NOTHING
        self.map.show_map(PlugMap(network, self._found), wrong=self.only.isChecked())
        self._say()

    def _turn(self) -> None:
        self.map.turn()

    def _say(self) -> None:
        """Say how many there are of each, and what was found at the chosen one."""
        marks = [found.mark for found in self._found.values()]
        names = ", ".join(f"{count} {name}" for mark, name in FOUND if (count := marks.count(mark)))
        self.words.setText(
            f"{names[:1].upper()}{names[1:]}. Seen at the {self.map.face}." if names else ""
        )
        found = self._found.get(self._chosen)
        self.said.setText(
            f"{self._chosen}: {found.words}"
            if found
            else "Click a cavity: what was found there is said here."
            if self._found
            else ""
        )
        self.measure_button.setEnabled(found is not None and bool(self._key()))

    def _pick(self, ref: str) -> None:
        self._chosen = End.of(ref)
        plug = isinstance(self._page.analysis.network.parts.get(self._chosen.at), Connector)
        self._page.hand.pick(ref if plug else self._chosen.at)
        self._say()

    def _key(self) -> str:
        """Return the measurement from the chosen point: one that did not pass before others."""
        plan = self._page.analysis.plan
        here = [one for one in plan.measurements if self._chosen in (one.red, one.black)]
        here.sort(key=lambda one: plan.judged[one.key].outcome == "passed")
        return here[0].key if here else ""

    def _measure(self) -> None:
        self.wanted.emit(self._key())
