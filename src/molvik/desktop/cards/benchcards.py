"""Steps at the bench, one card at a time, ticked into the job."""

from collections.abc import Callable
from functools import partial

from molvik.desktop.beside.logline import JotDialog
from molvik.desktop.cards.cameracards import CameraCards
from molvik.desktop.dialogs.opening import ask, put_up
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.widgets.face import FaceView
from molvik.drawing.marks import TIED, Marked
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.log import Tick
from molvik.model.parts import End
from molvik.netlist.plugmap import PlugMap
from molvik.steps import Step

PEDAL = "bench/pedal"
"""The key of the foot pedal, among the settings of who works here."""

Ticking = Callable[[Step, str], object]


def no_tick(step: Step, key: str) -> None:
    """A card that is typed on has no ticks."""


class TickList:
    """The ticks of a list of steps in the job, by its name."""

    def __init__(self, store: Store, name: str) -> None:
        self._store, self._name = store, name

    def ticked(self) -> set[str]:
        """Return what is ticked."""
        return {tick.step for tick in self._store.job.ticks if tick.list == self._name}

    def tick(self, step: Step, key: str) -> None:
        """Tick a step, or one of its ticks."""
        made = Tick(self._name, key, now_text(), self._store.job.settings.measured_by)
        self._store.do(f"Tick {key}", lambda job: edits.tick(job, made))

    def clear(self, step: Step, key: str) -> None:
        """Take a tick back."""
        self._store.do(f"Clear {key}", lambda job: edits.untick(job, self._name, key))


def at_the_bench(
    page: StagePage,
    title: str,
    steps: Callable[[], tuple[Step, ...]],
    ticked: Callable[[], set[str]],
    tick: Ticking,
    clear: Ticking,
    stage: str,
    draw: Callable[[FaceView, Step], bool] | None = None,
    answer: Callable[[Step, str], str | None] | None = None,
    meter: Callable[[StepCards, Step], bool] | None = None,
    reads: Callable[[], bool] = lambda: False,
    photographed: Callable[[Step], bool] | None = None,
) -> None:
    """Go through steps card by card. tick, clear: put a tick into the job and take it back; a
    ValueError from them is said on the card. stage: that the notes are of. draw: shows a plug.
    answer: takes what was typed on a card; returns what is to be said of what it kept all the
    same. meter: reads an instrument for a card on which nothing was typed; says whether it does;
    reads: whether there is one. photographed: whether a step is done by a photo of what it is of.
    """

    def probe(face: FaceView, place: str) -> bool:
        end = End.of(place)
        plug = page.store.job.connector(end.at)
        if plug is not None:
            face.show_connector(plug, page.analysis)
            face.choose(end.cavity)
        return plug is not None

    def tie(step: Step) -> PlugMap:
        marks = {
            End.of(place): Marked(mark)
            for (mark, _), group in zip(TIED, step.tied, strict=True)
            for place in group
        }
        return PlugMap(page.analysis.network, marks)

    cards = StepCards(page, title, steps, ticked, draw, probe, tie)
    if meter is not None:
        cards.meter, cards.reads = partial(meter, cards), reads
    settings = getattr(page.window(), "settings", None)
    if settings is not None:
        cards.pedal = int(settings.value(PEDAL, 0) or 0)
        cards.pedal_learnt.connect(lambda key: settings.setValue(PEDAL, key))

    def attempt(do: Callable[[Step, str], object], step: Step, text: str) -> None:
        try:
            kept = do(step, text)
        except ValueError as error:
            cards.notice.say(str(error))
        else:
            if isinstance(kept, str) and kept:
                cards.keep(kept)

    def note(subject: str) -> None:
        if subject:
            page.hand.pick(subject)
        ask(JotDialog(cards, page.store, page.hand, stage))
        cards.refresh()

    cards.ticked.connect(lambda step, key: attempt(tick, step, key))
    cards.cleared.connect(lambda step, key: attempt(clear, step, key))
    if answer is not None:
        cards.answered.connect(lambda step, text: attempt(answer, step, text))
    cards.noted.connect(note)
    cards.shown.connect(lambda subject: page.hand.pick(subject) if subject else None)
    if photographed is not None:
        CameraCards(page, cards, photographed)
    cards.refresh()  # the first card, too, is taken in hand
    put_up(cards)
