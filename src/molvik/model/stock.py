"""What lies on the shelf, and what was cut from it for a job."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from msgspec.structs import replace

from molvik.model.parts import Colour, Value, WireSize

StockKind = Literal["wire", "sleeve", "terminal", "seal", "cavity plug", "splice", "tape", "other"]
BY_THE_METRE: tuple[StockKind, ...] = ("wire", "sleeve", "tape")
"""Kinds that are counted in metres; the others in pieces."""


def unit_of(kind: StockKind) -> str:
    """Return in what a kind is counted: m or pieces."""
    return "m" if kind in BY_THE_METRE else "pieces"


class StockItem(Value, frozen=True):
    """One kind of thing in stock.

    amount: metres for wire, sleeve and tape, else pieces. price: for one metre or piece, in
    currency (ISO 4217). bore_mm: of a sleeve as it goes on, mm; least_mm: what it comes down to
    where it shrinks or gathers, mm. covering: which it is, a key of ``reference.coverings``.
    insulation: a key of ``reference.insulation``. where: where it lies.
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


def same_thing(one: StockItem, other: StockItem) -> bool:
    """Return whether two are the same kind of thing, however much there is, where and for what
    price.
    """
    return _plain(one) == _plain(other)


def _plain(item: StockItem) -> StockItem:
    name = " ".join(item.name.lower().split())
    return replace(item, code="", name=name, amount=0.0, price=0.0, currency="", where="")


class Taken(Value, frozen=True):
    """What was cut from the shop's shelf for the job.

    id: a random name, by which the shelf books it once whatever happens. shelf: which shelf it was
    on, by the shelf's own random name. what: the thing as it was then; its amount is how much was
    cut. on: the wire as found, or the run of a loom to build, that it is for; empty for what many
    share. at: when (ISO 8601).
    """

    id: str
    shelf: str
    what: StockItem
    on: str = ""
    at: str = ""


class Others(NamedTuple):
    """What other jobs have reserved of one thing. titles: whose, each with how much."""

    amount: float
    titles: tuple[tuple[str, float], ...]


class Shelf(NamedTuple):
    """What one job sees of the shop's shelf.

    items: what lies there, all of it. reserved: how much of each this job has reserved, by code;
    others: what others have. brought: the codes of the job's own list that were put on the shelf
    already. booked: the cuts for this job that the shelf knows; given_back: the ids of
    those that it took back. name: the shelf's own random name, empty for none.
    """

    items: tuple[StockItem, ...] = ()
    reserved: Mapping[str, float] = MappingProxyType({})
    others: Mapping[str, Others] = MappingProxyType({})
    brought: frozenset[str] = frozenset()
    booked: tuple[Taken, ...] = ()
    given_back: frozenset[str] = frozenset()
    name: str = ""

    def free(self, item: StockItem) -> float:
        """Return how much of a thing this job may take, in its unit: not what others reserved."""
        others = self.others.get(item.code)
        return max(0.0, round(item.amount - (others.amount if others else 0.0), 6))

    def stock(self, own: tuple[StockItem, ...]) -> tuple[StockItem, ...]:
        """Return all that a job may take: what it brought itself and what is free on the shelf."""
        mine = tuple(item for item in own if item.code not in self.brought)
        return (*mine, *(replace(item, amount=self.free(item)) for item in self.items))


NO_SHELF = Shelf()
