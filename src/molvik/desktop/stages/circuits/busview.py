"""The bus on the screen: its line to scale, the wave of a bit, what a meter shows, where to tap."""

from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QMenu, QSplitter, QVBoxLayout

from molvik.circuits.bus.beginning import HOW, begun, read_line
from molvik.circuits.bus.eye import AS_IT_IS, WhatIf
from molvik.circuits.bus.linedrawing import line_scene
from molvik.circuits.bus.power import Power, power
from molvik.circuits.bus.study import Study, study
from molvik.circuits.bus.taps import LEAD_M, Tap, tapped, taps
from molvik.circuits.bus.topology import Bus
from molvik.circuits.bus.wavedrawing import wave_scene
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.bustables import BusTables
from molvik.desktop.stages.circuits.tabview import TabView
from molvik.desktop.store import Store
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.small import button, choice, row
from molvik.desktop.widgets.worklist import Work
from molvik.drawing.scene import Scene
from molvik.model.edits import EditError
from molvik.model.refs import Ref
from molvik.parsing.quantities import read_length_m
from molvik.reference.bus import RATES_KBIT

EMPTY = (
    "No bus is known in this job.\n\nBegin one with the button above; or give each module a device "
    "of the kind “network node”, with its terminals high and low, and run a pair of wires between "
    "them; or let a pinout name them “CAN high” and “CAN low”."
)
LONGER_M = 2.0
"""How much longer a stub is tried."""

REST_MS = 60
LINE_PX, WAVE_PX = 170, 130
"""The least height of both drawings."""


class LineCanvas(Canvas):
    """Draws the line of a bus with what hangs on it."""

    def __init__(self) -> None:
        super().__init__("The line of the bus", EMPTY)
        self.study: Study | None = None
        self.hand = ""

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the line, None without one."""
        return None if self.study is None else line_scene(self.study, width, height, self.hand)


class WaveCanvas(Canvas):
    """Draws what the modules of a bus see of a bit."""

    def __init__(self) -> None:
        super().__init__("The voltage between the two wires, in time")
        self.study: Study | None = None
        self.hand = ""

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the wave, None without one."""
        if self.study is None or self.study.sees is None:
            return None
        return wave_scene(self.study.sees, width, height, self.hand)


