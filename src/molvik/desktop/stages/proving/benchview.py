"""The bench of a page: what lies on it, the key, what is pulled, two probes and the meter."""

from collections.abc import Iterable
from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.widgets.benchcanvas import HOW, BenchCanvas
from molvik.desktop.widgets.meterface import KEYS, MeterFace
from molvik.desktop.widgets.small import CheckedField, ShortLabel, button, column, label, row
from molvik.model.job import code_order
from molvik.model.parts import End
from molvik.netlist.ends import EndError, read_end
from molvik.netlist.network import Network
from molvik.netlist.stands import on_the_bench
from molvik.proving.benchtop import MOST_SHOWN, what_matters
from molvik.proving.points import Point
from molvik.proving.probing import DEVICE_KEYS, Function, Probing
from molvik.proving.readings import point_of_text

UNPLUGGED = "unplugged"
TURNED = {"accessory": "acc.", "running": "runs"}
MOST_CHIPS = 3

BOTH = "Put both probes down: the battery is off."
CLIPPED = "Black is clipped to the battery's earthed pole until it is put down."


class BenchView(QWidget):
    """read(): what the meter shows is wanted. moved(): the black probe is elsewhere. taken(code): a
    part itself was clicked. turned(to): the key is to be turned, or all unplugged.

    What is pulled and where the key stands belongs to who holds it: it is shown by
    ``show_situation``.
    """

    read = Signal()
    moved = Signal()
    taken = Signal(str)
    turned = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._network: Network | None = None
        self._shown: tuple[str, ...] = ()
        self._first: tuple[str, ...] = ()
        self.key, self.unplugged = "off", False
        self.pulled: frozenset[str] = frozenset()
        self.red = self.black = End()
        self.canvas = BenchCanvas(name, "Nothing lies on the bench yet.")
        self.canvas.setMinimumHeight(150)
        self.canvas.probed.connect(self._probed)
        self.canvas.taken.connect(self.taken)
        self.canvas.again.connect(self.read)
        self.canvas.pressed.connect(self._pressed)
        self.meter = MeterFace()
        self.meter.setFixedWidth(190)
        self.meter.turned.connect(lambda _: self.canvas.setFocus())
        self.where = ShortLabel("")
        self.where.setProperty("role", "faint")
        self._build_key()
        self.lay = CheckedField(
            "Lay on the bench, or probe",
            "Another part by its code: C12. Or where both probes go: C2/14 C9/1 for ohms, "
            "C2/14 in run for volts",
            self._lay,
        )
        self.lay.setPlaceholderText("C12; C2/14 in run")
        self.lay.setMaximumWidth(150)
        self._chips = QHBoxLayout()
        self._chips.setSpacing(4)
        top = row(self._turns, label("OUT", "head"))
        top.addLayout(self._chips)
        top.addStretch(1)
        top.addWidget(self.lay)
        self.beside: QVBoxLayout = column(self.meter, 1, spacing=6)
        """The column of the meter: who holds the bench puts more below it."""
        middle = row(self.canvas)
        middle.addLayout(self.beside)
        middle.setStretch(0, 1)
        below = row(self.where, label(HOW, "faint"))
        below.setStretch(0, 1)
        whole = column(top, middle, below, spacing=6)
        whole.setStretch(1, 1)
        self.setLayout(whole)
        self.show_situation("off", unplugged=False, pulled=frozenset())

    def _build_key(self) -> None:
        self._turns = QWidget()
        inner = QHBoxLayout(self._turns)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(2)
        group = QButtonGroup(self)
        self.turns: dict[str, QPushButton] = {}
        for place, name in enumerate((*DEVICE_KEYS, UNPLUGGED), 1):
            tip = (
                f"Battery off, all plugs, fuses and relays out: for ohms (key {place})"
                if name == UNPLUGGED
                else f"Key to {name}, all plugged in (key {place})"
            )
            made = button(TURNED.get(name, name), tip, partial(self.turned.emit, name), "turn")
            made.setAccessibleName(name)
            made.setCheckable(True)
            group.addButton(made)
            inner.addWidget(made)
            self.turns[name] = made

    # what is shown

    @property
    def function(self) -> Function:
        """What the meter is turned to."""
        return self.meter.function

    @property
    def probing(self) -> Probing:
        """How the meter stands."""
        return Probing(self.function, self.red, self.black, self.key, self.unplugged, self.pulled)

    def show_bench(
        self,
        network: Network,
        codes: Iterable[str],
        most: int = MOST_SHOWN,
        first: Iterable[str] = (),
    ) -> None:
        """Lay what matters for some parts on the bench. first: what stands before all else."""
        self._network = network
        self._shown = what_matters(network, codes, most)
        self._first = tuple(self._homes([code for code in first if code in network.parts]))
        self.lay.offer(sorted(network.parts))
        self._draw()

    def renew(self, network: Network) -> bool:
        """Draw what lies there as it is in another network; return whether it is another."""
        if network is self._network:
            return False
        self._network = network
        self._draw()
        return True

    def show_situation(self, key: str, *, unplugged: bool, pulled: frozenset[str]) -> None:
        """Show where the key stands and what is pulled: that is laid on the bench, too."""
        self.key, self.unplugged, self.pulled = key, unplugged, pulled
        self.turns[UNPLUGGED if unplugged else key].setChecked(True)
        while (item := self._chips.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()  # it is deleted only later
                old.deleteLater()
        codes = sorted(pulled, key=code_order)
        if not codes:
            self._chips.addWidget(label("nothing", "faint"))
        for code in codes[:MOST_CHIPS]:
            tip = f"Put {code} in again"
            chip = button(f"{code} ×", tip, partial(self.taken.emit, code), "turn")
            self._chips.addWidget(chip)
        if len(codes) > MOST_CHIPS:
            self._chips.addWidget(label(f"and {len(codes) - MOST_CHIPS} more", "faint"))
        if self._network is not None:
            self._shown = tuple(dict.fromkeys((*self._shown, *codes)))
        self._draw()
        self._say_where()

    def show_probes(self, red: End, black: End, marked: tuple[str, ...] = ()) -> None:
        """Put both probes down; what they are on is laid on the bench."""
        self.red, self.black = red, black
        lacking = [end.at for end in (red, black) if end.at and not self.canvas.holds(str(end))]
        if lacking and self._network is not None:
            self._shown = tuple(dict.fromkeys((*self._shown, *self._homes(lacking))))
            self._draw()
        self.canvas.show_probes(red, black, marked)
        self.canvas.bring_into_view(str(red), str(black))
        self._say_where()

    def _say_where(self) -> None:
        """Say where the probes are; with none down, how they get there."""
        red, black = self.red, self.black
        names = self._network.end_name if self._network is not None else str
        said = " · ".join(
            f"{name}: {names(end)}" for name, end in (("red", red), ("black", black)) if end.at
        )
        self.where.setText(said or (BOTH if self.unplugged else CLIPPED))

    def _homes(self, codes: list[str]) -> list[str]:
        """Return what is to lie there for some parts: of a device with a plug, its plug."""
        assert self._network is not None
        parts = self._network.parts
        return [getattr(parts.get(code), "plug", "") or code for code in codes]

    def _draw(self) -> None:
        if self._network is not None:
            stands = on_the_bench(self._network, self._shown, self.pulled)
            self.canvas.show_bench(stands, self._first)

    def clear(self) -> None:
        """Let go of what lies there."""
        self._network, self._shown, self._first = None, (), ()
        self.red = self.black = End()
        self.canvas.show_bench(())
        self.canvas.show_probes(End(), End())
        self.meter.show_digits("")
        self.where.setText("")

    # what is done

    def _probed(self, place: str, black: bool) -> None:
        end = End.of(place)
        red, other = (self.red, end) if black else (end, self.black)
        if red == other:  # both at one place: the one that was there goes back
            red, other = (End(), end) if black else (end, End())
        self.show_probes(red, other)
        (self.moved if black else self.read).emit()

    def _pressed(self, letter: str) -> None:
        if letter in KEYS:
            self.meter.buttons[KEYS[letter]].click()
        elif letter.isdigit() and 1 <= int(letter) <= len(self.turns):
            list(self.turns.values())[int(letter) - 1].click()

    def _put(self, point: Point) -> None:
        """Put both probes down, with the key and the meter as a reading there wants them."""
        self.meter.turn_to("Ω" if point.is_on_bench else "V")
        self.turned.emit(UNPLUGGED if point.is_on_bench else point.state)
        self.show_probes(point.red, point.black)
        self.lay.show_value("")
        self.read.emit()

    def _lay(self, text: str) -> None:
        """Lay a part on the bench by its code, or by one of its cavities; or put both probes where
        it is typed, and read. Raises ValueError.
        """
        network, word = self._network, text.strip()
        if network is None or not word:
            return
        if " " in word:
            self._put(point_of_text(network, word))
            return
        code = next((code for code in network.parts if code.upper() == word.upper()), "")
        if not code:
            try:
                code = read_end(word, network).at
            except EndError as error:
                raise ValueError(str(error)) from error
        self._shown = tuple(dict.fromkeys((*self._shown, *self._homes([code]))))
        self._draw()
        self.lay.show_value("")
        drawing = self.canvas.drawing
        areas = drawing.areas if drawing else ()
        here = next((area for area in areas if End.of(area.ref).at in self._homes([code])), None)
        if here is not None:
            self.canvas.ensureVisible(QRectF(*here.box), 12, 12)
            self.canvas.stand_on(here.ref)
            self.canvas.setFocus(Qt.FocusReason.OtherFocusReason)
