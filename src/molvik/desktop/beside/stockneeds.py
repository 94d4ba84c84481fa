"""What of the stock goes into the job: reserved, cut, put back, and what is short."""

import uuid
from datetime import datetime

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.stages.page import known_now
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.logbook.picks import Pick, picks, to_reserve
from molvik.model.stock import Shelf, Taken, unit_of
from molvik.numbers import read_number
from molvik.reference.colours import colour_name
from molvik.survey.replacement import cost
from molvik.wording import figures, some

MOST_SHORT = 4


class StockNeeds(QWidget):
    """The pieces that the job takes. cut(taken), uncut(ids) and reserved(amounts) say what is asked
    for.
    """

    cut = Signal(object)
    uncut = Signal(object)
    reserved = Signal(object)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._picks: dict[str, Pick] = {}
        self._wanted: dict[str, float] = {}
        columns: list[Column[Pick]] = [
            Column(
                "For",
                lambda p: f"{p.on} {p.name}".strip(),
                width=130,
                grow=1,
                tip="The wire as found, or the stretch of a loom to build",
            ),
            Column("What", lambda p: p.what, width=130, grow=1),
            Column(
                "Amount",
                lambda p: f"{figures(p.amount)} {p.unit}",
                width=90,
                sort=lambda p: p.amount,
            ),
            Column("From", _source, width=190, grow=1),
            Column("Free", _free, width=80, tip="How much of it there is for this job"),
            Column("Position", self._stands, width=80, role=self._role),
            Column(
                "Mark it",
                lambda p: p.note,
                width=200,
                grow=2,
                tip="How a substitute is marked, or why there is none",
            ),
        ]
        self.model: ThingsModel[Pick] = ThingsModel(columns, lambda pick: pick.key)
        self.table: ThingsTable[Pick] = ThingsTable(self.model, "What the job takes")
        self.table.setSelectionMode(ThingsTable.SelectionMode.ExtendedSelection)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._enable())
        self.words = label("", wrap=True)
        self.reserve = button(
            "&Reserve all of it",
            "Keep on the shelf what is still to be cut: other jobs leave it",
            self._reserve,
        )
        self.release = button(
            "&Let go", "Other jobs may have what was reserved", lambda: self.reserved.emit({})
        )
        self.back = button("Put &back", "The picked pieces were not cut after all", self._uncut)
        self.do_cut = button("&Cut…", "Take the picked pieces off the shelf", self._cut, "action")
        whole = QVBoxLayout(self)
        whole.addWidget(self.words)
        whole.addWidget(self.table, 1)
        whole.addLayout(row(self.reserve, self.release, 1, self.back, self.do_cut))

    def refresh(self) -> None:
        """Show what the job takes as it stands."""
        analysis = self._store.analysis
        if not known_now(analysis):
            self.words.setText("The job is being looked over…")
            return
        found = analysis.once(picks)
        self._picks, self._wanted = {pick.key: pick for pick in found}, to_reserve(found)
        self.model.show_things(list(found))
        self.words.setText(self._said(found))
        self._enable()

    def _said(self, found: tuple[Pick, ...]) -> str:
        analysis = self._store.analysis
        if not found:
            return "Nothing: no wire is to be made new yet, and no loom to build is covered."
        words = []
        anew = [pick for pick in found if pick.kind == "wire" and pick.on]
        if anew:
            there = sum(pick.item is not None for pick in anew)
            words.append(f"{there} of {len(anew)} wires to be made new can be cut from stock.")
        short: dict[str, tuple[float, str]] = {}
        for pick in found:
            if pick.item is None:
                short[pick.what] = short.get(pick.what, (0.0, ""))[0] + pick.amount, pick.unit
        if short:
            lines = [f"{what}, {figures(n)} {unit}" for what, (n, unit) in short.items()]
            words.append(f"Short: {some(lines, MOST_SHORT, '; ')}.")
        for currency, price in cost(analysis.loom, analysis.stock, analysis.job.taken).items():
            words.append(f"The wire is worth {price:.2f} {currency}.")
        return " ".join(words)

    def _stands(self, pick: Pick) -> str:
        if pick.item is None:
            return "short"
        if pick.cut:
            return "cut"
        wanted = self._wanted.get(pick.item.code, 0.0)
        held = self._store.shelf.reserved.get(pick.item.code, 0.0)
        return "reserved" if held and held >= wanted - 1e-6 else "to cut"

    def _role(self, pick: Pick) -> str:
        return {"short": "stop", "cut": "faint"}.get(self._stands(pick), "")

    def _picked(self) -> list[Pick]:
        return [self._picks[key] for key in self.table.selected_keys() if key in self._picks]

    def _enable(self) -> None:
        picked, shelf = self._picked(), self._store.shelf
        self.do_cut.setEnabled(any(pick.is_to_cut for pick in picked))
        self.back.setEnabled(any(pick.cut for pick in picked))
        self.release.setEnabled(bool(shelf.reserved))
        on_shelf = self._on_shelf(shelf)
        self.reserve.setEnabled(bool(on_shelf) and on_shelf != dict(shelf.reserved))

    def _on_shelf(self, shelf: Shelf) -> dict[str, float]:
        """Return what of the shelf is still to be cut; what the job brought is its own anyway."""
        there = {item.code for item in shelf.items}
        return {code: amount for code, amount in self._wanted.items() if code in there}

    def _reserve(self) -> None:
        self.reserved.emit(self._on_shelf(self._store.shelf))

    def _uncut(self) -> None:
        self.uncut.emit(frozenset(pick.cut for pick in self._picked() if pick.cut))

    def _cut(self) -> None:
        """Cut what is picked; of one piece the amount is asked, which may be another."""
        picked = [pick for pick in self._picked() if pick.is_to_cut]
        amounts = [pick.amount for pick in picked]
        if len(picked) == 1:
            pick = picked[0]
            words = f"How much was cut of {_source(pick)}? In {pick.unit}."
            typed = ask_line(
                self, f"Cut for {pick.on or pick.what}", words, figures(pick.amount), _amount
            )
            if typed is None:
                return
            amounts = [_amount(typed)]
        shelf, at = self._store.shelf, datetime.now().astimezone().isoformat(timespec="seconds")
        there = {item.code for item in shelf.items}
        taken = tuple(
            Taken(
                uuid.uuid4().hex,
                shelf.name if pick.item.code in there else "",
                replace(pick.item, amount=amount),
                pick.on,
                at,
            )
            for pick, amount in zip(picked, amounts, strict=True)
            if pick.item is not None
        )
        if taken:
            self.cut.emit(taken)


def _amount(text: str) -> float:
    return read_number(
        text.split()[0] if text.split() else "", "amount above zero", "2.5", least=0.001, most=1e5
    )


def _source(pick: Pick) -> str:
    item = pick.item
    if item is None:
        return "nothing that will do"
    tint = colour_name(item.colour.base, item.colour.tracer) if item.colour else ""
    what = " ".join(filter(None, (item.name, str(item.size or ""), tint)))
    return f"{item.code} {what}".strip()


def _free(pick: Pick) -> str:
    if pick.item is None or pick.cut:
        return ""
    return f"{figures(pick.item.amount)} {unit_of(pick.item.kind)}"
