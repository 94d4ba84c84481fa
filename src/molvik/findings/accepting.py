"""Which acceptances still hold: one was of a severity, of things and of figures."""

import re
from collections.abc import Iterable
from typing import NamedTuple

from molvik.findings.finding import Figure, Finding
from molvik.findings.kinds import SEVERITIES, SEVERITY_WORDS
from molvik.model import references
from molvik.model.job import Acceptance, Job

ROUNDING = 0.005
"""Figures that differ by less than this share are the same: solutions are rounded."""


class Judged(NamedTuple):
    """A finding, and what was decided of it. acceptance: None where nobody accepted it. changed:
    what is worse than what was accepted, empty while the acceptance holds.
    """

    finding: Finding
    acceptance: Acceptance | None = None
    changed: str = ""

    @property
    def is_open(self) -> bool:
        """Whether somebody has to judge it."""
        return self.acceptance is None or bool(self.changed)

    @property
    def words(self) -> str:
        """Say how it stands: accepted and why, or back and why; empty when it is new."""
        if self.acceptance is None:
            return ""
        said = f"{f'accepted {self.acceptance.at[:10]}'.strip()}: {self.acceptance.reason}"
        return f"{said}. Back, because {self.changed}" if self.changed else said

    @property
    def sentence(self) -> str:
        """The same as a sentence."""
        return f"{self.words[:1].upper()}{self.words[1:]}." if self.words else ""


def acceptance_of(finding: Finding, job: Job, reason: str, at: str, by: str = "") -> Acceptance:
    """Return the acceptance of a finding as it stands. at: ISO 8601 with its UTC offset."""
    figures = tuple((figure.name, figure.value) for figure in finding.rests_on)
    subjects = tuple(sorted(subjects_of(finding, frozenset(references.codes(job)))))
    return Acceptance(finding.key, reason, at, by, finding.severity, subjects, figures)


def judged(
    job: Job, findings: tuple[Finding, ...], decided: Iterable[Acceptance] = ()
) -> tuple[Judged, ...]:
    """Return findings with what was decided of each. decided: what the user decided where it was
    found, which counts as accepted.
    """
    accepted = {acceptance.finding: acceptance for acceptance in (*decided, *job.accepted)}
    if not accepted:
        return tuple(map(Judged, findings))
    codes = frozenset(references.codes(job))
    return tuple(
        Judged(finding, had, worse_than(finding, had, codes))
        if had is not None
        else Judged(finding)
        for finding, had in ((finding, accepted.get(finding.key)) for finding in findings)
    )


def subjects_of(finding: Finding, codes: frozenset[str]) -> frozenset[str]:
    """Return the things of the job that a finding names."""
    words = re.findall(r"[\w.-]+", f"{finding.subject} {finding.what}")
    return codes & {word.strip(".-") for word in words}


def worse_than(finding: Finding, had: Acceptance, codes: frozenset[str]) -> str:
    """Say in which way a finding is worse than what was accepted, empty when in none."""
    if not had.severity:
        return ""  # accepted before this was kept
    if SEVERITIES.index(finding.severity) < SEVERITIES.index(had.severity):
        return f"it was to {SEVERITY_WORDS[had.severity]} and is to {finding.word}"
    more = subjects_of(finding, codes) - set(had.subjects)
    if more:
        return f"it is about {', '.join(sorted(more))} too"
    figures = dict(had.figures)
    for figure in finding.rests_on:
        was = figures.get(figure.name)
        if was is None:
            return f"it rests on {figure.name} too"
        if _is_worse(figure, was):
            return f"{figure.name} was {figure.text(was)} and is {figure.text(figure.value)}"
    return ""


def _is_worse(figure: Figure, was: float) -> bool:
    room = ROUNDING * max(abs(was), abs(figure.value))
    differs = figure.value - was
    match figure.worse:
        case "more":
            return differs > room
        case "less":
            return -differs > room
        case "other":
            return abs(differs) > room
