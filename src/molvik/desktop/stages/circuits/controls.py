"""What is asked of what is alive: the key, the conditions, the switches, and what is broken."""

from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.rowbutton import RowButton
from molvik.desktop.store import Store
from molvik.desktop.widgets.keydial import KeyDial
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, column, label, row, set_role
from molvik.desktop.widgets.worklist import WorkList
from molvik.devices import generators
from molvik.devices.states import (
    BatteryState,
    Conditions,
    Engine,
    Fault,
    State,
    choices_of,
    stands,
    turned_to,
)
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.model.refs import Ref
from molvik.netlist.faults import HOW, in_words, offered, read_fault
from molvik.parsing.quantities import read_temperature_c

STANDING: Engine = "standing"
FIRST: Engine = "first seconds"
ENGINE_RUNS: Engine = "running"
BATTERIES: tuple[BatteryState, ...] = ("charged", "half", "flat")
AIRS = (-20.0, 20.0, 80.0)
SPEEDS = (800.0, 2000.0, 4000.0)

CONDITIONS = ("engine", "speed", "isolator", "battery", "air")
"""What stands beside the key; the job's own switches have a list."""

BREAK = {
    "Open a wire": "",
    "Short to earth": "short {} earth",
    "Short to another wire": "short {} ",
    "Swap two cavities": "swap {} ",
    "Bad joint": "bad {} 2",
    "Loose earth": "",
    "Blown fuse": "",
    "Stuck relay": "stuck {}",
}
"""What can be broken, with what is typed for what is in hand."""


