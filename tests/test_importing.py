"""The import window, with tables good and bad."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from conftest import answer, cell, page, type_cell
from molvik.demo import DONOR_TABLE
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.window import MainWindow
from molvik.model.parts import Colour, Pin

LEFT = Qt.MouseButton.LeftButton


def open_table(window: MainWindow, qtbot: QtBot, table: Path, code: str = "C5") -> ImportDialog:
    """Open a table for a connector and wait until it is read or refused."""
    pinouts = page(window, "Pinouts")
    window.hand.pick(code)
    pinouts.import_table(table)
    found = [one for one in QApplication.topLevelWidgets() if isinstance(one, ImportDialog)]
    dialog = next(one for one in found if one.isVisible())
    qtbot.waitUntil(lambda: dialog.reading is not None or bool(dialog.notice.text()))
    return dialog


def write(folder: Path, text: str, name: str = "t.csv") -> Path:
    path = folder / name
    path.write_text(text)
    return path


def pins_of(window: MainWindow, code: str) -> tuple[Pin, ...]:
    connector = window.store.job.connector(code)
    assert connector is not None
    return connector.pins


def test_rows_that_need_the_user_are_left_out_until_ticked(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    table = write(tmp_path, "Pin,Function,Colour\n1,Signal,YE\n2,Return,QQ\n3,Screen,BK\n")
    dialog = open_table(demo_window, qtbot, table)
    assert dialog.summary.text() == "2 OK · 1 to check · 0 unreadable"
    assert dialog.take.text() == "Import 2 rows"
    dialog.table.selectRow(1)
    assert "Colour “QQ” is not one of the codes" in dialog.detail.text()
    qtbot.mouseClick(dialog.tick, LEFT)
    assert dialog.take.text() == "Import 3 rows"
    qtbot.mouseClick(dialog.take, LEFT)
    assert [pin.function for pin in pins_of(demo_window, "C5")] == ["Signal", "Return", "Screen"]
    assert pins_of(demo_window, "C5")[1].note == "colour in the table: QQ"
    assert demo_window.store.history.undoText() == "Import t.csv"
    demo_window.store.history.undo()
    assert pins_of(demo_window, "C5") == ()


def test_a_cell_is_corrected_in_the_preview(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    table = write(tmp_path, "Pin,Function,Colour\n1,Signal,QQ\n9,Return,BK\n")
    dialog = open_table(demo_window, qtbot, table)
    assert cell(dialog.table, "3", "State") == "unreadable"
    type_cell(dialog.table, "2", "Colour", "YE/BK")
    type_cell(dialog.table, "3", "Cavity", "2")
    assert [cell(dialog.table, row, "State") for row in ("2", "3")] == ["OK", "OK"]
    qtbot.mouseClick(dialog.take, LEFT)
    assert pins_of(demo_window, "C5")[0].colour == Colour("YE", "BK")


def test_columns_without_headings_are_chosen_by_the_user(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    dialog = open_table(demo_window, qtbot, write(tmp_path, "Signal,1\nReturn,2\n"))
    assert "No column is headed cavity" in dialog.notice.text()
    assert not dialog.take.isEnabled()
    for field, column in (("cavity", 1), ("function", 0)):
        box = dialog.choices[field]  # type: ignore[index]
        box.setCurrentIndex(box.findData(column))
        box.activated.emit(box.currentIndex())
    assert dialog.notice.text() == ""
    dialog.into.setCurrentIndex(dialog.into.findData("C5"))
    dialog.reread()
    qtbot.mouseClick(dialog.take, LEFT)
    assert [pin.function for pin in pins_of(demo_window, "C5")] == ["Signal", "Return"]


def test_the_dialect_is_the_users_choice_where_two_would_do(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    dialog = open_table(demo_window, qtbot, write(tmp_path, "Pin,Colour\n1,bl\n2,gr\n"))
    assert "choose" in dialog.evidence.text()
    assert dialog.summary.text().startswith("0 OK · 2 to check")
    dialog.dialect.setCurrentIndex(dialog.dialect.findData("German"))
    dialog.dialect.activated.emit(dialog.dialect.currentIndex())
    assert dialog.summary.text().startswith("2 OK")
    assert cell(dialog.table, "2", "Read as") == "blue"


def test_two_ticked_rows_for_one_cavity_are_refused_and_nothing_is_half_done(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    before = demo_window.store.job
    dialog = open_table(demo_window, qtbot, write(tmp_path, "Pin,Function\n1,Signal\n1,Return\n"))
    for row in (0, 1):
        dialog.table.selectRow(row)
        qtbot.mouseClick(dialog.tick, LEFT)
    qtbot.mouseClick(dialog.take, LEFT)
    assert "Cavity 1 is chosen in two rows. Untick one" in dialog.notice.text()
    assert dialog.isVisible()
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert demo_window.store.job is before


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("photo.xlsx", b"\x89PNG\r\n\x1a\n", "is a PNG picture, not a table"),
        ("empty.csv", b"", "is empty"),
        ("cut.xlsx", b"PK\x03\x04cut", "not a spreadsheet that can be read"),
    ],
)
def test_a_file_that_is_no_table_says_so_in_the_window(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path, name: str, data: bytes, words: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    dialog = open_table(demo_window, qtbot, path)
    assert words in dialog.notice.text()
    assert not dialog.take.isEnabled()
    dialog.reject()


def test_fifty_thousand_rows_are_read_off_the_interfaces_thread(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    rows = "".join(f"{number},Function {number}\n" for number in range(1, 50_001))
    dialog = open_table(demo_window, qtbot, write(tmp_path, "Pin,Function\n" + rows), "C2")
    dialog.into.setCurrentIndex(dialog.into.findData("C2"))
    dialog.reading = None
    dialog.reread()
    assert dialog._waiting.isVisible(), "progress shows while it is judged"
    assert dialog.stop.isEnabled()
    qtbot.waitUntil(lambda: dialog.reading is not None)
    assert dialog.summary.text() == "70 OK · 0 to check · 49930 unreadable"
    dialog.reread()
    qtbot.mouseClick(dialog.stop, LEFT)
    assert not dialog._waiting.isVisible()
    dialog.reject()


def test_a_table_that_is_plainly_another_connectors_is_offered_a_new_one(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    dialog = open_table(demo_window, qtbot, DONOR_TABLE, "C5")
    assert dialog.into.currentText() == "a new connector"
    assert (dialog.rows.value(), dialog.columns.value()) == (4, 16)
    dialog.name.setText(" ")
    qtbot.mouseClick(dialog.take, LEFT)
    assert "Name the connector" in dialog.notice.text()
    dialog.name.setText("Spare donor plug")
    dialog.rows.setValue(2)
    assert dialog.reading is not None
    assert dialog.reading.count("cannot be read") == 30
    dialog.columns.setValue(31)
    qtbot.mouseClick(dialog.take, LEFT)
    assert demo_window.store.job.connectors[-1].name == "Spare donor plug"
    assert len(demo_window.store.job.connectors[-1].pins) == 62


MIXED = """Pin,Function,Colour,Size
1,Signal,RD,0.75
2,Return,BK,18
3,Screen,Bl,0.5
4,Horn,Bl,1
5,Lamp,Bl,18 AWG
6,Tank,SLT/X,0.75
7,Fan,SLT/X,0.75
8,Pump,GN,0.75
"""
"""Codes of IEC 60757 and a hand that wrote otherwise; sections, and gauges among them."""


def test_a_colour_that_could_be_two_is_asked_once_for_all_its_rows(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    dialog = open_table(demo_window, qtbot, write(tmp_path, MIXED))
    asks = dialog.colours
    # 18 among sections is not sold as one: it is not fine until somebody says which.
    assert cell(dialog.table, "3", "State") == "to check"
    assert "18 AWG may be meant" in cell(dialog.table, "3", "What to do")
    assert asks.isVisible()
    assert asks.words.text() == "“Bl” in 3 rows is"
    offered = [asks.choice.itemText(at) for at in range(asks.choice.count())]
    assert offered == ["BU  blue (German)", "BK/BU  black, blue tracer (single letters)"]
    assert asks.left.text() == "1 more to say"
    asks.choice.setCurrentIndex(0)
    qtbot.mouseClick(asks.take_button, LEFT)
    assert asks.words.text() == "“SLT/X” in 2 rows is"
    field = asks.choice.lineEdit()
    assert field is not None
    qtbot.keyClicks(field, "dull")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert "is not a colour" in dialog.notice.text()
    field.clear()
    qtbot.keyClicks(field, "grey")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert asks.words.text() == "Every colour is said."
    assert not asks.take_button.isEnabled()
    assert "As you said: Bl, SLT/X." in dialog.evidence.text()
    assert dialog.isVisible()  # Enter there imports nothing
    type_cell(dialog.table, "3", "Size", "18 AWG")
    assert dialog.summary.text() == "8 OK · 0 to check · 0 unreadable"
    qtbot.mouseClick(dialog.take, LEFT)
    pins = demo_window.store.job.connectors[-1].pins
    assert [str(pin.colour) for pin in pins] == ["RD", "BK", "BU", "BU", "BU", "GY", "GY", "GN"]
    sizes = ["0.75 mm²", "18 AWG", "0.5 mm²", "1 mm²", "18 AWG", "0.75 mm²", "0.75 mm²", "0.75 mm²"]
    assert [str(pin.size) for pin in pins] == sizes


def test_how_a_size_is_read_is_shown_and_a_choice_changes_what_is_said(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    text = "Pin,Function,Colour,AWG\n1,Signal,YE,18\n2,Return,BN,0.75\n"
    dialog = open_table(demo_window, qtbot, write(tmp_path, text))
    model = dialog.table.model()
    columns = [
        at
        for at in range(model.columnCount())
        if model.headerData(at, Qt.Orientation.Horizontal) == "Read as"
    ]
    shown = [[model.index(row, at).data() for at in columns] for row in range(2)]
    assert shown == [["yellow", "18 AWG"], ["brown", "0.75 mm²"]]
    assert "Sizes are AWG: the column is headed" in dialog.evidence.text()
    dialog.unit.setCurrentIndex(dialog.unit.findData("metric"))
    dialog.unit.activated.emit(dialog.unit.currentIndex())
    assert "Sizes are mm², as you chose." in dialog.evidence.text()
    assert "AWG" not in dialog.evidence.text()
    dialog.dialect.setCurrentIndex(dialog.dialect.findData("German"))
    dialog.dialect.activated.emit(dialog.dialect.currentIndex())
    assert "Colours are read as German, as you chose: 0 of 2." in dialog.evidence.text()
    dialog.reject()


def test_a_second_table_goes_nowhere_over_the_first_unasked(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    before = pins_of(demo_window, "C1")
    assert len(before) > 40
    table = write(tmp_path, "Pin,Function,Colour\n1,Something else,YE\n2,Other,BN\n", "auto.csv")
    dialog = open_table(demo_window, qtbot, table, "C1")
    assert dialog.into.currentText() == "a new connector"
    assert "A variant of it?" in dialog.maybe_words.text()
    qtbot.mouseClick(dialog.as_variant, LEFT)
    assert dialog.into.currentData() == "C1"
    assert dialog.variant.text() == "auto"
    qtbot.mouseClick(dialog.take, LEFT)
    assert pins_of(demo_window, "C1") == before
    assert demo_window.store.job.pinouts[-1].name == "auto"
    # Into it all the same: what it would change is counted and asked.
    dialog = open_table(demo_window, qtbot, table, "C1")
    dialog.into.setCurrentIndex(dialog.into.findData("C1"))
    dialog.into.activated.emit(dialog.into.currentIndex())

    def choose(words: str) -> Callable[[Question], None]:
        def do(asked: Question) -> None:
            assert asked.text.text().startswith("2 cavities of")
            asked.press(words)

        return do

    answer(Question, choose("Cancel"))
    qtbot.mouseClick(dialog.take, LEFT)
    assert pins_of(demo_window, "C1") == before
    assert "Nothing was imported" in dialog.notice.text()
    answer(Question, choose("Overwrite 2"))
    qtbot.mouseClick(dialog.take, LEFT)
    after = pins_of(demo_window, "C1")
    assert [pin.function for pin in after[:2]] == ["Something else", "Other"]
    assert after[2:] == before[2:]
