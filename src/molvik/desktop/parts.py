"""Small windows that add a part to the job, or change a housing."""

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from molvik.analysis import Analysis
from molvik.desktop.store import Store
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.small import Notice, button, label, row
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, EarthPoint, Fuse, Grid, Splice
from molvik.pinouts.geometry import cavities, grid_problem
from molvik.quantities import read_current_a
from molvik.reference.contacts import CONTACTS

DEVICE_KINDS = {
    "battery": ("+", "-"),
    "alternator": ("B+", "L"),
    "switch": ("in", "out"),
    "relay": ("30", "87", "86", "85"),
    "load": ("+", "-"),
    "sensor": ("signal", "return"),
    "controller": ("30", "15", "31"),
}
"""Kinds of device with the terminals to begin with."""

JOINS = {"switch": (("in", "out"),), "relay": (("30", "87"),)}


def _choice(name: str, items: list[tuple[str, str]], chosen: str = "") -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    for text, data in items:
        box.addItem(text, data)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    return box


SimplePart = Fuse | Splice | EarthPoint | Device
KIND_OF: dict[type, str] = {
    Fuse: "fuse",
    Splice: "splice",
    EarthPoint: "earth point",
    Device: "device",
}


class HousingDialog(QDialog):
    """Rows, columns and numbering of a housing, drawn at once. ``code`` is the connector's."""

    def __init__(self, parent: QWidget, store: Store, connector: Connector | None) -> None:
        super().__init__(parent)
        self._store = store
        self._old = connector
        self.code = connector.code if connector else edits.free_code(store.job, Connector)
        self.setWindowTitle("Housing" if connector else "Add a connector")
        self.resize(760, 560)
        one = connector or Connector(self.code, "", Grid(2, 4))
        grid = one.grid
        self.name = QLineEdit(one.name)
        self.name.setAccessibleName("Name")
        self.name.setPlaceholderText("What it plugs into, for example Crank sensor")
        self.rows, self.columns = QSpinBox(), QSpinBox()
        for spin, value, name in (
            (self.rows, grid.rows, "Rows"),
            (self.columns, grid.columns, "Columns"),
        ):
            spin.setRange(1, 100)
            spin.setValue(value)
            spin.setAccessibleName(name)
            spin.valueChanged.connect(lambda _: self._draw())
        corners = ("top left", "top right", "bottom left", "bottom right")
        self.by = _choice(
            "Numbered by", [("row by row", "row"), ("column by column", "column")], grid.by
        )
        self.start = _choice("Starts at", [(f"from {c}", c) for c in corners], grid.start)
        self.serpentine = QCheckBox("back and forth")
        self.serpentine.setChecked(grid.serpentine)
        self.letters = QCheckBox("rows lettered, columns numbered")
        self.letters.setChecked(grid.letters)
        self.terminals = _choice(
            "Terminals",
            [("not known", ""), ("pins or blades", "pin"), ("sockets", "socket")],
            one.terminals,
        )
        self.housing = _choice(
            "Housing",
            [("not known", ""), ("plug", "plug"), ("receptacle", "receptacle")],
            one.housing,
        )
        self.contact = _choice(
            "Contact size",
            [
                ("not known", ""),
                *((f"{c.size}: {c.current_a:g} A", c.size) for c in CONTACTS.values()),
            ],
            one.contact,
        )
        mates = [("nothing in this job", "")]
        others = (other for other in store.job.connectors if other is not connector)
        mates += [(f"{other.code} {other.name}", other.code) for other in others]
        self.mate = _choice("Plugs into", mates, one.plugs_into)
        for box in (self.by, self.start):
            box.activated.connect(lambda _: self._draw())
        for check in (self.serpentine, self.letters):
            check.toggled.connect(lambda _: self._draw())
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Rows and columns", _held(self.rows, self.columns))
        form.addRow("Numbered", _held(self.by, self.start, self.serpentine, self.letters))
        form.addRow("Housing", _held(self.housing, label("terminals", "faint"), self.terminals))
        form.addRow("Contact size", self.contact)
        form.addRow("Plugs into", self.mate)
        self.face = FaceView()
        self.notice = Notice()
        save = button("Keep", "Put it into the job (Enter)", self.accept, "action")
        save.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(form)
        whole.addWidget(self.face, 1)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), save))
        self._draw()

    def _grid(self) -> Grid:
        old = self._old.grid if self._old else Grid(0, 0)
        rows, columns = self.rows.value(), self.columns.value()
        return Grid(
            rows,
            columns,
            self.by.currentData(),
            self.start.currentData(),
            self.serpentine.isChecked(),
            self.letters.isChecked(),
            tuple(gap for gap in old.gaps if gap[0] < rows and gap[1] < columns),
        )

    def _draw(self) -> None:
        grid = self._grid()
        problem = grid_problem(grid)
        self.notice.say(problem)
        if not problem:
            shown = Connector("C0", self.name.text() or "Housing", grid)
            self.face.show_connector(shown, Analysis(Job("", connectors=(shown,))))

    def accept(self) -> None:
        """Put the housing into the job."""
        grid = self._grid()
        problem = grid_problem(grid) or ("" if self.name.text().strip() else "Give it a name.")
        if not problem and self._old is not None:
            problem = _lost_cavities(self._store.job, self._old, grid)
        if problem:
            self.notice.say(problem)
            return
        fields = {
            "name": self.name.text().strip(),
            "grid": grid,
            "housing": self.housing.currentData(),
            "terminals": self.terminals.currentData(),
            "contact": self.contact.currentData(),
            "plugs_into": self.mate.currentData(),
        }
        if self._old is None:
            made = Connector(self.code, **fields)
            self._store.do(f"Add {self.code}", lambda job: edits.add(job, made))
        else:
            self._store.do(
                f"Change {self.code}", lambda job: edits.change_part(job, self.code, **fields)
            )
        super().accept()


