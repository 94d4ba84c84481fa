"""The words of an American workshop, everywhere a text is shown; what was typed stays."""

import re
from pathlib import Path

import msgspec
import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import (
    QAbstractButton,
    QLabel,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTabBar,
)
from pytestqt.qtbot import QtBot

from conftest import page, put_job
from molvik.analysis import Analysis
from molvik.circuits.scenario import states_of
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.stages.circuits.laying import BlockDialog
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.window import MainWindow
from molvik.devices.states import ISOLATED
from molvik.drawing.scene import Box, Scene, Text
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Scenario
from molvik.netlist.network import Network
from molvik.proving.power import as_steps
from molvik.sheet import Drawing, Paragraph, Table, Ticks
from molvik.sheetset import every_sheet
from molvik.spoken import AMERICAN, Spoken
from molvik.typed.wires import WIRE_FIELDS

BRITISH = re.compile(
    r"\b(?:un)?(?:earth(?:s|ed|ing)?|looms?|bulkheads?|headlamps?|colou?red?(?<=ou..)|dynamo)\b",
    re.IGNORECASE,
)


def american(job: Job) -> Job:
    return edits.change_settings(job, earth_word="ground")


def left(texts: list[str], job: Job) -> list[str]:
    """Return the texts with a British word left in them that nobody typed into the job."""
    typed = sorted(
        (
            text
            for text in re.findall(r'"((?:[^"\\]|\\.)*)"', msgspec.json.encode(job).decode())
            if BRITISH.search(text) and not BRITISH.fullmatch(text)
        ),
        key=len,
        reverse=True,
    )
    strings = set(re.findall(r'"([^"\\]*)"', msgspec.json.encode(job).decode()))
    wrong = []
    for text in texts:
        if {text, text.partition(" ")[2]} & strings:
            continue  # a name by itself, which may be nothing but the word
        rest = text
        for name in typed:
            rest = rest.replace(name, "")
        if BRITISH.search(rest):
            wrong.append(text)
    return wrong


@pytest.mark.parametrize("name", ["marten", "plover"])
def test_findings_sheets_and_steps_say_ground_everywhere(name: str) -> None:
    job = american(demo_job(name))
    analysis = Analysis(job)
    said = [part for one in find_all(analysis) for part in (one.what, one.why, one.remedy)]
    for sheet in every_sheet(analysis):
        said.append(sheet.title)
        for block in sheet.blocks:
            match block:
                case Table():
                    said += [*block.headings, *(cell for row in block.rows for cell in row)]
                case Paragraph():
                    said.append(block.text)
                case Ticks():
                    said += block.items
                case Drawing():
                    said += [one.words for one in block.scene.shapes if isinstance(one, Text)]
    say = Spoken(job).say
    for step in as_steps(analysis.once(power_of)):
        said += [say(step.do), say(step.detail), say(step.first)]
    assert any(re.search(r"\bground", text) for text in said)
    assert any(re.search(r"\bharness", text) for text in said)
    assert left(said, job) == []


def power_of(analysis: Analysis):  # type: ignore[no-untyped-def]
    from molvik.proving.power import power_steps

    return power_steps(analysis.network, analysis.operating_point)


def test_what_was_typed_is_said_as_it_was_typed() -> None:
    job = american(demo_job())
    job = edits.change_part(job, "E1", name="Loom shop earth")
    say = Spoken(job).say
    assert say("Loom shop earth (E1) is loose: clean the earth.") == (
        "Loom shop earth (E1) is loose: clean the ground."
    )
    both = edits.change_part(
        edits.change_part(job, "E1", name="Loom shop"), "E2", name="Loom shop earth"
    )
    assert Spoken(both).say("Loom shop earth, Loom shop") == "Loom shop earth, Loom shop"
    plain = edits.change_part(job, "E1", name="Earth")
    assert Spoken(plain).say("E1 Earth") == "E1 Earth", "a name that is the word, as it was typed"
    assert Spoken(plain).say("Earth it there") == "Ground it there", "and no other text for it"
    assert say("EARTH IT; Earthed at the loom's bulkhead") == (
        "GROUND IT; Grounded at the harness's firewall"
    )
    assert say("Earthenware, unearthly, bloom") == "Earthenware, unearthly, bloom"
    assert Spoken(demo_job()).say("Earth it") == "Earth it"


def test_each_word_has_one_other_and_none_is_said_twice_over() -> None:
    job = american(Job("x"))
    say = Spoken(job).say
    for british, other in AMERICAN:
        assert say(british) == other
        assert say(other) == other, "said once more it stays"
        named = edits.rename(job, f"My {british} thing", "")
        assert Spoken(named).say(f"My {british} thing") == f"My {british} thing"


