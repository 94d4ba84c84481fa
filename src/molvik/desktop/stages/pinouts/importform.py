"""The window that a table is imported in, as a form: what is chosen, and the preview."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from molvik import wording
from molvik.desktop.stages.pinouts.asking import ColourAsks
from molvik.desktop.widgets.fields import counted, line
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, held, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.model.geometry import cavities
from molvik.model.parts import Connector
from molvik.parsing.rowstates import STATE_WORDS
from molvik.parsing.tables import RawRow
from molvik.pinouts.columns import FIELDS, Field
from molvik.pinouts.judging import Shown
from molvik.reference.colours import DIALECTS, colour_name

NEW = "a new connector"


class ImportForm(QDialog):
    """Where the table goes, which columns are what, how it is read, and its rows.

    connectors: where it may go, code: of the one it goes to. cell: what stands in a row for a
    field; correct: takes what was typed there, a ValueError says why it does not. changed: another
    choice was made; meant(text, colour): that is what a text of the table says; toggled: the rows
    in hand; stopped: nobody waits any longer; variant_wanted: the table is another pinout.
    """

    changed = Signal()
    meant = Signal(str, object)
    toggled = Signal()
    stopped = Signal()
    variant_wanted = Signal()

    def __init__(
        self,
        parent: QWidget,
        connectors: tuple[Connector, ...],
        title: str,
        code: str,
        cell: Callable[[RawRow, Field], str],
        correct: Callable[[Shown, Field, str], None],
    ) -> None:
        super().__init__(parent)
        self.setWindowModality(Qt.WindowModality.WindowModal)
        self.resize(1200, 720)
        self._read_cell, self._type_cell = cell, correct
        self._into_fields(connectors, title, code)
        self._reading_fields()
        self._preview()
        self._waiting_fields()
        into = row(label("Into", "faint"), self.into, self._as_variant, self._new, 1)
        whole = QVBoxLayout(self)
        whole.setSpacing(10)
        whole.addLayout(into)
        whole.addWidget(self._maybe_row)
        whole.addLayout(self._columns_grid())
        whole.addLayout(row(self.dialect, self.unit, 1))
        for widget in (self.evidence, self.colours, self.notice, self._waiting):
            whole.addWidget(widget)
        whole.addWidget(self.table, 1)
        whole.addWidget(self.detail)
        whole.addLayout(row(self.summary, 1, self.tick, self.cancel, self.take))
        for box in (self.into, self.dialect, self.unit, *self.choices.values()):
            box.activated.connect(lambda _: self.changed.emit())
        self._new.setVisible(not self.into.currentData())
        self._as_variant.setVisible(bool(self.into.currentData()))

    def _into_fields(self, connectors: tuple[Connector, ...], title: str, code: str) -> None:
        ways = [
            (
                f"{connector.code} {connector.name}, "
                f"{wording.counted(len(cavities(connector.grid)), 'cavity', 'cavities')}",
                connector.code,
            )
            for connector in connectors
        ]
        self.into = choice("Into", [*ways, (NEW, "")])
        index = self.into.findData(code)
        self.into.setCurrentIndex(max(0, index if code else self.into.count() - 1))
        self.name = line("Name of the new connector", title.capitalize())
        self.variant = line(
            "Name of the variant",
            "",
            "Keep it beside the connector's own pinout: another year, "
            "an automatic, what it is to become",
            hint="empty: its own pinout",
        )
        self.variant.setMinimumWidth(190)  # its hint is read whole
        self._as_variant = held(label("as a variant named", "faint"), self.variant)
        self.rows = counted("Rows", 1, 100, self.changed.emit)
        self.columns = counted("Columns", 1, 100, self.changed.emit)
        self._new = QWidget()
        self._new.setLayout(
            row(
                label("named", "faint"),
                self.name,
                label("rows", "faint"),
                self.rows,
                label("columns", "faint"),
                self.columns,
            )
        )
        self.maybe_words = label("", "look")
        self.as_variant = button(
            "A variant", "Keep it beside that connector's own pinout", self.variant_wanted.emit
        )
        self._maybe_row = held(self.maybe_words, self.as_variant)
        self._maybe_row.hide()

    def _columns_grid(self) -> QGridLayout:
        """Return a choice of column for each field."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        for index, field in enumerate(FIELDS):
            grid.addWidget(label(field, "faint"), 0, index)
            grid.addWidget(self.choices[field], 1, index)
        return grid

    def _reading_fields(self) -> None:
        self.choices: dict[Field, QComboBox] = {}
        for field in FIELDS:
            self.choices[field] = choice(f"Column of {field}", [])
            self.choices[field].setToolTip(f"The column that holds the {field}")
        dialects = [(f"colours: {name}", name) for name in DIALECTS]
        self.dialect = choice("Colour dialect", [("colours: as guessed", ""), *dialects])
        units = [("sizes: as guessed", ""), ("sizes: AWG", "awg"), ("sizes: mm²", "metric")]
        self.unit = choice("Unit of bare sizes", units)
        self.colours = ColourAsks()
        self.colours.said.connect(self.meant)
        self.evidence = label("", "faint", wrap=True)
        self.notice = Notice()
        self.colours.refused.connect(self.notice.say)

    def _preview(self) -> None:
        self.model: ThingsModel[Shown] = ThingsModel(self._preview_columns(), row_key)
        self.table: ThingsTable[Shown] = ThingsTable(self.model, "Preview")
        self.table.clicked.connect(
            lambda index: self.toggled.emit() if index.column() == 0 else None
        )
        self.summary = label("")
        self.detail = label("", "look", wrap=True)
        self.table.picked.connect(lambda _: self.explain())
        self.tick = button(
            "Tick or untick", "Take the row or leave it out (Space)", self.toggled.emit
        )
        self.take = button(
            "Import", "Take the ticked rows, as one undoable step", self.accept, "action"
        )
        self.cancel = button("Cancel", "Change nothing (Esc)", self.reject)

    def _waiting_fields(self) -> None:
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.doing = label("", "faint")
        self.stop = button("Stop", "Stop reading; nothing is changed", self.stopped.emit)
        self._waiting = QWidget()
        self._waiting.setLayout(row(self.doing, self.progress, self.stop))

    def _preview_columns(self) -> list[Column[Shown]]:
        def column(field: Field, width: int) -> Column[Shown]:
            return Column(
                field.capitalize(),
                lambda shown: self._read_cell(shown.raw, field),
                width=width,
                edit=lambda shown, text: self._type_cell(shown, field, text),
                tip="As it is in the table. Type to correct it.",
            )

        return [
            Column("Take", lambda s: "yes" if s.ticked else "no", width=54),
            Column("Row", lambda s: str(s.raw.number), width=54, mono=True),
            Column("State", lambda s: STATE_WORDS[s.reading.state], width=104, role=_state_role),
            Column("What to do", lambda s: " ".join(s.reading.remarks), width=232),
            column("cavity", 62),
            column("function", 170),
            column("circuit", 66),
            column("colour", 86),
            Column(
                "Read as",
                _colour_words,
                width=140,
                colour=lambda s: s.reading.pin.colour if s.reading.pin else None,
            ),
            column("size", 64),
            Column("Read as", _size_words, width=92),
            column("note", 160),
        ]

    def explain(self) -> None:
        """Say under the table what the row in hand needs, at full length."""
        row_of = self.model.row_of(self.table.current_key())
        remarks = self.model.things[row_of].reading.remarks if row_of >= 0 else ()
        self.detail.setText(" ".join(remarks))
        self.detail.setVisible(bool(remarks))


def row_key(shown: Shown) -> str:
    """Return what a row is known by in the preview."""
    return str(shown.raw.number)


def _state_role(shown: Shown) -> str:
    return {"fine": "proved", "needs you": "live_text"}.get(shown.reading.state, "stop")


def _colour_words(shown: Shown) -> str:
    pin = shown.reading.pin
    if pin is not None and pin.fill:
        return f"marked {pin.fill}"
    if pin is None or pin.colour is None:
        return ""
    return colour_name(pin.colour.base, pin.colour.tracer)


def _size_words(shown: Shown) -> str:
    pin = shown.reading.pin
    return str(pin.size) if pin is not None and pin.size is not None else ""
