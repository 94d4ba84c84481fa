"""The stock's window: what lies on the shop's shelf, and what of it goes into the job."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut, QUndoCommand, QUndoStack
from PySide6.QtWidgets import QDialog, QFileDialog, QTabWidget, QVBoxLayout, QWidget

from molvik.desktop.beside.samestock import ask_same, known_on
from molvik.desktop.beside.shelfkeeper import ShelfKeeper
from molvik.desktop.beside.stockfields import FIELDS, StockField
from molvik.desktop.beside.stockneeds import StockNeeds
from molvik.desktop.store import Store
from molvik.desktop.threads.reading import read_aside
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, held, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.files.errors import JobFileError
from molvik.files.shelf import NOT_BROUGHT, Brought, ShopShelf
from molvik.files.stock import StockRow, read_stock, stock_csv
from molvik.files.writing import write_file
from molvik.model import stock_edits
from molvik.model.job import Job
from molvik.model.stock import StockItem, Taken, unit_of

NEW_ITEM = StockItem("")
"""Stands for the empty last row, where a new thing is typed."""

DEMO = "demo-"
"""How the ids of demonstrations begin: what they brought is not put on a real shelf."""

Act = Callable[[], object]


class _Step(QUndoCommand):
    """A step that was done already, and how it is taken back and done again."""

    def __init__(self, text: str, again: Act, back: Act, refused: Callable[[str], None]) -> None:
        super().__init__(text)
        self._again, self._back, self._refused = again, back, refused
        self._is_new = True

    def redo(self) -> None:
        if not self._is_new:
            self._try(self._again)
        self._is_new = False

    def undo(self) -> None:
        self._try(self._back)

    def _try(self, act: Act) -> None:
        try:
            act()
        except ValueError as error:  # the shelf is not what it was
            self._refused(str(error))
            self.setObsolete(True)


class StockWindow(QDialog):
    """What is there, and what is short."""

    def __init__(self, parent: QWidget, store: Store, keeper: ShelfKeeper) -> None:
        super().__init__(parent)
        self._store, self._keeper = store, keeper
        self.setWindowTitle("Stock")
        self.setWindowModality(Qt.WindowModality.NonModal)
        self.resize(1220, 640)
        self.history = QUndoStack(self)
        self._own_codes = frozenset[str]()
        columns: list[Column[StockItem]] = [
            Column("Code", lambda item: item.code or "new", width=54, mono=True)
        ]
        columns += [self._column(field) for field in FIELDS]
        tip = "What this job and others keep for themselves"
        columns.insert(10, Column("Reserved", self._reserved, width=150, tip=tip))
        self.model: ThingsModel[StockItem] = ThingsModel(
            columns, lambda item: item.code, blank=NEW_ITEM
        )
        self.table: ThingsTable[StockItem] = ThingsTable(self.model, "Stock")
        self.notice = Notice(over=True)
        self.table.refused.connect(self.notice.say)
        self.table.removed.connect(self._remove)
        self.table.macro = self._macro
        self.needs = StockNeeds(store)
        self.needs.cut.connect(self._cut)
        self.needs.uncut.connect(self._uncut)
        self.needs.reserved.connect(self._reserve)
        self._build()
        store.changed.connect(self._changed)
        keeper.seen.connect(self._seen)
        for keys, act in (
            (QKeySequence.StandardKey.Undo, self.history.undo),
            (QKeySequence.StandardKey.Redo, self.history.redo),
        ):
            QShortcut(keys, self, act)
        self.refresh()

    def _build(self) -> None:
        self.brought_words = label("", wrap=True)
        take_over = button(
            "Put it on the shelf",
            "Other jobs can be cut from it then; this is done once",
            self.take_over,
        )
        self.brought = held(self.brought_words, take_over)
        self.unknown_words = label("", wrap=True)
        enter = button("It was cut", "Write it into the job", self._enter)
        give = button("It was not", "Put it back on the shelf", self._give_back)
        self.unknown = held(self.unknown_words, enter, give)
        read = button("Read CSV…", "Add what a table lists", self._ask_read)
        write = button("Save as CSV…", "For a spreadsheet", self._ask_write)
        self.where = label("", "faint")
        shelf = QWidget()
        lines = QVBoxLayout(shelf)
        lines.addLayout(row(self.where, 1, read, write))
        lines.addWidget(self.brought)
        lines.addWidget(self.table, 1)
        self.tabs = QTabWidget()
        self.tabs.addTab(shelf, "On the shelf")
        self.tabs.addTab(self.needs, "For this job")
        whole = QVBoxLayout(self)
        whole.addWidget(self.notice)
        whole.addWidget(self.unknown)
        whole.addWidget(self.tabs, 1)

    # what is shown

    def _column(self, field: StockField) -> Column[StockItem]:
        return Column(
            field.name,
            lambda item: "" if item is NEW_ITEM else str(field.show(item)),
            width=field.width,
            edit=partial(self._type, field),
            colour=(lambda item: item.colour) if field.name == "Colour" else None,
            tip=field.tip,
            grow=int(field.name == "Name"),
        )

    def _reserved(self, item: StockItem) -> str:
        shelf = self._store.shelf
        if item.code and item.code in self._own_codes:
            return "this job's own"
        words = []
        if item.code in shelf.reserved:
            words.append(f"{shelf.reserved[item.code]:g} here")
        others = shelf.others.get(item.code)
        words += [f"{amount:g} {title}" for title, amount in others.titles] if others else []
        return ", ".join(words)

    @property
    def _own(self) -> tuple[StockItem, ...]:
        """What the job brought that is not on the shelf."""
        brought = self._store.shelf.brought
        return tuple(item for item in self._store.job.stock if item.code not in brought)

    def _changed(self, old: Job, new: Job) -> None:
        if old.id != new.id:
            self.history.clear()
        self._seen()

    def _seen(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the shelf, and what the job takes, as they stand."""
        shelf, own = self._store.shelf, self._own
        self._own_codes = frozenset(item.code for item in own)
        self.model.show_things([*own, *shelf.items])
        count = len(shelf.items)
        things = f"{count} thing{'s' * (count != 1)} on the shop's shelf, shared by all jobs. "
        self.where.setText(things + "Type into the last row for a new one.")
        self.where.setToolTip(str(self._keeper.shelf.path))
        self.brought_words.setText(
            f"This job brought a list of its own ({len(own)}): only this job is cut from it."
        )
        self.brought.setVisible(bool(own) and not self._store.job.id.startswith(DEMO))
        lost = self._keeper.not_in_the_job
        self.unknown.setVisible(bool(lost))
        if lost:
            what = ", ".join(
                f"{one.what.amount:g} {unit_of(one.what.kind)} of {one.what.code}"
                for one in lost[:4]
            )
            self.unknown_words.setText(
                f"The shelf has {what} as cut for this job, and the job does not: it was closed "
                "without saving, or the program ended. Was it cut?"
            )
        self.needs.refresh()

    def showEvent(self, event: Any) -> None:
        """Catch up with what was changed while it was closed."""
        super().showEvent(event)
        self._keeper.look()
        self.refresh()

    # steps, which Ctrl+Z in this window takes back

    def _do(self, text: str, act: Act, back: Act) -> bool:
        """Do a step; say why not where it cannot be done."""
        try:
            act()
        except ValueError as error:
            self.notice.say(str(error))
            return False
        self._done(text, act, back)
        return True

    def _done(self, text: str, again: Act, back: Act) -> None:
        self.history.push(_Step(text, again, back, self.notice.say))
        self.notice.say("")

    def _shelf(self, words: str, change: Callable[[ShopShelf], object]) -> Act:
        return lambda: self._keeper.do(words, change)

    def _edit(self, text: str, edit: Callable[[Job], Job]) -> Act:
        return lambda: self._store.do(text, edit)

    def _type(self, field: StockField, item: StockItem, text: str) -> None:
        """Take what was typed; a ValueError is the refusal, and the field stays open."""
        fields = field.read(text)
        now = replace(item, **fields)
        if now == item:
            return
        if not item.code:
            self._begin(now)
            return
        words = f"{field.name} of {item.code}"
        if any(one.code == item.code for one in self._own):
            was = {name: getattr(item, name) for name in fields}
            again = self._edit(words, partial(_change_own, item.code, fields))
            back = self._edit(f"{words} as it was", partial(_change_own, item.code, was))
        else:
            again = self._shelf(words, lambda shelf: shelf.change(item, now))
            back = self._shelf(words, lambda shelf: shelf.change(now, item))
        again()
        self._done(words, again, back)

    def _begin(self, item: StockItem) -> None:
        """Put a new thing on the shelf."""
        words, code = "New on the shelf", ""

        def again() -> None:
            nonlocal code
            made = replace(item, code=code)
            (code,) = self._keeper.do(words, lambda shelf: shelf.put((made,)))

        again()
        back = self._shelf(words, lambda shelf: shelf.remove(frozenset((code,))))
        self._done(words, again, back)
        self.table.pick(code)

    def _remove(self, codes: list[str]) -> None:
        own = frozenset(item.code for item in self._own if item.code in codes)
        if own:
            self._store.do("Take from stock", lambda job: stock_edits.take_out(job, own))
        there = frozenset(item.code for item in self._store.shelf.items if item.code in codes)
        gone = tuple(item for item in self._store.shelf.items if item.code in there)
        if there:
            words = "Take off the shelf"
            self._do(
                words,
                self._shelf(words, lambda shelf: shelf.remove(there)),
                self._shelf(words, lambda shelf: shelf.put(gone)),
            )

    def _macro(self, text: str, begin: bool) -> None:
        if begin:
            self.history.beginMacro(text)
        else:
            self.history.endMacro()

    def _reserve(self, amounts: dict[str, float]) -> None:
        job, was = self._store.job, dict(self._store.shelf.reserved)
        words = "Reserve" if amounts else "Let go"
        self._do(
            words,
            self._shelf(words, lambda shelf: shelf.reserve(job, amounts)),
            self._shelf(words, lambda shelf: shelf.reserve(job, was)),
        )

    def _cut(self, taken: tuple[Taken, ...]) -> None:
        """Take pieces off the shelf and write them into the job."""
        held_was = dict(self._store.shelf.reserved)
        ids = frozenset(one.id for one in taken)
        what = ", ".join(one.on or one.what.kind for one in taken[:3])
        words = f"Cut {what}{' …' if len(taken) > 3 else ''}"

        def act() -> None:
            job = self._store.job
            stock_edits.cut(job, taken)  # refuses what its own list has not, before it is booked
            if any(one.shelf for one in taken):
                self._keeper.do(words, lambda shelf: shelf.book(job, taken))
            self._store.do(words, lambda job: stock_edits.cut(job, taken))

        def back() -> None:
            self._store.do(f"{words}: not", lambda job: stock_edits.put_back(job, ids))
            job = self._store.job
            if held_was != dict(self._store.shelf.reserved):
                self._keeper.do(words, lambda shelf: _given(shelf, ids, job, held_was))

        self._do(words, act, back)

    def _uncut(self, ids: frozenset[str]) -> None:
        taken = tuple(one for one in self._store.job.taken if one.id in ids)
        words = "Not cut after all"

        def again() -> None:
            self._store.do(words, lambda job: stock_edits.put_back(job, ids))

        self._do(words, again, self._edit("Cut", lambda job: stock_edits.cut(job, taken)))

    # what the job and the shelf do not agree about

    def take_over(self) -> None:
        """Put what the job brought on the shelf, once."""
        own = self._own
        brought = Brought(self._store.job.id, tuple(item.code for item in own))
        self._come_in(own, "the job's list", "Put the job's list on the shelf", brought)

    def _come_in(
        self, items: tuple[StockItem, ...], source: str, words: str, brought: Brought = NOT_BROUGHT
    ) -> bool:
        """Put things on the shelf; what lies there already is asked about. Say if it was done."""
        known = known_on(self._store.shelf.items, items)
        answer = ask_same(self, known, items, source) if known else "leave"
        if answer is None:
            return False
        new = tuple(item for place, item in enumerate(items) if place not in known)
        more: dict[str, float] = {}
        for place, there in known.items():
            if answer != "leave":
                amount = items[place].amount
                more[there.code] = amount if answer == "more" else amount - there.amount
        if not (new or any(more.values()) or brought.codes):
            return True
        less = {code: -amount for code, amount in more.items()}
        codes: tuple[str, ...] = ("",) * len(new)

        def act() -> None:
            nonlocal codes
            coded = tuple(replace(item, code=code) for item, code in zip(new, codes, strict=True))
            codes = self._keeper.do(words, lambda shelf: shelf.put(coded, more, brought))

        def back() -> None:
            gone = frozenset(codes)
            self._keeper.do(words, lambda shelf: shelf.remove(gone, less, brought))

        return self._do(words, act, back)

    def _enter(self) -> None:
        lost = self._keeper.not_in_the_job
        self._store.do("Cut before", lambda job: stock_edits.cut(job, lost))
        self.refresh()

    def _give_back(self) -> None:
        ids = frozenset(one.id for one in self._keeper.not_in_the_job)
        words = "Put back what was not cut"
        try:
            self._keeper.do(words, lambda shelf: shelf.put_back(ids))
        except ValueError as error:
            self.notice.say(str(error))

    # tables in and out

    def _ask_read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Read a stock table", "", "Tables (*.csv *.xlsx)"
        )
        if name:
            self.read(Path(name))

    def read(self, path: Path) -> None:
        """Put what a table lists on the shelf; rows that cannot be read are named and left out."""

        read_aside(
            self,
            f"Reading {path.name}",
            lambda stop: read_stock(path, stop),
            lambda rows: self._take(path, rows),
            self.notice.say,
        )

    def _take(self, path: Path, rows: Sequence[StockRow]) -> None:
        items = tuple(stock_row.item for stock_row in rows if stock_row.item is not None)
        problems = [stock_row.problem for stock_row in rows if stock_row.problem]
        if self._come_in(items, path.name, f"Read {path.name}") and problems:
            more = f" ({len(problems) - 1} more)" if len(problems) > 1 else ""
            self.notice.say(f"Not all was read. {problems[0]}{more}")

    def _ask_write(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the stock", "stock.csv", "Tables (*.csv)")
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """Write the stock as CSV."""

        try:
            write_file(path, stock_csv((*self._own, *self._store.shelf.items)))
        except JobFileError as error:
            self.notice.say(str(error))


def _change_own(code: str, fields: dict[str, Any], job: Job) -> Job:
    return stock_edits.change(job, code, **fields)


def _given(shelf: ShopShelf, ids: frozenset[str], job: Job, reserved: dict[str, float]) -> None:
    """Put back what was not cut, and reserve what was reserved before."""
    shelf.put_back(ids)
    shelf.reserve(job, reserved)
