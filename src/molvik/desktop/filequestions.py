"""What the window asks about the job's file before anything is lost."""

from pathlib import Path

from PySide6.QtWidgets import QMessageBox, QWidget

from molvik.desktop.dialogs import ask
from molvik.files.errors import ChangedOutsideError, PhotosMissingError


def ask_copy(window: QWidget, path: Path) -> bool:
    """Ask whether to open a copy of a job that is open in another window."""
    answer = QMessageBox.question(
        window,
        "Open in another window",
        f"{path.name} is open in another window. Two windows would overwrite each other's "
        "work.\n\nOpen a copy that you save under another name?",
    )
    return answer == QMessageBox.StandardButton.Yes


def ask_changed(window: QWidget, error: ChangedOutsideError, path: Path) -> str:
    """Ask what to do when the file is not what it was; return here, elsewhere or nothing."""
    box = QMessageBox(window)
    box.setIcon(QMessageBox.Icon.Warning)
    box.setWindowTitle("The file is not what it was")
    box.setText(str(error))
    if error.change == "deleted":
        box.setInformativeText("Save it again under its old name, or elsewhere?")
    else:
        box.setInformativeText(
            f"Save here, and keep what is there now beside it as {path.name}~? Or save yours "
            "under another name, and look at both?"
        )
    elsewhere = box.addButton("Save elsewhere…", QMessageBox.ButtonRole.AcceptRole)
    here = box.addButton(
        "Save again" if error.change == "deleted" else "Save here, keep both",
        QMessageBox.ButtonRole.DestructiveRole,
    )
    box.addButton(QMessageBox.StandardButton.Cancel)
    box.setDefaultButton(elsewhere)
    ask(box)
    chosen = box.clickedButton()
    if chosen is here:
        return "here"
    return "elsewhere" if chosen is elsewhere else ""


def ask_missing(window: QWidget, error: PhotosMissingError) -> bool:
    """Ask whether to save without photos that cannot be read any more."""
    box = QMessageBox(window)
    box.setIcon(QMessageBox.Icon.Warning)
    box.setWindowTitle("Photos cannot be read")
    box.setText(str(error))
    box.setInformativeText("Save the job without their pictures? Marks and captions stay.")
    without = box.addButton("Save without them", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(box.addButton(QMessageBox.StandardButton.Cancel))
    ask(box)
    chosen = box.clickedButton()
    return chosen is without


def ask_unsaved(window: QWidget, title: str) -> str:
    """Ask what to do with unsaved work; return save, discard or nothing."""
    box = QMessageBox(window)
    box.setWindowTitle("Unsaved work")
    box.setText(f"{title} has changes that are not saved.")
    buttons = QMessageBox.StandardButton
    box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
    box.setDefaultButton(buttons.Save)
    answer = box.exec()
    box.deleteLater()
    return {buttons.Save: "save", buttons.Discard: "discard"}.get(buttons(answer), "")
