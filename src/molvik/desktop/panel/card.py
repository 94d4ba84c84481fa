"""What the panel shows of one kind of thing; each kind has its card in the package of its stage."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.facts import Facts
from molvik.desktop.store import Store
from molvik.model.parts import Colour
from molvik.model.refs import Ref


class Shown(NamedTuple):
    """What is said of a thing. under: the line below its title. removable: it can be taken out of
    the job; changeable: there is a dialog for what it is.
    """

    title: str
    under: str
    facts: Facts
    colour: Colour | None = None
    has_colour: bool = False
    removable: bool = False
    changeable: bool = False


class HandCard:
    """A card of the panel, made when a thing of its kind is first in hand.

    above: what stands first, its story. rows: its fields, each edited in its place. rest: fields
    that are folded away. below: what can be done with it. Any of them may be None. say: shows why
    something was refused.
    """

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        self.store, self.hand, self.say = store, hand, say
        self.above: QWidget | None = None
        self.rows: QWidget | None = None
        self.rest: QWidget | None = None
        self.below: QWidget | None = None

    @property
    def parts(self) -> tuple[QWidget | None, ...]:
        """What it is made of, top to bottom."""
        return self.above, self.rows, self.rest, self.below

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a thing as the job has it, in all its parts."""
        raise NotImplementedError

    def begin(self) -> bool:
        """Put the cursor where one begins to type; say whether there is such a place."""
        return False
