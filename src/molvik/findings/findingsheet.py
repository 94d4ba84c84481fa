"""The findings as a sheet, with those the user accepted and why."""

from molvik.analysis import Analysis
from molvik.findings import judged_findings
from molvik.findings.kinds import KINDS
from molvik.model.job import Acceptance
from molvik.sheet import Sheet, Table, notes


def findings_sheet(analysis: Analysis) -> Sheet:
    """Return the findings of a job, open ones first."""
    rows = []
    for judged in sorted(analysis.once(judged_findings), key=lambda judged: not judged.is_open):
        finding = judged.finding
        rows.append(
            (
                finding.word,
                finding.subject,
                finding.what,
                finding.why,
                finding.remedy,
                judged.words or "open",
            )
        )
    table = Table(
        ("Kind", "About", "What", "Why it matters", "What to do", "Judged"),
        (4, 7, 26, 26, 26, 12),
        tuple(rows),
    )
    below = notes("fix: will hurt, burn or not work. check: judge it. note: good to know.")
    return Sheet("findings", "Findings", (table, *below))


def accepted_words(one: Acceptance) -> str:
    """Say what was accepted in words; a rule's name is not a word."""
    rule, _, subject = one.finding.partition(" ")
    kind = KINDS.get(rule)
    where = f"{subject}: " if subject else ""
    by = f" ({one.by})" if one.by else ""
    what = kind.when if kind else "something that is not looked for any more"
    return f"{where}{what}. {one.reason}{by}"