def _empty(box: QBoxLayout) -> None:
    """Take everything out of a row or column; hidden at once, for it is deleted only later."""
    while (item := box.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class Controls(QWidget):
    """Says which state is wanted: the switches here, the key, the conditions and what is broken in
    ``top``. changed when it is another. probed(code): something is to be probed at the bench.
    shown(code): the circuit of another device is wanted.
    """

    changed = Signal()
    probed = Signal(str)
    shown = Signal(str)

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self._store, self._hand = store, hand
        self._set_out()
        self.dial = KeyDial()
        self.dial.turned.connect(self._turned)
        self.rows: dict[str, RowButton] = {}
        self.notice = Notice()
        self.top = self._build_top()
        inside = QWidget()
        inside.setObjectName("side")
        self._switches = QVBoxLayout(inside)
        self._switches.setContentsMargins(0, 0, 0, 0)
        self._switches.setSpacing(2)
        scroll = QScrollArea()
        scroll.setObjectName("side")
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        words = "No switch in this job yet: what has positions, a switch or a sensor, is set here."
        self._none = label(words, "faint", wrap=True)
        self.devices = WorkList("Devices, and how they stand")
        self.devices.chosen.connect(self.shown)
        self.summary = label("", wrap=True)
        """What comes of it all, in short."""
        whole = column(
            label("DEVICES", "head"),
            self.devices,
            label("SWITCHES", "head"),
            self._none,
            scroll,
            spacing=6,
        )
        whole.addWidget(label("IN SHORT", "head"))
        whole.addWidget(self.summary)
        whole.setStretch(1, 3)
        whole.setStretch(4, 2)
        self.setLayout(whole)
        self.refresh()

    def _build_top(self) -> QWidget:
        """Return the key and the conditions in a row, what is broken below."""
        self.breaks = QToolButton()
        self.breaks.setText("What if …?")
        self.breaks.setProperty("role", "quiet")
        self.breaks.setAccessibleName("Break something")
        self.breaks.setToolTip(
            "What if a wire is off, two cavities are swapped, a relay sticks? "
            "What is in hand is offered. Or right click on a wire, fuse or "
            "earth in the drawing"
        )
        self.breaks.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for words in BREAK:
            menu.addAction(words + "…", partial(self.ask, words))
        self.breaks.setMenu(menu)
        self._conditions = QHBoxLayout()
        self._conditions.setSpacing(4)
        self._broken = QHBoxLayout()
        self._broken.setSpacing(4)
        self.mends: dict[str, QWidget] = {}
        above = row(self.dial, spacing=6)
        above.addLayout(self._conditions, 1)
        above.addWidget(self.breaks)
        self._broken_row = QWidget()
        self._broken_row.setLayout(self._broken)
        self._broken.setContentsMargins(0, 0, 0, 0)
        self._broken_row.hide()
        top = QWidget()
        top.setLayout(column(above, self._broken_row, self.notice, spacing=4))
        return top

    def _set_out(self) -> None:
        self.key = "run"
        self.engine: Engine = STANDING
        self.isolated = False
        self.switches: dict[str, str] = {}
        self.battery: BatteryState = "charged"
        self.air_c = 20.0
        self.rpm = Conditions().rpm
        self.faults: tuple[Fault, ...] = ()
        self.caught = False
        """Whether the engine starts in the crank that is shown."""

    def begin(self) -> None:
        """Another job was opened: nothing is carried over from the one before."""
        self._set_out()
        self.dial.turn_to(self.key)
        self.refresh()

    # the state that is wanted

    def state(self) -> State:
        """Return the state the key, the engine and the switches make together."""
        return self.conditions(turned_to(self.key, self.engine, isolated=self.isolated))

    def conditions(self, state: State) -> State:
        """Return a state with the switches, the battery, the air and the faults as they are set."""
        switches = tuple(self.switches.items())
        faults = frozenset(self.faults)
        set_so = Conditions(switches, self.battery, self.air_c, self.rpm, faults)
        return set_so.on(state, self._store.job)

    def show_state(self, state: State) -> None:
        """Turn everything to a named state; switches and faults stay."""
        self.key, self.isolated = state.key, state.isolated
        self.engine = ENGINE_RUNS if state.running else FIRST if state.first else STANDING
        self.dial.turn_to(self.key)
        self.refresh()
        self.changed.emit()

    def _turned(self, key: str) -> None:
        if self.key == "crank" and key == "run" and self.engine != ENGINE_RUNS:
            self.engine = ENGINE_RUNS if self.caught else STANDING  # the key was let go
        elif key == "crank" or self.engine == FIRST:
            self.engine = STANDING
        self.key = key
        self.refresh()
        self.changed.emit()

    # rows

    def refresh(self) -> None:
        """Show the switches of the job as they stand."""
        job = self._store.job
        wanted: list[tuple[str, str, str, str]] = [
            ("engine", "Engine", self._engine_words(), "Standing, in its first seconds, or running")
        ]
        if generators(job.devices):
            tip = "Of the running engine, turns a minute: an alternator gives less when it idles"
            wanted.append(("speed", "Speed", f"{self.rpm:g}", tip))
        if any(device.kind == "isolator" for device in job.devices):
            tip = "The battery isolator: opens all its contacts"
            wanted.append(("isolator", "Isolator", "off" if self.isolated else "on", tip))
        wanted.append(("battery", "Battery", self.battery, "Charged, half or flat"))
        wanted.append(
            ("air", "Air", f"{self.air_c:g} °C", "Of all there is; right click to type another")
        )
        state = self.state()
        for device in job.devices:
            if choices_of(device):
                tip = f"{device.code}: {', '.join(choices_of(device))}"
                wanted.append((device.code, device.name, stands(device, state), tip))
        if list(self.rows) != [key for key, *_ in wanted]:
            self._make_rows(wanted)
        for key, name, words, tip in wanted:
            row_button = self.rows[key]
            row_button.show_value(name, words)
            row_button.setToolTip(f"{name}: {tip}. Press for the next.")
        self.rows["engine"].setEnabled(self.key != "crank")
        self._show_faults(job)

    def _make_rows(self, wanted: list[tuple[str, str, str, str]]) -> None:
        _empty(self._switches)
        _empty(self._conditions)
        self.rows = {}
        for key, *_ in wanted:
            made = RowButton(upright=key in CONDITIONS)
            made.clicked.connect(partial(self._next, key))
            if key == "air":
                made.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                made.customContextMenuRequested.connect(lambda _: self._ask_air())
            (self._conditions if key in CONDITIONS else self._switches).addWidget(made)
            self.rows[key] = made
        self._switches.addStretch(1)
        self._none.setVisible(all(key in CONDITIONS for key in self.rows))

    def _engine_words(self) -> str:
        return "cranking" if self.key == "crank" else self.engine

    def _next(self, key: str, *_: object) -> None:
        match key:
            case "engine":
                known = (
                    [STANDING, FIRST, ENGINE_RUNS]
                    if self.key == "run"
                    else [
                        STANDING,
                        ENGINE_RUNS,
                    ]
                )
                index = known.index(self.engine) if self.engine in known else -1
                self.engine = known[(index + 1) % len(known)]
            case "speed":
                faster = [one for one in SPEEDS if one > self.rpm]
                self.rpm = faster[0] if faster else SPEEDS[0]
            case "isolator":
                self.isolated = not self.isolated
            case "battery":
                self.battery = BATTERIES[(BATTERIES.index(self.battery) + 1) % len(BATTERIES)]
            case "air":
                warmer = [one for one in AIRS if one > self.air_c]
                self.air_c = warmer[0] if warmer else AIRS[0]
            case _:
                device = self._device(key)
                choices = choices_of(device)
                index = choices.index(stands(device, self.state()))
                self.switches[key] = choices[(index + 1) % len(choices)]
        self.refresh()
        self.changed.emit()

    def _device(self, code: str) -> Device:
        return next(device for device in self._store.job.devices if device.code == code)

    def _ask_air(self) -> None:
        ask_line(self, "Air", "Temperature of all there is", f"{self.air_c:g}", self.set_air)

    def set_air(self, text: str) -> None:
        """Take another temperature as it is typed; ValueError says what is wrong with it."""
        self.air_c = read_temperature_c(text)
        self.refresh()
        self.changed.emit()

    # what if

    def ask(self, words: str) -> None:
        """Ask what is broken, with what is in hand typed already."""
        subject, job = self._hand.subject, self._store.job
        pattern = BREAK[words]
        shown = pattern.format(subject) if pattern else subject
        text = ask_line(self, words, f"{HOW}.", shown, lambda text: read_fault(text, job))
        if text is not None:
            self.break_it(text)

    def offer(self, code: str, where: QPoint) -> None:
        """Offer what can be broken of what is pointed at, and what is broken of it to be mended."""
        job = self._store.job
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for fault in offered(code, job):
            words = in_words(fault, job)
            if fault in self.faults:
                menu.addAction(f"Make good: {words}", partial(self.mend, fault))
            else:
                menu.addAction(f"What if {words}?", partial(self.break_it, str(fault)))
        if menu.actions():
            menu.addSeparator()
            menu.addAction(f"Probe {code} at the bench", partial(self.probed.emit, code))
            menu.popup(where)

    def break_it(self, text: str) -> None:
        """Break what is typed; nothing in the job changes."""
        try:
            fault = read_fault(text, self._store.job)
        except ValueError as error:
            self.notice.say(str(error))
            return
        self.notice.say("")
        if fault not in self.faults:
            self.faults = (*self.faults, fault)
        self.refresh()
        self.changed.emit()

    def mend(self, fault: Fault) -> None:
        """Make a fault good again."""
        self.faults = tuple(other for other in self.faults if other != fault)
        self.refresh()
        self.changed.emit()

    def _show_faults(self, job: Job) -> None:
        # A wire that was taken out of the job since cannot be broken any more.
        codes = {one.code for one in (*job.wires, *job.parts())}
        self.faults = tuple(fault for fault in self.faults if Ref.parse(fault.at).code in codes)
        if list(self.mends) == [str(fault) for fault in self.faults]:
            return
        _empty(self._broken)
        self.mends = {}
        for fault in self.faults:
            words = in_words(fault, job)
            tip = f"{words}. Press to make it good again"
            push_button = button(f"✕ {words}", tip, partial(self.mend, fault), "quiet")
            set_role(push_button, "broken")
            self.mends[str(fault)] = push_button
            self._broken.addWidget(push_button)
        self._broken.addStretch(1)
        self._broken_row.setVisible(bool(self.faults))
