"""What lies on the shelf."""

from typing import Literal

from molvik.model.parts import Colour, Value, WireSize

StockKind = Literal["wire", "sleeve", "terminal", "seal", "cavity plug", "splice", "tape", "other"]
BY_THE_METRE: tuple[StockKind, ...] = ("wire", "sleeve", "tape")
"""Kinds that are counted in metres; the others in pieces."""


class StockItem(Value, frozen=True):
    """One kind of thing in stock.

    amount: metres for wire, sleeve and tape, else pieces. price: for one metre or piece, in
    currency. bore_mm: of a sleeve as it goes on, mm; least_mm: what it comes down to where it
    shrinks or gathers, mm. covering: which it is, a key of ``reference.coverings``. insulation: a
    key of ``reference.insulation``. where: where it lies.
    """

    code: str
    kind: StockKind = "wire"
    name: str = ""
    size: WireSize | None = None
    insulation: str = ""
    colour: Colour | None = None
    bore_mm: float | None = None
    amount: float = 0.0
    price: float = 0.0
    currency: str = ""
    where: str = ""
    least_mm: float | None = None
    covering: str = ""
