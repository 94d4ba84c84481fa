"""The lines of the Crossover table, and what people type into them."""

import re
from collections import Counter
from collections.abc import Callable
from typing import NamedTuple

from molvik.analysis import Analysis
from molvik.crossover.match import Match
from molvik.crossover.repinplan import Happening, RepinPlan, size_of, ticks_of
from molvik.desktop.widgets.things import Column
from molvik.desktop.widgets.worklist import Work
from molvik.model import crossover_edits
from molvik.model.crossover import Decided, Disposition, Extension, RepinSet
from molvik.model.job import Job
from molvik.model.parts import Colour, End
from molvik.model.refs import Ref, end_text
from molvik.parsing.quantities import read_length_m
from molvik.steps import Step

SIGNS = {
    "stays": "=",
    "moves": "→",
    "other connector": "⇒",
    "new": "+",
    "joins": "Y",
    "splits": "Y",
    "stowed": "−",
    "removed": "×",
    "undecided": "?",
}
WORDS = {
    "undecided": "decide",
    "stays": "stays",
    "moves": "moves",
    "other connector": "changes plug",
    "new": "new wire",
    "joins": "joins others",
    "splits": "branched off",
    "stowed": "cut back, capped",
    "removed": "removed",
}


class Row(NamedTuple):
    """A line: a step, or a lead that has none. key: the lead's name, marked when it was parked."""

    key: str
    number: str
    happening: Happening
    step: Step | None
    begin: str
    end: str
    size: str
    ticks: tuple[bool, ...] = ()

    @property
    def colour(self) -> Colour | None:
        """The wire's colour."""
        thing = self.happening.lead or self.happening.want
        return thing.colour if thing else None

    @property
    def state(self) -> str:
        """What happens, in a word, with what it takes."""
        happening = self.happening
        words = [WORDS[happening.action]]
        if (
            happening.match
            and happening.match.state == "converter"
            and happening.action == "undecided"
        ):
            words = ["needs a converter"]
        if self.step is not None and happening.extend_m:
            words.append(f"{happening.extend_m:.2f} m longer")
        if (
            self.step is not None
            and happening.fit
            and happening.fit.verdict not in ("reuse", "not known")
        ):
            words.append(happening.fit.verdict)
        return ", ".join(words)

    @property
    def why(self) -> str:
        """The reason, and what else it might be."""
        happening = self.happening
        words = [happening.reason, happening.extend_why, happening.fit.why if happening.fit else ""]
        if (
            happening.match is not None
            and happening.match.runners
            and happening.match.decided is None
        ):
            others = (f"{r.place} {r.function} ({r.score:.0f})" for r in happening.match.runners)
            words.append(f"else {', '.join(others)}")
        return "; ".join(filter(None, words))

    @property
    def role(self) -> str:
        """The colour of its state."""
        happening = self.happening
        if happening.fit and happening.fit.verdict == "will not fit":
            return "stop"
        return "live_text" if happening.action == "undecided" else ""


def rows_of(plan: RepinPlan, ticked: set[str]) -> list[Row]:
    """Return the lines: what waits for a decision, the steps in order, what stays."""
    one_connector = len(plan.repin.connectors) == 1

    def short(place: str) -> str:
        return End.of(place).cavity if one_connector else place

    def size(happening: Happening) -> str:
        return str(size_of(plan.repin, happening) or "")

    waiting = [
        Row(
            happening.place,
            "",
            happening,
            None,
            short(happening.place),
            f"{short(happening.end)}?" if happening.end else "?",
            size(happening),
        )
        for happening in plan.undecided
    ]
    steps = []
    for number, (step, op) in enumerate(zip(plan.moves, plan.ops, strict=True), start=1):
        happening = plan.by_lead[op.lead]
        begin = short(op.begin) or ("parked" if op.kind == "unpark" else "new")
        end = short(op.end) or {"joined": "joins"}.get(happening.action, "")
        if op.kind == "park":
            end = "park"
        elif op.kind == "leave":
            end = f"to {short(happening.end)}" if happening.action == "joins" else "cap"
            end = "out" if happening.action == "removed" else end
        key = f"{op.lead} parked" if op.kind == "unpark" else op.lead
        done = tuple(step.tick_key(tick) in ticked for tick in step.ticks)
        steps.append(Row(key, str(number), happening, step, begin, end, size(happening), done))
    staying = [
        Row(
            happening.place,
            "",
            happening,
            None,
            short(happening.place),
            short(happening.end),
            size(happening),
        )
        for happening in plan.happenings
        if happening.action == "stays"
    ]
    return waiting + steps + staying


