"""Steps at the bench, one card at a time, ticked into the job."""

from collections.abc import Callable

from molvik.desktop.dialogs import ask, put_up
from molvik.desktop.logbook import JotDialog
from molvik.desktop.stages.page import StagePage
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.widgets.face import FaceView
from molvik.steps import Step

Ticking = Callable[[Step, str], object]


def at_the_bench(
    page: StagePage,
    title: str,
    steps: Callable[[], tuple[Step, ...]],
    ticked: Callable[[], set[str]],
    tick: Ticking,
    clear: Ticking,
    stage: str,
    draw: Callable[[FaceView, Step], bool] | None = None,
) -> None:
    """Go through steps card by card. tick, clear: put a tick into the job and take it back; a
    ValueError from them is said on the card. stage: that the notes are of. draw: shows a plug.
    """
    cards = StepCards(page, title, steps, ticked, draw)

    def attempt(do: Ticking, step: Step, key: str) -> None:
        try:
            do(step, key)
        except ValueError as error:
            cards.notice.say(str(error))

    def note(subject: str) -> None:
        if subject:
            page.hand.pick(subject)
        ask(JotDialog(cards, page.store, page.hand, stage))
        cards.refresh()

    cards.ticked.connect(lambda step, key: attempt(tick, step, key))
    cards.cleared.connect(lambda step, key: attempt(clear, step, key))
    cards.noted.connect(note)
    cards.shown.connect(lambda subject: page.hand.pick(subject) if subject else None)
    cards.refresh()  # the first card, too, is taken in hand
    put_up(cards)
