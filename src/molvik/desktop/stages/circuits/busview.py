"""The bus on the screen: its line to scale, the wave of a bit, what a meter shows, where to tap."""

from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QMenu, QSplitter, QVBoxLayout, QWidget

from molvik.circuits.bus.beginning import HOW, begun, read_line
from molvik.circuits.bus.drawing import Shown, line_scene, wave_scene
from molvik.circuits.bus.eye import AS_IT_IS, Eye, WhatIf
from molvik.circuits.bus.meter import AT_REST, Reads
from molvik.circuits.bus.study import Study, study
from molvik.circuits.bus.taps import Tap, tapped, taps
from molvik.circuits.bus.topology import Bus, buses
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.drawer import Drawer
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import ShortLabel, button, choice, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.drawing.scene import Scene
from molvik.model.edits import EditError
from molvik.model.refs import Ref
from molvik.parsing.quantities import ohm_text, read_length_m
from molvik.reference.bus import RATES_KBIT

EMPTY = (
    "No bus is known in this job.\n\nBegin one with the button above; or give each module a device "
    "of the kind “network node”, with its terminals high and low, and run a pair of wires between "
    "them; or let a pinout name them “CAN high” and “CAN low”."
)
LONGER_M = 2.0
"""How much longer a stub is tried."""

REST_MS = 60
LINE_PX, WAVE_PX, TABLE_PX = 170, 130, 190
"""The least height of both drawings, and the most of the tables below them."""


class LineCanvas(Canvas):
    """Draws the line of a bus with what hangs on it."""

    def __init__(self) -> None:
        super().__init__("The line of the bus", EMPTY)
        self.shown: Study | None = None
        self.hand = ""

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the line, None without one."""
        found = self.shown
        if found is None:
            return None
        sees = {one.member.code: one for one in found.sees.sees} if found.sees else {}
        shown = Shown(found.bus, found.reads, sees, found.sender, found.what_if)
        return line_scene(shown, width, height, self.hand)


class WaveCanvas(Canvas):
    """Draws what the modules of a bus see of a bit."""

    def __init__(self) -> None:
        super().__init__("The voltage between the two wires, in time")
        self.eye: Eye | None = None
        self.hand = ""

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the wave, None without one."""
        return wave_scene(self.eye, width, height, self.hand) if self.eye is not None else None


