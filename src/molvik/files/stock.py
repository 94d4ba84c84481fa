"""The stock as CSV, in and out, row by row."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple, get_args

from molvik.files.cells import csv_bytes
from molvik.files.tablelimits import TableError, never
from molvik.files.tables import read_raw_table
from molvik.model.stock import StockItem, StockKind
from molvik.numbers import read_number
from molvik.parsing.colours import read_any_colour
from molvik.parsing.money import read_currency
from molvik.parsing.quantities import read_size
from molvik.reference.coverings import COVERINGS, find_covering
from molvik.reference.insulation import read_insulation

HEADINGS = (
    "kind",
    "name",
    "size",
    "insulation",
    "colour",
    "bore mm",
    "amount",
    "price",
    "currency",
    "where",
    "least mm",
    "covering",
)


class StockRow(NamedTuple):
    """What a row says: an item, or why it cannot be read."""

    number: int
    item: StockItem | None
    problem: str = ""


def stock_csv(stock: tuple[StockItem, ...]) -> bytes:
    """Return the stock as CSV."""
    rows: list[tuple[str, ...]] = [HEADINGS]
    for item in stock:
        rows.append(
            (
                item.kind,
                item.name,
                str(item.size or ""),
                item.insulation,
                str(item.colour or ""),
                "" if item.bore_mm is None else f"{item.bore_mm:g}",
                f"{item.amount:g}",
                f"{item.price:g}",
                item.currency,
                item.where,
                "" if item.least_mm is None else f"{item.least_mm:g}",
                item.covering,
            )
        )
    return csv_bytes(rows)


def read_stock(path: Path, stop: Callable[[], bool] = never) -> tuple[StockRow, ...]:
    """Read a stock table; a row that cannot be read says why. TableError for the whole of it."""
    raw = read_raw_table(path, stop)
    heads = [cell.strip().lower() for cell in raw.rows[0].cells]
    if "kind" not in heads or "amount" not in heads:
        raise TableError(
            f"{path.name} has no columns headed kind and amount. The headings are: "
            f"{', '.join(HEADINGS)}."
        )
    rows: list[StockRow] = []
    for line in raw.rows[1:]:
        cells = dict(zip(heads, (cell.strip() for cell in line.cells), strict=False))
        try:
            rows.append(StockRow(line.number, _item(cells)))
        except ValueError as error:
            rows.append(StockRow(line.number, None, f"Row {line.number}: {error}"))
    return tuple(rows)


def _item(cells: dict[str, str]) -> StockItem:
    kind = cells.get("kind", "").lower()
    for known in get_args(StockKind):
        if kind == known:
            size, colour = cells.get("size", ""), cells.get("colour", "")
            currency = cells.get("currency", "")
            return StockItem(
                "",
                known,
                cells.get("name", ""),
                read_size(size) if size else None,
                read_insulation(cells.get("insulation", "")),
                read_any_colour(colour) if colour else None,
                _number(cells.get("bore mm", ""), "bore") or None,
                _number(cells.get("amount", ""), "amount"),
                _number(cells.get("price", ""), "price"),
                read_currency(currency) if currency else "",
                cells.get("where", ""),
                _number(cells.get("least mm", ""), "least") or None,
                _covering(cells.get("covering", "")),
            )
    raise ValueError(f"“{kind[:30]}” is not one of: {', '.join(get_args(StockKind))}.")


def _covering(text: str) -> str:
    found = find_covering(text) if text else COVERINGS[""]
    if found is None:
        known = ", ".join(filter(None, COVERINGS))
        raise ValueError(f"“{text[:30]}” is not a covering. Type one of: {known}.")
    return found.key


def _number(text: str, what: str) -> float:
    if not text:
        return 0.0
    return read_number(text, what, "2.5", least=0, most=1e6)
