"""The stock's window: what lies on the shelf, what the decisions need, what is short."""

from functools import partial
from pathlib import Path
from typing import Any, NamedTuple, get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFileDialog, QScrollArea, QVBoxLayout, QWidget

from molvik.desktop.stages.page import known_now
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.files.errors import JobFileError
from molvik.files.stock import StockRow
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.stock import StockItem, StockKind
from molvik.numbers import read_number
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import read_size
from molvik.reference.coverings import COVERINGS, find_covering
from molvik.reference.insulation import INSULATIONS, read_insulation
from molvik.routing.covers import wanted
from molvik.survey.replacement import Shortage, cost, replacements, shortages
from molvik.typed.field import Fields
from molvik.wording import figures

NEW_ITEM = StockItem("")
"""Stands for the empty last row, where a new thing is typed."""


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
        raise ValueError(f"“{text.strip()}” is no covering. Type one of: {known}.")
    return {"covering": found.key}


def _number(field: str, optional: bool, text: str) -> Fields:
    if not text.strip():
        return {field: None if optional else 0.0}
    return {field: read_number(text.split()[0])}


def _plain(field: str, text: str) -> Fields:
    return {field: text.strip()}


FIELDS: tuple[StockField, ...] = (
    StockField("Kind", "One of: " + ", ".join(get_args(StockKind)), 86, lambda i: i.kind, _kind),
    StockField("Name", "What it is", 140, lambda i: i.name, partial(_plain, "name")),
    StockField("Size", "14 AWG or 2.5 mm2", 82, lambda i: str(i.size or ""),
               lambda text: {"size": read_size(text) if text.strip() else None}),
    StockField("Insulation", "One of: " + ", ".join(INSULATIONS), 82,
               lambda i: i.insulation, _insulation),
    StockField("Colour", "RD, RD/WH", 104, lambda i: str(i.colour or ""),
               lambda text: {"colour": read_any_colour(text) if text.strip() else None}),
    StockField("Covering", "Which a sleeve or tape is: " + ", ".join(filter(None, COVERINGS)), 86,
               lambda i: i.covering, _covering),
    StockField("Bore", "Of a sleeve as it goes on, mm", 56,
               lambda i: "" if i.bore_mm is None else f"{i.bore_mm:g}",
               partial(_number, "bore_mm", True)),
    StockField("Least", "What a sleeve shrinks or gathers to, mm", 56,
               lambda i: "" if i.least_mm is None else f"{i.least_mm:g}",
               partial(_number, "least_mm", True)),
    StockField("Amount", "Metres of wire, sleeve and tape; else pieces", 74,
               lambda i: f"{i.amount:g}", partial(_number, "amount", False)),
    StockField("Price", "For one metre or piece", 62,
               lambda i: f"{i.price:g}" if i.price else "", partial(_number, "price", False)),
    StockField("Currency", "EUR, GBP, …", 70, lambda i: i.currency, partial(_plain, "currency")),
    StockField("Where", "Where it lies", 90, lambda i: i.where, partial(_plain, "where")),
)  # fmt: skip


