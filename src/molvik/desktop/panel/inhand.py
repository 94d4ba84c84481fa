"""The panel on the right: whatever is in hand, the same in every stage, each thing said once."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from molvik.desktop.dialogs.parts import change_part
from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import HandCard, Shown
from molvik.desktop.panel.facts import FactList
from molvik.desktop.stages.entry import Card, named
from molvik.desktop.stages.page import known_now
from molvik.desktop.stages.registry import ENTRIES, card_of
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.paint import Swatch
from molvik.desktop.widgets.problems import Problems
from molvik.desktop.widgets.small import SidewaysLabel, button, column, label, row
from molvik.desktop.widgets.thumbs import Thumbs
from molvik.findings.accepting import Judged
from molvik.wording import visible

AS_WIDE_AS_MAY_BE = 16_777_215
"""Qt's own word for no limit."""

NOTHING = Shown("Nothing", "Choose a wire, a cavity or a part: its story shows here.", [])


class InHand(QWidget):
    """Shows the subject in hand. removed(code): the user wants it taken out of the job.

    photos_wanted: photos are to be added. opened, folded: the user wants to see it, or not. left:
    to go back to where one came from.
    """

    LEAST_PX = 250
    FOLDED_PX = 46

    removed = Signal(str)
    photos_wanted = Signal()
    opened = Signal()
    folded = Signal()
    left = Signal()

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self.setObjectName("hand")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._store, self._hand = store, hand
        self.title = label("", wrap=True)
        self.title.setObjectName("handTitle")
        self.swatch = Swatch()
        self.under = label("", "faint", wrap=True)
        self.problems = Problems()
        self.facts = FactList()
        self.notice = Notice(over=True)
        self.card: HandCard | None = None
        """Of the kind of thing that is in hand, None for nothing."""
        self._made: dict[str, HandCard] = {}
        self._waits = False
        self.change = button("Change…", "Its name, rating, terminals or housing", self._change)
        self.remove = button(
            "Delete from the job", "Remove it; can be undone", self._remove, "quiet"
        )
        # Who types along the rows must not come to a button that removes: it wants the mouse.
        self.remove.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.thumbs = Thumbs()
        tip = "Photos of what is in hand (Ctrl+Shift+P); or drop them on this panel"
        self.add_photos = button("Add photos…", tip, self.photos_wanted.emit, "quiet")
        self._open = self._body()
        self._opener = button("‹", "Open what is in hand (F6)", self.opened.emit, "quiet")
        self._opener.setAccessibleName("Open what is in hand")
        self._opener.hide()
        self._code = SidewaysLabel()
        self._code.hide()
        self.setLayout(column(self._opener, self._code, self._open, spacing=0))
        self.is_folded = False
        self.setMinimumWidth(self.LEAST_PX)
        hand.picked.connect(lambda _: self.refresh())

    def _body(self) -> QScrollArea:
        body = QWidget()
        body.setObjectName("handBody")
        inner = QVBoxLayout(body)
        inner.setContentsMargins(18, 14, 14, 14)
        inner.setSpacing(8)
        self.folder = button("›", "Fold the panel away", self.folded.emit, "quiet")
        self.folder.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.folder.setAccessibleName("Fold the panel away")
        inner.addLayout(row(label("IN HAND", "head"), 1, self.folder))
        inner.addWidget(self.title)
        inner.addLayout(row(self.swatch, self.under))
        self._of_stage = QVBoxLayout()
        inner.addLayout(self._of_stage)
        self._stage_card: QWidget | None = None
        inner.addWidget(self.thumbs)
        self._places = tuple(QVBoxLayout() for _ in range(4))
        above, rows, rest, below = self._places
        inner.addLayout(above)
        inner.addWidget(self.problems)
        inner.addWidget(self.notice)
        inner.addLayout(rows)
        inner.addWidget(self.facts)
        inner.addLayout(rest)
        inner.addLayout(below)
        inner.addLayout(row(self.change, self.add_photos, 1))
        inner.addLayout(row(self.remove, 1))
        inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return scroll

    def show_card(self, card: QWidget | None) -> None:
        """Show what the open stage has to say of what is in hand, in place of the last one's."""
        if card is self._stage_card:
            return
        if self._stage_card is not None:
            self._stage_card.hide()
        if card is not None and card.parentWidget() is not self._of_stage.parentWidget():
            self._of_stage.addWidget(card)
        self._stage_card = card

    def show_findings(self, findings: Sequence[Judged]) -> None:
        """Take up what was found in the job, and show what is about what is in hand."""
        self.problems.take(findings)
        self.problems.show_on(self._hand.subject)

    def fold(self, folded: bool) -> None:
        """Become a narrow strip, or be whole again."""
        self.is_folded = folded
        self._open.setVisible(not folded)
        self._opener.setVisible(folded)
        self._code.setVisible(folded)
        self.setMinimumWidth(self.FOLDED_PX if folded else self.LEAST_PX)
        self.setMaximumWidth(self.FOLDED_PX if folded else AS_WIDE_AS_MAY_BE)

    def begin(self) -> bool:
        """Put the cursor where one begins to type; say whether there is such a place."""
        return self.card is not None and self.card.begin()

    def refresh(self) -> None:
        """Show the subject in hand as the job has it now."""
        analysis, ref = self._store.analysis, self._hand.ref
        self.notice.say("")
        self.thumbs.show_photos(self._store.job.photos_on(self._hand.subject))
        self._take_up(card_of(analysis, ref))
        shown = self.card.show(analysis, ref) if self.card else NOTHING
        self._code.setText(f"In hand: {self._hand.subject or 'nothing'}")
        self._opener.setEnabled(bool(self._hand.subject))
        self.title.setText(visible(shown.title))
        self.under.setText(visible(shown.under))
        self.swatch.setVisible(shown.has_colour)
        self.swatch.show_colour(shown.colour)
        self.remove.setVisible(shown.removable)
        self.change.setVisible(shown.changeable)
        self.add_photos.setVisible(self.card is not None)
        self.problems.show_on(self._hand.subject)
        facts = list(shown.facts)
        if self.card is not None:
            self._waits = not known_now(analysis)
            for entry in sorted(ENTRIES.values(), key=lambda entry: entry.facts_at):
                facts += entry.facts_of(analysis, ref)
        self.facts.show_facts(facts)

    def _take_up(self, wanted: Card | None) -> None:
        """Show the card of a kind of thing in place of another's."""
        card = None
        if wanted is not None:
            if wanted.made_by not in self._made:
                made: HandCard = named(wanted.made_by)(self._store, self._hand, self.notice.say)
                self._made[wanted.made_by] = made
                for place, widget in zip(self._places, made.parts, strict=True):
                    if widget is not None:
                        place.addWidget(widget)
            card = self._made[wanted.made_by]
        if card is self.card:
            return
        for taken, seen in ((self.card, False), (card, True)):
            for widget in taken.parts if taken else ():
                if widget is not None:
                    widget.setVisible(seen)
        self.card = card

    def fill_in(self) -> None:
        """Show what was computed meanwhile."""
        if self._waits:
            self._waits = False
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc, where nothing is being typed, goes back to where one came from."""
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)

    def _change(self) -> None:

        change_part(self, self._store, self._hand.subject)

    def _remove(self) -> None:
        self.removed.emit(self._hand.subject)
