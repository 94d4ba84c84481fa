"""Circuits: wires from cavity to cavity, run by picking two cavities or by typing."""

from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMenu,
    QStackedWidget,
    QTabWidget,
    QToolButton,
    QWidget,
)

from molvik.circuits.wire_table import read_wires
from molvik.desktop.dialogs.housing import HousingDialog
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.alive import AliveView
from molvik.desktop.stages.circuits.differing import WhoseWord
from molvik.desktop.stages.circuits.endpicker import EndPicker
from molvik.desktop.stages.circuits.laterview import LATER, LaterView, View
from molvik.desktop.stages.circuits.wiremenu import WireMenus
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel, column_of
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.electrical.conductor import area_mm2
from molvik.files.tablelimits import TableError
from molvik.files.tabletext import read_text_table
from molvik.model import edits
from molvik.model.job import code_order
from molvik.model.parts import End, Wire
from molvik.model.refs import Ref
from molvik.typed.field import Field
from molvik.typed.wires import NEW_WIRE, WIRE_FIELDS, type_wire
from molvik.wording import counted

WIDTHS = {
    "From": 72,
    "To": 72,
    "Function": 130,
    "Colour": 98,
    "Size": 86,
    "Length": 68,
    "Current": 76,
    "Note": 90,
    "Insulation": 82,
    "Air": 60,
    "Place": 72,
    "Bundle": 96,
    "Duty": 86,
    "Use": 72,
    "Circuit": 66,
    "Cable": 110,
    "Twist": 66,
    "Via": 90,
}
LONGEST_RUN = "Run wire C88/88 to D88/88"
"""What the button has room for."""

AT_FIRST = ("From", "To", "Function", "Colour", "Size", "Length", "Current", "Note")
"""The columns of the wire list that are in view until the user chooses others."""
ALL, LOOSE_ENDS, UNSIZED = "all", "loose", "unsized"