def test_the_command_line_says_it_and_json_keeps_its_names(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "job.molvik"
    put_job(replace(american(demo_job()), photos=()), path)
    main(["check", str(path)])
    said = capsys.readouterr().out
    assert "ground" in said
    assert left(said.splitlines(), demo_job()) == []
    assert main(["why", str(path), "--device", "D8", "--state", "run", "--fault", "E2"]) == 0
    assert "Ground point E2" in capsys.readouterr().out
    assert main(["route", str(path), "--json"]) == 0
    assert '"looms"' in capsys.readouterr().out
    assert main(["check", "--demo", "marten"]) == 1
    assert "earth" in capsys.readouterr().out, "the next job is said as it wants to be"


def test_the_window_says_it_and_says_it_back(demo_window: MainWindow, qtbot: QtBot) -> None:
    window = demo_window
    window.show()
    for stage in ("Survey", "Circuits", "Routing", "Proving"):
        page(window, stage)
    window.store.do("American", american)
    window.hand.pick("E1")

    def shown() -> list[str]:
        labels = [one.text() for one in window.findChildren(QLabel) if one.isVisible()]
        return labels + [
            one.text() for one in window.findChildren(QAbstractButton) if one.isVisible()
        ]

    for stage in ("Survey", "Circuits", "Routing", "Proving"):
        page(window, stage)
        window.grab()
        window.grab()
        wrong = left(shown(), window.store.job)
        assert wrong == [], stage
    routing = page(window, "Routing")
    window.grab()
    assert any("harness" in text.lower() for text in shown())
    tabs = [bar.tabText(n) for bar in routing.findChildren(QTabBar) for n in range(bar.count())]
    assert "Beside the old harness" in tabs
    window.store.history.undo()
    window.grab()
    tabs = [bar.tabText(n) for bar in routing.findChildren(QTabBar) for n in range(bar.count())]
    assert "Beside the old loom" in tabs
    assert not any("harness" in text.lower() for text in shown())
    assert any("loom" in text.lower() for text in shown())


def test_what_a_list_holds_stays_a_key_though_it_is_painted_otherwise(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    """A block is begun by the name in its list, which an American workshop reads as another."""
    demo_window.store.do("American", american)
    dialog = BlockDialog(demo_window, demo_window.store)
    qtbot.addWidget(dialog)
    dialog.show()
    (row,) = [n for n in range(dialog.list.count()) if dialog.list.item(n).text() == "Isolator"]
    dialog.list.setCurrentRow(row)
    dialog.grab()
    option = QStyleOptionViewItem()
    index = dialog.list.model().index(row, 0)
    delegate = dialog.list.itemDelegate()
    assert isinstance(delegate, QStyledItemDelegate)
    delegate.initStyleOption(option, index)
    assert option.text == "Disconnect"
    assert dialog.list.item(row).text() == "Isolator"
    assert dialog.notice.text() == "", "it is begun"
    assert "isolator" in dialog.title.text().lower() or "disconnect" in dialog.title.text().lower()


def test_a_drawing_in_the_window_says_it_too(demo_window: MainWindow, qtbot: QtBot) -> None:
    """A lamp whose way back is open, as the circuit of it is drawn, and drawn again."""
    canvas = Lines()
    qtbot.addWidget(canvas)
    canvas.resize(300, 200)
    canvas.show()

    def words() -> tuple[str, ...]:
        assert canvas.drawing is not None
        return canvas.drawing.texts()

    assert words() == ("no path to earth",)
    demo_window.store.do("American", american)
    assert words() == ("no path to ground",)
    demo_window.store.history.undo()
    assert words() == ("no path to earth",)


class Lines(Canvas):
    """A drawing of one line of words."""

    def __init__(self) -> None:
        super().__init__("One line", "")

    def draw(self, width: float, height: float) -> Scene:
        return Scene(width, height, (Text("no path to earth", Box(0, 0, 90, 20), 12, "ink"),))


def test_what_is_shown_in_other_words_can_be_typed_in_them() -> None:
    """A state and a use are shown as an American workshop says them; so typed, they are taken."""
    shown = Spoken(american(Job("x"))).say("isolator off while running")
    assert shown == "disconnect off while running"
    (state,) = states_of(Scenario("mine", (shown,)))
    assert state is ISOLATED
    (use,) = [field for field in WIRE_FIELDS if field.name == "Use"]
    assert use.read("shield", Network(Job("x"))) == {"use": "screen"}
    with pytest.raises(ValueError, match="There is no state"):
        states_of(Scenario("mine", ("harness",)))


def test_no_name_of_a_field_is_taken_for_something_typed() -> None:
    assert Spoken(american(Job("x"))).say("colour") == "color"