class BusView(QWidget):
    """The line above, the wave below it, tables in a drawer. ``left``: what belongs on the left."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self._store, self._hand = store, hand
        self._task: Task | None = None
        self._bus: Bus | None = None
        self._seen: tuple[Any, ...] = ()
        self.what_if = AS_IT_IS
        self.waits = False
        """Whether what is shown is still being found."""
        self.study: Study | None = None
        self._later = QTimer(self, singleShot=True, interval=REST_MS)
        self._later.timeout.connect(self._begin)
        self.list = WorkList("What hangs on the bus")
        self.list.chosen.connect(hand.pick)
        self.left = QWidget()
        beside = QVBoxLayout(self.left)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(label("ON THE BUS", "head"))
        beside.addWidget(self.list, 1)
        self._build_top()
        self.line = LineCanvas()
        self.line.picked.connect(hand.pick)
        self.line.asked.connect(self._offer)
        self.wave = WaveCanvas()
        self.notice = Notice(over=True)
        self._build_tables()
        self.line.setMinimumHeight(LINE_PX)
        self.wave.setMinimumHeight(WAVE_PX)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.line)
        split.addWidget(self.wave)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(0, 5)
        split.setStretchFactor(1, 4)
        self._split = split
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(self.top)
        whole.addWidget(self.said)
        whole.addWidget(split, 1)
        whole.addWidget(self.notice)
        whole.addWidget(self.drawer)

    def _build_top(self) -> None:
        self.which = choice("Which bus", [])
        self.which.currentIndexChanged.connect(lambda _: self._other())
        self.rate = choice("Bit rate", [])
        self.rate.setToolTip("How fast it talks, kbit/s: as its modules say, or another to try")
        self.rate.currentIndexChanged.connect(lambda _: self._later.start())
        self.sends = choice("Who sends", [])
        self.sends.setToolTip("Which module sends the bit; else the one that is heard worst")
        self.sends.currentIndexChanged.connect(lambda _: self._later.start())
        self.reset = button("As it is", "Undo every “what if”", self._reset)
        self.tap_button = button(
            "New module…", "Where it goes, the best place first", self._show_places, "action"
        )
        for box, wide in ((self.which, 190), (self.rate, 160), (self.sends, 130)):
            box.setMinimumWidth(wide)
        self.begin_button = button(
            "Begin a bus…",
            "Its modules in a line, with a pair of wires between them",
            self._line,
            "action",
        )
        self.top = row(
            self.which, self.rate, self.sends, 1, self.reset, self.begin_button, self.tap_button
        )
        self.said = ShortLabel()
        self.said.setAccessibleName("What comes of it")

    def _build_tables(self) -> None:
        reads: list[Column[Reads]] = [
            Column("Place", lambda one: one.at, width=64, mono=True),
            Column("Ohms", _ohms, width=84),
            Column("High V", lambda one: _volts(one.high_v), width=64),
            Column("Low V", lambda one: _volts(one.low_v), width=64),
            Column("What it means", lambda one: one.means, width=380, grow=1),
        ]
        self.reads: ThingsModel[Reads] = ThingsModel(reads, lambda one: one.at)
        self.reads_table: ThingsTable[Reads] = ThingsTable(self.reads, "What a meter shows")
        self.reads_table.picked.connect(self._hand.pick)
        self.reads_table.setToolTip(
            "Ohms between the two wires with the power off; volts against earth at rest:\n"
            + "\n".join(f"{what}: {means}" for what, means in AT_REST)
        )
        places: list[Column[Tap]] = [
            Column("Place", lambda one: one.at, width=64, mono=True),
            Column("Name", lambda one: one.name, width=150),
            Column("Stub", _stub, width=128),
            Column("What it takes", lambda one: "; ".join(one.needs), width=230, grow=1),
            Column(
                "What speaks against it",
                lambda one: "; ".join(one.against) or "nothing",
                width=210,
                grow=1,
                role=lambda one: "live_text" if one.against else "proved",
            ),
        ]
        self.taps: ThingsModel[Tap] = ThingsModel(places, lambda one: one.at)
        self.taps_table: ThingsTable[Tap] = ThingsTable(self.taps, "Places for a new module")
        self.taps_table.doubleClicked.connect(lambda _: self._lay())
        self.lay_button = button(
            "Lay it here…", "The module, its pair of wires, and a terminator moved", self._lay
        )
        box = QWidget()
        inside = QVBoxLayout(box)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.taps_table, 1)
        inside.addLayout(row(1, self.lay_button))
        self.drawer = Drawer("What a meter shows, and places for a new module")
        self.drawer.addTab(self.reads_table, "What a meter shows")
        self.drawer.addTab(box, "Places for a new module")
        self.reads_table.setMaximumHeight(TABLE_PX)
        self.taps_table.setMaximumHeight(TABLE_PX - 40)
        self.drawer.fold()

    # what is shown

    def refresh(self) -> None:
        """Show the buses of the job as it is now."""
        found = buses(self._store.analysis.network)
        key = self.which.currentData()
        self.which.blockSignals(True)
        self.which.clear()
        for bus in found:
            self.which.addItem(_named(bus), bus.key)
        self.which.setCurrentIndex(max(0, self.which.findData(key)))
        self.which.blockSignals(False)
        self.which.setVisible(len(found) > 1)
        for widget in (self.rate, self.sends, self.tap_button, self.drawer, self.wave):
            widget.setVisible(bool(found))
        self.begin_button.setVisible(not found)
        self._take(next((one for one in found if one.key == self.which.currentData()), None))

    def _other(self) -> None:
        self.what_if = AS_IT_IS
        self.refresh()

    def _take(self, bus: Bus | None) -> None:
        """Show a bus, None for nothing; what is tried stays as far as it is there."""
        self._bus = bus
        if bus is None:
            self.study = self.line.shown = self.wave.eye = None
            self.said.setText("")
            self.reset.setVisible(False)
            self.list.show_work([])
            self.line.redraw()
            self.wave.redraw()
            return
        known = {*(one.code for one in bus.members), *bus.places}
        self.what_if = WhatIf(
            self.what_if.out & known,
            tuple(place for place in self.what_if.ends if place in known),
            tuple(one for one in self.what_if.longer_m if one[0] in known),
        )
        self._fill_choices(bus)
        self._begin()

    def _fill_choices(self, bus: Bus) -> None:
        rates = sorted({*RATES_KBIT, bus.kbit_s}, reverse=True)
        items = [("its own rate", "")] + [(f"{rate:g} kbit/s", f"{rate:g}") for rate in rates]
        items[0] = (f"{bus.kbit_s:g} kbit/s, as it is", "")
        senders = [("worst sender", ""), *((f"{m.code} sends", m.code) for m in bus.talkers)]
        for box, wanted in ((self.rate, items), (self.sends, senders)):
            chosen = box.currentData()
            box.blockSignals(True)
            box.clear()
            for text, data in wanted:
                box.addItem(text, data)
            box.setCurrentIndex(max(0, box.findData(chosen)))
            box.blockSignals(False)

    def _begin(self) -> None:
        """Find out all that is said of the bus, aside."""
        bus, network = self._bus, self._store.analysis.network
        if bus is None:
            return
        sender, what_if = str(self.sends.currentData() or ""), self.what_if
        rate = float(self.rate.currentData() or bus.kbit_s)
        self.reset.setVisible(what_if != AS_IT_IS)
        asked = (bus, sender, rate, what_if)
        if asked == self._seen and self.study is not None:
            self._show(self.study)
            return
        if self._task is not None:
            self._task.stop()
        self.waits = True
        self.said.setText("the wave is being found …")
        self._task = Task(lambda _: study(network, bus, sender, rate, what_if), self)
        self._task.done.connect(partial(self._found, asked))
        self._task.failed.connect(self._failed)
        self._task.start()

    def _failed(self, error: Exception) -> None:
        self.waits = False
        self.said.setText("")
        self.notice.say(str(error))

    def _found(self, asked: tuple[Any, ...], found: Study) -> None:
        self.waits = False
        self._seen = asked
        self._show(found)

    def _show(self, found: Study) -> None:
        self.study = self.line.shown = found
        self.wave.eye = found.sees
        self.wave.setVisible(found.sees is not None)
        self.said.setText(found.words + _tried(found.what_if))
        self.reads.show_things(list(found.reads.values()))
        self.taps.show_things(list(taps(self._store.job, found.bus)))
        sees = {one.member.code: one for one in found.sees.sees} if found.sees else {}
        entries = []
        for one in found.bus.members:
            seen = sees.get(one.code)
            state, role = "", "faint"
            if one.code in found.what_if.out:
                state, role = "out", "stop"
            elif one.code == found.sender:
                state, role = "sends", "copper"
            elif seen is not None:
                state = f"{seen.free_v:.2f} V" if seen.reads_right else "misreads"
                role = "proved" if seen.reads_right else "stop"
            elif one.half:
                state, role = "one wire", "stop"
            entries.append(Work(one.code, f"{one.code}  {one.name}", state, role))
        self.list.show_work(entries)
        self.follow(self._hand.subject)

    def follow(self, subject: str) -> None:
        """Mark what is in hand."""
        code = Ref.parse(subject).code
        self.line.hand = self.wave.hand = code
        self.line.redraw()
        self.wave.redraw()

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        if self._task is not None:
            self._task.stop()
        self.waits, self._seen, self.what_if = False, (), AS_IT_IS
        self._take(None)
        self.reads.show_things([])
        self.taps.show_things([])

    # what if

    def _offer(self, code: str, place: QPoint) -> None:
        """Offer what can be tried with something on the bus."""
        bus = self._bus
        if bus is None or not code:
            return
        menu = QMenu(self)
        out = code in self.what_if.out
        if any(one.code == code for one in bus.members) or out:
            menu.addAction("Plug it in" if out else "Unplug it", partial(self.unplug, code))
        ends = code in self.what_if.ends
        words = "Take that terminator out again" if ends else "What if a terminator were here?"
        menu.addAction(words, partial(self.terminate, code))
        if code in bus.stubs:
            longer = code in dict(self.what_if.longer_m)
            words = (
                "Its stub as it is" if longer else f"What if its stub were {LONGER_M:g} m longer?"
            )
            menu.addAction(words, partial(self.lengthen, code))
        menu.popup(place)

    def unplug(self, code: str) -> None:
        """Unplug something, or plug it in again."""
        self._try(self.what_if._replace(out=self.what_if.out ^ {code}))

    def terminate(self, code: str) -> None:
        """Try a terminator at a place, or take it out again."""
        ends = self.what_if.ends
        now = tuple(one for one in ends if one != code) if code in ends else (*ends, code)
        self._try(self.what_if._replace(ends=now))

    def lengthen(self, code: str) -> None:
        """Try a longer stub, or the one that is there again."""
        longer = dict(self.what_if.longer_m)
        if longer.pop(code, None) is None:
            longer[code] = LONGER_M
        self._try(self.what_if._replace(longer_m=tuple(longer.items())))

    def _reset(self) -> None:
        self._try(AS_IT_IS)

    def _try(self, what_if: WhatIf) -> None:
        self.what_if = what_if
        self._begin()

    # a new module

    def _line(self) -> None:
        """Ask for the modules of a line, and lay them with their wires."""

        def lay(text: str) -> None:
            stops = read_line(text)
            self._store.do("Begin a bus", lambda job: begun(job, stops))

        words = (
            "Which modules, along the line, and how far is it to the next? The first and the last "
            "get a terminator."
        )
        ask_line(self, "A new bus", words, HOW, lay)

    def _show_places(self) -> None:
        self.drawer.setCurrentIndex(1)
        self.drawer.unfold()
        bus = self._bus
        if bus is not None:
            self.taps_table.pick(taps(self._store.job, bus)[0].at)
        self.taps_table.setFocus()

    def _lay(self) -> None:
        """Lay a new module at the chosen place."""
        bus, job = self._bus, self._store.job
        chosen = self.taps_table.current_key()
        tap = next((one for one in taps(job, bus) if one.at == chosen), None) if bus else None
        if bus is None or tap is None:
            self.notice.say("Choose a place in the table first.")
            return
        words = f"What is it, and how long are its wires from {tap.at}? Boost gauge, 300 mm"
        made: list[str] = []

        def lay(text: str) -> None:
            name, _, far = text.rpartition(",")
            if not name.strip():
                raise EditError("Type its name, a comma, and how long its wires are.")
            metres = read_length_m(far)
            before = {device.code for device in self._store.job.devices}
            self._store.do(f"Lay {name.strip()}", lambda now: tapped(now, bus, tap, name, metres))
            made.extend(d.code for d in self._store.job.devices if d.code not in before)

        if ask_line(self, "A new module on the bus", words, "", lay) is not None and made:
            self._hand.pick(made[0])


def _ohms(one: Reads) -> str:
    return "open" if one.ohm > 1e5 else ohm_text(one.ohm)


def _volts(volts: float | None) -> str:
    return "dead" if volts is None else f"{volts:.1f}"


def _stub(one: Tap) -> str:
    return "makes it longer" if one.at_end else f"{one.stub_m:.2g} m"


def _named(bus: Bus) -> str:
    return f"bus of {', '.join(one.code for one in bus.members[:4])}"


def _tried(what_if: WhatIf) -> str:
    """Say what is otherwise than in the job."""
    said = []
    if what_if.out:
        said.append(f"{', '.join(sorted(what_if.out))} unplugged")
    if what_if.ends:
        said.append(f"a terminator at {', '.join(what_if.ends)}")
    said += [f"the stub to {place} {far:g} m longer" for place, far in what_if.longer_m]
    return f" What if: {'; '.join(said)}." if said else ""
