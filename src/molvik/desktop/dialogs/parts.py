"""The small window that adds a part to the job or changes one."""

from pathlib import Path

from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QFormLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.dialogs.opening import ask
from molvik.desktop.store import Store
from molvik.desktop.widgets.fields import line, ticked
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, row
from molvik.devices import KINDS
from molvik.devices.kind import Field
from molvik.files.devices import read_device, write_device
from molvik.files.errors import JobFileError
from molvik.model import edits
from molvik.model.parts import Connector, Device, EarthPoint, Fuse, Splice
from molvik.parsing.devices import (
    OUTPUTS_HOW,
    POSITIONS_HOW,
    figures_text,
    joins_text,
    outputs_text,
    positions_text,
    read_figures,
    read_joins,
    read_outputs,
    read_positions,
    read_terminals,
)
from molvik.parsing.quantities import read_current_a
from molvik.reference.fuses import RATINGS_A

SHOWN = (
    "name",
    "rating_a",
    "kind",
    "joint",
    "terminals",
    "joins",
    "plug",
    "values",
    "needed",
    "positions",
    "supplies",
    "earths",
    "outputs",
    "case",
    "suppression",
)
"""Fields of parts that the window changes."""

SimplePart = Fuse | Splice | EarthPoint | Device
KIND_OF: dict[type, str] = {
    Fuse: "fuse",
    Splice: "splice",
    EarthPoint: "earth point",
    Device: "device",
}


FILES = "Devices (*.molvik-device)"


LOAD_TERMINALS = KINDS["load"].terminals


