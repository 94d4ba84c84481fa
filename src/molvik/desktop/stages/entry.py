"""What a stage brings to the window; each says so itself, as ``ENTRY`` of its package."""

from collections.abc import Callable
from importlib import import_module
from typing import Literal, NamedTuple

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.model.refs import Ref
from molvik.stages import Stage


class Action(NamedTuple):
    """A thing to do from the menu, wherever one is: the stage is opened and its page does it.

    method: of the page. help: for the list of keys, empty for none.
    """

    menu: Literal["Job", "Edit"]
    text: str
    keys: str
    method: str
    help: str = ""


def shows_nothing(analysis: Analysis, ref: Ref) -> bool:
    """Return that a place cannot be seen."""
    return False


class Entry(NamedTuple):
    """A stage in the window. page: "module:Class", loaded when first opened; empty while the stage
    is not built, and will_do says what it will do. shows: whether a place can be seen here. keys:
    lines for the list of keys.
    """

    page: str = ""
    shows: Callable[[Analysis, Ref], bool] = shows_nothing
    actions: tuple[Action, ...] = ()
    keys: str = ""
    will_do: str = ""

    def build(self, store: Store, hand: Hand, stage: Stage) -> StagePage:
        """Return its page."""
        if not self.page:
            from molvik.desktop.stages.ahead import AheadPage

            return AheadPage(store, hand, stage.name, self.will_do)
        module, _, kind = self.page.partition(":")
        page: StagePage = getattr(import_module(module), kind)(store, hand)
        return page


def shows_wire(analysis: Analysis, ref: Ref) -> bool:
    """Return whether a place is a wire."""
    return ref.code in analysis.network.wires