class CircuitsPage(StagePage):
    """Two ends above, the wire list below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Wires")
        self._whose = WhoseWord(self)
        self._build_work()
        # Two ends of one wire are seldom at one part.
        self.first = EndPicker(store, hand, "FROM", 0)
        self.second = EndPicker(store, hand, "TO", 1)
        self._ends_shown: tuple[End, ...] = ()
        """Those of the wire in hand, as they were shown."""
        for picker in (self.first, self.second):
            picker.changed.connect(self.name_run)
        self.run_button = button("Run wire", "", self.run_wire, "action")
        widest = self.run_button.fontMetrics().horizontalAdvance(LONGEST_RUN)
        self.run_button.setFixedWidth(round(1.08 * widest) + 28)  # bold; it stays in its place
        self._build_menus()
        card = QFrame()
        card.setObjectName("card")
        inner = QHBoxLayout(card)
        inner.setContentsMargins(12, 8, 12, 6)
        inner.addWidget(self.first, 1)
        inner.addWidget(self.second, 1)
        card.setMinimumHeight(205)
        card.setMaximumHeight(262)
        self._ends = card
        self._build_table()
        self._head = QWidget()
        self._head.setLayout(row(self.title, self.about, 1, *self.menu_buttons, self.run_button))
        self.middle.addWidget(self._head)
        self.middle.addWidget(self.notice)
        wires = QWidget()
        inside = column(card, self.table)
        inside.setStretch(0, 2)
        inside.setStretch(1, 3)
        inside.setContentsMargins(0, 8, 0, 0)
        wires.setLayout(inside)
        self.alive = AliveView(store, hand)
        self.left.addWidget(self.alive.controls)
        self.alive.controls.probed.connect(self._probe)
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Wires, what is alive, the bus, charging, gauges")
        self.tabs.addTab(wires, "Wires")
        self.tabs.addTab(self.alive, "What is alive")
        self.later = {name: LaterView(make, store, hand) for name, make in LATER.items()}
        for name, room in self.later.items():
            self.left.addWidget(room.left)
            self.tabs.addTab(room, name)
        self.tabs.currentChanged.connect(self._turn_to)
        self._build_guide()
        self.middle.addWidget(self.guide)
        self.middle.addWidget(self.tabs, 1)

    def _build_work(self) -> None:
        self.list = WorkList("Which wires")
        self.list.chosen.connect(lambda _: self._show_wires())
        left = QWidget()
        beside = column(label("WIRES", "head"), self.list, spacing=6)
        beside.setStretch(1, 1)
        left.setLayout(beside)
        self.add_menu = QMenu(self)
        for kind in ("connector", "fuse", "splice", "earth point", "device"):
            self.add_menu.addAction(kind.capitalize() + "…", partial(self.add_part, kind))
            if kind == "connector":
                several = self.wish("pinouts", "add_several")
                self.add_menu.addAction("Several connectors…", several)
        add = QToolButton()
        add.setText("Add a part…")
        add.setToolTip("A connector, fuse, splice, earth point or device for wires to go to")
        add.setAccessibleName("Add a part")
        add.setMenu(self.add_menu)
        add.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        beside.addWidget(add)
        self.left = QStackedWidget()
        self.work_column.addWidget(self.left)
        self.left.addWidget(left)

    def _build_guide(self) -> None:
        self.guide = Guide(
            "Here wires are run between parts, and what is alive is found before there is power.",
            "Lay a ready block, the starting and charging of an engine for example; or read a list "
            "of wires; or add parts and choose two ends. A battery and what it feeds is enough.",
            First(
                "Lay a block…",
                "Parts, wires, sizes and fuses of a usual circuit, laid whole",
                self.menus.lay_block,
            ),
            First(
                "Read wires from a table…",
                "From, to, colour, size, length: CSV, TSV or XLSX",
                self.menus.ask_table,
            ),
            First(
                "Add a device…",
                "A battery, a lamp, a motor, a switch, a relay",
                partial(self.add_part, "device"),
            ),
            First(
                "Add a connector…",
                "A housing typed by rows and columns",
                partial(self.add_part, "connector"),
            ),
        )

    def _build_menus(self) -> None:
        self.menus = WireMenus(self, self)
        self.menu_buttons = []
        for text, tip, menu in (
            ("Loom…", "Lay a block, strip down, read wires in or write them out", self.menus.loom),
            ("Wires…", "Split, extend, fuse, copy, cap, set many at once", self.menus.wires),
        ):
            made = QToolButton()
            made.setText(text)
            made.setToolTip(tip)
            made.setAccessibleName(text.rstrip("…"))
            made.setMenu(menu)
            made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            self.menu_buttons.append(made)

    def _build_table(self) -> None:
        columns = [
            Column("Wire", lambda w: w.code or "new", width=58, mono=True),
            *(self._column(field) for field in WIRE_FIELDS),
        ]
        self.model: ThingsModel[Wire] = ThingsModel(
            columns, lambda w: w.code, blank=NEW_WIRE, derived=False
        )
        self.table: ThingsTable[Wire] = ThingsTable(self.model, "Wire list")
        self.table.picked.connect(self._picked)
        self.table.refused.connect(self.notice.say)
        self.table.removed.connect(self.remove)
        self.table.macro = self.macro
        self.table.paste_whole = self._paste_wires
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(self._show_menu)
        fill = QShortcut(QKeySequence("Ctrl+D"), self.table)
        fill.setContext(Qt.ShortcutContext.WidgetShortcut)
        fill.activated.connect(self._fill_down)

    def _probe(self, code: str) -> None:
        """Take something in hand, and go to the bench with it."""
        self.hand.pick(code)
        self.wished.emit("proving", "probe_in_hand")

    def _turn_to(self, tab: int) -> None:
        """Show a tab with what belongs on its left."""
        self.left.setCurrentIndex(tab)
        self._head.setVisible(tab == 0)
        self.middle.setSpacing(10 if tab == 0 else 2)  # the drawing has all the room there is
        self.refresh()

    def _column(self, field: Field[Wire]) -> Column[Wire]:
        numbers = {
            "Size": lambda w: area_mm2(w.size) if w.size else 0.0,
            "Length": lambda w: w.length_m or 0.0,
            "Current": lambda w: w.load_a or 0.0,
        }
        return column_of(
            field,
            self._type,
            width=WIDTHS[field.name],
            text=lambda w: "" if w is NEW_WIRE else field.show(w),
            role=(lambda w: "stop" if field.show(w) == "loose" and w.code else "")
            if field.name in ("From", "To")
            else None,
            sort=numbers.get(field.name),
            grow=1 if field.name in ("Function", "Note") else 0,
            hidden=field.name not in AT_FIRST,
        )

    def _type(self, wire: Wire, field: Field[Wire], text: str) -> None:
        typed = type_wire(self.store.job, self.analysis.network, wire.code, field, text)
        code = self.store.take(typed)
        self.notice.say(typed.remark)
        if not wire.code:
            # The wire typed into the empty row: go on typing in it.
            self.table.pick(code)
            self.hand.pick(code)

    def turn_to(self, name: str) -> View:
        """Turn to one of the tabs that are made later, by its name; return what it shows."""
        room = self.later[name]
        self.tabs.setCurrentWidget(room)
        return room.view

    def show_ends(self) -> None:
        """Show the wires, ready to choose an end, or what to do first."""
        self.tabs.setCurrentIndex(0)
        (self.guide.buttons[0] if self.guide.isVisible() else self.first.part).setFocus()

    def begin(self) -> None:
        """Another job was opened: the key stands as it does at first."""
        self.alive.controls.begin()
        super().begin()

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        super().forget()
        self._whose.forget()
        for room in self.later.values():
            room.forget()
        for picker in (self.first, self.second):
            picker.forget()

    def refresh(self) -> None:
        """Show the wires and both ends; the wires alone in the middle of a paste."""
        if self.store.batch:
            self._show_wires()
            return
        if self.tabs.currentWidget() is self.alive:
            self.alive.refresh()
        room = self.tabs.currentWidget()
        if isinstance(room, LaterView):
            room.view.refresh()
        job, network = self.store.job, self.analysis.network
        bare = not job.wires and not any(True for _ in job.parts())
        self.guide.setVisible(bare)
        self._ends.setVisible(not bare)
        loose = sum(not (w.start.at and w.finish.at) for w in job.wires)
        unsized = sum(w.size is None for w in job.wires)
        entries = [Work(ALL, "All wires", str(len(job.wires)))]
        if loose:
            entries.append(Work(LOOSE_ENDS, "Loose ends", str(loose), "stop"))
        if unsized:
            entries.append(Work(UNSIZED, "Without a size", str(unsized), "live_text"))
        counts: dict[str, int] = {}
        for end, wires in network.wires_at.items():
            counts[end.at] = counts.get(end.at, 0) + len(wires)
        for part in sorted(job.parts(), key=lambda one: code_order(one.code)):
            name = part.name or part.code
            entries.append(Work(part.code, f"{part.code}  {name}", str(counts.get(part.code, 0))))
        self.list.show_work(entries)
        self.first.refresh()
        self.second.refresh()
        wire = self.analysis.network.wires.get(self.hand.subject)
        if wire is not None and wire.ends != self._ends_shown:
            self._show_ends(wire)
        self._show_wires()
        self.name_run()

    def _show_wires(self) -> None:
        key = self.list.key() or ALL
        wires = self.store.job.wires
        if key == LOOSE_ENDS:
            shown = [w for w in wires if not (w.start.at and w.finish.at)]
        elif key == UNSIZED:
            shown = [w for w in wires if w.size is None]
        elif key == ALL:
            shown = list(wires)
        else:
            shown = [w for w in wires if key in (w.start.at, w.finish.at)]
        self.model.show_things(shown)
        words = f"{len(shown)} of {len(wires)}" if len(shown) != len(wires) else f"{len(wires)}"
        self.about.setText(words)
        self.about.setToolTip("Type into the last row for a new one")

    def follow(self, subject: str) -> None:
        """Show the wire, the cavity or the device in hand."""
        self.alive.follow(subject)
        for room in self.later.values():
            room.follow(subject)
        wire = self.analysis.network.wires.get(subject)
        if wire is not None:
            if self.model.row_of(subject) < 0:
                self.list.choose(ALL)
                self._show_wires()
            self.table.pick(subject)
            self._show_ends(wire)
            return
        code, cavity, _ = Ref.parse(subject)
        if cavity and subject not in (str(self.first.end()), str(self.second.end())):
            self.first.choose(End(code, cavity))
            self.name_run()

    def _show_ends(self, wire: Wire) -> None:
        """Show where the wire in hand goes."""
        self._ends_shown = wire.ends
        for picker, end in zip((self.first, self.second), wire.ends, strict=True):
            if end.at:
                picker.choose(end)
        self.name_run()

    def _picked(self, code: str) -> None:
        if code:
            self.hand.pick(code)

    def chosen_wires(self) -> tuple[str, ...]:
        """Return the codes of the chosen wires, in the order they are shown."""
        return tuple(code for code in self.table.selected_keys() if code)

    def _show_menu(self, place: QPoint) -> None:
        self.menus.column = self.table.currentIndex().column()
        self.menus.wires.popup(self.table.viewport().mapToGlobal(place))

    def _fill_down(self) -> None:
        self.menus.column = self.table.currentIndex().column()
        self.menus.fill_down()

    def _paste_wires(self, text: str) -> bool:
        """Take lines pasted into the last row as new wires, as one edit: hundreds at once."""

        if self.table.current_key() or not text.strip():
            return False
        headings = [column.heading for column in self.model.columns]
        if "From" not in text.split("\n", 1)[0]:  # without headings: from the cell in hand on
            text = "\t".join(headings[self.table.currentIndex().column() :]) + "\n" + text
        try:
            table = read_wires(read_text_table("paste", text.encode()), self.analysis.network)
        except TableError:
            return False
        return not table.problem and self.menus.add_table(table)

    def name_run(self) -> None:
        """Say on the button which wire it would run."""
        first, second = self.first.end(), self.second.end()
        ready = bool(first.at and second.at and first != second)
        self.run_button.setEnabled(ready)
        words = f"Run wire {first} to {second}" if ready else "Run wire"
        room = self.run_button.width() - 28
        right = Qt.TextElideMode.ElideRight
        self.run_button.setText(self.run_button.fontMetrics().elidedText(words, right, room))
        self.run_button.setToolTip(
            f"{words}: between the two chosen ends (Ctrl+R)"
            if ready
            else "Choose a cavity on each side first"
        )

    def run_wire(self) -> None:
        """Make a wire between the two chosen ends, with what the pinouts say of it."""
        first, second = self.first.end(), self.second.end()
        if not (first.at and second.at and first != second):
            self.notice.say("Choose a cavity on each side first.")
            return
        code = edits.free_code(self.store.job, Wire)
        wire = self._whose.known(self.analysis.network, Wire(code, first, second))
        if wire is None:
            return
        if self.attempt(lambda: self.store.do(f"Run {code}", lambda job: edits.add(job, wire))):
            self.hand.pick(code)

    def remove(self, codes: list[str]) -> None:
        """Take wires out of the job, as one undo step."""
        wanted = frozenset(code for code in codes if code)
        if wanted:
            words = next(iter(wanted)) if len(wanted) == 1 else f"{counted(len(wanted), 'wire')}"
            self.store.do(f"Delete {words}", lambda job: edits.remove_wires(job, wanted))

    def add_part(self, kind: str) -> None:
        """Ask for a part and add it."""
        if kind == "connector":
            housing = HousingDialog(self, self.store, None)
            if ask(housing):
                self.hand.pick(housing.code)
            return
        dialog = PartDialog(self, self.store, kind)
        if ask(dialog):
            self.hand.pick(dialog.code)
