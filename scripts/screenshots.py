"""Take the pictures of the README from the demo, on a virtual screen: make screenshots."""

import os
import tempfile
from pathlib import Path

# Nothing of the user's own recent files or recovery copies may be in a picture.
FOLDER = tempfile.mkdtemp()
for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
    os.environ[name] = FOLDER

from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from molvik.demo import DONOR_TABLE
from molvik.desktop import theme
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.stages.pinouts.page import PinoutsPage
from molvik.desktop.window import MainWindow

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"


def main() -> None:
    application = QApplication([])
    theme.apply(application)
    window = MainWindow(QSettings(f"{FOLDER}/settings.ini", QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()

    def take(name: str) -> None:
        QTest.qWait(700)
        window.grab().save(str(TARGET / f"{name}.png"))

    take("first-screen")
    window.files.open_demo()
    QTest.qWait(3000)
    for stage, subject, name in (
        (1, "C2/15", "pinouts"),
        (3, "W21", "circuits"),
        (4, "W42", "sizes"),
        (6, "W56", "proving"),
        (7, "W42", "sheets"),
    ):
        window.go(stage)
        window.hand.pick(subject)
        take(name)
    window.go(1)
    page = window.pages[1]
    assert isinstance(page, PinoutsPage)
    page.import_table(DONOR_TABLE)
    QTest.qWait(1500)
    dialog = next(one for one in application.topLevelWidgets() if isinstance(one, ImportDialog))
    dialog.into.setCurrentIndex(dialog.into.findData("C1"))
    dialog.reread()
    QTest.qWait(300)
    dialog.grab().save(str(TARGET / "import.png"))
    dialog.reject()
    window.close()


if __name__ == "__main__":
    main()
