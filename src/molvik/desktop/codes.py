"""What the window asks before a thing gets another code or is taken out."""

from datetime import datetime
from functools import partial

from PySide6.QtWidgets import QInputDialog, QLineEdit, QMessageBox, QWidget

from molvik.desktop.dialogs import ask
from molvik.desktop.store import Store
from molvik.model import edits, references
from molvik.model.job import Job


def change_code(window: QWidget, store: Store, code: str) -> str:
    """Ask for another code until it can be; return the one the thing has then."""
    told, typed = "", code
    while True:
        typed, sure = QInputDialog.getText(
            window,
            f"Another code for {code}",
            f"{told}The code on its label: all that names {code} follows, and {code} is never "
            "given to another thing.",
            QLineEdit.EchoMode.Normal,
            typed,
        )
        if not sure:
            return code
        now, by = datetime.now().astimezone(), store.job.settings.measured_by
        new, at = typed.strip().upper(), now.isoformat(timespec="seconds")
        try:
            store.do(
                f"Call {code} {new}", partial(edits.change_code, old=code, new=new, at=at, by=by)
            )
        except edits.EditError as error:
            told = f"{error}\n\n"
            continue
        return new


def may_take_out(window: QWidget, job: Job, code: str) -> bool:
    """Say what a removal takes along, and ask; nothing is asked when it takes nothing."""
    uses = references.uses(job, code)
    if not uses or any(use.reference.gone == "holds it" for use in uses):
        return True  # the edit says what holds it
    box = QMessageBox(window)
    box.setIcon(QMessageBox.Icon.Question)
    box.setWindowTitle(f"Take out {code}")
    box.setText(f"Take {code} out of the job?")
    box.setInformativeText("\n".join(f"{use.words}." for use in uses) + "\nIt can be undone.")
    out = box.addButton("Take it out", QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(out)
    box.addButton(QMessageBox.StandardButton.Cancel)
    ask(box)
    return box.clickedButton() is out
