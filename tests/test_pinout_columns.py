"""Tables as people have them: headings in any language or none, colours in every spelling."""

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from molvik.desktop.window import MainWindow
from molvik.model.geometry import cavities
from molvik.model.parts import Colour
from molvik.parsing.colours import ColourReading, guess_dialect, read_any_colour, read_mixed
from molvik.parsing.tables import RawRow, RawTable
from molvik.pinouts.columns import find_columns
from molvik.pinouts.propose import propose_grid
from molvik.pinouts.table import read_table
from test_importing import open_table, write

ROWS = (
    ("1", "Einspritzventil 1", "ge/rt", "0,5"),
    ("2", "Einspritzventil 2", "ge/bl", "0,5"),
    ("3", "Masse", "br", "1,5"),
    ("4", "Kl. 30", "rt", "2,5"),
    ("5", "Kl. 15", "sw", "1,0"),
)


def table(*rows: tuple[str, ...]) -> RawTable:
    return RawTable("t", tuple(RawRow(number, cells) for number, cells in enumerate(rows, 1)))


@pytest.mark.parametrize(
    "heads",
    [
        ("Pin-Nr.", "Belegung", "Farbe", "Querschnitt"),
        ("Broche", "Désignation", "Couleur", "Section"),
        ("Vía", "Función", "Color", "Sección"),
        ("Piedino", "Funzione", "Colore", "Sezione"),
        ("Cavity", "Description", "Wire color", "mm²"),
        ("Pin #", "Signal", "Col", "CSA"),
        ("No", "Was", "F", "Q"),
        ("#", "x", "y", "z"),
        ("Nummer", "", "", ""),
    ],
)
def test_columns_are_found_by_heading_or_by_what_stands_below(heads: tuple[str, ...]) -> None:
    raw = table(heads, *ROWS)
    columns = find_columns(raw)
    wanted = {"cavity": 0, "function": 1, "colour": 2, "size": 3}
    assert {field: columns.fields.get(field) for field in wanted} == wanted  # type: ignore[call-overload]
    reading = read_table(raw, columns)
    assert [row.state for row in reading.rows] == ["fine"] * 5
    assert str(reading.rows[0].pin.colour) == "YE/RD"  # type: ignore[union-attr]


def test_a_table_without_headings_is_read_by_its_looks_and_says_so() -> None:
    columns = find_columns(table(*ROWS))
    assert columns.heading_row is None
    assert columns.fields["cavity"] == 0
    assert set(columns.by_looks) == {"cavity", "function", "colour", "size"}


def test_columns_in_another_order_and_one_that_is_nothing_of_it() -> None:
    rows = [(colour, "x", size, function, "A" + cavity) for cavity, function, colour, size in ROWS]
    columns = find_columns(table(("c", "ok", "d", "w", "p"), *rows))
    assert columns.fields == {"colour": 0, "size": 2, "function": 3, "cavity": 4}


def test_a_column_of_sizes_is_not_taken_for_cavities() -> None:
    """18, 20 and 22 are cavities as well as sizes: each cavity stands once."""
    rows = [(str(n), f"Signal {n}", size) for n, size in enumerate(("18", "20", "20", "22", "18"))]
    columns = find_columns(table(("a", "b", "c"), *rows))
    assert (columns.fields["cavity"], columns.fields["size"]) == (0, 2)


COLOURS = {
    "Vi/Wh": "VT/WH",
    "lt blue": "LB",
    "OR": "OG",
    "orange/blk": "OG/BK",
    "slate": "GY",
    "rose/green": "PK/GN",
    "Blau/Grün": "BU/GN",
    "red w/ white stripe": "RD/WH",
    "red with white tracer": "RD/WH",
    "Bk.Wh": "BK/WH",
    "Bk+Ye": "BK/YE",
    "RdYe": "RD/YE",
    "noir et blanc": "BK/WH",
    "rojo y negro": "",
    "rosso-nero": "RD/BK",
    "LtBlu/Wh": "LB/WH",
    "hellblau": "LB",
    "dk green": "DG",
    "Red | Black": "RD/BK",
    "green:white": "GN/WH",
    "purple_white": "VT/WH",
    "grey – red": "GY/RD",
}


