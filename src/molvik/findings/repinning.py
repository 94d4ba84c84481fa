"""Rules about repinning."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.crossover.match import Match
from molvik.crossover.repinplan import ticks_of
from molvik.electrical.conductor import area_mm2
from molvik.findings.finding import Figure, Finding


def match_to_decide(analysis: Analysis) -> Iterator[Finding]:
    """A lead that is not settled waits for the user."""
    for match, code in _unsettled(analysis):
        if match.state != "converter" and match.want is not None:
            yield Finding(
                "match-to-decide",
                "look",
                f"{match.lead.place} {code}",
                _asks(match),
                f"{match.reason[:1].upper()}{match.reason[1:]}.",
                "Confirm it, type another cavity, or cap it. Until then nothing is pushed there.",
            )


VITAL = frozenset({"earth", "permanent", "key", "relay"})
VITAL_WORDS = frozenset({"injector", "coil", "driver", "ignition"})
"""Kinds of conductors, and words of functions, without which no engine runs."""


def left_undone(analysis: Analysis) -> Iterator[Finding]:
    """Leads for which no cavity is proposed: they are put aside only when the user says so. A stop
    when there are feeds, earths, injectors or coils among them.
    """
    for code, plan in analysis.plans.items():
        waiting = [one.match for one in plan.unproposed if one.match]
        if not waiting:
            continue
        vital = [match for match in waiting if _is_vital(match)]
        named = ", ".join(
            f"{match.lead.place} {match.lead.function}".strip() for match in (vital or waiting)[:6]
        )
        more = len(vital or waiting) - 6
        many = len(waiting) > 1
        among = f", {len(vital)} of them feeds, earths, injectors or coils" if vital else ""
        yield Finding(
            "lead-left-undone",
            "stop" if vital else "look",
            code,
            f"{plan.set.name}: {len(waiting)} {'wires have' if many else 'wire has'} no cavity and "
            f"{'wait' if many else 'waits'} for your word{among}: {named}"
            f"{f' and {more} more' if more > 0 else ''}.",
            "A wire that is put aside unseen turns up again when the engine does not start.",
            "Type its cavity, join it to another, or cap it and say why.",
            (Figure("wires without a word", float(len(waiting))),),
        )


def _is_vital(match: Match) -> bool:
    said = match.lead.said
    return said.kind in VITAL or bool(VITAL_WORDS & set(said.words.split()))


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
                "Fit what converts the one into the other and confirm it, or cap it.",
            )


def _unsettled(analysis: Analysis) -> Iterator[tuple[Match, str]]:
    for code, plan in analysis.plans.items():
        yield from ((one.match, code) for one in plan.undecided if one.match)


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
                    "Splice in a tail of a size that fits, or use a cavity with a larger terminal.",
                )


THINNER = 0.8
"""Below this share of the section that the pinout has a lead is thinner (our choice: a standard
size apart)."""


def thinner_than_the_table_says(analysis: Analysis) -> Iterator[Finding]:
    """A lead that is thinner than what the new cavity's pinout says belongs there."""
    for code, plan in analysis.plans.items():
        for happening in plan.happenings:
            lead, want = happening.lead, happening.want
            if lead is None or want is None or lead.size is None or want.size is None:
                continue
            has, wants = area_mm2(lead.size), area_mm2(want.size)
            if has < THINNER * wants:
                yield Finding(
                    "lead-thinner",
                    "look",
                    f"{happening.place} {code}",
                    f"{happening.place} {happening.function}, {lead.size}, is for {happening.end}, "
                    f"where the pinout has {want.size}.",
                    "The new circuit may ask more of it than the old one did, and a terminal made "
                    "for a thicker wire does not hold a thin one.",
                    "Run a wire of the new size, or make sure of its current and of the crimp.",
                    (Figure("its section against the pinout's", has / wants, "", "less"),),
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
                "Undo that change, or press Plan again in Crossover.",
            )
