"""The small window that adds a part to the job or changes one: the fields that can be typed of it
anywhere, by what ``typed`` says of them.
"""

from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.dialogs.opening import ask
from molvik.desktop.store import Store
from molvik.desktop.widgets.fields import line
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, row
from molvik.devices import KINDS
from molvik.files.devices import read_device, write_device
from molvik.files.errors import JobFileError
from molvik.model import edits
from molvik.model.parts import Connector, Device, EarthPoint, Fuse, Splice
from molvik.typed.field import Field, Fields, named, offered
from molvik.typed.parts import device_fields, fields_of

SimplePart = Fuse | Splice | EarthPoint | Device
NEW: dict[str, SimplePart] = {
    "fuse": Fuse("", "", 10),
    "splice": Splice("", ""),
    "earth point": EarthPoint("", ""),
    "device": Device("", "", "load", KINDS["load"].terminals),
}
"""What a part is before anything was typed, by what it is called."""

KIND_OF: dict[type, str] = {type(part): kind for kind, part in NEW.items()}


FILES = "Devices (*.molvik-device)"

OWN = ("Name", "Plug", "Case earth")
"""Fields of a device that a shared one does not fill in, once there is something in them."""


class PartDialog(QDialog):
    """Adds a fuse, an earth point, a splice or a device, or changes one. ``code`` is the part's."""

    def __init__(
        self, parent: QWidget, store: Store, kind: str, part: SimplePart | None = None
    ) -> None:
        super().__init__(parent)
        self._store, self._kind, self._old = store, kind, part
        self._begun = part or NEW[kind]
        self.code = part.code if part else ""
        self.setWindowTitle(f"{part.code}, {kind}" if part else f"Add {kind}")
        self.setMinimumWidth(460)
        self._form = QFormLayout()
        self.name = line("Name", tip="What it is called")
        self.fields: dict[str, QLineEdit | QComboBox] = {"Name": self.name}
        for field in self._every(self._begun):
            if field.name not in self.fields:
                self.fields[field.name] = self._entry(field)
            entry = self.fields[field.name]
            self._form.addRow(f"{field.name}, {field.unit}" if field.unit else field.name, entry)
        self.device_kind = choice("Kind of device", [(one, one) for one in KINDS])
        self.device_kind.activated.connect(lambda _: self._propose())
        self._form.insertRow(1, "Kind", self.device_kind)
        self._form.setRowVisible(self.device_kind, isinstance(self._begun, Device))
        self._fill(self._begun)
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

    @staticmethod
    def _every(part: SimplePart) -> tuple[Field[Any], ...]:
        """Return the fields of a part; of a device those of all kinds, for its kind may change."""
        return device_fields(part, every_kind=True) if isinstance(part, Device) else fields_of(part)

    def _entry(self, field: Field[Any]) -> QLineEdit | QComboBox:
        """Return where a field is typed, or chosen where there is a choice."""
        choices = offered(field, self._store.job)
        if not choices and field.of_job is None:
            return line(field.name, tip=field.tip)
        none = () if self._is_refused(field, "") else (("", ""),)
        made = choice(field.name, [*none, *((one, one) for one in choices)])
        made.setToolTip(field.tip)
        return made

    def _is_refused(self, field: Field[Any], text: str) -> bool:
        try:
            field.read(text, self._store.analysis.network)
        except ValueError:
            return True
        return False

    def _fill(self, part: SimplePart, but: tuple[str, ...] = ()) -> None:
        """Show what a part is. but: names of fields that keep what stands in them."""
        if isinstance(part, Device):
            self.device_kind.setCurrentText(part.kind)
        for field in self._every(part):
            if not (field.name in but and self.text(field.name)):
                self.set_text(field.name, field.show(part))
        self._show_rows()

    def text(self, name: str) -> str:
        """Return what stands in a field."""
        entry = self.fields[name]
        return entry.currentText() if isinstance(entry, QComboBox) else entry.text()

    def set_text(self, name: str, text: str) -> None:
        """Type into a field, or choose there: of parts by their code alone, too."""
        entry = self.fields[name]
        if isinstance(entry, QLineEdit):
            entry.setText(text)
            entry.setCursorPosition(0)
            return
        found = [n for n in range(entry.count()) if entry.itemText(n).split(" ")[0] == text]
        entry.setCurrentIndex(found[0] if found else max(0, entry.findText(text)))

    def _propose(self) -> None:
        """Fill in what a kind of device usually has."""
        kind = KINDS[self.device_kind.currentText()]
        device = Device("", "", self.device_kind.currentText(), kind.terminals, kind.joins)
        for field in self._every(device):
            if field.name in ("Terminals", "Closed when on"):
                self.set_text(field.name, field.show(device))
        self._show_rows()

    def _show_rows(self) -> None:
        """Show the fields that a kind of device has, and what is typed there."""
        if self._kind != "device":
            return
        device = Device("", "", self.device_kind.currentText(), ())
        shown = {field.name: field for field in device_fields(device)}
        for name, entry in self.fields.items():
            self._form.setRowVisible(entry, name in shown)
            if name in shown:
                entry.setToolTip(shown[name].tip)
                if isinstance(entry, QLineEdit):
                    entry.setPlaceholderText(shown[name].tip)

    def read_from(self, path: Path) -> None:
        """Fill in a shared device from its file; its name, plug and earth stay."""
        try:
            self._fill(read_device(path), but=OWN)
            self.notice.say("")
        except (ValueError, JobFileError) as error:
            self.notice.say(str(error))

    def write_to(self, path: Path) -> None:
        """Write the device as it stands in the fields to a file."""
        try:
            part = replace(self._begun, **self._typed())
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

    def accept(self) -> None:
        """Put the part into the job; what this window does not show stays as it is."""
        try:
            fields = self._typed()
            if self._old is None:
                job, kind = self._store.job, fields.get("kind")
                relay = self._kind == "device" and kind == "relay"
                self.code = edits.free_code(job, type(self._begun), relay=relay)
                part = replace(self._begun, code=self.code, **fields)
                self._store.do(f"Add {self.code}", lambda job: edits.add(job, part))
            else:
                self._store.do(
                    f"Change {self.code}", lambda job: edits.change_part(job, self.code, **fields)
                )
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()

    def _typed(self) -> Fields:
        """Return what stands in the fields. Raises ValueError, in words."""
        part, found = self._begun, Fields()
        if isinstance(part, Device):
            found["kind"] = self.device_kind.currentText()
        # What a device may have depends on its kind and terminals, and those on its plug: each
        # field is read by what stands before it.
        for name in sorted(self.fields, key=lambda name: name != "Plug"):
            part = replace(part, **found)
            field = named(self._every(part), name)
            found |= field.read(self.text(name), self._store.analysis.network)
        return found


def change_part(parent: QWidget, store: Store, code: str) -> None:
    """Open the window that changes a part."""
    part = store.job.part(code)
    if isinstance(part, Connector):
        from molvik.desktop.dialogs.housing import HousingDialog

        ask(HousingDialog(parent, store, part))
    elif part is not None:
        ask(PartDialog(parent, store, KIND_OF[type(part)], part))
