"""Asks what is the same, where things that come to the shelf lie there already."""

from collections.abc import Mapping
from typing import Literal

from PySide6.QtWidgets import QWidget

from molvik.desktop.dialogs.questions import Answer, question
from molvik.model.stock import StockItem, same_thing, unit_of
from molvik.wording import some

Same = Literal["more", "count", "leave"]
"""It is more of it; it is what was counted there; it is left as it is."""

MOST = 6


def known_on(shelf: tuple[StockItem, ...], items: tuple[StockItem, ...]) -> dict[int, StockItem]:
    """Return which of some things lie on the shelf already, by their places, with what lies there;
    each thing there is met once.
    """
    left = list(shelf)
    found: dict[int, StockItem] = {}
    for place, item in enumerate(items):
        there = next((one for one in left if same_thing(one, item)), None)
        if there is not None:
            left.remove(there)
            found[place] = there
    return found


def ask_same(
    parent: QWidget,
    known: Mapping[int, StockItem],
    items: tuple[StockItem, ...],
    source: str,
) -> Same | None:
    """Ask what things are that lie there already; None when nothing is to be done. source: what
    they come from, in words.
    """
    lines = []
    for place, there in known.items():
        unit = unit_of(there.kind)
        what = " ".join(
            filter(None, (there.kind, there.name, str(there.size or ""), str(there.colour or "")))
        )
        lines.append(
            f"{there.code} {what}: {there.amount:g} {unit} there, {items[place].amount:g} {unit} "
            f"in {source}"
        )
    title = f"{len(known)} {'thing lies' if len(known) == 1 else 'things lie'} there already"
    answer = question(
        parent,
        title,
        f"{some(lines, MOST, '; ')}.",
        "New things are put on the shelf whatever you choose. Undo takes all of it back.",
        [
            Answer("leave", "It is the same: leave it"),
            Answer("count", "It was counted again"),
            Answer("more", "It is more of it"),
        ],
    )
    return answer if answer in ("more", "count", "leave") else None  # type: ignore[return-value]
