"""The whole slice through the real window: from two tables on paper to a proved wire."""

import csv
from pathlib import Path

import pytest
from pypdf import PdfReader
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from conftest import answer, cell, looked_over, open_window, page, type_cell, type_field, wire_card
from molvik.demo import DONOR_TABLE, ECU_TABLE
from molvik.desktop.dialogs.jobsettings import JobSettings
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.window import MainWindow
from molvik.files.jobfile import read_job
from molvik.model.parts import Colour, End
from molvik.reference.colours import PAINT

LEFT = Qt.MouseButton.LeftButton


def centre_of(face: FaceView, cavity: str) -> QPoint:
    assert face.drawing is not None
    code = face.drawing.areas[0].ref.split("/")[0]
    return face.spot(f"{code}/{cavity}")


def import_as_new(
    qtbot: QtBot, window: MainWindow, table: Path, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Import a table into a connector of its own, by the button of the page."""
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(table), ""))
    pinouts = page(window, "Pinouts")
    qtbot.mouseClick(pinouts.import_button, LEFT)
    dialogs = [one for one in QApplication.topLevelWidgets() if isinstance(one, ImportDialog)]
    dialog = next(one for one in dialogs if one.isVisible())
    dialog.into.setCurrentIndex(dialog.into.findData(""))
    qtbot.waitUntil(lambda: dialog.reading is not None)
    dialog.into.activated.emit(dialog.into.currentIndex())
    dialog.name.setText(name)
    assert dialog.reading is not None
    assert dialog.reading.problem == ""
    qtbot.waitUntil(dialog.take.isEnabled)
    qtbot.mouseClick(dialog.take, LEFT)
    assert not dialog.isVisible()


def add(window: MainWindow, circuits: object, kind: str, **fields: str) -> None:
    """Add a part by its window."""

    def fill(dialog: PartDialog) -> None:
        for name, value in fields.items():
            if name == "kind_of":
                dialog.device_kind.setCurrentText(value)
            else:
                dialog.set_text(name.capitalize(), value)
        dialog.findChildren(QPushButton)[-1].click()

    answer(PartDialog, fill)
    circuits.add_part(kind)  # type: ignore[attr-defined]


def test_the_whole_slice(
    qtbot: QtBot, tmp_path: Path, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Start a job and name it.
    def name_it(dialog: JobSettings) -> None:
        dialog.title.setText("Bench test")
        dialog.accept()

    answer(JobSettings, name_it)
    qtbot.mouseClick(window.welcome.new_button, LEFT)
    qtbot.waitUntil(lambda: window.store.job.title == "Bench test")
    first = window.store.job
    assert "Bench test" in window.windowTitle()

    # Import two tables: a spreadsheet in German colours, a CSV in single letters.
    import_as_new(qtbot, window, DONOR_TABLE, "Donor plug", monkeypatch)
    import_as_new(qtbot, window, ECU_TABLE, "ECU plug", monkeypatch)
    donor, ecu = window.store.job.connectors
    assert [len(donor.pins), len(ecu.pins)] == [62, 70]
    assert donor.pins[3].colour == Colour("RD", "WH")
    assert ecu.pins[0].function == "Battery supply switched"

    # See the connector, and turn it over with its key.
    pinouts = page(window, "Pinouts")
    assert pinouts.title.text() == "ECU plug"
    front = centre_of(pinouts.face, "15")
    pinouts.face.setFocus()
    qtbot.keyClick(pinouts.face, Qt.Key.Key_F)
    assert pinouts.face.face == "wire side"
    back = centre_of(pinouts.face, "15")
    assert (front.x() - pinouts.face.width() / 2) == pytest.approx(
        -(back.x() - pinouts.face.width() / 2), abs=2
    )
    assert "wire side" in pinouts.face.accessibleName()

    # A battery, a fuse and an earth to go to.
    circuits = page(window, "Circuits")
    add(window, circuits, "device", name="Battery", kind_of="battery", terminals="+ -")
    add(window, circuits, "fuse", name="ECU", rating="5")
    add(window, circuits, "earth point", name="Engine block")
    assert [one.code for one in window.store.job.parts()] == ["C1", "C2", "F1", "E1", "D1"]

    # Run a wire by picking two cavities with the mouse.
    for picker, code, cavity in ((circuits.first, "C1", "19"), (circuits.second, "C2", "15")):
        picker.part.setCurrentIndex(picker.part.findData(code))
        picker.part.activated.emit(picker.part.currentIndex())
        qtbot.mouseClick(picker.face.viewport(), LEFT, pos=centre_of(picker.face, cavity))
    assert circuits.run_button.text() == "Run wire C1/19 to C2/15"
    answer(Question, lambda asked: asked.buttons[0].click())  # whose word counts
    qtbot.mouseClick(circuits.run_button, LEFT)
    picked = window.store.job.wires[0]
    assert (picked.start, picked.finish) == (End("C1", "19"), End("C2", "15"))
    assert picked.function == "Speed sensor +"
    assert picked.colour == Colour("YE")
    assert window.hand.subject == "W1"

    # Type two wires into the last row of the list: the feed of the fuse, and behind it.
    for line in (
        {"From": "D1 +", "To": "F1 in", "Size": "1.5 mm2", "Colour": "red"},
        {"From": "F1 out", "To": "C2 1", "Size": "18 AWG", "Colour": "rt/ws"},
    ):
        key = ""
        for heading, text in line.items():
            type_cell(circuits.table, key, heading, text)
            key = window.store.job.wires[-1].code
    typed = window.store.job.wires[2]
    assert (typed.start, typed.finish) == (End("F1", "out"), End("C2", "1"))
    assert cell(circuits.table, "W3", "Size") == "18 AWG"
    assert typed.colour == Colour("RD", "WH")

    # What was drawn is what is there: the cavity shows the wire's colour and its tracer.
    page(window, "Pinouts")
    window.hand.pick("C2/1")
    picture = pinouts.face.grab().toImage()
    middle = centre_of(pinouts.face, "1")
    step = pinouts.face.drawing.areas[0].box.width
    tracer = picture.pixelColor(middle + QPoint(0, round(step * 0.14)))
    base = picture.pixelColor(middle + QPoint(0, round(step * 0.14 - step * 0.27 * 0.6)))
    assert tracer.name().upper() == PAINT["WH"]
    assert base.name().upper() == PAINT["RD"]

    # Give it length, current and insulation in hand; it is sized and fused at once.
    page(window, "Circuits")
    window.hand.pick("W3")
    for field, text in (("Length", "48 in"), ("Current", "4 A"), ("Insulation", "TXL")):
        type_field(wire_card(window).fields[field], text)
    assert window.store.job.wires[2].length_m == pytest.approx(1.2192)
    assert wire_card(window).fields["Length"].text() == "1.219 m"
    sizes = page(window, "Sizes")
    assert "passes with 18 AWG" in sizes.detail.verdict.text()
    assert "F1, 5 A" in facts(window.in_hand.facts)
    assert "5 A blade carries the load and protects the wire" in facts(sizes.detail.advice)
    assert "18 AWG lies between 0.75 mm² and 1 mm²" in facts(sizes.detail.advice)
    looked_over(qtbot, window)
    assert window.strip.counts["stop"].text().endswith("to fix")

    # Measure it: the reading is judged as Enter is pressed, and kept with time and name.
    proving = page(window, "Proving")
    type_field(proving.meter.by, "Ilse")
    assert cell(proving.table, "W3", "Verdict") == "not measured"
    type_cell(proving.table, "W3", "Read Ω", "0.25")
    assert cell(proving.table, "W3", "Verdict") == "passed"
    reading = window.store.job.readings[-1]
    assert (reading.by, reading.value, reading.item) == ("Ilse", 0.25, "W3")
    assert reading.at[:2] == "20"
    type_cell(proving.table, "W1", "Read Ω", "ol")
    assert cell(proving.table, "W1", "Verdict") == "open"
    assert "open" in proving.notice.text()

    # Print the sheets.
    sheets = page(window, "Sheets")
    sheets.save_all(tmp_path / "out")
    qtbot.waitUntil(lambda: "Written into" in sheets.done.text())
    rows = list(csv.reader((tmp_path / "out" / "continuity-list.csv").open(encoding="utf-8-sig")))
    assert [row[8] for row in rows[1:]] == ["OL", "", "0.25"]
    printed = PdfReader(tmp_path / "out" / "wire-list.pdf").pages[0].extract_text()
    assert "Battery supply switched" in printed  # as the pinout of its cavity says
    assert "18 AWG" in printed

    # Save, and open it again in another window.
    path = tmp_path / "bench.molvik"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    assert window.files.save()
    assert not window.store.unsaved
    assert read_job(path) == window.store.job
    last = window.store.job
    while window.store.history.canUndo():
        window.store.history.undo()
    assert window.store.job == first or window.store.job.title == "Untitled job"
    while window.store.history.canRedo():
        window.store.history.redo()
    assert window.store.job == last
    assert window.files.close_job()
    other = open_window(qtbot, tmp_path)
    assert other.files.recent() == [path]
    assert other.files.open(path)
    assert other.store.job == last


def facts(shown: object) -> str:
    """Return the facts of a list as one text."""
    return " | ".join(value.text() for _, value in shown._rows)  # type: ignore[attr-defined]
