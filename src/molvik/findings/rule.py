"""A rule: a function that looks for kinds of findings, and what it needs to look at all."""

import logging
from collections.abc import Callable, Collection, Iterable
from contextlib import suppress
from typing import NamedTuple

from molvik.analysis import Analysis
from molvik.electrical.elements import SolveError
from molvik.findings.finding import Finding
from molvik.findings.kinds import KINDS
from molvik.stopping import Stopped


class Rule(NamedTuple):
    """A design rule. look: yields what it finds. kinds: of findings (``findings.kinds``), the first
    gives it its name. needs: the kinds of devices without which there is nothing to look at.
    """

    look: Callable[[Analysis], Iterable[Finding]]
    kinds: tuple[str, ...]
    needs: tuple[str, ...] = ()

    def apply(self, analysis: Analysis, devices: Collection[str]) -> list[Finding]:
        """Return what it finds. devices: the kinds of devices in the job.

        A rule that breaks is a finding itself, and takes nothing with it.
        """
        found: list[Finding] = []
        if any(kind not in devices for kind in self.needs):
            return found
        try:
            with suppress(SolveError):  # solving.cannot_solve says which state cannot be solved
                found.extend(self.look(analysis))
        except Stopped:
            raise
        except Exception as error:  # whatever it is, the other rules go on
            found.append(broken(self, error))
        return found


def broken(rule: Rule, error: Exception) -> Finding:
    """Return the finding that a rule came to no answer."""
    logging.getLogger(__name__).error("%s broke", rule.kinds[0], exc_info=error)
    looked = ", or whether ".join(KINDS[kind].when for kind in rule.kinds)
    said = f"{type(error).__name__}: {error}"
    return Finding(
        "rule-failed",
        "look",
        rule.kinds[0],
        f"Whether {looked} was not found out, by a fault in Molvik ({said}).",
        "What this rule would have said, or the rest of it, is not known; all others were asked.",
        "Judge it by hand, and report the fault with the job's file.",
    )
