"""Hours from the clock: sessions, forgotten clocks, hours by stage.

Times carry their UTC offset, so a session across midnight or a change of zone is as long as it was.
"""

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from molvik.model.log import LogEntry, counted
from molvik.stages import key_of

LONGEST_H = 12.0
"""A session longer than this was forgotten, h (our choice: nobody works a loom longer)."""


def now_text() -> str:
    """Return the present local time with its offset, to the second."""
    return datetime.now().astimezone().isoformat(timespec="seconds")


class Session(NamedTuple):
    """A stretch of work. end is None while it runs. forgotten: it ran longer than anybody works."""

    stage: str
    begin: datetime
    end: datetime | None

    def hours(self, now: datetime) -> float:
        """Return its hours; a running one is counted up to now."""
        return max(0.0, ((self.end or now) - self.begin).total_seconds() / 3600)

    def forgotten(self, now: datetime) -> bool:
        """Return whether the clock was forgotten."""
        return self.hours(now) > LONGEST_H


def sessions(log: Iterable[LogEntry]) -> tuple[Session, ...]:
    """Return all sessions. A clock on while one runs ends that and begins another; what was
    corrected lies where its time is.
    """
    found: list[Session] = []
    pressed = [
        (datetime.fromisoformat(entry.at), entry)
        for entry in counted(log)
        if entry.kind in ("clock on", "clock off")
    ]
    for moment, entry in sorted(pressed, key=lambda one: one[0]):
        if found and found[-1].end is None:
            found[-1] = found[-1]._replace(end=moment)
        if entry.kind == "clock on":
            found.append(Session(key_of(entry.stage), moment, None))
    return tuple(found)


def running(log: Iterable[LogEntry]) -> Session | None:
    """Return the session that runs, or None."""
    every = sessions(log)
    return every[-1] if every and every[-1].end is None else None


def forgotten(log: Iterable[LogEntry], now: datetime) -> tuple[Session, ...]:
    """Return the sessions that are longer than anybody works, and so are not counted."""
    return tuple(session for session in sessions(log) if session.forgotten(now))


def forgotten_text(log: Iterable[LogEntry], now: datetime) -> str:
    """Say which hours are not counted, and how they are; empty where all are."""
    lost = [
        f"{one.begin:%d %b %H:%M} to {f'{one.end:%d %b %H:%M}' if one.end else 'now'}"
        for one in forgotten(log, now)
    ]
    if not lost:
        return ""
    return (
        f"Not counted, as no one works {LONGEST_H:g} h on end: {'; '.join(lost)}. Correct when "
        "the clock was switched off, and it counts."
    )


def hours_by_stage(log: Iterable[LogEntry], now: datetime) -> dict[str, float]:
    """Return the hours of each stage. A forgotten session counts as nothing."""
    hours: dict[str, float] = {}
    for session in sessions(log):
        worked = 0.0 if session.forgotten(now) else session.hours(now)
        hours[session.stage] = hours.get(session.stage, 0.0) + worked
    return hours


def hours_text(hours: float) -> str:
    """Write hours as people say them: "3 h 40"."""
    minutes = round(hours * 60)
    return f"{minutes // 60} h {minutes % 60:02d}"