class StockWindow(QDialog):
    """What is there, and what is short."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.setWindowTitle("Stock")
        self.setWindowModality(Qt.WindowModality.NonModal)
        self.resize(940, 560)
        columns: list[Column[StockItem]] = [
            Column("Code", lambda item: item.code or "new", width=54, mono=True)
        ]
        columns += [self._column(field) for field in FIELDS]
        self.model: ThingsModel[StockItem] = ThingsModel(
            columns, lambda item: item.code, blank=NEW_ITEM
        )
        self.table: ThingsTable[StockItem] = ThingsTable(self.model, "Stock")
        self.notice = Notice(over=True)
        self.table.refused.connect(self.notice.say)
        self.table.removed.connect(self._remove)
        self.table.macro = self._macro
        self.short = label("", wrap=True)
        self.short.setAlignment(Qt.AlignmentFlag.AlignTop)
        read = button("Read CSV…", "Add what a table lists", self._ask_read)
        write = button("Save as CSV…", "For a spreadsheet", self._ask_write)
        whole = QVBoxLayout(self)
        whole.addLayout(
            row(label("Type into the last row for a new one.", "faint"), 1, read, write)
        )
        whole.addWidget(self.notice)
        whole.addWidget(self.table, 3)
        whole.addWidget(label("WHAT THE DECISIONS NEED", "head"))
        needed = QScrollArea()  # in a large job it would leave the stock no room
        needed.setWidget(self.short)
        needed.setWidgetResizable(True)
        whole.addWidget(needed, 2)
        store.changed.connect(self._changed)
        self.refresh()

    def _column(self, field: StockField) -> Column[StockItem]:
        return Column(
            field.name,
            lambda item: "" if item is NEW_ITEM else str(field.show(item)),
            width=field.width,
            edit=partial(self._type, field),
            colour=(lambda item: item.colour) if field.name == "Colour" else None,
            tip=field.tip,
        )

    def _type(self, field: StockField, item: StockItem, text: str) -> None:
        fields = field.read(text)
        if item.code:
            self._store.do(
                f"{field.name} of {item.code}",
                lambda job: edits.change_stock(job, item.code, **fields),
            )
        else:
            made = StockItem("", **fields)
            self._store.do("New in stock", lambda job: edits.put_in_stock(job, (made,)))
            self.table.pick(self._store.job.stock[-1].code)
        self.notice.say("")

    def _changed(self, old: Job, new: Job) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the stock as the job has it."""
        job, tree = self._store.job, self._store.analysis.loom
        self.model.show_things(list(job.stock))
        made = replacements(tree, job.stock)
        words = []
        if made:
            found = sum(replacement.item is not None for replacement in made)
            words.append(f"{found} of {len(made)} wires to be made anew can be cut from stock.")
        for shortage in shortages(tree, job.stock):
            amount = f"{figures(shortage.needed)} {shortage.unit}"
            if shortage.short:
                words.append(
                    f"Short: {shortage.what}, {figures(shortage.short)} of {amount}"
                    f"{_instead(shortage)}."
                )
            else:
                words.append(f"Enough: {shortage.what}, {amount}{_instead(shortage)}.")
        analysis = self._store.analysis
        for one in wanted(job, analysis.covers) if known_now(analysis) else ():
            if one.short_m:
                what = f"{COVERINGS[one.covering].name} {one.size}".strip()
                words.append(
                    f"Short for looms to build: {what}, {one.short_m:.2f} of {one.amount_m:.2f} m."
                )
        words.sort(key=lambda one: one.startswith("Enough"))  # what is to be got comes first
        for currency, price in cost(tree, job.stock).items():
            words.append(f"Wire from stock is worth {price:.2f} {currency}.")
        self.short.setText("\n".join(words) or "Nothing: no wire is to be made anew yet.")

    def showEvent(self, event: Any) -> None:
        """Catch up with what was changed while it was closed."""
        super().showEvent(event)
        self.refresh()

    def _remove(self, codes: list[str]) -> None:
        wanted = frozenset(code for code in codes if code)
        if wanted:
            self._store.do("Take from stock", lambda job: edits.take_from_stock(job, wanted))

    def _macro(self, text: str, begin: bool) -> None:
        if begin:
            self._store.begin(text)
        else:
            self._store.end()

    def _ask_read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Read a stock table", "", "Tables (*.csv *.xlsx)"
        )
        if name:
            self.read(Path(name))

    def read(self, path: Path) -> None:
        """Add what a table lists; rows that cannot be read are named and left out."""
        from molvik.desktop.reading import read_aside
        from molvik.files.stock import read_stock

        read_aside(
            self,
            f"Reading {path.name}",
            lambda stop: read_stock(path, stop),
            lambda rows: self._take(path, rows),
            self.notice.say,
        )

    def _take(self, path: Path, rows: tuple[StockRow, ...]) -> None:
        items = tuple(stock_row.item for stock_row in rows if stock_row.item is not None)
        problems = [stock_row.problem for stock_row in rows if stock_row.problem]
        if items:
            self._store.do(f"Read {path.name}", lambda job: edits.put_in_stock(job, items))
        more = f" ({len(problems) - 1} more)" if len(problems) > 1 else ""
        self.notice.say(f"Not all was read. {problems[0]}{more}" if problems else "")

    def _ask_write(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the stock", "stock.csv", "Tables (*.csv)")
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """Write the stock as CSV."""
        from molvik.files.stock import stock_csv
        from molvik.files.writing import write_file

        try:
            write_file(path, stock_csv(self._store.job.stock))
        except JobFileError as error:
            self.notice.say(str(error))


def _instead(shortage: Shortage) -> str:
    """Say what of another colour or size is taken for it."""
    if not shortage.instead:
        return ""
    words = ", ".join(
        f"{figures(amount)} {shortage.unit} as {name}" for name, amount in shortage.instead
    )
    return f", but not of its own colour and size: {words}"
