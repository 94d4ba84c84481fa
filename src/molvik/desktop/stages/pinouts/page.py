"""Pinouts: what is in every cavity."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import QFileDialog, QFrame, QSplitter, QVBoxLayout

from molvik.desktop.dialogs.opening import ask, put_up
from molvik.desktop.dialogs.plugrows import PlugRowsDialog
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.pinouts.loosewires import LooseWires
from molvik.desktop.stages.pinouts.variants import VariantsDialog
from molvik.desktop.store import Store
from molvik.desktop.widgets.face import FaceView, Legend
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel, column_of
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.model.geometry import cavities
from molvik.model.parts import Connector, End, Pin
from molvik.model.refs import Ref, end_text
from molvik.pinouts.loose import loose_wires
from molvik.reference.contacts import CONTACTS
from molvik.typed.field import Field
from molvik.typed.pins import PIN_FIELDS, type_pin
from molvik.wording import counted

if TYPE_CHECKING:
    from molvik.desktop.stages.pinouts.importing import Copied, ImportDialog

WIDTHS = {"Function": 176, "Circuit": 62, "Colour": 104, "Size": 82, "Seen": 68, "Note": 100}


class PinoutsPage(StagePage):
    """Connectors on the left; the chosen one drawn, with its table below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Pinouts")
        self._code = ""
        self._build_work()
        self._loose: LooseWires | None = None
        self._build_actions()
        self.face = FaceView()
        self.face.chosen.connect(lambda cavity: hand.pick(end_text(self._code, cavity)))
        self.face.turned.connect(lambda _: self._name_face())
        card = QFrame()
        card.setObjectName("card")
        inner = QVBoxLayout(card)
        inner.setContentsMargins(8, 4, 8, 6)
        inner.addWidget(self.face, 1)
        inner.addWidget(Legend())
        self._build_table()
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(card)
        split.addWidget(self.table)
        split.setStretchFactor(0, 0)
        split.setStretchFactor(1, 1)
        split.setChildrenCollapsible(False)
        split.setSizes([296, 284])
        self._build_guide()
        self.middle.addLayout(
            row(
                self.title,
                self.about,
                1,
                self.flip_button,
                self.compare_button,
                self.edit_button,
                self.import_button,
            )
        )
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.empty)
        self.middle.addWidget(split, 1)
        self.middle.addStretch(0)
        self._split = split
        # F works wherever the focus is on this page, but for a table, where it is a letter.
        turn = QShortcut(QKeySequence("F"), self)
        turn.activated.connect(self._flip)
        self._name_face()

    def _build_work(self) -> None:
        self.list = WorkList("Connectors")
        self.list.chosen.connect(self.hand.pick)
        self.work_column.addWidget(label("CONNECTORS", "head"))
        self.work_column.addWidget(self.list, 1)
        self.work_column.addWidget(
            button("Add a connector…", "A housing typed by rows and columns", self._add)
        )
        self.several_button = button(
            "Several…", "Connectors typed or pasted, one in a line", self.add_several
        )
        self.work_column.addWidget(self.several_button)
        self.loose_button = button(
            "Loose wires…", "Which they are, and what each might be", self.show_loose
        )
        self.work_column.addWidget(self.loose_button)
        self.compare_button = button(
            "Tables…", "Compare this connector's tables: years, variants", self.compare_tables
        )

    def _build_actions(self) -> None:
        self.import_button = button(
            "Import a table…",
            "Read a pinout from CSV, TSV or XLSX, with a preview (Ctrl+I)",
            self.ask_for_table,
            "action",
        )
        self.flip_button = button("", "Turn the connector over (F)", self._flip)
        self.edit_button = button("Housing…", "Rows, columns, numbering, terminals", self._edit)

    def _build_guide(self) -> None:
        self.empty = Guide(
            "Here every connector is kept: its face as it is seen, and what is in each cavity.",
            "Read the pinout of a plug from a table: columns for cavity, function, colour and size "
            "are found by their headings. Or describe a housing and type what you see.",
            First(
                "Import a table…", "CSV, TSV or XLSX, with a preview (Ctrl+I)", self.ask_for_table
            ),
            First(
                "Import what was copied…",
                "Rows copied in a spreadsheet (Ctrl+Shift+V)",
                self.paste_table,
            ),
            First("Add a connector…", "A housing typed by rows and columns", self._add),
            First("Add several…", "Connectors typed or pasted, one in a line", self.add_several),
        )

    def _build_table(self) -> None:
        self.model: ThingsModel[Pin] = ThingsModel(self._columns(), lambda pin: pin.cavity)
        self.table: ThingsTable[Pin] = ThingsTable(self.model, "Pinout table")
        self.table.picked.connect(lambda cavity: self.hand.pick(end_text(self._code, cavity)))
        self.table.refused.connect(self.notice.say)
        self.table.macro = self.macro

    def _columns(self) -> list[Column[Pin]]:
        def column(field: Field[Pin]) -> Column[Pin]:
            grow = int(field.name in ("Function", "Note"))
            return column_of(field, self._type, width=WIDTHS[field.name], grow=grow)

        return [
            Column("Cavity", lambda pin: pin.cavity, width=58, mono=True),
            *(column(field) for field in PIN_FIELDS[:5]),
            Column("Wire", self._wires, width=64, sort=lambda pin: self._wires(pin) or "~"),
            column(PIN_FIELDS[5]),
        ]

    def _type(self, pin: Pin, field: Field[Pin], text: str) -> None:
        network = self.analysis.network
        self.store.take(type_pin(network, self._code, pin.cavity, field, text))

    def _wires(self, pin: Pin) -> str:
        wires = self.analysis.network.wires_at.get(End(self._code, pin.cavity), [])
        return ", ".join(wire.code for wire in wires)

    def refresh(self) -> None:
        """Show the connectors and the chosen one."""
        job = self.store.job
        entries = []
        for connector in job.connectors:
            ways = cavities(connector.grid)
            wired = sum(
                End(connector.code, cavity) in self.analysis.network.wires_at for cavity in ways
            )
            entries.append(
                Work(connector.code, connector.name, f"{wired}/{len(ways)}", under=connector.code)
            )
        self.list.show_work(entries)
        unknown = sum(not w.identified for w in loose_wires(self.analysis.network))
        self.loose_button.setText(f"Loose wires: {unknown}…" if unknown else "Loose wires…")
        if job.connector(self._code) is None:
            self._code = job.connectors[0].code if job.connectors else ""
        self._show()

    def follow(self, subject: str) -> None:
        """Show the connector in hand."""
        code, cavity, _ = Ref.parse(subject)
        if self.store.job.connector(code) is None:
            return
        if code != self._code:
            self._code = code
            self._show()
        self.face.choose(cavity)
        if cavity:
            self.table.pick(cavity)

    def _show(self) -> None:
        job = self.store.job
        connector = job.connector(self._code)
        self.empty.setVisible(connector is None)
        self._split.setVisible(connector is not None)
        self.flip_button.setEnabled(connector is not None)
        self.edit_button.setEnabled(connector is not None)
        tables = sum(pinout.connector == self._code for pinout in job.pinouts)
        self.compare_button.setVisible(tables > 0)
        self.face.show_connector(connector, self.analysis)
        if connector is None:
            self.title.setText("Pinouts")
            self.about.setText("")
            self.model.show_things([])
            return
        self.list.choose(self._code)
        self.title.setText(connector.name)
        self.about.setText(_about(connector))
        pins = {pin.cavity: pin for pin in connector.pins}
        self.model.show_things(
            [pins.get(cavity, Pin(cavity)) for cavity in cavities(connector.grid)]
        )

    def _name_face(self) -> None:
        other = "wire side" if self.face.face == "mating face" else "mating face"
        self.flip_button.setText(f"Show {other}")

    def _flip(self) -> None:
        self.face.turn()

    def _add(self) -> None:
        from molvik.desktop.dialogs.housing import HousingDialog

        dialog = HousingDialog(self, self.store, None)
        if ask(dialog):
            self.hand.pick(dialog.code)

    def add_several(self) -> None:
        """Add connectors that are typed one in a line."""
        dialog = PlugRowsDialog(self, self.store)
        if ask(dialog) and dialog.codes:
            self.hand.pick(dialog.codes[0])

    def _edit(self) -> None:
        from molvik.desktop.dialogs.housing import HousingDialog

        ask(HousingDialog(self, self.store, self.store.job.connector(self._code)))

    def compare_tables(self) -> None:
        """Compare the tables of the connector."""
        put_up(VariantsDialog(self, self.store, self._code))

    def show_loose(self) -> None:
        """Show the loose wires."""
        if self._loose is None:
            self._loose = LooseWires(self, self.store, self.hand)
        self._loose.show()
        self._loose.refresh()
        self._loose.raise_()

    def ask_for_table(self) -> None:
        """Ask for a table file and open it for import."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Import a pinout table", "", "Tables (*.csv *.tsv *.txt *.xlsx);;All files (*)"
        )
        if name:
            self.import_table(Path(name))

    def paste_table(self) -> None:
        """Open what was copied in a spreadsheet, as a table to import."""
        text = QGuiApplication.clipboard().text()
        if not text.strip():
            self.notice.say("Nothing is copied. Copy the table in the spreadsheet first.")
            return
        from molvik.desktop.stages.pinouts.importing import Copied

        self.import_table(Copied(text))

    def import_table(self, source: "Path | Copied") -> "ImportDialog":
        """Open a table in the import window, and return that."""
        from molvik.desktop.stages.pinouts.importing import ImportDialog

        dialog = ImportDialog(self, self.store, source, self._code)
        dialog.imported.connect(self.hand.pick)
        put_up(dialog)
        return dialog


def _about(connector: Connector) -> str:
    words = [f"{connector.code} · {counted(len(cavities(connector.grid)), 'cavity', 'cavities')}"]
    if connector.terminals:
        words.append(f"{connector.terminals}s")
    if connector.contact in CONTACTS:
        words.append(f"size {connector.contact}")
    return " · ".join(words)
