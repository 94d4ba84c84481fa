"""How lists and figures are said."""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt

from conftest import page, small_job, wire
from molvik.desktop.window import MainWindow
from molvik.wording import figures, some, visible


@pytest.mark.parametrize(
    ("value", "digits", "said"),
    [
        (2000.0, 3, "2000"),
        (1234.0, 3, "1230"),
        (120.0, 2, "120"),
        (0.2144, 3, "0.214"),
        (11.2, 3, "11.2"),
        (0.0, 3, "0"),
        (-1e6, 3, "-1000000"),
    ],
)
def test_figures_are_written_out(value: float, digits: int, said: str) -> None:
    assert figures(value, digits) == said


def test_some_names_say_how_many_more_there_are() -> None:
    assert some(["W1", "W2"], 2) == "W1, W2"
    assert some(["W1", "W2", "W3"], 2, "; ") == "W1; W2 and 1 more"
    assert some([]) == ""


def test_letters_that_turn_others_round_are_shown_as_marks(window: MainWindow) -> None:
    """A name must not look like another: "C1\u202e2C" is read as "C1C2"."""
    window.files.new()
    turned = "Feed \u202eC21 F\u200b7"
    job = small_job(replace(wire("W1", "C1/1", "C2/1"), function=turned))
    window.store.do("x", lambda old: replace(job, title=turned, id=old.id))
    shown = "Feed [U+202E]C21 F[U+200B]7"
    assert window.header.title.text() == shown
    assert window.windowTitle().startswith(shown)
    page(window, "Circuits")
    window.hand.pick("W1")
    assert shown in window.in_hand.title.text()
    tables = page(window, "Sizes").every_table
    model = next(one.things for one in tables if one.things.row_of("W1") >= 0)
    row = model.row_of("W1")
    places = [model.index(row, n) for n in range(model.columnCount())]
    assert shown in [model.data(place) for place in places]
    typed = [model.data(place, Qt.ItemDataRole.EditRole) for place in places]
    assert turned in typed, "it is the job's own text that is typed on"
    assert visible("Zündung, 温度, naïve: – “ok”\n") == "Zündung, 温度, naïve: – “ok”\n"
