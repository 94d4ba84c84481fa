"""Rules about repinning."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.crossover.match import Match
from molvik.crossover.plan import ticks_of
from molvik.findings.finding import Finding


def match_to_decide(analysis: Analysis) -> Iterator[Finding]:
    """A lead that is not settled waits for the user."""
    for match, code in _unsettled(analysis):
        if match.state != "converter":
            yield Finding(
                "match-to-decide",
                "look",
                f"{match.lead.place} {code}",
                _asks(match),
                f"{match.reason[:1].upper()}{match.reason[1:]}.",
                "Confirm it, type another cavity, or stow it. Until then nothing is pushed there.",
            )


def needs_converter(analysis: Analysis) -> Iterator[Finding]:
    """Two signals of one name that are not of one kind."""
    for match, code in _unsettled(analysis):
        if match.state == "converter":
            yield Finding(
                "needs-converter",
                "look",
                f"{match.lead.place} {code}",
                _asks(match),
                f"{match.reason[:1].upper()}{match.reason[1:]}.",
                "Fit what converts the one into the other and confirm it, or stow it.",
            )


def _unsettled(analysis: Analysis) -> Iterator[tuple[Match, str]]:
    for code, plan in analysis.plans.items():
        yield from ((match, code) for match in plan.matches if not match.settled)


def _asks(match: Match) -> str:
    to = f"{match.want.place} {match.want.function}" if match.want else "a cavity"
    return f"{match.lead.place} {match.lead.function or 'without a function'}: is it for {to}?"


def does_not_fit(analysis: Analysis) -> Iterator[Finding]:
    """A wire that the new contact does not take."""
    for code, plan in analysis.plans.items():
        for happening in plan.happenings:
            if happening.fit is not None and happening.fit.verdict == "will not fit":
                yield Finding(
                    "lead-does-not-fit",
                    "stop",
                    f"{happening.place} {code}",
                    f"{happening.place} {happening.function} does not fit {happening.end}.",
                    f"{happening.fit.why[:1].upper()}{happening.fit.why[1:]}.",
                    "Splice in a tail of a size that fits, or use a cavity with a larger contact.",
                )


def order_breaks(analysis: Analysis) -> Iterator[Finding]:
    """An order that meets a full cavity."""
    for code, plan in analysis.plans.items():
        for problem in plan.broken:
            op = plan.ops[problem.at]
            yield Finding(
                "order-breaks",
                "stop",
                f"{op.begin or op.end} {code} {op.key}",
                f"Step {problem.at + 1} of {plan.set.name}: {problem.text}.",
                "A terminal pushed into a full cavity bends what is there, and is lost.",
                "Drag the step behind the one that frees the cavity, or take the best order.",
            )


def wires_astray(analysis: Analysis) -> Iterator[Finding]:
    """Wires that were moved by other means since the work began."""
    for code, plan in analysis.plans.items():
        astray = plan.astray(ticks_of(analysis.network, code))
        if astray:
            more = f" {len(astray) - 1} more are elsewhere too." if len(astray) > 1 else ""
            yield Finding(
                "wires-astray",
                "stop",
                code,
                f"{plan.set.name}: {astray[0]}{more}",
                "The next step may meet a cavity that is not as the plan has it.",
                "Undo that change, or press Plan anew in Crossover.",
            )