class BusView(TabView):
    """The line above, the wave below it, tables in a drawer."""

    def __init__(self, store: Store, hand: Hand) -> None:
        names = "ON THE BUS", "What hangs on the bus", "What comes of it"
        super().__init__(store, hand, *names)
        self._buses: tuple[Bus, ...] = ()
        self._bus: Bus | None = None
        self._seen: tuple[Any, ...] = ()
        self.what_if = AS_IT_IS
        self.study: Study | None = None
        self._later = QTimer(self, singleShot=True, interval=REST_MS)
        self._later.timeout.connect(self._begin)
        self.list.chosen.connect(hand.pick)
        self._build_top()
        self.line, self.wave = LineCanvas(), WaveCanvas()
        self.line.picked.connect(hand.pick)
        self.line.asked.connect(self._offer)
        self.line.setMinimumHeight(LINE_PX)
        self.wave.setMinimumHeight(WAVE_PX)
        self.tables = BusTables(hand.pick, self._lay)
        self.power: tuple[Power, ...] = ()
        split = QSplitter(Qt.Orientation.Vertical)
        for drawing, share in ((self.line, 5), (self.wave, 4)):
            split.addWidget(drawing)
            split.setStretchFactor(split.count() - 1, share)
        split.setChildrenCollapsible(False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(self.top)
        whole.addWidget(self.said)
        whole.addWidget(split, 1)
        whole.addWidget(self.notice)
        whole.addWidget(self.tables)

    def _build_top(self) -> None:
        self.which = choice("Which bus", [])
        self.which.currentIndexChanged.connect(lambda _: self._other())
        self.rate = choice("Bit rate", [])
        self.rate.setToolTip("How fast it talks, kbit/s: as its modules say, or another to try")
        self.rate.currentIndexChanged.connect(lambda _: self._later.start())
        self.sends = choice("Who sends", [])
        self.sends.setToolTip("Which module sends the bit; else the one that is heard worst")
        self.sends.currentIndexChanged.connect(lambda _: self._later.start())
        for box, wide in ((self.which, 190), (self.rate, 190), (self.sends, 130)):
            box.setMinimumWidth(wide)
        self.reset = button("As it is", "Undo every “what if”", self._reset)
        self.tap_button = button(
            "New module…", "Where it goes, the best place first", self._show_places, "action"
        )
        self.begin_button = button(
            "Begin a bus…",
            "Its modules in a line, with a pair of wires between them",
            self._begin_line,
            "action",
        )
        self.top = row(
            self.which, self.rate, self.sends, 1, self.reset, self.begin_button, self.tap_button
        )

    # what is shown

    def refresh(self) -> None:
        """Find the buses of the job as it is now, aside, and show one."""
        analysis = self._store.analysis
        self.aside(lambda: analysis.buses, self._list)

    def _list(self, found: tuple[Bus, ...]) -> None:
        self._buses = found
        _fill(self.which, [(_named(bus), bus.key) for bus in found])
        self.which.setVisible(len(found) > 1)
        for widget in (self.rate, self.sends, self.tap_button, self.tables, self.wave):
            widget.setVisible(bool(found))
        self.begin_button.setVisible(not found)
        self._take()

    def _other(self) -> None:
        self.what_if = AS_IT_IS
        self._take()

    def _take(self) -> None:
        """Show the chosen bus; what is tried stays as far as it is there."""
        key = self.which.currentData()
        bus = self._bus = next((one for one in self._buses if one.key == key), None)
        if bus is None:
            self._show_none()
            return
        known = {*(one.code for one in bus.members), *bus.places}
        self.what_if = WhatIf(
            self.what_if.out & known,
            tuple(place for place in self.what_if.ends if place in known),
            tuple(one for one in self.what_if.longer_m if one[0] in known),
        )
        said = "as it is" if bus.said_kbit_s else "not typed"
        rates = sorted({*RATES_KBIT, bus.kbit_s}, reverse=True)
        own = [(f"{bus.kbit_s:g} kbit/s, {said}", "")]
        _fill(self.rate, own + [(f"{rate:g} kbit/s", f"{rate:g}") for rate in rates])
        senders = [(f"{one.code} sends", one.code) for one in bus.talkers]
        _fill(self.sends, [("worst sender", ""), *senders])
        self._begin()

    def _show_none(self) -> None:
        self.study = self.line.study = self.wave.study = None
        self.said.setText("")
        self.reset.setVisible(False)
        self.list.show_work([])
        self.power = ()
        self.tables.show_all((), (), ())
        self.line.redraw()
        self.wave.redraw()

    def _begin(self) -> None:
        """Find out all that is said of the bus, aside."""
        bus = self._bus
        if bus is None:
            return
        sender, what_if = str(self.sends.currentData() or ""), self.what_if
        rate = float(self.rate.currentData() or bus.kbit_s)
        self.reset.setVisible(what_if != AS_IT_IS)
        asked = (bus, sender, rate, what_if)
        known = self.study if asked == self._seen else None
        if known is not None:
            self._show(known)
        else:
            self.said.setText("the wave is being found …")
        network = self._store.analysis.network
        self.aside(
            lambda: (known or study(bus, sender, rate, what_if), power(network, bus)),
            partial(self._found, asked),
        )

    def _found(self, asked: tuple[Any, ...], both: tuple[Study, tuple[Power, ...]]) -> None:
        self._seen, self.power = asked, both[1]
        self._show(both[0])

    def _show(self, found: Study) -> None:
        self.study = self.line.study = self.wave.study = found
        self.wave.setVisible(found.sees is not None)
        self.said.setText(found.words + _tried(found.what_if))
        places = taps(self._store.job, found.bus)
        self.tables.show_all(tuple(found.reads.values()), places, self.power)
        self.list.show_work(
            [
                Work(one.code, f"{one.code}  {one.name}", *_state(found, one.code))
                for one in found.bus.members
            ]
        )
        self.follow(self._hand.subject)

    def follow(self, subject: str) -> None:
        """Mark what is in hand."""
        code = Ref.parse(subject).code
        for drawing in (self.line, self.wave):
            drawing.hand = code
            drawing.redraw()

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        self.stop()
        self._later.stop()
        self._buses, self._bus, self._seen, self.what_if = (), None, (), AS_IT_IS
        self._show_none()

    # what if

    def _offer(self, code: str, place: QPoint) -> None:
        """Offer what can be tried with something on the bus."""
        bus = self._bus
        if bus is None or not code:
            return
        menu = QMenu(self)
        out = code in self.what_if.out
        if out or bus.is_joint(code) or any(one.code == code for one in bus.members):
            menu.addAction("Plug it in" if out else "Unplug it", partial(self.unplug, code))
        ends = code in self.what_if.ends
        words = "Take that terminator out again" if ends else "What if a terminator were here?"
        menu.addAction(words, partial(self.terminate, code))
        if code in bus.stubs:
            longer = code in dict(self.what_if.longer_m)
            more = f"What if its stub were {LONGER_M:g} m longer?"
            menu.addAction("Its stub as it is" if longer else more, partial(self.lengthen, code))
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

    # a new bus, a new module

    def _begin_line(self) -> None:
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
        self.tables.show_places()

    def _lay(self) -> None:
        """Lay a new module at the chosen place."""
        bus, chosen = self._bus, self.tables.taps_table.current_key()
        tap = next((one for one in self.tables.taps.things if one.at == chosen), None)
        if bus is None or tap is None:
            self.notice.say("Choose a place in the table first.")
            return
        made: list[str] = []

        def lay(text: str) -> None:
            name, metres = _read_module(text, tap)
            before = {device.code for device in self._store.job.devices}
            self._store.do(f"Lay {name}", lambda job: tapped(job, bus, tap, name, metres))
            made.extend(one.code for one in self._store.job.devices if one.code not in before)

        words = f"What is it, and how long are its wires from {tap.at}? Boost gauge, 300 mm"
        if tap.way == "plugged in":
            words = f"What is plugged into {tap.at}?"
        if ask_line(self, "A new module on the bus", words, "", lay) is not None and made:
            self._hand.pick(made[0])


def _read_module(text: str, tap: Tap) -> tuple[str, float]:
    """Read the name of a module and how long its wires are, m. Raises EditError."""
    if tap.way == "plugged in":
        return text.strip(), LEAD_M
    name, _, far = text.rpartition(",")
    if not name.strip():
        raise EditError("Type its name, a comma, and how long its wires are: Boost gauge, 300 mm.")
    return name.strip(), read_length_m(far)


def _fill(box: Any, items: list[tuple[str, str]]) -> None:
    """Offer other choices, and keep what is chosen where it is among them."""
    chosen = box.currentData()
    box.blockSignals(True)
    box.clear()
    for text, data in items:
        box.addItem(text, data)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    box.blockSignals(False)


def _state(found: Study, code: str) -> tuple[str, str]:
    """Return how a member stands, in a word or two with its role."""
    if code in found.what_if.out:
        return "out", "stop"
    if code == found.sender:
        return "sends", "copper"
    seen = found.seen_by.get(code)
    if seen is not None:
        return (f"{seen.free_v:.2f} V", "proved") if seen.reads_right else ("misreads", "stop")
    half = any(one.half for one in found.bus.members if one.code == code)
    return ("one wire", "stop") if half else ("", "faint")


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
