"""A card whose rows are typed into, each in its place."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import HandCard
from molvik.desktop.store import Store
from molvik.desktop.widgets.fieldrows import FieldRows
from molvik.desktop.widgets.fold import Fold
from molvik.desktop.widgets.small import CheckedField
from molvik.typed.field import Field, Typed, offered


class FieldCard(HandCard):
    """Holds fields for one kind of thing. fold: the name under which those of ``more`` are folded
    away. fields: what is typed into, by name.
    """

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.fields: dict[str, CheckedField] = {}
        self.first: FieldRows | None = None
        self._typed: dict[str, Field[Any]] = {}
        self._thing: Any = None

    def lay(
        self, first: Sequence[Field[Any]], more: Sequence[Field[Any]] = (), fold: str = ""
    ) -> None:
        """Make the rows: those that are always in view, and those that are folded away."""
        for field in (*first, *more):
            entry = CheckedField(field.name, field.tip, partial(self._take, field.name))
            entry.refused.connect(self.say)
            entry.taken.connect(partial(self.say, ""))
            self.fields[field.name] = entry
        self.first = FieldRows([self.fields[field.name] for field in first])
        self.rows = self.first
        if more:
            rest = Fold(fold, FieldRows([self.fields[field.name] for field in more]))
            self.first.over.connect(rest.unfold)
            self.rest = rest

    def show_fields(self, thing: Any, fields: Sequence[Field[Any]]) -> None:
        """Show a thing's fields; those it has not are hidden."""
        if self._thing is not None and thing.code != self._thing.code:
            for entry in self.fields.values():
                entry.finish()  # what was typed belongs to the thing it was typed for
        self._thing = thing
        self._typed = {field.name: field for field in fields}
        for name, entry in self.fields.items():
            field = self._typed.get(name)
            if field is not None:
                entry.describe(field.tip, offered(field, self.store.job))
                entry.show_value(self.text_of(field, thing))
        if self.first is not None:
            self.first.show_only(set(self._typed))

    def begin(self) -> bool:
        """Put the cursor into the first field."""
        if self.first is None:
            return False
        self.first.begin()
        return True

    def _take(self, name: str, text: str) -> None:
        self.store.take(self.typed(self._thing, self._typed[name], text))

    def text_of(self, field: Field[Any], thing: Any) -> str:
        """Return what a field shows of a thing."""
        return field.show(thing)

    def typed(self, thing: Any, field: Field[Any], text: str) -> Typed:
        """Read what was typed into a field of a thing; a ValueError refuses it."""
        raise NotImplementedError
