"""What the window asks about the job's file before anything is lost."""

from pathlib import Path

from PySide6.QtWidgets import QWidget

from molvik.desktop.dialogs.questions import Answer, question
from molvik.files.errors import ChangedOutsideError, PhotosMissingError
from molvik.files.recovery import Leftover


def ask_copy(window: QWidget, path: Path) -> bool:
    """Ask whether to open a copy of a job that is open in another window."""
    return bool(
        question(
            window,
            "Open in another window",
            f"{path.name} is open in another window. "
            "Two windows would overwrite each other's work.",
            "Open a copy that you save under another name?",
            [Answer("copy", "Open a copy")],
        )
    )


def ask_left(window: QWidget, path: Path, left: Leftover, differs: str) -> str:
    """Ask what to do with unsaved work on a file that is opened; return take, open or nothing."""
    text = (
        f"Unsaved work on {path.name} from {left.at:%d %b %Y, %H:%M} was kept when the program "
        f"ended."
    )
    more = f"In it, against the file: {differs or 'nothing that is seen'}."
    answers = [Answer("take", "Take it up"), Answer("open", "Open the file as it was saved")]
    return question(window, f"Unsaved work on {path.name}", text, more, answers)


def ask_changed(window: QWidget, error: ChangedOutsideError, path: Path) -> str:
    """Ask what to do when the file is not what it was; return here, elsewhere or nothing."""
    if error.change == "deleted":
        more, here = "Save it again under its old name, or elsewhere?", "Save again"
    else:
        more = (
            f"Save here, and keep what is there now beside it as {path.name}~? Or save yours "
            "under another name, and look at both?"
        )
        here = "Save here, keep both"
    answers = [Answer("elsewhere", "Save elsewhere…"), Answer("here", here)]
    return question(window, "The file is not what it was", str(error), more, answers)


def ask_missing(window: QWidget, error: PhotosMissingError) -> bool:
    """Ask whether to save without photos that cannot be read any more."""
    more = "Save the job without their pictures? Marks and captions stay."
    without = Answer("without", "Save without them", loses=True)
    return bool(question(window, "Photos cannot be read", str(error), more, [without]))


def ask_unsaved(window: QWidget, title: str) -> str:
    """Ask what to do with unsaved work; return save, discard or nothing."""
    answers = [Answer("save", "Save"), Answer("discard", "Discard", loses=True)]
    return question(window, "Unsaved work", f"{title} has changes that are not saved.", "", answers)