def _field(name: str, text: str, how: str) -> QLineEdit:
    return line(name, text, how, hint=how)


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
        self.name = line("Name", part.name if part else "")
        self._plain_fields(part)
        device = part if isinstance(part, Device) else Device("", "", "load", LOAD_TERMINALS)
        self._device_fields(device)
        self._controller_fields(device)
        self._tell_figures()
        self._form = QFormLayout()
        self._fill_form(kind)
        self._show_rows()
        self.notice = Notice()
        verb = "Keep" if part else "Add"
        save = button(verb, "Put it into the job (Enter)", self.accept, "action")
        save.setDefault(True)
        whole = QVBoxLayout(self)
        whole.addLayout(self._form)
        whole.addWidget(self.notice)
        ends: list[QWidget | int] = [1, button("Cancel", "Change nothing (Esc)", self.reject), save]
        if kind == "device":
            ends = [
                button("From file…", "Fill in a device that was shared", self._ask_read),
                button("To file…", "Write what it is to a file, to be shared", self._ask_write),
                *ends,
            ]
        whole.addLayout(row(*ends))

    def _plain_fields(self, part: SimplePart | None) -> None:
        """Make the fields of a fuse and of a splice."""
        fuse = part if isinstance(part, Fuse) else Fuse("", "", 10)
        self.rating = line("Rating in amperes", f"{fuse.rating_a:g}")
        self.fuse_kind = choice("Kind of fuse", [(one, one) for one in RATINGS_A], fuse.kind)
        joint = part.joint if isinstance(part, Splice) else "crimped"
        self.joint = choice("Node", [("crimped", "crimped"), ("soldered", "soldered")], joint)
        self.joint.setToolTip("Solder stiffens the strands beside it: crimp where the loom flexes.")

    def _device_fields(self, device: Device) -> None:
        """Make the fields that every device has."""
        self.device_kind = choice("Kind of device", [(k, k) for k in KINDS], device.kind)
        self.device_kind.activated.connect(lambda _: self._propose())
        self.terminals = line(
            "Terminals", " ".join(device.terminals), "Names of its terminals, separated by spaces"
        )
        tip = "Pairs of terminals a supply passes through when it is on: 30-87"
        self.joins = line("Joined when on", joins_text(device.joins), tip)
        plugs = [(f"{c.code} {c.name}", c.code) for c in self._store.job.connectors]
        self.plug = choice("Plugs into it", [("wires go to it", ""), *plugs], device.plug)
        self.plug.setToolTip("Its terminals are then the cavities of that connector")
        self.figures = line("Figures of its own", figures_text(device.values))
        self.needed = ticked("the engine starts only with it alive", device.needed)

    def _controller_fields(self, device: Device) -> None:
        """Make the fields of switches, controllers and relays."""
        self.positions = _field("Positions", positions_text(device.positions), POSITIONS_HOW)
        self.supplies = _field("Supplies", " ".join(device.supplies), "Terminals it is fed at")
        self.earths = _field("Earths", " ".join(device.earths), "Terminals it is earthed at")
        self.outputs = _field("Outputs", outputs_text(device.outputs), OUTPUTS_HOW)
        earths = [(f"{e.code} {e.name}", e.code) for e in self._store.job.earths]
        self.case = choice("Body bolted to", [("insulated", ""), *earths], device.case)
        across = [
            ("nothing", ""),
            ("diode, band (cathode) at 86", "diode"),
            ("resistor", "resistor"),
        ]
        self.suppression = choice("Across its coil", across, device.suppression)

    def _fill_form(self, kind: str) -> None:
        self._form.addRow("Name", self.name)
        for kind_of_part, words, field in (
            ("fuse", "Rating, A", self.rating),
            ("fuse", "Kind", self.fuse_kind),
            ("splice", "Node", self.joint),
            ("device", "Kind", self.device_kind),
            ("device", "Terminals", self.terminals),
            ("device", "Joined when on", self.joins),
            ("device", "Plugs into it", self.plug),
            ("device", "Figures", self.figures),
            ("device", "", self.needed),
            ("device", "Positions", self.positions),
            ("device", "Supplies", self.supplies),
            ("device", "Earths", self.earths),
            ("device", "Outputs", self.outputs),
            ("device", "Case earth", self.case),
            ("device", "Across its coil", self.suppression),
        ):
            # All of them, for what lies in no window is not freed with it either.
            self._form.addRow(words, field)
            self._form.setRowVisible(field, kind_of_part == kind)

    def _propose(self) -> None:
        kind = self.device_kind.currentText()
        self.terminals.setText(" ".join(KINDS[kind].terminals))
        self.joins.setText(joins_text(KINDS[kind].joins))
        self._tell_figures()
        self._show_rows()

    def _show_rows(self) -> None:
        """Show the fields that a kind of device has."""
        if self._kind != "device":
            return
        kind = self.device_kind.currentText()
        fields: dict[Field, QWidget] = {
            "joins": self.joins,
            "positions": self.positions,
            "supplies": self.supplies,
            "earths": self.earths,
            "outputs": self.outputs,
            "suppression": self.suppression,
            "case": self.case,
        }
        for name, field in fields.items():
            self._form.setRowVisible(field, name in KINDS[kind].fields)

    def fill_in(self, device: Device) -> None:
        """Show what a shared device is; its code, plug and earth stay."""
        self.name.setText(self.name.text() or device.name)
        self.device_kind.setCurrentIndex(self.device_kind.findData(device.kind))
        self.terminals.setText(" ".join(device.terminals))
        self.joins.setText(joins_text(device.joins))
        self.figures.setText(figures_text(device.values))
        self.needed.setChecked(device.needed)
        self.positions.setText(positions_text(device.positions))
        self.supplies.setText(" ".join(device.supplies))
        self.earths.setText(" ".join(device.earths))
        self.outputs.setText(outputs_text(device.outputs))
        self.suppression.setCurrentIndex(self.suppression.findData(device.suppression))
        self._tell_figures()
        self._show_rows()

    def read_from(self, path: Path) -> None:
        """Fill in a shared device from its file."""

        try:
            self.fill_in(read_device(path))
            self.notice.say("")
        except (ValueError, JobFileError) as error:
            self.notice.say(str(error))

    def write_to(self, path: Path) -> None:
        """Write the device as it stands in the fields to a file."""

        try:
            part = self._part()
            assert isinstance(part, Device)
            write_device(part, path)
            self.notice.say("")
        except (ValueError, JobFileError) as error:
            self.notice.say(str(error))

    def _ask_read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A shared device", "", FILES)
        if name:
            self.read_from(Path(name))

    def _ask_write(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Share the device", "", FILES)
        if name:
            self.write_to(Path(name).with_suffix(".molvik-device"))

    def _tell_figures(self) -> None:
        """Say which figures a kind has, with the usual ones."""
        usual = KINDS[self.device_kind.currentText()].figures
        words = figures_text(usual.items())
        self.figures.setPlaceholderText(f"usual: {words}" if words else "none")
        self.figures.setToolTip("Only those that differ from the usual, typical ones")

    def accept(self) -> None:
        """Put the part into the job."""
        try:
            part = self._part()
            if self._old is None:
                self._store.do(f"Add {part.code}", lambda job: edits.add(job, part))
            else:
                # What this window does not show stays as it is.
                fields = {f: getattr(part, f) for f in SHOWN if f in part.__struct_fields__}
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
        terminals = read_terminals(self.terminals.text())
        if not terminals and not self.plug.currentData():
            raise ValueError("Name its terminals, separated by spaces: 30 87 86 85.")
        return Device(
            code,
            name,
            kind,
            terminals,
            read_joins(self.joins.text(), terminals),
            self.plug.currentData(),
            read_figures(self.figures.text(), kind),
            read_positions(self.positions.text(), terminals),
            tuple(self.supplies.text().split()),
            tuple(self.earths.text().split()),
            read_outputs(self.outputs.text()),
            self.case.currentData(),
            self.needed.isChecked(),
            self.suppression.currentData(),
        )


def change_part(parent: QWidget, store: Store, code: str) -> None:
    """Open the window that changes a part."""
    part = store.job.part(code)
    if isinstance(part, Connector):
        from molvik.desktop.dialogs.housing import HousingDialog

        ask(HousingDialog(parent, store, part))
    elif part is not None:
        ask(PartDialog(parent, store, KIND_OF[type(part)], part))