def _lost_cavities(job: Job, connector: Connector, grid: Grid) -> str:
    """Say which wired cavities a new grid would no longer have."""
    known = set(cavities(grid))
    used = {e.cavity for wire in job.wires for e in wire.ends if e.at == connector.code}
    lost = sorted(used - known)
    if not lost:
        return ""
    return f"Wires end in cavity {', '.join(lost[:6])}, which this grid does not have."


def _held(*widgets: QWidget) -> QWidget:
    held = QWidget()
    held.setLayout(row(*widgets, 1))
    return held


class PartDialog(QDialog):
    """Adds a fuse, an earth point, a splice or a device, or changes one. ``code`` is the part's."""

    def __init__(
        self, parent: QWidget, store: Store, kind: str, part: SimplePart | None = None
    ) -> None:
        super().__init__(parent)
        self._store, self._kind, self._old = store, kind, part
        self.code = part.code if part else ""
        self.setWindowTitle(f"{part.code}, {kind}" if part else f"Add {kind}")
        self.setMinimumWidth(460)
        self.name = QLineEdit(part.name if part else "")
        self.name.setAccessibleName("Name")
        form = QFormLayout()
        form.addRow("Name", self.name)
        fuse = part if isinstance(part, Fuse) else Fuse("", "", 10)
        self.rating = QLineEdit(f"{fuse.rating_a:g}")
        self.rating.setAccessibleName("Rating in amperes")
        self.fuse_kind = _choice(
            "Kind of fuse", [("blade", "blade"), ("bolt-down", "bolt-down")], fuse.kind
        )
        joint = part.joint if isinstance(part, Splice) else "crimped"
        self.joint = _choice("Joint", [("crimped", "crimped"), ("soldered", "soldered")], joint)
        self.joint.setToolTip("Solder stiffens the strands beside it: crimp where the loom flexes.")
        device = part if isinstance(part, Device) else Device("", "", "load", DEVICE_KINDS["load"])
        self.device_kind = _choice("Kind of device", [(k, k) for k in DEVICE_KINDS], device.kind)
        self.terminals = QLineEdit(" ".join(device.terminals))
        self.terminals.setAccessibleName("Terminals")
        self.terminals.setToolTip("Names of its terminals, separated by spaces")
        self.joins = QLineEdit(" ".join(f"{one}-{other}" for one, other in device.joins))
        self.joins.setAccessibleName("Joined when on")
        self.joins.setToolTip("Pairs of terminals a supply passes through when it is on: 30-87")
        self.device_kind.activated.connect(lambda _: self._propose())
        if kind == "fuse":
            form.addRow("Rating, A", self.rating)
            form.addRow("Kind", self.fuse_kind)
        elif kind == "splice":
            form.addRow("Joint", self.joint)
        elif kind == "device":
            form.addRow("Kind", self.device_kind)
            form.addRow("Terminals", self.terminals)
            form.addRow("Joined when on", self.joins)
        self.notice = Notice()
        verb = "Keep" if part else "Add"
        save = button(verb, "Put it into the job (Enter)", self.accept, "action")
        save.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(form)
        whole.addWidget(self.notice)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), save))

    def _propose(self) -> None:
        kind = self.device_kind.currentText()
        self.terminals.setText(" ".join(DEVICE_KINDS[kind]))
        self.joins.setText(" ".join("-".join(pair) for pair in JOINS.get(kind, ())))

    def accept(self) -> None:
        """Put the part into the job."""
        try:
            part = self._part()
            if self._old is None:
                self._store.do(f"Add {part.code}", lambda job: edits.add(job, part))
            else:
                fields = {f: getattr(part, f) for f in part.__struct_fields__ if f != "code"}
                self._store.do(
                    f"Change {part.code}", lambda job: edits.change_part(job, part.code, **fields)
                )
        except ValueError as error:
            self.notice.say(str(error))
            return
        self.code = part.code
        super().accept()

    def _part(self) -> SimplePart:
        """Return the part as it stands in the fields."""
        name = self.name.text().strip()
        if not name and self._kind != "splice":
            raise ValueError("Give it a name.")
        job = self._store.job
        if self._kind == "fuse":
            rating = read_current_a(self.rating.text())
            if rating <= 0:
                raise ValueError("A fuse has a rating above zero.")
            code = self.code or edits.free_code(job, Fuse)
            return Fuse(code, name, rating, self.fuse_kind.currentData())
        if self._kind == "splice":
            code = self.code or edits.free_code(job, Splice)
            return Splice(code, name, self.joint.currentData())
        if self._kind == "earth point":
            return EarthPoint(self.code or edits.free_code(job, EarthPoint), name)
        kind = self.device_kind.currentData()
        code = self.code or edits.free_code(job, Device, relay=kind == "relay")
        return Device(code, name, kind, *self._terminals())

    def _terminals(self) -> tuple[tuple[str, ...], tuple[tuple[str, str], ...]]:
        """Return a device's terminals, and the pairs of them it joins."""
        terminals = tuple(dict.fromkeys(self.terminals.text().split()))
        if not terminals:
            raise ValueError("Name its terminals, separated by spaces: 30 87 86 85.")
        joins: list[tuple[str, str]] = []
        for text in self.joins.text().split():
            one, _, other = text.partition("-")
            if one not in terminals or other not in terminals:
                raise ValueError(f"“{text}” does not join two of its terminals. Type 30-87.")
            joins.append((one, other))
        return terminals, tuple(joins)


def change_part(parent: QWidget, store: Store, code: str) -> None:
    """Open the window that changes a part."""
    part = store.job.part(code)
    if isinstance(part, Connector):
        HousingDialog(parent, store, part).exec()
    elif part is not None:
        PartDialog(parent, store, KIND_OF[type(part)], part).exec()
