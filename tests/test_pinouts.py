"""Colours, cavity geometry and the proposal of a housing."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from molvik.model.geometry import cavities, grid_problem, places
from molvik.model.parts import Colour, Grid
from molvik.parsing.colours import ColourError, guess_dialect, read_any_colour, read_colour
from molvik.pinouts.propose import propose_grid
from molvik.reference.colours import NAMES


@pytest.mark.parametrize(
    ("text", "dialect", "wanted"),
    [
        ("YE/BK", "IEC 60757", Colour("YE", "BK")),
        ("YEBK", "IEC 60757", Colour("YE", "BK")),
        ("rt/ws", "German", Colour("RD", "WH")),
        ("gebr", "German", Colour("YE", "BN")),
        ("bl", "German", Colour("BU")),
        ("BLK/WHT", "North American", Colour("BK", "WH")),
        ("LT GRN/BLK", "North American", Colour("LG", "BK")),
        ("B", "single letters", Colour("BK")),
        ("L", "single letters", Colour("BU")),
        ("GR", "single letters", Colour("GY")),
        ("G-R", "single letters", Colour("GN", "RD")),
        ("light green with black", "English words", Colour("LG", "BK")),
        ("red/white", "English words", Colour("RD", "WH")),
    ],
)
def test_colours_in_their_dialects(text: str, dialect: str, wanted: Colour) -> None:
    # IEC 60757 codes are published; the dialects are common practice in manuals.
    assert read_colour(text, dialect) == wanted


def test_b_is_black_in_one_dialect_and_refused_in_another() -> None:
    assert read_colour("B", "single letters") == Colour("BK")
    with pytest.raises(ColourError, match="not one of the codes"):
        read_colour("B", "IEC 60757")


def test_bl_is_blue_in_german_and_black_with_blue_in_single_letters() -> None:
    assert read_colour("bl", "German") == Colour("BU")
    assert read_colour("BL", "single letters") == Colour("BK", "BU")
    with pytest.raises(ColourError, match="could be BK/BU or BU"):
        read_any_colour("bl")


@given(st.sampled_from(sorted(NAMES)), st.sampled_from(["", *sorted(NAMES)]))
def test_a_colour_is_read_back_as_it_is_written(base: str, tracer: str) -> None:
    assert read_any_colour(str(Colour(base, tracer))) == Colour(base, tracer)


@pytest.mark.parametrize(
    ("texts", "dialect"),
    [
        (["sw", "rt/ws", "ge"], "German"),
        (["BK", "RD/WH", "YE"], "IEC 60757"),
        (["BLK", "RED/WHT"], "North American"),
        (["B", "L/W", "GR"], "single letters"),
        (["Black", "red/white"], "English words"),
    ],
)
def test_the_dialect_is_guessed_with_its_evidence(texts: list[str], dialect: str) -> None:
    guess = guess_dialect(texts)
    assert guess.dialect == dialect
    assert guess.sure
    assert f"reads {len(texts)} of {len(texts)}" in guess.evidence


def test_a_table_two_dialects_read_otherwise_is_left_to_the_user() -> None:
    guess = guess_dialect(["bl", "gr"])
    assert not guess.sure
    assert "choose" in guess.evidence


def test_numbers_run_as_the_housing_says() -> None:
    def rows(grid: Grid) -> list[list[str]]:
        found = {(p.row, p.column): p.cavity for p in places(grid)}
        return [[found.get((r, c), "") for c in range(grid.columns)] for r in range(grid.rows)]

    assert rows(Grid(2, 3)) == [["1", "2", "3"], ["4", "5", "6"]]
    assert rows(Grid(2, 3, by="column")) == [["1", "3", "5"], ["2", "4", "6"]]
    assert rows(Grid(2, 3, serpentine=True)) == [["1", "2", "3"], ["6", "5", "4"]]
    assert rows(Grid(2, 3, start="bottom right")) == [["6", "5", "4"], ["3", "2", "1"]]
    assert rows(Grid(2, 3, letters=True)) == [["A1", "A2", "A3"], ["B1", "B2", "B3"]]
    assert rows(Grid(2, 3, gaps=((0, 1),))) == [["1", "", "2"], ["3", "4", "5"]]


grids = st.builds(
    Grid,
    st.integers(1, 6),
    st.integers(1, 12),
    st.sampled_from(["row", "column"]),
    st.sampled_from(["top left", "top right", "bottom left", "bottom right"]),
    st.booleans(),
    st.booleans(),
)


@given(grids)
def test_the_wire_side_is_the_mirror_image_of_the_mating_face(grid: Grid) -> None:
    front = {p.cavity: (p.row, p.column) for p in places(grid)}
    back = {p.cavity: (p.row, p.column) for p in places(grid, "wire side")}
    assert {c: (row, grid.columns - 1 - column) for c, (row, column) in back.items()} == front
    assert len(front) == grid.rows * grid.columns


@given(grids)
def test_a_housing_proposed_from_a_table_has_all_its_cavities(grid: Grid) -> None:
    names = cavities(grid)
    assert set(names) <= set(cavities(propose_grid(names)))


def test_an_impossible_grid_is_refused_in_words() -> None:
    assert "at least one row" in grid_problem(Grid(0, 4))
    assert "more cavities" in grid_problem(Grid(100, 100))
    assert "lettered" in grid_problem(Grid(40, 2, letters=True)).lower()
