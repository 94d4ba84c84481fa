"""Survey: the loom as found, its wires, its faults and what to do about them."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QSplitter, QTabWidget, QVBoxLayout, QWidget

from molvik.desktop.beside.logbook import estimate_rows
from molvik.desktop.cards.benchcards import TickList
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.survey.before import BeforeOpening
from molvik.desktop.stages.survey.groups import ALL, groups_of, in_group
from molvik.desktop.stages.survey.loomview import LoomView
from molvik.desktop.store import Store
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel, column_of
from molvik.desktop.widgets.worklist import WorkList
from molvik.model.loom import Fault, FoundWire, Node, Segment
from molvik.model.loom_edits import find
from molvik.model.loom_edits import remove as remove_found
from molvik.survey.decide import decide
from molvik.survey.rules import grade_of
from molvik.typed.field import Field, place_text
from molvik.typed.found import (
    BLANKS,
    FAULT_FIELDS,
    FOUND_FIELDS,
    NODE_FIELDS,
    SEGMENT_FIELDS,
    type_found,
)
from molvik.wording import counted

BEFORE = "before it is opened"
"""Name of the list of steps, for its ticks."""

CAUTION = (
    "Battery off. Do not open airbag or high-voltage circuits: they need trained, authorised "
    "people. Solvents and acid with gloves and air; heat guns away from fuel. Measure and "
    "photograph before anything is cut."
)

TABLES: tuple[tuple[str, type, str, tuple[Field[Any], ...]], ...] = (
    ("Stretches", Segment, "segments", SEGMENT_FIELDS),
    ("Ends and breakouts", Node, "nodes", NODE_FIELDS),
    ("Wires as found", FoundWire, "wires", FOUND_FIELDS),
    ("Faults", Fault, "faults", FAULT_FIELDS),
)


def _cell(index: int, line: tuple[str, ...]) -> str:
    return line[index]


WIDTHS: dict[tuple[type, str], int] = {
    (kind, name): width
    for kind, widths in (
        (
            Node,
            {
                "Name": 170,
                "State": 76,
                "Plugs into": 150,
                "Connector": 82,
                "Cavities": 54,
                "Terminal size": 62,
                "Note": 120,
            },
        ),
        (
            Segment,
            {
                "From": 150,
                "To": 150,
                "Length": 78,
                "Covering": 120,
                "Diameter": 92,
                "Ties": 46,
                "Clips": 50,
                "Grommet": 84,
            },
        ),
        (
            FoundWire,
            {
                "From": 110,
                "To": 110,
                "Function": 150,
                "Wire": 62,
                "Colour": 104,
                "Measured": 118,
                "Size": 82,
                "Insulation": 130,
                "Role": 66,
                "Fused": 54,
                "Traced": 78,
                "Remaining length": 66,
            },
        ),
        (
            Fault,
            {
                "On": 56,
                "Fault": 136,
                "At": 66,
                "Grade": 54,
                "Note": 190,
                "Own decision": 120,
                "Reason": 150,
            },
        ),
    )
    for name, width in widths.items()
}
"""How wide columns are before they give way."""

GROWS = ("Name", "Plugs into", "From", "To", "Function", "Covering", "Insulation", "Fault", "Note")
"""Columns that take what room there is to spare."""

AT_WISH = (
    "Connector",
    "Terminal size",
    "Grommet",
    "Zone",
    "Loom",
    "Size",
    "Role",
    "Fused",
    "Remaining length",
    "Reason",
)
"""Columns that are hidden until the user wants them."""


class SurveyPage(StagePage):
    """Groups of faults on the left; the loom drawn to scale, its tables below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "The loom as found")
        self.before = BeforeOpening(self, TickList(store, BEFORE))
        self.list = WorkList("Which faults")
        self.list.chosen.connect(lambda _: self._choose_group())
        self.work_column.addWidget(self.list, 1)
        self.view = LoomView()
        self.view.picked.connect(hand.pick)
        card = QFrame()
        card.setObjectName("card")
        QVBoxLayout(card).addWidget(self.view)
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Tables of the loom")
        self.table_of: dict[type, ThingsTable[Any]] = {}
        for name, kind, _, fields in TABLES:
            table = self._table(name, kind, fields)
            self.table_of[kind] = table
            self.tabs.addTab(table, name)
        self.tabs.addTab(self._hours_tab(), "Hours and money")
        self.guide = Guide(
            "Here an old loom is taken down as it is found: its ends and stretches, its wires, "
            "what is wrong with it, and what repairing it comes to.",
            "Name the first end, the plug you hold; go on down the table. A stretch goes from one "
            "end or breakout to the next.",
            First(
                "Type the first end",
                "Its name in the table of ends and breakouts",
                partial(self.type_new, Node),
            ),
            First(
                "Type the first stretch",
                "From, to and length; new names make new ends",
                partial(self.type_new, Segment),
            ),
        )
        self._card = card
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(card)
        split.addWidget(self.tabs)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(1, 1)
        split.setSizes([290, 260])
        tip = "What to measure, photograph and mark before anything is cut, one card at a time"
        self.bench_button = button("Before it is opened…", tip, self.step_at_the_bench, "action")
        self.middle.addLayout(row(self.title, self.about, 1, self.bench_button))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(label(CAUTION, "faint", wrap=True))
        self.middle.addWidget(self.guide)
        self.middle.addWidget(split, 1)

    def _table(self, name: str, kind: type, fields: tuple[Field[Any], ...]) -> ThingsTable[Any]:
        columns: list[Column[Any]] = [
            Column("Code", lambda thing: thing.code or "new", width=54, mono=True)
        ]
        columns += [self._column(kind, field) for field in fields]
        if kind is Fault:
            proposal: Column[Any] = Column(
                "Do",
                self._decision,
                width=130,
                grow=1,
                role=lambda f: "stop" if f.grade == 4 else "",
            )
            columns.insert(5, proposal)
        model: ThingsModel[Any] = ThingsModel(columns, lambda thing: thing.code, blank=BLANKS[kind])
        table: ThingsTable[Any] = ThingsTable(model, name)
        table.picked.connect(lambda code: self.hand.pick(code) if code else None)
        table.refused.connect(self.notice.say)
        table.removed.connect(self._remove)
        table.macro = self.macro
        return table

    def _hours_tab(self) -> QWidget:
        """Return the table of what is still to be done, and how long it takes."""
        names = ("Operation", "To repair", "For a new loom", "Minutes each", "Rate from")
        columns: list[Column[tuple[str, ...]]] = [
            Column(
                name,
                partial(_cell, index),
                width=170 if index == 0 else 112,
                grow=index == 0,
                figures=index > 0,
            )
            for index, name in enumerate(names)
        ]
        self.hours_model: ThingsModel[tuple[str, ...]] = ThingsModel(columns, lambda line: line[0])
        self.hours_verdict = label("", "look", wrap=True)
        tip = "Rates learn from what was done: Ctrl+J, choose the operation, how much, how long."
        held = QWidget()
        table: ThingsTable[tuple[str, ...]] = ThingsTable(self.hours_model, "Hours still to come")
        held.setLayout(column(self.hours_verdict, table, label(tip, "faint", wrap=True)))
        return held

    def _column(self, kind: type, field: Field[Any]) -> Column[Any]:
        blank = BLANKS[kind]
        return column_of(
            field,
            partial(self._type, kind),
            width=WIDTHS.get((kind, field.name), 100),
            text=lambda thing: (
                "" if thing is blank else place_text(field, thing, self.store.job.loom.nodes)
            ),
            grow=int(field.name in GROWS),
            hidden=field.name in AT_WISH,
        )

    def _type(self, kind: type, thing: Any, field: Field[Any], text: str) -> None:
        typed = type_found(self.store.job, self.analysis.network, thing, field, text)
        code = self.store.take(typed)
        self.notice.say("")
        if not thing.code:
            self.table_of[kind].pick(code)
            self.hand.pick(code)

    def _decision(self, fault: Fault) -> str:
        if not fault.code:
            return ""
        decision = decide(self.analysis.loom, fault)
        return f"{decision.action}{' (own)' if decision.own else ''}"

    def refresh(self) -> None:
        """Show the loom as the job has it."""
        loom, tree = self.store.job.loom, self.analysis.loom
        self.view.show_loom(self.analysis)
        for _, kind, field, _ in TABLES:
            if kind is not Fault:
                self.table_of[kind].things.show_things(list(getattr(loom, field)))
        rows, verdict = estimate_rows(self.analysis)
        self.hours_model.show_things(list(rows))
        self.hours_verdict.setText(verdict or "Type the loom and its faults to have it estimated.")
        self.list.show_work(groups_of(tree))
        self._show_faults()
        ends = sum(tree.is_end(node.code) for node in loom.nodes)
        length = sum(segment.length_m or 0.0 for segment in loom.segments)
        words = [
            f"{counted(ends, 'end')}, {counted(len(loom.nodes) - ends, 'breakout')}",
            counted(len(loom.wires), "wire"),
            f"{length:.1f} m",
        ]
        left = self.before.left()
        self.bench_button.setText(f"Before it is opened: {left} to do" if left else "All recorded")
        self.about.setText(" · ".join(words) if loom.nodes else "nothing recorded yet")
        self.guide.setVisible(not loom.nodes)
        self._card.setVisible(bool(loom.nodes))

    def _show_faults(self) -> None:
        """Show the faults of the group that is chosen, and the one in hand."""
        tree, key = self.analysis.loom, self.list.key() or ALL
        shown = [
            fault
            for fault in sorted(tree.loom.faults, key=lambda fault: -grade_of(tree, fault))
            if in_group(tree, fault, key) or fault.code == self.hand.subject
        ]
        self.table_of[Fault].things.show_things(shown)

    def _choose_group(self) -> None:
        """Show another group of faults, the worst of them in hand."""
        self.tabs.setCurrentWidget(self.table_of[Fault])
        tree, key = self.analysis.loom, self.list.key() or ALL
        found = [fault for fault in tree.loom.faults if in_group(tree, fault, key)]
        if found and self.hand.subject not in {fault.code for fault in found}:
            self.hand.pick(max(found, key=lambda fault: grade_of(tree, fault)).code)
        self._show_faults()

    def type_new(self, kind: type) -> None:
        """Begin to type a new thing into its table."""
        table = self.table_of[kind]
        self.tabs.setCurrentWidget(table)
        table.edit_cell("", table.things.columns[1].heading)

    def follow(self, subject: str) -> None:
        """Show what is in hand: its row, its stretch, its reach."""
        thing = find(self.store.job.loom, subject)
        self.view.hold(subject if thing is not None else "")
        if thing is None:
            return
        table = self.table_of[type(thing)]
        if isinstance(thing, Fault) and table.things.row_of(thing.code) < 0:
            self._show_faults()
        self.tabs.setCurrentWidget(table)
        table.pick(subject)
        if isinstance(thing, Fault):
            self.list.choose(subject)

    def step_at_the_bench(self) -> None:
        """Go through what is to be recorded before the loom is opened, card by card."""
        self.before.go_through()

    def _remove(self, codes: list[str]) -> None:
        self.remove_each(codes, remove_found)
