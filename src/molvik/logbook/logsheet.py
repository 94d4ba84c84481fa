"""The log as a sheet."""

from datetime import datetime

from molvik.analysis import Analysis
from molvik.logbook.clock import forgotten_text, hours_by_stage, hours_text
from molvik.logbook.story import story
from molvik.sheet import Sheet, Table, notes
from molvik.stages import name_of


def logbook_sheet(analysis: Analysis) -> Sheet:
    """Return the log of a job, with its hours below."""
    job = analysis.job
    rows = tuple(
        (f"{line.at:%Y-%m-%d %H:%M}", line.stage, line.subject, line.kind, line.text, line.by)
        for line in story(job)
    )
    now = datetime.now().astimezone()
    hours = hours_by_stage(job.log, now)
    by_stage = [f"{name_of(stage) or 'No stage'}: {hours_text(h)}" for stage, h in hours.items()]
    table = Table(
        ("When", "Stage", "About", "Kind", "What", "By"),
        (10, 7, 10, 7, 40, 7),
        rows,
    )
    lost = forgotten_text(job.log, now)
    below = notes(*(by_stage or ["The clock was not used."]), *([lost] if lost else []))
    return Sheet("logbook", "Logbook", (table, *below))