ASIDE = r"(stow|cap|none|nothing|-|remove|out)(?:[\s,:]+(.*))?"
"""What is typed of a lead that is put aside, and why."""


def reason_of(text: str) -> str:
    """Read why a lead is put aside. Raises ValueError without a word."""
    tidy = " ".join(text.split())
    if not tidy:
        raise ValueError("Say why it is put aside: cap, not used in this vehicle.")
    return tidy


def read_word(plan: RepinPlan, lead: str, text: str) -> Decided | None:
    """Read where a lead goes: a cavity, stow, remove, or join and a cavity; None for whatever is
    proposed. Raises ValueError.
    """
    if plan.repin.by_place.get(lead) is None:
        raise ValueError("A new wire goes where the table wants it. Change the table instead.")
    tidy = " ".join(text.split())
    word = tidy.lower()
    if not tidy:
        return None
    aside = re.fullmatch(ASIDE, tidy, re.IGNORECASE)
    if aside is not None:
        out = aside.group(1).lower() in ("remove", "out")
        return Decided(lead, "remove" if out else "stow", why=reason_of(aside.group(2) or ""))
    joins = re.fullmatch(r"(?:joins?|to|y)\s+(\S+)", word)
    place = place_of(plan, joins.group(1) if joins else tidy.rstrip("?"))
    return joining(plan, lead, place) if joins else going(plan, lead, place)


def going(plan: RepinPlan, lead: str, place: str) -> Decided:
    """Return the word that a lead goes into a cavity, which must be for something.

    Raises ValueError.
    """
    want = plan.repin.wanted_at.get(place)
    if want is None:
        raise ValueError(
            f"{place} is for nothing in this table: choose a cavity that has a function."
        )
    found = plan.repin.by_place[lead]
    return Decided(lead, "match", place, (found.function, want.function))


def joining(plan: RepinPlan, lead: str, place: str) -> Decided:
    """Return the word that a lead joins the one that goes into a cavity. Raises ValueError."""
    if occupant(plan, lead, place) is None:
        raise ValueError(f"No wire goes into {place} for this one to join. Put it there instead.")
    return Decided(lead, "join", place)


def occupant(plan: RepinPlan, lead: str, place: str) -> Happening | None:
    """Return what goes into a cavity for sure, or by the user's word, beside a lead."""
    return next(
        (
            happening
            for happening in plan.happenings
            if happening.lead is not None
            and happening.place != lead
            and happening.end == place
            and happening.action in ("stays", "moves", "other connector")
        ),
        None,
    )


def decide(job: Job, plan: RepinPlan, lead: str, text: str) -> Job:
    """Take what is typed as where a lead goes; nothing that goes there already is pushed out.

    Raises ValueError.
    """
    word = read_word(plan, lead, text)
    if word is None:
        return crossover_edits.undecide(job, plan.set.code, lead)
    there = occupant(plan, lead, word.to) if word.disposition == "match" else None
    if there is not None:
        raise ValueError(
            f"{word.to} is for {there.function or there.place}, from {there.place}. Type join "
            f"{End.of(word.to).cavity} to splice both, or say first where that one goes."
        )
    return crossover_edits.decide(job, plan.set.code, word)


def place_of(plan: RepinPlan, text: str) -> str:
    """Return a cavity of the target as it is typed, with or without the connector's code.

    Raises ValueError.
    """
    target = plan.set.target
    place = text.upper() if "/" in text else end_text(target, text.upper())
    if place not in plan.repin.ranks or Ref.parse(place).code != target:
        raise ValueError(
            f"{target} has no cavity {text}. Type a cavity, cap, remove, or join and a cavity."
        )
    return place


