"""Gauges on the screen: what each shows with what moves it, its error, and what mends it."""

from typing import NamedTuple

from PySide6.QtWidgets import QTabWidget, QVBoxLayout

from molvik.circuits.gauges.drawing import error_scene, input_scene
from molvik.circuits.gauges.inputs import Input, inputs
from molvik.circuits.gauges.lamps import Lamp, lit_lamps
from molvik.circuits.gauges.matching import Match, matches
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.tabview import TabView
from molvik.desktop.store import Store
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.small import label
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work
from molvik.drawing.scene import Scene
from molvik.model.refs import Ref

ROLES = {"right": "proved", "wrong": "stop", "not known": "live_text", "lost": "stop"}
EMPTY = (
    "Nothing is known of the ohms of this gauge and its sender.\n\nSelect each and type its curve: "
    "a value and the ohms it has there, 20 600, 60 142, 100 42."
)
NONE = "There is no gauge in the job: add a device of the kind gauge, with its terminals + S -."
DRAW_PX, TABLE_PX = 240, 230
LEGEND = (
    "Red: as it is. Green, broken: with the resistors or the converter. Within the shaded band it "
    "is right."
)


class Found(NamedTuple):
    """What was found for a job."""

    gauges: tuple[Match, ...]
    inputs: tuple[Input, ...]
    lamps: tuple[Lamp, ...]


