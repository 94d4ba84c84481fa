"""What is dropped on the window, wherever, is taken for what it is, and as a copy."""

from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint
from pytestqt.qtbot import QtBot

from conftest import drop, page
from molvik.demo import demo_job
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.window import MainWindow
from molvik.files.photobox import PhotoBox
from molvik.files.photos import PhotoError, read_photo
from molvik.files.saving import save_job


def picture(path: Path, tint: int = 90) -> Path:
    Image.new("RGB", (40 + tint, 30), (tint, 80, 70)).save(path)
    return path


@pytest.fixture
def shown(demo_window: MainWindow) -> MainWindow:
    demo_window.show()
    return demo_window


def test_photos_are_dropped_several_at_once_and_bad_ones_named(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    shown.hand.pick("N2")
    had = len(shown.store.job.photos_on("N2"))
    bad = tmp_path / "notes.jpg"
    bad.write_text("not a picture")
    drop(shown, [picture(tmp_path / "a.png"), picture(tmp_path / "b.png", 40), bad], shown.in_hand)
    qtbot.waitUntil(lambda: len(shown.store.job.photos_on("N2")) == had + 2)
    assert shown.notice.text().startswith("notes.jpg is not a photo")
    assert (tmp_path / "a.png").exists()


def test_what_can_only_be_moved_is_taken_and_stays_where_it_was(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    shown.hand.pick("N2")
    had = len(shown.store.job.photos_on("N2"))
    drop(shown, [picture(tmp_path / "a.png")], shown.in_hand, only_moved=True)
    qtbot.waitUntil(lambda: len(shown.store.job.photos_on("N2")) == had + 1)


def test_a_photo_dropped_on_a_drawing_is_of_what_lies_there(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    canvas = page(shown, "Survey").view
    shown.hand.pick("W1")
    had = len(shown.store.job.photos)
    places = [
        QPoint(x, y)
        for x in range(0, canvas.viewport().width(), 7)
        for y in range(0, canvas.viewport().height(), 7)
    ]

    def nodes() -> list[QPoint]:
        found = [(at, canvas.hit(at)) for at in places]
        return [at for at, area in found if area is not None and area.ref.startswith("N")]

    qtbot.waitUntil(lambda: bool(nodes()))
    at = nodes()[0]
    area = canvas.hit(at)
    assert area is not None
    drop(shown, [picture(tmp_path / "a.png")], canvas.viewport(), at)
    qtbot.waitUntil(lambda: len(shown.store.job.photos) == had + 1)
    assert shown.store.job.photos[-1].on == shown.hand.subject == area.ref


def test_no_field_gets_the_name_of_a_file(shown: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    page(shown, "Circuits")
    shown.hand.pick("W42")
    card = shown.in_hand.card
    assert card is not None
    field = card.fields["Note"]  # type: ignore[attr-defined]
    before, had = field.text(), len(shown.store.job.photos)
    drop(shown, [picture(tmp_path / "a.png")], field)
    qtbot.waitUntil(lambda: len(shown.store.job.photos) == had + 1)
    assert field.text() == before
    assert shown.store.job.photos[-1].on == "W42"


def test_a_job_that_is_dropped_is_opened(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "plover.molvik"
    save_job(demo_job("plover"), path, PhotoBox())
    window.show()
    drop(window, [path, tmp_path / "other.molvik"], window.welcome)
    qtbot.waitUntil(lambda: window.store.job.title == demo_job("plover").title)
    assert "Not taken: other.molvik" in window.notice.text()
    beside = [path, picture(tmp_path / "a.png")]
    drop(window, beside, window.header)
    assert "Not taken: a.png" in window.notice.text(), "nothing is left out in silence"


def test_without_a_job_nothing_else_is_taken(window: MainWindow, tmp_path: Path) -> None:
    window.show()
    drop(window, [picture(tmp_path / "a.png")], window.welcome)
    assert "Start or open a job first" in window.notice.text()
    assert not window.files.has_job


def test_a_pinout_that_is_dropped_is_imported(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "computer.csv"
    path.write_text("Pin,Function,Colour\n1,Injector 1,RD\n2,Injector 2,GN\n")
    drop(shown, [path], shown.header)
    qtbot.waitUntil(lambda: bool(shown.findChildren(ImportDialog)))
    shown.findChildren(ImportDialog)[0].close()


def test_wires_that_are_dropped_are_read(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    window.files.new()
    window.show()
    path = tmp_path / "wires.csv"
    path.write_text("Wire,From,To,Function\nW1,C1/1,C2/1,Horn\n")
    drop(window, [path], window.strip)
    qtbot.waitUntil(lambda: bool(window.store.job.wires))
    assert window.store.job.wires[0].function == "Horn"


def test_readings_that_are_dropped_are_recorded_as_one_step(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    had = len(shown.store.job.readings)
    wire = shown.store.job.wires[3]
    path = tmp_path / "readings.csv"
    path.write_text(
        f"red,black,reading,state\n{wire.start},{wire.finish},0.4,\n{wire.start},,12.1 V,run\n"
    )
    drop(shown, [path], shown.trunk)
    qtbot.waitUntil(lambda: len(shown.store.job.readings) == had + 2)
    assert shown.store.job.readings[-1].value == 12.1
    shown.store.history.undo()
    assert len(shown.store.job.readings) == had
    path.write_text("red,black,reading\nC99/1,C98/2,0.4\n")
    drop(shown, [path], shown.trunk)
    proving = page(shown, "Proving")
    qtbot.waitUntil(lambda: "readings.csv was not taken: row 2" in proving.notice.text())


@pytest.mark.parametrize(("name", "how"), [("a.heic", "most compatible"), ("a.NEF", "JPEG")])
def test_pictures_that_are_not_read_say_how_they_become_such_that_are(
    tmp_path: Path, name: str, how: str
) -> None:
    (tmp_path / name).write_bytes(b"x" * 100)
    with pytest.raises(PhotoError, match=how):
        read_photo(tmp_path / name)
