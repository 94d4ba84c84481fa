"""The bench of a round of practice: everything that is done on it goes to the round, and costs."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, Signal
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QMenu

from molvik.desktop.stages.page import AT_ONCE
from molvik.desktop.stages.proving.benchview import UNPLUGGED, BenchView
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, row
from molvik.model.parts import Device, End
from molvik.proving.practice.round import Round, pointed_at

Did = Callable[[Round], str | None]
Aside = Callable[[Callable[[], object], Callable[[object], None]], None]


class PracticeBench(BenchView):
    """acted(words): something was done, and what was seen, if anything. named(code): something is
    said to be what is wrong.

    notice: says what cannot be done; aside: does what takes a while, then calls back; is_free: says
    whether nothing else is being worked out.
    """

    acted = Signal(str)
    named = Signal(str)

    def __init__(self, notice: Notice, aside: Aside, is_free: Callable[[], bool]) -> None:
        super().__init__("The bench, for practice")
        self._notice, self._aside, self._is_free = notice, aside, is_free
        self.round: Round | None = None
        self.read.connect(self.measure)
        self.taken.connect(self._taken)
        self.turned.connect(self.turn)
        self.canvas.asked.connect(self._menu)
        self.canvas.pointed.connect(self._pointed)
        self.canvas.probed.connect(lambda *_: notice.say(""))
        self.lay.refused.connect(notice.say)
        self.look_button = button(
            "Look around",
            "At all that is seen or heard working in this state",
            partial(self._act, lambda it: it.look_around()),
        )
        self.move_button = button(
            "Move it", "Somebody moves it while you look and measure", self._move
        )
        self.heat_button = button("Heat all", "As after an hour's drive: 5 min", self._heat)
        for one in (self.move_button, self.heat_button):
            one.setCheckable(True)
            one.setProperty("role", "turn")
        self.beside.insertWidget(1, self.look_button)
        self.beside.insertLayout(2, row(self.move_button, self.heat_button, spacing=4))

    def play(self, played: Round) -> None:
        """Lay a round on the bench."""
        self.clear()
        self.round = played
        self.show_bench(played.network, [one.device for one in played.hidden.symptoms])
        self.show_round()

    def show_round(self) -> None:
        """Show how the bench stands in the round."""
        played = self.round
        if played is not None:
            self.show_situation(played.key, unplugged=played.unplugged, pulled=played.pulled)
            self.move_button.setChecked(played.moved)
            self.heat_button.setChecked(played.warm)

    def offer(self, *, able: bool, is_on: bool) -> None:
        """Let things be done on it. is_on: whether the round goes on."""
        for widget in (self.canvas, self.meter, self.lay, *self.turns.values()):
            widget.setEnabled(able)
        for one in (self.look_button, self.move_button, self.heat_button):
            one.setEnabled(able)
            one.setVisible(is_on)

    # what is done

    def _act(self, do: Did, *, meter: bool = False) -> None:
        """Do something: in a small job at once, in a large one aside. meter: what comes of it
        stands on the meter; else it was seen.
        """
        played = self.round
        if played is None or played.is_over or not self._is_free():
            self.show_round()
            return
        self._notice.say("")

        def done(said: object) -> None:
            words = str(said or "")
            self.meter.show_digits(words if meter else "")
            self.show_round()
            self.acted.emit("" if meter or not words else f"Seen: {words}.")

        if len(played.job.wires) > AT_ONCE:
            self._aside(lambda: do(played), done)
            return
        try:
            said = do(played)
        except ValueError as error:
            self.show_round()
            self.acted.emit("")
            self._notice.say(str(error))
            return
        done(said)

    def measure(self) -> None:
        """Read the meter as it stands."""
        function, red, black = self.function, self.red, self.black
        self._act(lambda it: it.measure(function, red, black), meter=True)

    def turn(self, to: str) -> None:
        """Turn the key, or unplug all."""
        self._act(lambda it: it.unplug() if to == UNPLUGGED else it.turn(to))

    def _move(self) -> None:
        moved = self.move_button.isChecked()
        self._act(lambda it: it.move(moved))

    def _heat(self) -> None:
        warm = self.heat_button.isChecked()
        self._act(lambda it: it.heat(warm))

    def _taken(self, code: str) -> None:
        """A part itself was clicked: name it, pull it, or look at it."""
        played = self.round
        if played is None:
            return
        if self.canvas.pointing:
            self.named.emit(code)
            return
        part = played.network.parts.get(code)
        looks = isinstance(part, Device) and part.kind != "relay" and code not in played.pulled
        self._act(lambda it: it.look(code) if looks else it.pull(code))

    def _menu(self, ref: str, place: QPoint) -> None:
        """Offer what can be done with a part itself."""
        code = End.of(ref).at
        menu = QMenu(self)
        look: Did = lambda it: it.look(code)  # noqa: E731
        pull: Did = lambda it: it.pull(code)  # noqa: E731
        menu.addAction("Look at it", partial(self._act, look))
        menu.addAction("Pull it, or put it in", partial(self._act, pull))
        menu.addAction(f"It is {code}", partial(self.named.emit, code))
        menu.popup(place)

    def _pointed(self, place: str) -> None:
        """Name what is at a place; where several wires are, ask which."""
        played = self.round
        if played is None:
            return
        codes = pointed_at(played.network, End.of(place))
        if not codes:
            self._notice.say(f"No wire is at {place}: point at what could be wrong.")
            return
        if len(codes) == 1:
            self.named.emit(codes[0])
            return
        menu = QMenu(self)
        for code in codes:
            wire = played.network.wires.get(code)
            part = played.network.parts.get(code)
            name = wire.function if wire is not None else getattr(part, "name", "")
            menu.addAction(f"{code} {name}".strip(), partial(self.named.emit, code))
        menu.popup(QCursor.pos())

    def clear(self) -> None:
        """Let go of the round."""
        super().clear()
        self.round = None
        self.canvas.pointing = False
