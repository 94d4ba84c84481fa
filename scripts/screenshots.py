"""Take the pictures of the README from the demo, on a virtual screen: make screenshots."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

# Nothing of the user's own recent files or recovery copies may be in a picture.
FOLDER = tempfile.mkdtemp()
for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
    os.environ[name] = FOLDER

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from molvik.desktop import theme
from molvik.desktop.stages.circuits.diagramview import DiagramView
from molvik.desktop.stages.circuits.page import CircuitsPage
from molvik.desktop.stages.proving.page import ProvingPage
from molvik.desktop.stages.routing.boarddialog import BoardDialog
from molvik.desktop.stages.sizes.page import SizesPage
from molvik.desktop.threads.background import is_working
from molvik.desktop.window import MainWindow
from molvik.devices.states import RUNNING

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"


def settle(seconds: float = 0.8) -> None:
    """Let the window work until no thread behind it has worked for some seconds, however slow the
    machine is today: QTest.qWait would starve those.
    """
    busy = time.monotonic()
    while time.monotonic() < busy + seconds:
        QApplication.processEvents()
        time.sleep(0.01)
        if is_working():
            busy = time.monotonic()


def main() -> None:
    application = QApplication([])
    theme.apply(application)
    window = MainWindow(QSettings(f"{FOLDER}/settings.ini", QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()

    def take(name: str) -> None:
        settle()
        while window.files.has_job and not window.store.analysis.electrics.is_judged:
            settle(0.2)  # no picture of a window that is still looking the job over
        window.grab().save(str(TARGET / f"{name}.png"))

    take("first-screen")
    window.files.open_demo()
    settle(2)
    for stage, subject, name in (
        (0, "X1", "survey"),
        (1, "C2/15", "pinouts"),
        (3, "W21", "circuits"),
        (6, "W56", "proving"),
        (7, "W42", "sheets"),
    ):
        window.go(stage)
        window.hand.pick(subject)
        page = window.pages[stage]
        if isinstance(page, ProvingPage):
            page.tabs.setCurrentWidget(page.plan)
        take(name)
    board(window)
    routing(window, take)
    sizing(window, take)
    operating_point(window, take)
    proving(window, take)
    window.beside.show_photo("P1")
    desk = window.beside.photos
    assert desk is not None
    assert desk.shown is not None
    settle()
    desk.shown.grab().save(str(TARGET / "photo.png"))
    desk.shown.close()
    repinning(window, take)
    window.close()


def board(window: MainWindow) -> None:
    """Take the picture of a board at full size before it is printed, closer on its middle."""
    dialog = BoardDialog(window, window.store, "H1")
    dialog.show()
    while not dialog.save.isEnabled():
        settle()
    dialog.paper.setCurrentIndex(0)
    while not dialog.save.isEnabled():
        settle()
    dialog.view.zoom_to(2.6)
    settle()
    view = dialog.view
    view.horizontalScrollBar().setValue(round(0.45 * view.horizontalScrollBar().maximum()))
    view.verticalScrollBar().setValue(round(0.3 * view.verticalScrollBar().maximum()))
    settle()
    dialog.grab().save(str(TARGET / "board.png"))
    dialog.close()


def routing(window: MainWindow, take: Callable[[str], None]) -> None:
    """Take the picture of a loom to build with a stretch cut across."""
    window.go(5)
    window.hand.pick("R4")
    settle(3)  # its wires are packed aside
    take("routing")


def sizing(window: MainWindow, take: Callable[[str], None]) -> None:
    """Take the picture of the wires that fail."""
    window.go(4)
    window.hand.pick("W57")
    page = window.pages[4]
    assert isinstance(page, SizesPage)
    take("sizes")


def operating_point(window: MainWindow, take: Callable[[str], None]) -> None:
    """Take the pictures of what is alive, of the bus, of charging, of gauges, and of the
    diagram.
    """
    window.go(3)
    page = window.pages[3]
    assert isinstance(page, CircuitsPage)
    page.tabs.setCurrentIndex(1)
    settle(2)
    page.alive.controls.show_state(RUNNING)
    window.hand.pick("D18")
    take("circuits-alive")
    for tab, name in (
        ("Bus", "bus"),
        ("Charging", "charging"),
        ("Gauges", "gauges"),
        ("Diagram", "diagram"),
    ):
        view = page.turn_to(tab)
        if isinstance(view, DiagramView):
            settle()
            view.by.setCurrentText("by system")
            settle()
            view.follow(window.hand.subject)
        settle(2)
        take(name)
    page.tabs.setCurrentIndex(0)


def proving(window: MainWindow, take: Callable[[str], None]) -> None:
    """Take the pictures of first power, of likely causes, and of a round of practice."""
    window.go(6)
    page = window.pages[6]
    assert isinstance(page, ProvingPage)
    for tab, name in ((page.power, "power"), (page.causes, "causes")):
        page.tabs.setCurrentWidget(tab)
        if tab is page.power:
            page.power.supply.use_stand_in()
        if tab is page.causes:
            page.causes.symptom.setText("D35 dead in run")
            page.causes.symptom.finish()
        settle(2)
        take(name)
    page.power.supply.forget()
    practised(page)
    take("practice")
    window.store.history.setClean()  # the next job is opened without a question


def practised(page: ProvingPage) -> None:
    """Play a round of practice to its end: the page shows what each step told."""
    page.tabs.setCurrentWidget(page.practice)
    view = page.practice
    view.begin(11)
    settle(1)
    view.bench.turns["run"].click()
    view.bench.look_button.click()
    played = view.round
    assert played is not None
    for _ in range(4):
        proposal = played.leaves().next
        if proposal is None:
            break
        point = proposal.point
        if point.what == "device":
            view.bench.taken.emit(point.red.at)
            continue
        view.bench.meter.turn_to("Ω" if point.is_on_bench else "V")
        view.bench.turn("unplugged" if point.is_on_bench else point.state)
        view.bench.show_probes(point.red, point.black)
        view.bench.measure()
    settle()
    view.tell()
    settle(1)


def repinning(window: MainWindow, take: Callable[[str], None]) -> None:
    """Take the picture of the second demo."""
    window.files.open_demo("plover")
    settle(2)
    window.go(2)
    window.hand.pick("W21")
    take("crossover")


if __name__ == "__main__":
    main()
