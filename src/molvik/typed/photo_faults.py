"""Faults recorded from a photo: what stands beside its arrows and circles, all at once."""

from typing import NamedTuple

from molvik.model import loom_edits, photo_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.loom import Fault, FaultKind
from molvik.survey.rules import GRADES
from molvik.typed.field import word_for
from molvik.typed.found import EVERYDAY


class Marked(NamedTuple):
    """A mark that tells of a fault. at: which mark, counted from zero."""

    at: int
    fault: Fault


def marked(job: Job, photo: str) -> tuple[Marked, ...]:
    """Return what the arrows and circles of a photo tell of that is not recorded yet: "chewed 3",
    "L17 burnt, dangerous". What no thing of the loom is named for is on what the photo shows.
    """
    shown = photo_edits.find(job, photo)
    found = []
    for at, mark in enumerate(shown.marks):
        if mark.kind in ("arrow", "circle"):
            fault = _read(job, shown.on, mark.text)
            if fault is not None:
                found.append(Marked(at, fault))
    return tuple(found)


def recorded(job: Job, photo: str) -> Job:
    """Return the job with a fault for each mark that tells of one, whose code the mark then bears.
    Raises EditError where nothing tells of any, or what it is on is not known.
    """
    found = marked(job, photo)
    if not found:
        raise EditError(
            "No mark tells of a fault yet: draw an arrow or a circle, and type what it is and how "
            "bad, 0 to 4: chewed 3, burnt 4, green."
        )
    for mark in found:
        if not mark.fault.on:
            words = photo_edits.find(job, photo).marks[mark.at].text
            raise EditError(
                f"What is “{words}” on? The photo is of no thing of the loom: begin with its code, "
                f"for example L3 {words}."
            )
        code = loom_edits.free_code(job, Fault)
        job = loom_edits.add(
            job, Fault(code, mark.fault.on, mark.fault.kind, grade=mark.fault.grade)
        )
        text = photo_edits.find(job, photo).marks[mark.at].text
        job = photo_edits.change_mark(job, photo, mark.at, text=f"{code} {text}")
    return job


def _read(job: Job, on: str, text: str) -> Fault | None:
    """Return the fault that a text tells of, None for none, or one that is recorded."""
    things = {thing.code: thing for thing in job.loom.things()}
    first, _, rest = text.strip().partition(" ")
    if isinstance(things.get(first.upper()), Fault):
        return None
    shown = things.get(on)
    target = shown.on if isinstance(shown, Fault) else shown.code if shown else ""
    if first.upper() in things:
        target, text = first.upper(), rest
    words, grade = _graded(text.replace(",", " ").split())
    kind = word_for(" ".join(words), FaultKind, EVERYDAY)
    if kind is None or kind == "not said":
        return None
    return Fault("", target, kind, grade=grade)  # type: ignore[arg-type]  # it is one of them


def _graded(words: list[str]) -> tuple[list[str], int]:
    """Return the words without the grade at their end, and the grade; worn where none is given."""
    if words and words[-1].isdigit() and int(words[-1]) < len(GRADES):
        return words[:-1], int(words[-1])
    if len(words) > 1 and words[-1].lower() in GRADES:
        return words[:-1], GRADES.index(words[-1].lower())
    return words, Fault("", "").grade
