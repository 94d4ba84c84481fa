"""Step at the bench: one large card at a time, read from two metres, driven with one hand."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLabel, QProgressBar, QVBoxLayout, QWidget

from molvik.desktop.theme import font
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.paint import Swatch
from molvik.desktop.widgets.plugmap import MarksLegend, PlugMapView
from molvik.desktop.widgets.probes import Drawn, Probes
from molvik.desktop.widgets.small import button, label, row, set_role
from molvik.drawing.marks import TIED
from molvik.model.refs import Ref
from molvik.netlist.plugmap import PlugMap
from molvik.steps import Step

BIG_PX = 96
"""Cavity numbers, to be read from two metres."""

HEADLINE_PX = 54
DETAIL_PX = 26
LEAST_READ = 0.5
"""Plugs are drawn no smaller than this of their usual size: more of them are scrolled to."""


LONGEST_TYPED = 9
"""No reading is longer; in letters of this size more would not fit."""


class StepCards(QDialog):
    """Cards for a list of steps. ticked(step, key): Space ticks the next part of a step;
    cleared(step, key): Backspace takes the last one away; noted(subject): N. answered(step, text):
    what was typed on the card of a step that asks for something. photo_wanted: P.

    steps, done: asked anew after every key, so that the cards follow the job. draw: shows the
    connector of a step in a face; says whether there is one; probe: the same for where a probe is;
    tie: returns the plugs with what is tied together in a step.
    """

    ticked = Signal(object, str)
    cleared = Signal(object, str)
    noted = Signal(str)
    answered = Signal(object, str)
    shown = Signal(str)
    pedal_learnt = Signal(int)
    photo_wanted = Signal()

    def __init__(
        self,
        parent: QWidget,
        title: str,
        steps: Callable[[], Sequence[Step]],
        done: Callable[[], set[str]],
        draw: Callable[[FaceView, Step], bool] | None = None,
        probe: Drawn | None = None,
        tie: Callable[[Step], PlugMap] | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(1180, 720)
        self._steps, self._done, self._draw, self._probe = steps, done, draw, probe
        self._tie = tie
        self._tied: tuple[tuple[str, ...], ...] = ()
        self.meter: Callable[[Step], bool] | None = None
        """Reads an instrument for a step when nothing was typed; says whether it does."""
        self.reads: Callable[[], bool] = lambda: False
        """Whether there is an instrument to be read."""
        self.pedal = 0
        """A key that does what Space does: that of a foot pedal, learnt by pressing it."""
        self._learning = False
        self.skips_done = False
        """Whether going on leaves out what is done."""
        self.at = 0
        self.typed = ""
        self._kept = False
        """Whether what was typed on this card was taken, though it is not what it should be."""
        self._build_labels()
        keys = (
            "Space: done, next   Backspace: back, not done   ← →: look   F: turn   N: note   "
            "Esc: stop"
        )
        whole = QVBoxLayout(self)
        whole.setContentsMargins(40, 26, 40, 26)
        whole.addLayout(row(self.count, 1))
        whole.addWidget(self.first)
        whole.addStretch(1)
        whole.addWidget(self.headline)
        self.swatch = Swatch(150, 26)
        whole.addLayout(row(self.swatch, self.detail, spacing=18))
        whole.addLayout(row(self.big, self.face, spacing=30), 4)
        whole.addWidget(self.probes, 6)
        whole.addLayout(row(self.tied_legend, self.tied_side, 1))
        whole.addWidget(self.tied, 8)
        whole.addWidget(self.state)
        whole.addWidget(self.notice)
        whole.addStretch(1)
        whole.addWidget(self.progress)
        tick = button("Done", "Tick it and go on (Space)", self.tick, "action")
        back = button("Back", "Go back and take the tick away (Backspace)", self.back)
        note = button("Note", "Note a problem (N)", self._note)
        self.pedal_button = button(
            "Pedal…",
            "Press this, then the foot pedal: from then on it does what Space does",
            self.learn,
        )
        for push_button in (tick, back, note, self.pedal_button):
            push_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # Space belongs to the card
        self.below = row(label(keys, "faint"), 1, self.pedal_button, note, back, tick)
        whole.addLayout(self.below)
        waiting = [n for n, step in enumerate(self._steps()) if not step.is_done(self._done())]
        self.at = waiting[0] if waiting else 0
        self.refresh()

    def _build_labels(self) -> None:
        self.first = label("", "look", wrap=True)
        self.first.setStyleSheet(f"font-size: {DETAIL_PX - 4}px;")
        self.big = label("")
        self.big.setFont(font(BIG_PX, bold=True, mono=True))
        self.big.setStyleSheet(f"font-size: {BIG_PX}px; font-weight: bold;")
        self.face = FaceView(largest=46)
        self.face.face = "wire side"
        self.face.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.probes = Probes()
        self.tied = PlugMapView("What is tied together", "")
        self.tied.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.tied_legend = MarksLegend(TIED)
        self.tied_side = label("", "faint")
        self.tied.turned.connect(lambda _: self._show_side())
        self._show_side()
        self.notice = Notice(over=True)
        self.count = label("", "faint")
        self.headline = label("", wrap=True)
        self.headline.setFont(font(HEADLINE_PX, bold=True))
        self.headline.setStyleSheet(f"font-size: {HEADLINE_PX}px; font-weight: bold;")
        self.detail = label("", wrap=True)
        self.detail.setStyleSheet(f"font-size: {DETAIL_PX}px;")
        self.state: QLabel = label("", wrap=True)
        self.state.setStyleSheet(f"font-size: {DETAIL_PX}px;")
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)

    def current(self) -> Step | None:
        """Return the step on the card."""
        steps = self._steps()
        return steps[self.at] if 0 <= self.at < len(steps) else None

    def is_done(self, step: Step) -> bool:
        """Return whether all of a step is done."""
        return step.is_done(self._done())

    def refresh(self) -> None:
        """Show the card."""
        steps, done = self._steps(), self._done()
        self.at = max(0, min(self.at, len(steps) - 1))
        step = self.current()
        finished = sum(step.is_done(done) for step in steps)
        self.progress.setRange(0, max(1, len(steps)))
        self.progress.setValue(finished)
        self._show_place(step)
        if step is None:
            self.headline.setText("Nothing to do here.")
            for text_label in (self.detail, self.state, self.count, self.first):
                text_label.setText("")
            return
        self.count.setText(f"Step {self.at + 1} of {len(steps)} · {finished} done")
        # With the cavities drawn large, the headline gives way to them; with many plugs, all does.
        size = HEADLINE_PX if self.big.isHidden() else HEADLINE_PX - 20
        big = BIG_PX if self.tied.isHidden() else BIG_PX // 2
        self.big.setStyleSheet(f"font-size: {big}px; font-weight: bold;")
        self.headline.setStyleSheet(f"font-size: {size}px; font-weight: bold;")
        self.headline.setText(step.do)
        self.detail.setText(step.detail)
        self.first.setText(f"First: {step.first}" if step.first else "")
        self.first.setVisible(bool(step.first))
        is_done = step.is_done(done)
        words = "✓ done" if is_done else "not done yet"
        if step.ticks != ("done",):
            words = "    ".join(
                f"{'✓' if step.tick_key(tick) in done else '○'} {tick}" for tick in step.ticks
            )
        if finished == len(steps):
            words += " · all steps are done"
        self.state.setText(words)
        set_role(self.state, "proved" if is_done else "look")
        if step.asks:
            words = f"{'✓ ' if is_done else ''}{step.shown or 'not known yet'}"
            how = "type it, or leave it empty and press Space: the meter is read"
            if self.meter is None or not self.reads():
                how = "type it and press Enter; Enter alone goes on"
            self.state.setText(f"{words}    {how}")
        self.setAccessibleName(f"{step.do}. {step.detail}. {words}")
        self.shown.emit(step.subject)

    def _show_place(self, step: Step | None) -> None:
        """Show which cavity, in figures to be read from two metres, and where it is."""
        places = [step.take, step.put] if step else []
        cavities = [Ref.parse(place).cavity or "·" for place in places]
        drawn = step is not None and any(places)
        self.big.setVisible(drawn)
        self.swatch.setVisible(step is not None and step.colour is not None)
        self.swatch.show_colour(step.colour if step else None)
        self.big.setText(" → ".join(cavities) if drawn else "")
        if step is not None and step.asks:
            self.big.setVisible(True)
            self.big.setText(self.typed or f"e.g. {step.asks}")
            set_role(self.big, "" if self.typed else "faint")
        self.probes.show_places(step.probes if step else (), self._probe)
        ties = step is not None and bool(step.tied) and self._tie is not None
        for widget in (self.tied, self.tied_legend, self.tied_side):
            widget.setVisible(ties)
        if ties and step is not None and self._tie is not None and step.tied != self._tied:
            self._tied = step.tied
            self.tied.show_map(self._tie(step))
            self.tied.fit_all()
            self.tied.zoom_to(max(self.tied.zoom, LEAST_READ))
        self.face.setVisible(drawn and self._draw is not None)
        if drawn and step is not None and self._draw is not None:
            self.face.setVisible(self._draw(self.face, step))

    def _show_side(self) -> None:
        """Say from which side the plugs are seen: the other way round each is on another pin."""
        self.tied_side.setText(f"seen from the {self.tied.face} · F turns them")

    def tick(self) -> None:
        """Tick the next part of the step; after its last, go on to the next step."""
        step = self.current()
        if step is None:
            return
        if step.asks:
            self._answer(step)
            return
        done = self._done()
        waiting = [tick for tick in step.ticks if step.tick_key(tick) not in done]
        self.notice.say("")
        if waiting:
            self.ticked.emit(step, step.tick_key(waiting[0]))
        if step.is_done(self._done()):
            self._next()
        self.refresh()

    def _answer(self, step: Step) -> None:
        """Give what was typed to the step and go on; what is refused stays to be mended."""
        self.notice.say("")
        kept, self._kept = self._kept, False
        if not (self.typed or kept) and self.meter is not None and self.meter(step):
            self.state.setText("reading the meter …")
            return
        if self.typed:
            self.answered.emit(step, self.typed)
            if self.notice.text():
                return
        self.go_on()

    def keep(self, words: str) -> None:
        """Say that what was typed is kept though it is not what it should be: Enter goes on, and
        what is typed next begins anew.
        """
        self.typed, self._kept = "", True
        self.refresh()
        self.notice.say(words)

    def go_on(self) -> None:
        """Show the next card."""
        self.typed, self._kept = "", False
        self._next()
        self.refresh()

    def _next(self) -> None:
        """Go to the next step, or past those that are done."""
        steps, done = self._steps(), self._done()
        waiting = [n for n in range(self.at + 1, len(steps)) if not steps[n].is_done(done)]
        self.at = waiting[0] if self.skips_done and waiting else self.at + 1

    def learn(self) -> None:
        """Take the next key for that of the pedal."""
        self._learning = True
        self.notice.say(
            "Press the foot pedal now: it does what Space does from then on. Esc gives up."
        )

    def _learn(self, key: int) -> None:
        self._learning = False
        self.notice.say("")
        if key != Qt.Key.Key_Escape:
            self.pedal = key
            self.pedal_learnt.emit(key)

    def back(self) -> None:
        """Take the last tick away; with none on this step, go back to the one before."""
        step = self.current()
        if step is not None and not self._ticks_of(step):
            self.at = max(0, self.at - 1)
            step = self.current()
        if step is not None:
            ticks = self._ticks_of(step)
            if ticks:
                self.cleared.emit(step, ticks[-1])
        self.notice.say("")
        self.refresh()

    def _ticks_of(self, step: Step) -> list[str]:
        done = self._done()
        return [key for tick in step.ticks if (key := step.tick_key(tick)) in done]

    def _note(self) -> None:
        step = self.current()
        if step is not None:
            self.noted.emit(step.subject)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Drive the cards with one hand."""
        step = self.current()
        if self._learning:
            self._learn(event.key())
            return
        if self.pedal and event.key() == self.pedal:
            self.tick()
            return
        if step is not None and step.asks and self._types(event):
            return
        match event.key():
            case Qt.Key.Key_Space | Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.tick()
            case Qt.Key.Key_Backspace:
                self.back()
            case Qt.Key.Key_N:
                self._note()
            case Qt.Key.Key_P:
                self.photo_wanted.emit()
            case Qt.Key.Key_F:
                self.tied.turn()
                for face in (self.face, *(face for _, face in self.probes.sides)):
                    face.turn()
            case Qt.Key.Key_Left:
                self._look(-1)
            case Qt.Key.Key_Right:
                self._look(1)
            case _:
                super().keyPressEvent(event)

    def _look(self, by: int) -> None:
        self.at += by
        self.typed, self._kept = "", False
        self.notice.say("")
        self.refresh()

    def _types(self, event: QKeyEvent) -> bool:
        """Take a key up into what is typed on the card; return whether it was one for that."""
        text, step = event.text(), self.current()
        assert step is not None
        fits = text.isdigit() or (bool(text) and text in f".,{step.begins}")
        if event.key() == Qt.Key.Key_Backspace and self.typed:
            self.typed = self.typed[:-1]
        elif fits or (self.typed and text and text in step.letters):
            self.typed = (self.typed + text)[:LONGEST_TYPED]
        else:
            return False
        self.refresh()
        return True
