"""The fields of a thing in stock, as they are shown and typed."""

from functools import partial
from typing import Any, NamedTuple, get_args

from molvik.model.stock import StockKind
from molvik.numbers import read_number
from molvik.parsing.colours import read_any_colour
from molvik.parsing.money import read_currency
from molvik.parsing.quantities import read_size
from molvik.reference.coverings import COVERINGS, find_covering
from molvik.reference.insulation import INSULATIONS, read_insulation
from molvik.typed.field import Fields


class StockField(NamedTuple):
    """A field of a thing in stock."""

    name: str
    tip: str
    width: int
    show: Any
    read: Any


def _kind(text: str) -> Fields:
    tidy = text.strip().lower()
    near = [kind for kind in get_args(StockKind) if tidy and kind.startswith(tidy)]
    if len(near) != 1:
        raise ValueError(f"“{text.strip()}” is not one of: {', '.join(get_args(StockKind))}.")
    return {"kind": near[0]}


def _insulation(text: str) -> Fields:
    return {"insulation": read_insulation(text)}


def _covering(text: str) -> Fields:
    if not text.strip():
        return {"covering": ""}
    found = find_covering(text)
    if found is None:
        known = ", ".join(filter(None, COVERINGS))
        raise ValueError(f"“{text.strip()}” is not a covering. Type one of: {known}.")
    return {"covering": found.key}


def _currency(text: str) -> Fields:
    return {"currency": read_currency(text) if text.strip() else ""}


def _number(field: str, optional: bool, text: str) -> Fields:
    if not text.strip():
        return {field: None if optional else 0.0}
    return {field: read_number(text.split()[0])}


def _plain(field: str, text: str) -> Fields:
    return {field: text.strip()}


FIELDS: tuple[StockField, ...] = (
    StockField("Kind", "One of: " + ", ".join(get_args(StockKind)), 86, lambda i: i.kind, _kind),
    StockField("Name", "What it is", 140, lambda i: i.name, partial(_plain, "name")),
    StockField(
        "Size",
        "14 AWG or 2.5 mm2",
        82,
        lambda i: str(i.size or ""),
        lambda text: {"size": read_size(text) if text.strip() else None},
    ),
    StockField(
        "Insulation", "One of: " + ", ".join(INSULATIONS), 82, lambda i: i.insulation, _insulation
    ),
    StockField(
        "Colour",
        "RD, RD/WH",
        104,
        lambda i: str(i.colour or ""),
        lambda text: {"colour": read_any_colour(text) if text.strip() else None},
    ),
    StockField(
        "Covering",
        "Which a sleeve or tape is: " + ", ".join(filter(None, COVERINGS)),
        86,
        lambda i: i.covering,
        _covering,
    ),
    StockField(
        "Bore",
        "Of a sleeve as it goes on, mm",
        56,
        lambda i: "" if i.bore_mm is None else f"{i.bore_mm:g}",
        partial(_number, "bore_mm", True),
    ),
    StockField(
        "Least",
        "What a sleeve shrinks or gathers to, mm",
        56,
        lambda i: "" if i.least_mm is None else f"{i.least_mm:g}",
        partial(_number, "least_mm", True),
    ),
    StockField(
        "Amount",
        "All that lies there: metres of wire, sleeve and tape; else pieces",
        74,
        lambda i: f"{i.amount:g}",
        partial(_number, "amount", False),
    ),
    StockField(
        "Price",
        "For one metre or piece",
        62,
        lambda i: f"{i.price:g}" if i.price else "",
        partial(_number, "price", False),
    ),
    StockField(
        "Currency", "EUR, GBP, … (ISO 4217), or a sign: €", 70, lambda i: i.currency, _currency
    ),
    StockField("Where", "Where it lies", 90, lambda i: i.where, partial(_plain, "where")),
)
