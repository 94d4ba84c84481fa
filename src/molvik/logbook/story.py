"""The log as a story: everything that was recorded with its time, in the order it happened."""

from datetime import datetime
from typing import NamedTuple

from molvik.model.job import Job, Reading
from molvik.stages import name_of


class Line(NamedTuple):
    """One line of the story. number: of its line in the log, None for what was recorded elsewhere.
    struck: it was struck out and counts no more.
    """

    at: datetime
    stage: str
    subject: str
    kind: str
    text: str
    by: str
    number: int | None = None
    struck: bool = False


def story(job: Job) -> tuple[Line, ...]:
    """Return everything that was recorded with its time, the earliest first."""
    lines: list[Line] = []
    for number, entry in enumerate(job.log):
        moment = datetime.fromisoformat(entry.at)
        struck = f"struck out {entry.struck_at[:16].replace('T', ' ')}" if entry.struck_at else ""
        was = f"was: {entry.was}" if entry.was else ""
        text = " · ".join(filter(None, (entry.says, struck, was)))
        lines.append(
            Line(
                moment,
                name_of(entry.stage),
                entry.subject,
                entry.kind,
                text,
                entry.by,
                number,
                bool(struck),
            )
        )
    for reading in job.readings:
        moment = datetime.fromisoformat(reading.at)
        on = reading.item or next((end.at for end in reading.points), "")
        kind = "repaired" if reading.of == "mended" else "reading"
        lines.append(Line(moment, name_of("proving"), on, kind, _reading(reading), reading.by))
    for acceptance in job.accepted:
        moment = datetime.fromisoformat(acceptance.at)
        if moment.tzinfo is None:
            moment = moment.astimezone()
        lines.append(
            Line(moment, "", acceptance.finding, "accepted", acceptance.reason, acceptance.by)
        )
    for tick in job.ticks:
        moment = datetime.fromisoformat(tick.at)
        lines.append(Line(moment, "", tick.step, "ticked", tick.list, tick.by))
    for fault in job.loom.faults:
        if fault.decision and fault.decided_at:
            text = f"{fault.decision}: {fault.reason}" if fault.reason else fault.decision
            moment = datetime.fromisoformat(fault.decided_at)
            lines.append(Line(moment, name_of("survey"), fault.code, "decided", text, ""))
    for photo in job.photos:
        moment = datetime.fromisoformat(photo.at)
        marks = "; ".join(mark.text for mark in photo.marks if mark.text)
        text = " · ".join(part for part in (photo.code, photo.text, marks) if part)
        lines.append(Line(moment, name_of(photo.stage), photo.on, "photo", text, photo.by))
    return tuple(sorted(lines, key=lambda line: line.at))


def _reading(reading: Reading) -> str:
    where = " to ".join(str(end) for end in reading.points if end.at) or reading.of
    out = f"{', '.join(reading.out)} out" if reading.out else ""
    more = (reading.state, out, reading.note)
    return ", ".join(filter(None, (f"{where}: {reading.shown}", *more)))


def matching(lines: tuple[Line, ...], text: str) -> tuple[Line, ...]:
    """Return the lines that have every word of a text."""
    words = text.lower().split()
    return tuple(
        line
        for line in lines
        if all(word in " ".join(map(str, line[1:6])).lower() for word in words)
    )