@pytest.mark.parametrize(("text", "wanted"), [one for one in COLOURS.items() if one[1]])
def test_colours_as_people_write_them(text: str, wanted: str) -> None:
    assert str(read_any_colour(text)) == wanted
    texts = [text, "red", "Blau", "yellow"]
    found = read_mixed(texts, guess_dialect(texts).dialect, forced=False, meanings={})[text]
    assert str(found.colour) == wanted


def test_a_german_table_in_which_one_capital_slipped_is_still_german() -> None:
    texts = ["ge/rt", "ge/bl", "Gr/Wh", "gr/sw", "br/gn", "br", "rt", "sw/ge", "ws/bl", "br/ws"]
    guess = guess_dialect(texts)
    assert guess.dialect == "German"
    found = read_mixed(texts, guess.dialect, forced=False, meanings={})
    assert str(found["sw/ge"].colour) == "BK/YE"
    assert all(reading.colour for reading in found.values())


def test_gr_is_asked_once_for_all_it_stands_in() -> None:
    texts = ["Gr", "Gr/Wh", "Gr-Bk", "yellow", "Rd/Bk"]
    found = read_mixed(texts, "English words", forced=False, meanings={})
    for text in texts[:3]:
        assert found[text].colour is None
        assert {colour.base for colour, _ in found[text].options} == {"GN", "GY"}
    said = read_mixed(texts, "English words", forced=False, meanings={"Gr": Colour("GN")})
    assert [str(said[text].colour) for text in texts[:3]] == ["GN", "GN/WH", "GN/BK"]


def test_bl_is_blue_where_black_is_written_otherwise_and_asked_where_nothing_tells() -> None:
    alone = read_mixed(["pk/bl", "yellow"], "English words", forced=False, meanings={})["pk/bl"]
    assert {str(colour) for colour, _ in alone.options} == {"PK/BU", "PK/BK"}
    beside = read_mixed(["pk/bl", "bk/wh", "yellow"], "English words", forced=False, meanings={})
    assert beside["pk/bl"] == ColourReading(Colour("PK", "BU"))


@pytest.mark.parametrize("ways", [1, 3, 24, 26, 55, 60, 62, 70, 71, 72, 81, 97, 121])
def test_a_housing_has_as_many_ways_as_the_table_names(ways: int) -> None:
    grid = propose_grid(str(n) for n in range(1, ways + 1))
    assert cavities(grid) == tuple(str(n) for n in range(1, ways + 1))
    assert ways != 70 or (grid.rows, grid.columns, grid.gaps) == (5, 14, ())


def test_a_cavity_column_that_is_chosen_by_hand_sizes_the_plug(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    places = [f"{letter}{n}" for letter in "AB" for n in range(1, 32)]
    rows = "".join(f"{n};Signal {n};{place}\n" for n, place in enumerate(places, start=1))
    dialog = open_table(demo_window, qtbot, write(tmp_path, f"Pin;Signal;Ort\n{rows}"), "")
    dialog.into.setCurrentIndex(dialog.into.findData(""))
    dialog.into.activated.emit(dialog.into.currentIndex())
    box = dialog.choices["cavity"]
    assert box.currentData() == 0
    box.setCurrentIndex(box.findData(2))
    box.activated.emit(box.currentIndex())
    assert dialog.summary.text().startswith("62 OK")
    assert (dialog.rows.value(), dialog.columns.value()) == (2, 31)


def test_what_is_said_of_sizes_is_what_is_read() -> None:
    raw = table(("Pin", "AWG"), ("1", "18"), ("2", "0.5"))
    reading = read_table(raw, find_columns(raw))
    assert [str(row.pin.size) for row in reading.rows if row.pin] == ["18 AWG", "0.5 mm²"]
    assert "those with a decimal point are mm²" in reading.size_evidence