class ErrorCanvas(Canvas):
    """Draws the error of a gauge over its range."""

    def __init__(self) -> None:
        super().__init__("What a gauge shows less what is", EMPTY)
        self.match: Match | None = None
        self.input: Input | None = None

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the error, None where it is not known; or what a computer sees."""
        if self.input is not None:
            return input_scene(self.input, width, height)
        return error_scene(self.match, width, height) if self.match is not None else None


class GaugeView(TabView):
    """The gauges in a table, the error of the one in hand above."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "GAUGES", "The gauges", "What mends it")
        self.found: tuple[Match, ...] = ()
        self.seen: tuple[Input, ...] = ()
        self.list.chosen.connect(self.choose)
        self.legend = label(LEGEND, "faint", wrap=True)
        self.canvas = ErrorCanvas()
        self.canvas.setMinimumHeight(DRAW_PX)
        columns: list[Column[Match]] = [
            Column("Gauge", lambda one: one.gauge, width=62, mono=True),
            Column("Name", lambda one: one.name, width=130),
            Column("With", lambda one: one.source, width=58, mono=True),
            Column("Verdict", lambda one: one.verdict, width=84, role=lambda o: ROLES[o.verdict]),
            Column("How", lambda one: one.way, width=96, tip="What becomes of it"),
            Column("What it shows", lambda one: one.says, width=240, grow=1),
            Column("What to do", lambda one: one.does, width=240, grow=1),
        ]
        self.model: ThingsModel[Match] = ThingsModel(columns, lambda one: one.gauge)
        self.table: ThingsTable[Match] = ThingsTable(self.model, "Gauges and what moves them")
        self.table.picked.connect(self.choose)
        seen: list[Column[Input]] = [
            Column("Sensor", lambda one: one.sensor, width=66, mono=True),
            Column("Name", lambda one: one.name, width=150),
            Column("At", lambda one: one.computer, width=58, mono=True),
            Column("What it sees", lambda one: one.says, width=330, grow=1),
            Column("Pull-up", lambda one: f"{one.pull_ohm:.0f} Ω", width=84, unit="Ω"),
            Column(
                "Sees most with",
                lambda one: f"{one.best_ohm:.0f} Ω",
                width=132,
                unit="Ω",
                tip="A resistor as large as the sensor at 90 °C tells its degrees apart best",
            ),
        ]
        self.inputs: ThingsModel[Input] = ThingsModel(seen, lambda one: one.sensor)
        self.inputs_table: ThingsTable[Input] = ThingsTable(self.inputs, "Inputs of computers")
        self.inputs_table.picked.connect(self._show_input)
        lit: list[Column[Lamp]] = [
            Column("Lamp", lambda one: one.lamp, width=62, mono=True),
            Column("Name", lambda one: one.name, width=150),
            Column("By", lambda one: one.source, width=58, mono=True),
            Column("Key on", lambda one: one.key_on, width=76),
            Column("Running", lambda one: one.running, width=80),
            Column("Verdict", lambda one: one.verdict, width=84, role=lambda o: ROLES[o.verdict]),
            Column("Its switch", lambda one: one.wire, width=220, grow=1),
            Column("What to do", lambda one: one.does, width=220, grow=1),
        ]
        self.lamps: ThingsModel[Lamp] = ThingsModel(lit, lambda one: one.lamp)
        self.lamps_table: ThingsTable[Lamp] = ThingsTable(self.lamps, "Warning lamps")
        self.lamps_table.picked.connect(self._pick_lamp)
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Gauges, inputs of computers, or warning lamps")
        self.tabs.setMaximumHeight(TABLE_PX)
        self.tabs.addTab(self.table, "Gauges")
        self.tabs.addTab(self.inputs_table, "Inputs of computers")
        self.tabs.addTab(self.lamps_table, "Warning lamps")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 0)
        whole.setSpacing(4)
        whole.addWidget(self.said)
        whole.addWidget(self.legend)
        whole.addWidget(self.canvas, 1)
        whole.addWidget(self.notice)
        whole.addWidget(self.tabs)

    def refresh(self) -> None:
        """Find what each gauge of the job as it is now shows, aside."""
        network = self._store.analysis.network
        self.aside(lambda: Found(matches(network), inputs(network), lit_lamps(network)), self._show)

    def _show(self, both: Found) -> None:
        found, seen = both.gauges, both.inputs
        self.found, self.seen = found, seen
        self.lamps.show_things(list(both.lamps))
        self.inputs.show_things(list(seen))
        self.model.show_things(list(found))
        self.list.show_work(
            [
                Work(one.gauge, f"{one.gauge}  {one.name}", one.verdict, ROLES[one.verdict])
                for one in found
            ]
        )
        self.tabs.setVisible(bool(found or seen or both.lamps))
        chosen = self.canvas.match.gauge if self.canvas.match is not None else ""
        if chosen not in {one.gauge for one in found}:
            chosen = next((one.gauge for one in found if one.errors), "")
            chosen = chosen or (found[0].gauge if found else "")
        self._mark(chosen)

    def _show_input(self, code: str) -> None:
        """Show what a computer sees of a sensor."""
        one = next((one for one in self.seen if one.sensor == code), None)
        if one is None:
            return
        self._hand.pick(code)
        self.canvas.input = one
        self.legend.setVisible(False)
        self.said.setText(f"{one.name}: {one.says}")
        self.canvas.redraw()

    def _pick_lamp(self, code: str) -> None:
        """Take a lamp in hand, and say what it does."""
        one = next((one for one in self.lamps.things if one.lamp == code), None)
        if one is not None:
            self._hand.pick(code)
            self.said.setText(f"{one.name}: {one.does or one.says}")

    def choose(self, code: str) -> None:
        """Take a gauge in hand, and show its error."""
        if code:
            self._hand.pick(code)
            self._mark(code)

    def follow(self, subject: str) -> None:
        """Show the gauge in hand, or the one that what is in hand moves."""
        code = Ref.parse(subject).code
        one = next((one for one in self.found if code in (one.gauge, one.source)), None)
        if one is not None:
            self._mark(one.gauge)

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        self.stop()
        self._show(Found((), (), ()))

    def _mark(self, code: str) -> None:
        match = next((one for one in self.found if one.gauge == code), None)
        self.canvas.match, self.canvas.input = match, None
        self.canvas.empty = EMPTY if match is not None else NONE
        self.legend.setVisible(match is not None and bool(match.errors))
        if match is not None and match.errors:
            self.legend.setText(f"{match.law} {LEGEND}".strip())
        words = f"{match.name}: {match.does or match.says}" if match is not None else ""
        self.said.setText(words)
        self.canvas.redraw()
