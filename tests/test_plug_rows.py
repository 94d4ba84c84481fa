"""Several connectors at once: read line by line, and added as one step."""

import pytest
from pytestqt.qtbot import QtBot

from conftest import page
from molvik.desktop.dialogs.plugrows import PlugRowsDialog
from molvik.desktop.window import MainWindow
from molvik.model.geometry import cavities
from molvik.pinouts.plugrows import read_plug_rows


@pytest.mark.parametrize(
    ("line", "name", "rows", "columns", "count"),
    [
        ("Fuel pump 1x2", "Fuel pump", 1, 2, 2),
        ("Bulkhead, engine side 2 x 8", "Bulkhead, engine side", 2, 8, 16),
        ("Motorsteuergerät 4×22", "Motorsteuergerät", 4, 22, 88),
        ("Crank sensor 3 way", "Crank sensor", 1, 3, 3),
        ("Throttle; 6-pin", "Throttle", 2, 3, 6),
        ("Switch 5 cavities", "Switch", 2, 3, 5),
        ("Sensor\t2\t3", "Sensor", 2, 3, 6),
        ("Injector 1 2 pins", "Injector 1", 1, 2, 2),
    ],
)
def test_a_line_is_a_connector(line: str, name: str, rows: int, columns: int, count: int) -> None:
    (found,) = read_plug_rows(f"\n  {line}  \n\n")
    plug = found.plug
    assert plug is not None
    assert (plug.name, plug.grid.rows, plug.grid.columns) == (name, rows, columns)
    assert len(cavities(plug.grid)) == count


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("Fuel pump", "how many cavities"),
        ("Injector 1", "how many cavities"),
        (" 12", "how many cavities"),
        ("x 0x4", "at least one row"),
        ("y 90x90", "more cavities than any housing"),
        ("z\t2\ttwo", "two"),
        ("\t2\t2", "what it plugs into"),
    ],
)
def test_a_line_that_cannot_be_read_is_told(line: str, told: str) -> None:
    (found,) = read_plug_rows(line)
    assert found.plug is None
    assert told in found.problem


def test_nine_connectors_are_added_at_once_and_undone_at_once(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()
    shown = page(window, "Pinouts")
    before = window.store.job
    dialog = PlugRowsDialog(shown, window.store)
    qtbot.addWidget(dialog)
    assert not dialog.add_button.isEnabled()
    dialog.text.setPlainText("\n".join(f"Injector {n} 1x2" for n in range(1, 10)) + "\nnothing")
    assert not dialog.add_button.isEnabled()
    assert dialog.made.item(9).text().startswith("✕ nothing")
    dialog.text.setPlainText("\n".join(f"Injector {n} 1x2" for n in range(1, 10)))
    assert dialog.add_button.text() == "Add 9 connectors"
    dialog.add_button.click()
    assert [plug.name for plug in window.store.job.connectors][8] == "Injector 9"
    assert len(set(dialog.codes)) == 9
    window.store.history.undo()
    assert window.store.job.connectors == before.connectors
