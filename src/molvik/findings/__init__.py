"""Design rules: small functions from an analysis to findings, listed here in one place.

To add a rule, write a function that yields findings in the module of its subject and list it in
``RULES``. ``docs/findings.md`` describes each one.
"""

import re
from collections.abc import Callable, Iterable
from contextlib import suppress

from molvik.analysis import Analysis
from molvik.electrical.solve import SolveError
from molvik.findings import (
    alive,
    cavities,
    circuits,
    ends,
    proof,
    protection,
    repinning,
    sizing,
    solving,
    survey,
)
from molvik.findings.finding import SEVERITIES, Finding

Rule = Callable[[Analysis], Iterable[Finding]]

RULES: tuple[Rule, ...] = (
    cavities.two_wires_in_one_cavity,
    cavities.no_such_cavity,
    cavities.wire_in_closed_cavity,
    cavities.named_but_not_wired,
    cavities.listed_but_no_wires,
    cavities.wire_is_too_thick_or_thin_for_its_terminal,
    cavities.differs_from_the_pinout,
    cavities.halves_do_not_mate,
    ends.loose_end,
    ends.ends_not_drawn,
    ends.no_such_place,
    ends.both_ends_in_one_place,
    ends.two_wires_side_by_side,
    ends.earth_meets_supply,
    sizing.undersized,
    sizing.loses_too_much_voltage,
    sizing.terminal_overloaded,
    sizing.short_not_cleared,
    sizing.carries_more_than_was_typed,
    sizing.cannot_be_judged,
    protection.no_fuse,
    protection.long_way_to_the_first_fuse,
    protection.fuse_larger_than_the_wire_may_carry,
    protection.fuse_too_small,
    protection.fuse_that_a_start_may_open,
    protection.fuse_that_cranking_may_open,
    protection.fuses_in_the_wrong_order,
    protection.no_such_fuse,
    solving.cannot_solve,
    alive.does_not_start,
    alive.runs_on,
    alive.isolator_does_not_stop,
    alive.does_not_charge,
    alive.fuse_blows,
    alive.chatters,
    alive.drains,
    circuits.feeds_joined,
    circuits.returns_through,
    circuits.screens,
    circuits.diodes,
    circuits.coil_without_suppression,
    repinning.does_not_fit,
    repinning.order_breaks,
    repinning.wires_astray,
    repinning.match_to_decide,
    repinning.needs_converter,
    survey.fault_found,
    survey.odd_tree,
    survey.loom_not_worth_it,
    proof.measured_and_failed,
    proof.moved_since_measured,
)


class Stopped(Exception):  # noqa: N818
    """The looking over was stopped: the job changed meanwhile."""


def find_all(analysis: Analysis, stop: Callable[[], bool] = lambda: False) -> tuple[Finding, ...]:
    """Return every finding, the worst first. stop: asked now and then; Stopped when it says yes."""
    found: list[Finding] = []
    for rule in RULES:
        if stop():
            raise Stopped
        # Where a state cannot be solved, solving.cannot_solve says so.
        with suppress(SolveError):
            found += rule(analysis)
    if analysis.job.settings.earth_word == "ground":
        # Only our own words: a finding's "what" may quote the user's.
        found = [
            one._replace(why=_grounded(one.why), remedy=_grounded(one.remedy)) for one in found
        ]
    return tuple(sorted(found, key=lambda one: (SEVERITIES.index(one.severity), one.order)))


def unjudged(findings: tuple[Finding, ...]) -> str:
    """Say what was not judged, to stand beside the counts of findings; empty when all was.

    Accepted findings count too: accepting that a size is not known does not make it known.
    """
    rules = [one.rule for one in findings]
    if "no-battery" in rules:
        return "no wire judged: there is no battery"
    count = rules.count("cannot-be-judged")
    return f"{count} live wire{'s' if count > 1 else ''} not judged" if count else ""


def _grounded(text: str) -> str:
    return re.sub(r"\b([Ee])arth", lambda m: "Ground" if m.group(1) == "E" else "ground", text)


def open_findings(analysis: Analysis) -> tuple[Finding, ...]:
    """Return the findings nobody has accepted yet."""
    accepted = {one.finding for one in analysis.job.accepted}
    if not accepted:
        return analysis.once(find_all)
    return tuple(one for one in analysis.once(find_all) if one.key not in accepted)
