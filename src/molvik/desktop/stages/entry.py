"""What a stage brings to the window; each says so itself, as ``ENTRY`` of its package."""

from collections.abc import Callable
from importlib import import_module
from typing import Any, Literal, NamedTuple

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.facts import Facts
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.model.refs import Ref
from molvik.stages import Stage


class Action(NamedTuple):
    """A thing to do from the menu, wherever one is: the stage is opened and its page does it.

    method: of the page.
    """

    menu: Literal["Job", "Edit"]
    text: str
    keys: str
    method: str


class Card(NamedTuple):
    """What the panel shows of a kind of thing. holds: whether a place is one. made_by:
    "module:Class" of its ``HandCard``, loaded when such a thing is first in hand.
    """

    holds: Callable[[Analysis, Ref], bool]
    made_by: str


def named(where: str) -> Any:
    """Return what "module:Name" names."""
    module, _, name = where.partition(":")
    return getattr(import_module(module), name)


def shows_nothing(analysis: Analysis, ref: Ref) -> bool:
    """Return that a place cannot be seen."""
    return False


class Entry(NamedTuple):
    """A stage in the window. page: "module:Class", loaded when first opened. shows: whether a place
    can be seen here. keys: lines for the list of keys. cards: of the things that are its own;
    facts: "module:function" that says what this stage knows of whatever is in hand, and facts_at
    where among those of the others: the lowest number first.
    """

    page: str = ""
    shows: Callable[[Analysis, Ref], bool] = shows_nothing
    actions: tuple[Action, ...] = ()
    keys: str = ""
    cards: tuple[Card, ...] = ()
    facts: str = ""
    facts_at: int = 50

    def build(self, store: Store, hand: Hand, stage: Stage) -> StagePage:
        """Return its page."""
        page: StagePage = named(self.page)(store, hand)
        return page

    def facts_of(self, analysis: Analysis, ref: Ref) -> Facts:
        """Return what this stage knows of what is in hand."""
        found: Facts = named(self.facts)(analysis, ref) if self.facts else []
        return found


def shows_wire(analysis: Analysis, ref: Ref) -> bool:
    """Return whether a place is a wire."""
    return ref.code in analysis.network.wires
