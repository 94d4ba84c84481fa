"""The left side of what is alive: the key, the switches, what is broken, and the circuits."""

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QInputDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.keydial import KeyDial
from molvik.desktop.widgets.small import Notice, button, label, set_role
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.model.refs import Ref
from molvik.netlist.faults import HOW, Fault, in_words, read_fault
from molvik.netlist.states import (
    BatteryState,
    Conditions,
    Engine,
    State,
    choices_of,
    stands,
    turned_to,
)
from molvik.parsing.quantities import read_temperature_c

STANDING: Engine = "standing"
FIRST: Engine = "first seconds"
ENGINE_RUNS: Engine = "running"
BATTERIES: tuple[BatteryState, ...] = ("charged", "half", "flat")
AIRS = (-20.0, 20.0, 80.0)
SPEEDS = (800.0, 2000.0, 4000.0)

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


class RowButton(QPushButton):
    """A name at the left and where it stands at the right; pressed, it goes on to the next."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "row")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setAutoDefault(False)
        self.name = self.value = ""

    def show_value(self, name: str, value: str) -> None:
        """Show where it stands."""
        self.name, self.value = name, value
        self.setAccessibleName(f"{name}: {value}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the button, then both words."""
        super().paintEvent(event)
        painter = QPainter(self)
        box = self.rect().adjusted(10, 0, -10, 0)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(colour("ink" if self.isEnabled() else "faint"))
        painter.setFont(font(13, bold=True))
        painter.drawText(box, right, self.value)
        room = box.width() - painter.fontMetrics().horizontalAdvance(self.value) - 8
        painter.setFont(font(13))
        shown = painter.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)


def _empty(box: QVBoxLayout) -> None:
    """Take everything out of a column; hidden at once, for it is deleted only later."""
    while (item := box.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class Controls(QWidget):
    """Says which state is wanted. changed when it is another; chosen(code) for a circuit."""

    changed = Signal()
    chosen = Signal(str)

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self._store, self._hand = store, hand
        self._set_out()
        self.dial = KeyDial()
        self.dial.turned.connect(self._turned)
        inside = QWidget()
        inside.setObjectName("side")
        self._rows = QVBoxLayout(inside)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        self.rows: dict[str, RowButton] = {}
        scroll = QScrollArea()
        scroll.setObjectName("side")
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.notice = Notice()
        self.breaks = QToolButton()
        self.breaks.setText("+ break something…")
        self.breaks.setProperty("role", "quiet")
        self.breaks.setAccessibleName("Break something")
        self.breaks.setToolTip("What if a wire is off, two cavities are swapped, a relay sticks?")
        self.breaks.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for words in BREAK:
            menu.addAction(words + "…", partial(self.ask, words))
        self.breaks.setMenu(menu)
        self._broken = QVBoxLayout()
        self._broken.setSpacing(2)
        self.mends: dict[str, QWidget] = {}
        self.list = WorkList("Circuits")
        self.list.chosen.connect(self.chosen)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addWidget(label("KEY", "head"))
        whole.addWidget(self.dial)
        whole.addWidget(scroll, 2)
        whole.addWidget(label("WHAT IF", "head"))
        whole.addLayout(self._broken)
        whole.addWidget(self.breaks)
        whole.addWidget(self.notice)
        whole.addWidget(label("CIRCUITS", "head"))
        whole.addWidget(self.list, 3)
        self.refresh()

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
        if any(device.kind == "alternator" for device in job.devices):
            tip = "Of the running engine, turns a minute: an alternator gives less when it idles"
            wanted.append(("speed", "Speed", f"{self.rpm:g}/min", tip))
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
        _empty(self._rows)
        self.rows = {}
        for key, *_ in wanted:
            made = RowButton()
            made.clicked.connect(partial(self._next, key))
            if key == "air":
                made.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                made.customContextMenuRequested.connect(lambda _: self._ask_air())
            self._rows.addWidget(made)
            self.rows[key] = made
        self._rows.addStretch(1)

    def _engine_words(self) -> str:
        return "cranking" if self.key == "crank" else self.engine

    def _next(self, key: str, *_: object) -> None:
        match key:
            case "engine":
                known = [STANDING, FIRST, ENGINE_RUNS] if self.key == "run" else [
                    STANDING, ENGINE_RUNS,
                ]  # fmt: skip
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
        text, sure = QInputDialog.getText(
            self, "Air", "Temperature of all there is", QLineEdit.EchoMode.Normal, f"{self.air_c:g}"
        )
        if sure:
            try:
                self.set_air(text)
            except ValueError as error:
                self.notice.say(str(error))

    def set_air(self, text: str) -> None:
        """Take another temperature as it is typed; ValueError says what is wrong with it."""
        self.air_c = read_temperature_c(text)
        self.refresh()
        self.changed.emit()

    # what if

    def ask(self, words: str) -> None:
        """Ask what is broken, with what is in hand typed already."""
        subject = self._hand.subject
        pattern = BREAK[words]
        shown = pattern.format(subject) if pattern else subject
        text, sure = QInputDialog.getText(self, words, f"{HOW}.", QLineEdit.EchoMode.Normal, shown)
        if sure:
            self.break_it(text)

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

    def show_circuits(self, entries: list[Work]) -> None:
        """Show the circuits with their states."""
        self.list.show_work(entries)
