"""The revisions of a board: what was given out, when, and whether it was changed since."""

import hashlib
import re
from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from molvik.model import routing_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.routing import NewLoom, Revision

LETTERS = "ABCDEFGHJKLMNPRTUVWY"
"""Marks in their order; I, O, Q, S, X and Z are left out, as ASME Y14.35 does (from memory)."""

LONGEST = 80
"""What changed, in so many letters: it is a line in the title block."""


class Standing(NamedTuple):
    """How a board stands to what was given out last. mark: of that, empty for none; changed: since
    then, None where it is not known.
    """

    mark: str
    changed: bool | None

    @property
    def words(self) -> str:
        """In words, for the title block."""
        if not self.mark:
            return "revision"
        return f"revision {self.mark}{', changed since' if self.changed else ''}"


def state_of(job: Job, code: str) -> str:
    """Return the fingerprint of a loom: of its nodes, stretches and how they are turned, of what
    sits there, and of its wires. Another loom, and the revisions themselves, do not change it.
    """
    routing = job.routing
    looms = [replace(loom, revisions=()) for loom in routing.looms if loom.code == code]
    joints = [joint for joint in routing.joints if joint.loom == code]
    own = {joint.code for joint in joints}
    runs = [run for run in routing.runs if {run.start, run.finish} & own]
    names = {run.code for run in runs}
    zones = [zone for zone in routing.zones if zone.name in {run.zone for run in runs}]
    carried = {part for joint in joints for part in joint.carries}
    parts = [part for part in job.parts() if part.code in carried]
    wires = [wire for wire in job.wires if {end.at for end in wire.ends} & carried]
    poses = [pose for pose in job.board if pose.run in names]
    what = msgspec.json.encode((looms, joints, runs, zones, parts, wires, poses))
    # A whole number is the same whether it was typed as one or read from a file.
    return hashlib.sha256(re.sub(rb"(\d)\.0\b", rb"\1", what)).hexdigest()[:8]


def next_mark(revisions: tuple[Revision, ...]) -> str:
    """Return the letter of the next revision: A, B … Y, AA, AB …; none that is there already."""
    taken = {one.mark for one in revisions}
    number = len(revisions)
    while (mark := _mark(number)) in taken:
        number += 1
    return mark


def _mark(number: int) -> str:
    mark = ""
    while True:
        number, rest = divmod(number, len(LETTERS))
        mark = LETTERS[rest] + mark
        if not number:
            return mark
        number -= 1


def given_out(job: Job, code: str, what: str, on: str, by: str) -> Job:
    """Return the job with the board of a loom given out as its next revision. what: what changed;
    on: the date, year-month-day. Raises EditError.
    """
    tidy = " ".join(what.split()).replace(";", ",")
    if not tidy:
        raise EditError("Say in a few words what changed, for whoever holds the sheet before it.")
    if len(tidy) > LONGEST:
        raise EditError(f"It is a line in the title block: {LONGEST} letters at most.")
    loom = _loom(job, code)
    made = Revision(next_mark(loom.revisions), on, tidy, _name(by), state_of(job, code))
    return routing_edits.change(job, code, revisions=(*loom.revisions, made))


def _name(by: str) -> str:
    """Return a name as it can be typed among the others."""
    return " ".join(re.sub("[;:()]", " ", by).split())


def standing(job: Job, code: str) -> Standing:
    """Return how the board of a loom stands to its last revision. Raises EditError for none."""
    revisions = _loom(job, code).revisions
    if not revisions:
        return Standing("", None)
    last = revisions[-1]
    return Standing(last.mark, state_of(job, code) != last.state if last.state else None)


def _loom(job: Job, code: str) -> NewLoom:
    loom = next((one for one in job.routing.looms if one.code == code), None)
    if loom is None:
        raise EditError(f"There is no loom {code or '?'}.")
    return loom
