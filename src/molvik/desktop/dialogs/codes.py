"""What the window asks before a thing gets another code or is taken out."""

from datetime import datetime
from functools import partial

from PySide6.QtWidgets import QWidget

from molvik.desktop.dialogs.questions import Answer, ask_line, question
from molvik.desktop.store import Store
from molvik.model import edits, references
from molvik.model.job import Job


def change_code(window: QWidget, store: Store, code: str) -> str:
    """Ask for another code until it can be; return the one the thing has then."""

    def take(typed: str) -> None:
        now, by = datetime.now().astimezone(), store.job.settings.measured_by
        new, at = typed.strip().upper(), now.isoformat(timespec="seconds")
        store.do(f"Call {code} {new}", partial(edits.change_code, old=code, new=new, at=at, by=by))

    words = (
        f"The code on its label: all that names {code} follows, and {code} is never given to "
        "another thing."
    )
    typed = ask_line(window, f"Another code for {code}", words, code, take)
    return code if typed is None else typed.strip().upper()


def may_take_out(window: QWidget, job: Job, code: str) -> bool:
    """Say what a removal takes along, and ask; nothing is asked when it takes nothing."""
    uses = references.uses(job, code)
    if not uses or any(use.reference.gone == "holds it" for use in uses):
        return True  # the edit says what holds it
    more = "\n".join(f"{use.words}." for use in uses) + "\nIt can be undone."
    out = Answer("out", "Delete it")
    return bool(question(window, f"Delete {code}", f"Delete {code} from the job?", more, [out]))
