"""Loose wires: sorted into groups, identified one by one, the rest counted."""

from collections import Counter
from functools import partial
from typing import get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLineEdit, QVBoxLayout, QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Identified, Wire
from molvik.parsing.colours import read_any_colour
from molvik.pinouts.loose import Candidate, candidates, loose_wires

HOW: tuple[Identified, ...] = tuple(how for how in get_args(Identified) if how)


def how_text(text: str) -> Identified:
    """Return how a wire was identified, from what was typed of it; empty takes it back.

    Raises ValueError.
    """
    tidy = text.strip().lower().removeprefix("by ")
    near = [how for how in HOW if how.removeprefix("by ").startswith(tidy)]
    if not tidy:
        return ""
    if len(near) != 1:
        raise ValueError(f"“{text.strip()}” is not one of: {', '.join(HOW)}.")
    return near[0]


class LooseWires(QDialog):
    """The loose wires above, what the chosen one might be below."""

    def __init__(self, parent: QWidget, store: Store, hand: Hand) -> None:
        super().__init__(parent)
        self._store, self._hand = store, hand
        self.setWindowTitle("Loose wires")
        self.setWindowModality(Qt.WindowModality.NonModal)
        self.resize(1000, 640)
        self.count = label("", "look", wrap=True)
        self.model: ThingsModel[Wire] = ThingsModel(self._columns(), lambda wire: wire.code)
        self.table: ThingsTable[Wire] = ThingsTable(self.model, "Loose wires")
        self.table.picked.connect(self._picked)
        self.notice = Notice(over=True)
        self.table.refused.connect(self.notice.say)
        self.ask = QLineEdit()
        self.ask.setAccessibleName("Look for")
        self.ask.setPlaceholderText(
            "A colour (GN/YE), a cavity (12) or a function; empty: as the chosen wire"
        )
        self.ask.textChanged.connect(lambda _: self._show_candidates())
        self.found: ThingsModel[Candidate] = ThingsModel(
            [
                Column("Cavity", lambda c: str(c.end), width=90, mono=True),
                Column("Function", lambda c: c.pin.function, width=210),
                Column(
                    "Colour",
                    lambda c: str(c.pin.colour or ""),
                    width=104,
                    colour=lambda c: c.pin.colour,
                ),
                Column("Size", lambda c: str(c.pin.size or ""), width=82),
                Column("Table", lambda c: c.table or "its own", width=150),
                Column("Why", lambda c: c.why, width=280),
            ],
            lambda c: f"{c.end} {c.table}",
        )
        self.candidates: ThingsTable[Candidate] = ThingsTable(self.found, "What it might be")
        whole = QVBoxLayout(self)
        whole.addWidget(self.count)
        whole.addWidget(self.notice)
        whole.addWidget(self.table, 3)
        whole.addLayout(row(label("WHAT IT MIGHT BE", "head"), self.ask))
        whole.addWidget(self.candidates, 2)
        buttons = [
            button(
                f"It is: {how}", "Take the chosen function and cavity", partial(self.settle, how)
            )
            for how in HOW
        ]
        whole.addLayout(row(*buttons, 1, button("Close", "Esc", self.close)))
        store.changed.connect(self._changed)
        self.refresh()

    def _columns(self) -> list[Column[Wire]]:
        def end(wire: Wire) -> str:
            known = [str(end) for end in wire.ends if end.at]
            return known[0] if known else "both ends loose"

        return [
            Column("Wire", lambda w: w.code, width=62, mono=True),
            Column("From", end, width=110, mono=True),
            Column("Colour", lambda w: str(w.colour or ""), width=104, colour=lambda w: w.colour),
            Column("Size", lambda w: str(w.size or ""), width=82),
            Column(
                "Function", lambda w: w.function, width=190, edit=partial(self._type, "function")
            ),
            Column(
                "Group",
                lambda w: w.group,
                width=120,
                edit=partial(self._type, "group"),
                tip="A name of your own to sort by: lighting, cab, unknown",
            ),
            Column(
                "Identified",
                lambda w: w.identified or "not yet",
                width=120,
                edit=partial(self._type, "identified"),
                tip=f"How: {', '.join(HOW)}",
                role=lambda w: "" if w.identified else "live_text",
            ),
            Column("Note", lambda w: w.note, width=150, edit=partial(self._type, "note")),
        ]

    def _type(self, field: str, wire: Wire, text: str) -> None:
        value = how_text(text) if field == "identified" else text.strip()
        self._store.do(
            f"{field.capitalize()} of {wire.code}",
            lambda job: edits.change_wire(job, wire.code, **{field: value}),
        )
        self.notice.say("")

    def _changed(self, old: Job, new: Job) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the loose wires as the job has them."""
        wires = loose_wires(self._store.analysis.network)
        self.model.show_things(sorted(wires, key=lambda w: (w.group, bool(w.identified))))
        left = sum(not wire.identified for wire in wires)
        groups = Counter(wire.group or "no group" for wire in wires if not wire.identified)
        words = ", ".join(f"{count} in {group}" for group, count in groups.items())
        self.count.setText(
            f"{left} of {len(wires)} loose wires are not identified: {words}."
            if left
            else f"All {len(wires)} loose wires are identified."
            if wires
            else "No wire is loose."
        )
        self._show_candidates()

    def _picked(self, code: str) -> None:
        self._hand.pick(code)
        self._show_candidates()

    def _wire(self) -> Wire | None:
        return self._store.job.wire(self.table.current_key())

    def _show_candidates(self) -> None:
        """Show what fits what is asked, or the chosen wire."""
        network, asked, wire = self._store.analysis.network, self.ask.text().strip(), self._wire()
        if asked:
            try:
                found = candidates(network, read_any_colour(asked))
            except ValueError:
                by_cavity = candidates(network, cavity=asked)
                found = by_cavity or candidates(network, function=asked)
        elif wire is not None and (wire.colour or wire.function):
            found = candidates(network, wire.colour, wire.size)
            found = found or candidates(network, function=wire.function)
        else:
            found = ()
        self.found.show_things(list({f"{c.end} {c.table}": c for c in found}.values()))

    def settle(self, how: Identified) -> None:
        """Take the chosen candidate as what the wire is."""
        wire, key = self._wire(), self.candidates.current_key()
        chosen = next((c for c in self.found.things if f"{c.end} {c.table}" == key), None)
        if wire is None or chosen is None:
            self.notice.say("Choose the wire above and what it is below.")
            return
        side = "start" if not wire.start.at else "finish"
        fields = {
            side: chosen.end,
            "function": wire.function or chosen.pin.function,
            "circuit": wire.circuit or chosen.pin.circuit,
            "identified": how,
        }
        self._store.do(
            f"{wire.code} is {chosen.pin.function or chosen.end}",
            lambda job: edits.change_wire(job, wire.code, **fields),
        )
        self.notice.say("")
