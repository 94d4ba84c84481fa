"""The window that makes a housing or changes one, drawn as it is typed."""

from pathlib import Path
from typing import Any

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from molvik.analysis import Analysis
from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.store import Store
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.fields import counted, line, ticked
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, held, label, row
from molvik.files.errors import JobFileError
from molvik.files.families import SUFFIX, all_families, keep_family, read_family
from molvik.model import edits
from molvik.model.families import Family
from molvik.model.geometry import cavities, grid_problem, read_spots
from molvik.model.job import Job
from molvik.model.parts import Connector, Grid
from molvik.pinouts.families import about, family_of
from molvik.reference.contacts import CONTACTS


class HousingDialog(QDialog):
    """Rows, columns and numbering of a housing, drawn at once. ``code`` is the connector's."""

    def __init__(self, parent: QWidget, store: Store, connector: Connector | None) -> None:
        super().__init__(parent)
        self._store = store
        self._old = connector
        self.code = connector.code if connector else edits.free_code(store.job, Connector)
        self.setWindowTitle("Housing" if connector else "Add a connector")
        self.resize(860, 720)
        shown = connector or Connector(self.code, "", Grid(2, 4))
        self._gaps = shown.grid.gaps
        self._family_fields()
        self.name = line("Name", shown.name, hint="What it plugs into, for example Crank sensor")
        self._layout_fields(shown.grid)
        self._kind_fields(shown)
        self._key_fields(shown)
        self._form = QFormLayout()
        self._fill_form()
        self.face = FaceView()
        self.notice = Notice()
        save = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        save.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(self._form)
        whole.addWidget(self.face, 1)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), save))
        self._show_layout()
        self.name.setFocus()  # or what is typed first would choose a family

    def _family_fields(self) -> None:
        self._families = all_families()
        families = [(family.name, str(index)) for index, family in enumerate(self._families)]
        self.family = choice("Family", [("as typed below", ""), *families])
        self.family.activated.connect(lambda _: self._take_family())
        self.about_family = label("", "faint", wrap=True)

    def _layout_fields(self, grid: Grid) -> None:
        self.rows = counted("Rows", grid.rows, 100, self._draw)
        self.columns = counted("Columns", grid.columns, 100, self._draw)
        ways = [("row by row", "row"), ("column by column", "column")]
        self.by = self._choice("Numbered by", ways, grid.by)
        corners = ("top left", "top right", "bottom left", "bottom right")
        self.start = self._choice("Starts at", [(f"from {c}", c) for c in corners], grid.start)
        self.serpentine = ticked("back and forth", grid.serpentine, self._draw)
        self.letters = ticked("rows lettered, columns numbered", grid.letters, self._draw)
        self.irregular = ticked(
            "irregular: a line for each cavity", bool(grid.spots), self._show_layout
        )
        self.round = ticked("round housing", grid.round, self._draw)
        lines = (f"{s.label} {s.x:g} {s.y:g} {s.contact}".strip() for s in grid.spots)
        self.spots = QPlainTextEdit("\n".join(lines))
        self.spots.setAccessibleName("Label, x, y, terminal size")
        self.spots.setPlaceholderText(
            "label x y size, from a caliper or a spreadsheet:\nA 0 0\nB 2.5 0 16"
        )
        self.spots.setMaximumHeight(110)
        self.spots.setTabChangesFocus(True)
        self.spots.textChanged.connect(self._draw)

    def _kind_fields(self, connector: Connector) -> None:
        ends = [("not known", ""), ("pins or blades", "pin"), ("sockets", "socket")]
        self.terminals = choice("Terminals", ends, connector.terminals)
        halves = [("not known", ""), ("plug", "plug"), ("receptacle", "receptacle")]
        self.housing = choice("Housing", halves, connector.housing)
        sizes = [(f"{c.size}: {c.current_a:g} A", c.size) for c in CONTACTS.values()]
        self.contact = choice("Terminal size", [("not known", ""), *sizes], connector.contact)
        others = (other for other in self._store.job.connectors if other.code != connector.code)
        mates = [(f"{other.code} {other.name}", other.code) for other in others]
        self.mate = choice(
            "Plugs into", [("nothing in this job", ""), *mates], connector.plugs_into
        )
        self.others = line(
            "Cavities with another terminal size",
            " ".join(f"{cavity}:{size}" for cavity, size in connector.contacts),
            "Cavity and terminal size: 1:16 2:16",
        )

    def _key_fields(self, connector: Connector) -> None:
        sides = [("not known", ""), *((side, side) for side in ("top", "bottom", "left", "right"))]
        self.key = self._choice("Key", sides, connector.key)
        self.lever = self._choice("Lever or clip", sides, connector.lever)
        self.up = line(
            "How the top is told",
            connector.up,
            hint="for example: lever up, arrow up",
            typed=self._draw,
        )

    def _choice(self, name: str, items: list[tuple[str, str]], chosen: str) -> QComboBox:
        """Return a choice that shows in the drawing."""
        box = choice(name, items, chosen)
        box.activated.connect(lambda _: self._draw())
        return box

    def _fill_form(self) -> None:
        form = self._form
        read = button("Read one…", "A housing somebody shared", self._ask_family)
        keep = button("Keep as a family…", "For other jobs, and to share", self._ask_keep)
        form.addRow("Family", held(self.family, read, keep))
        form.addRow("", self.about_family)
        form.addRow("Name", self.name)
        form.addRow("Layout", held(self.irregular, self.round))
        form.addRow("Cavities", self.spots)
        self._counted = held(self.rows, self.columns)
        form.addRow("Rows and columns", self._counted)
        self._numbered = held(self.by, self.start, self.serpentine, self.letters)
        form.addRow("Numbered", self._numbered)
        form.addRow("Housing", held(self.housing, label("terminals", "faint"), self.terminals))
        form.addRow("Terminal size", held(self.contact, label("but", "faint"), self.others))
        form.addRow("Key", held(self.key, label("lever or clip", "faint"), self.lever, self.up))
        form.addRow("Plugs into", self.mate)

    def _show_layout(self) -> None:
        """Show the fields of a regular or of an irregular layout."""
        irregular = self.irregular.isChecked()
        self._form.setRowVisible(self.spots, irregular)
        self.round.setVisible(irregular)
        for fields in (self._counted, self._numbered):
            self._form.setRowVisible(fields, not irregular)
        self._draw()

    def _take_family(self) -> None:
        """Fill the fields from the chosen family."""
        at = self.family.currentData()
        if at == "":
            self.about_family.setText("")
            return
        self._fill(self._families[int(at)])

    def _fill(self, family: Family) -> None:
        """Fill the fields from a family."""
        grid = family.grid
        self._gaps = grid.gaps
        for spin, value in ((self.rows, grid.rows), (self.columns, grid.columns)):
            spin.setValue(value)
        for box, data in (
            (self.by, grid.by),
            (self.start, grid.start),
            (self.key, family.key),
            (self.lever, family.lever),
            (self.housing, family.housing),
            (self.terminals, family.terminals),
            (self.contact, family.contact),
        ):
            box.setCurrentIndex(max(0, box.findData(data)))
        self.serpentine.setChecked(grid.serpentine)
        self.letters.setChecked(grid.letters)
        self.up.setText(family.up)
        self.others.setText(" ".join(f"{cavity}:{size}" for cavity, size in family.contacts))
        self.spots.setPlainText(
            "\n".join(f"{s.label} {s.x:g} {s.y:g} {s.contact}".strip() for s in grid.spots)
        )
        self.round.setChecked(grid.round)
        self.irregular.setChecked(bool(grid.spots))
        self.about_family.setText(about(family))
        self._show_layout()

    def _ask_family(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Read a housing", "", f"Housings (*{SUFFIX});;All files (*)"
        )
        if name:
            self.read_family(Path(name))

    def read_family(self, path: Path) -> None:
        """Take a housing that somebody shared, and keep it."""
        try:
            family = read_family(path)
            keep_family(family)
        except JobFileError as error:
            self.notice.say(str(error))
            return
        self._fill(family)

    def _ask_keep(self) -> None:
        name = ask_line(self, "Keep as a family", "Name of the family")
        if name is not None:
            self.keep_family(name)

    def keep_family(self, name: str) -> None:
        """Keep this housing for other jobs; its file can be shared. Raises ValueError."""
        try:
            if not name.strip():
                raise ValueError("Give the family a name.")
            made = family_of(Connector("", "", **self._fields()), name.strip())
            path = keep_family(made)
        except (ValueError, JobFileError) as error:
            self.notice.say(str(error))
            return
        self.about_family.setText(f"Kept. To share it, send {path}")

    def _fields(self) -> dict[str, Any]:
        """Return what stands in the fields of the housing; ValueError says what cannot be."""
        grid = self._grid()
        problem = grid_problem(grid)
        if problem:
            raise ValueError(problem)
        return {
            "grid": grid,
            "housing": self.housing.currentData(),
            "terminals": self.terminals.currentData(),
            "contact": self.contact.currentData(),
            "contacts": _contacts(self.others.text(), set(cavities(grid))),
            "key": self.key.currentData(),
            "lever": self.lever.currentData(),
            "up": self.up.text().strip(),
        }

    def _grid(self) -> Grid:
        if self.irregular.isChecked():
            spots = read_spots(self.spots.toPlainText())
            if not spots:
                raise ValueError("Type a line for each cavity: label, x, y.")
            return Grid(1, 1, spots=spots, round=self.round.isChecked())
        rows, columns = self.rows.value(), self.columns.value()
        return Grid(
            rows,
            columns,
            self.by.currentData(),
            self.start.currentData(),
            self.serpentine.isChecked(),
            self.letters.isChecked(),
            tuple(gap for gap in self._gaps if gap[0] < rows and gap[1] < columns),
        )

    def _draw(self) -> None:
        try:
            fields = self._fields()
        except ValueError as error:
            self.notice.say(str(error))
            return
        self.notice.say("")
        shown = Connector("C0", self.name.text() or "Housing", **fields)
        self.face.show_connector(shown, Analysis(Job("", connectors=(shown,))))

    def accept(self) -> None:
        """Put the housing into the job. Raises ValueError."""
        try:
            fields = self._fields()
            if not self.name.text().strip():
                raise ValueError("Give it a name.")
            if self._old is not None:
                lost = _lost_cavities(self._store.job, self._old, fields["grid"])
                if lost:
                    raise ValueError(lost)
            fields["name"] = self.name.text().strip()
            fields["plugs_into"] = self.mate.currentData()
            if self._old is None:
                made = Connector(self.code, **fields)
                self._store.do(f"Add {self.code}", lambda job: edits.add(job, made))
            else:
                self._store.do(
                    f"Change {self.code}", lambda job: edits.change_part(job, self.code, **fields)
                )
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()


def _contacts(text: str, known: set[str]) -> tuple[tuple[str, str], ...]:
    """Read cavities with another contact size: "1:16 2:16"."""
    found = []
    for part in text.replace(",", " ").split():
        cavity, _, size = part.partition(":")
        if cavity.upper() not in known:
            raise ValueError(f"There is no cavity {cavity} to have another terminal size.")
        if size not in CONTACTS:
            raise ValueError(
                f"“{part}” names no terminal size. Type cavity and size, 1:16; the sizes are "
                f"{', '.join(CONTACTS)}."
            )
        found.append((cavity.upper(), size))
    return tuple(found)


def _lost_cavities(job: Job, connector: Connector, grid: Grid) -> str:
    """Say which wired cavities a new grid would no longer have."""
    known = set(cavities(grid))
    used = {e.cavity for wire in job.wires for e in wire.ends if e.at == connector.code}
    lost = sorted(used - known)
    if not lost:
        return ""
    return f"Wires end in cavity {', '.join(lost[:6])}, which this grid does not have."
