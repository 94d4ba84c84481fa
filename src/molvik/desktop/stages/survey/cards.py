"""Survey in hand: an end or breakout, a stretch, a wire as found, a fault."""

from collections.abc import Callable
from typing import Any

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import Shown
from molvik.desktop.panel.fieldcard import FieldCard
from molvik.desktop.stages.survey.found import show_found
from molvik.desktop.store import Store
from molvik.model.loom_edits import Found, find
from molvik.model.refs import Ref
from molvik.typed.field import Field, Typed, place_text
from molvik.typed.found import (
    FAULT_FIELDS,
    FOUND_FIELDS,
    NODE_FIELDS,
    SEGMENT_FIELDS,
    type_found,
)


class FoundCard(FieldCard):
    """A thing of the loom as found. every: its fields; first: how many of them are not folded."""

    every: tuple[Field[Any], ...] = ()
    first_few = 8

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.lay(self.every[: self.first_few], self.every[self.first_few :], "More of it")

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a thing of the loom."""
        thing = find(analysis.job.loom, ref.code)
        assert thing is not None
        self.show_fields(thing, self.every)
        return show_found(analysis, thing)._replace(removable=True)

    def text_of(self, field: Field[Any], thing: Any) -> str:
        """Return what a field shows; a node with its name."""
        return place_text(field, thing, self.store.job.loom.nodes)

    def typed(self, thing: Found, field: Field[Any], text: str) -> Typed:
        """Read what was typed into a field of it."""
        return type_found(self.store.job, self.store.analysis.network, thing, field, text)


class NodeCard(FoundCard):
    """An end or a breakout."""

    every = NODE_FIELDS


class StretchCard(FoundCard):
    """A stretch."""

    every = SEGMENT_FIELDS
    first_few = 9


class FoundWireCard(FoundCard):
    """A wire as found."""

    every = FOUND_FIELDS
    first_few = 9


class FaultCard(FoundCard):
    """A fault."""

    every = FAULT_FIELDS