def extend(job: Job, plan: RepinPlan, lead: str, text: str) -> Job:
    """Take what is typed as how much longer a lead must be, and why: 350 mm, other side.

    Raises ValueError.
    """
    if lead not in plan.repin.by_place:
        raise ValueError("A new wire is made as long as it must be.")
    amount, _, why = text.strip().partition(", ")
    length = read_length_m(amount) if amount else 0.0
    return crossover_edits.extend(job, plan.set.code, Extension(lead, length, why.strip()))


def put_aside(job: Job, plan: RepinPlan, leads: tuple[str, ...], why: str) -> Job:
    """Stow leads, or remove them where the chassis' wiring is what stays, for one reason."""
    aside: Disposition = "remove" if plan.set.approach == "chassis wiring" else "stow"
    for lead in leads:
        job = crossover_edits.decide(job, plan.set.code, Decided(lead, aside, why=why))
    return job


def confirm(job: Job, plan: RepinPlan, matches: list[Match]) -> Job:
    """Confirm what is proposed for some leads."""
    for match in matches:
        if match.want is not None:
            said = (match.lead.function, match.want.function)
            word = Decided(match.lead.place, "match", match.want.place, said)
            job = crossover_edits.decide(job, plan.set.code, word)
    return job


Take = Callable[[Row, str], None]


def columns_of(decide: Take, extend_by: Take) -> list[Column[Row]]:
    """Return the columns of the steps. decide, extend_by: take what is typed of where a lead goes,
    and of how much longer it must be.
    """
    return [
        Column("Step", lambda r: r.number, width=44, mono=True),
        Column("Function", lambda r: r.happening.function, width=138, grow=2),
        Column("Now in", lambda r: r.begin, width=68, mono=True),
        Column("", lambda r: SIGNS[r.happening.action], width=26),
        Column(
            "Goes to",
            lambda r: r.end,
            width=66,
            mono=True,
            edit=decide,
            tip="A cavity; cap or remove, and why; join and a cavity; empty for what is proposed",
        ),
        Column("Wire", lambda r: str(r.colour or ""), width=102, colour=lambda r: r.colour),
        Column("Size", lambda r: r.size, width=84),
        Column("What happens", lambda r: r.state, width=126, grow=1, role=lambda r: r.role),
        Column("Ticked", lambda r: "".join("✓" if t else "○" for t in r.ticks), width=58),
        Column(
            "Longer",
            lambda r: f"{r.happening.extend_m:.2f} m" if r.happening.extend_m else "",
            width=64,
            edit=extend_by,
            tip="How much longer it must be, and why: 350 mm, other side",
        ),
        Column("Described by", lambda r: r.happening.diagram, width=86, hidden=True),
        Column("Why", lambda r: r.why, width=220, hidden=True),
    ]


def happens_of(plan: RepinPlan) -> list[str]:
    """Return how many leads stay, move, are joined, in lines."""
    counts = Counter(happening.action for happening in plan.happenings)
    words = [f"{SIGNS[action]}  {count:>3}  {WORDS[action]}" for action, count in counts.items()]
    plugs = len(plan.empty.get(plan.set.target, ()))
    return [*words, f"○  {plugs:>3}  cavity plugs"] if plugs else words


def problems_of(plan: RepinPlan, ticked: set[str]) -> list[str]:
    """Return what stands in the way of a plan, in sentences."""
    problems = [*plan.astray(ticked)]
    problems += [f"Step {problem.at + 1}: {problem.text}." for problem in plan.broken]
    return problems + [
        f"{blocked.lead} waits: who sits in {blocked.end} stays there until it is decided."
        for blocked in plan.blocked
    ]


def set_work(analysis: Analysis, repin_set: RepinSet) -> Work:
    """Return a repin set as an entry of the list, with how far it is."""
    plan, done = analysis.plans[repin_set.code], ticks_of(analysis.network, repin_set.code)
    finished = sum(step.is_done(done) for step in plan.steps)
    left = len(plan.undecided)
    state = "all done" if finished == len(plan.steps) else f"{finished}/{len(plan.steps)}"
    under = f"{left} to decide" if left else f"{repin_set.code} · all decided"
    return Work(repin_set.code, repin_set.name, state, under=under)
