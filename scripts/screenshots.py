"""Take the pictures of the README from the demo, on a virtual screen: make screenshots."""

import os
import tempfile
import time
from pathlib import Path

# Nothing of the user's own recent files or recovery copies may be in a picture.
FOLDER = tempfile.mkdtemp()
for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
    os.environ[name] = FOLDER

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from molvik.demo import DONOR_TABLE
from molvik.desktop import theme
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.stages.pinouts.page import PinoutsPage
from molvik.desktop.window import MainWindow

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"


def settle(seconds: float = 0.8) -> None:
    """Let the window work, and the threads behind it: QTest.qWait would starve those."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)


def main() -> None:
    application = QApplication([])
    theme.apply(application)
    window = MainWindow(QSettings(f"{FOLDER}/settings.ini", QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()

    def take(name: str) -> None:
        settle()
        window.grab().save(str(TARGET / f"{name}.png"))

    take("first-screen")
    window.files.open_demo()
    settle(2)
    for stage, subject, name in (
        (0, "X1", "survey"),
        (1, "C2/15", "pinouts"),
        (3, "W21", "circuits"),
        (4, "W42", "sizes"),
        (6, "W56", "proving"),
        (7, "W42", "sheets"),
    ):
        window.go(stage)
        window.hand.pick(subject)
        take(name)
    window.show_logbook()
    assert window._logbook is not None
    settle()
    window._logbook.grab().save(str(TARGET / "logbook.png"))
    window._logbook.close()
    window.go(1)
    page = window.pages[1]
    assert isinstance(page, PinoutsPage)
    page.import_table(DONOR_TABLE)
    settle(2)
    dialog = next(one for one in application.topLevelWidgets() if isinstance(one, ImportDialog))
    dialog.into.setCurrentIndex(dialog.into.findData("C1"))
    dialog.reread()
    settle()
    dialog.grab().save(str(TARGET / "import.png"))
    dialog.reject()
    window.close()


if __name__ == "__main__":
    main()
