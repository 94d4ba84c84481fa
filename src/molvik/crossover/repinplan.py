"""What happens to each lead, and the steps in their order."""

from collections.abc import Iterable
from typing import Literal, NamedTuple

from molvik.crossover.fit import Fit, fit
from molvik.crossover.leads import Lead, Repin, Want, list_name
from molvik.crossover.match import Match, matches
from molvik.crossover.newwire import new_size
from molvik.crossover.order import Blocked, Op, Problem, order, play, reverse
from molvik.lazy import cached_property
from molvik.model.crossover import RepinSet
from molvik.model.geometry import cavities
from molvik.model.parts import LOOSE, End, WireSize
from molvik.model.refs import Ref, end_text
from molvik.netlist.network import Network
from molvik.reference.colours import colour_name
from molvik.steps import Step

Action = Literal[
    "stays", "moves", "other connector", "new", "joins", "splits", "stowed", "removed", "undecided"
]

OUT, IN, TUG = "out", "in and clicked", "tugged"
CAPPED, SPLICED = "cut back, capped, tied", "spliced"


class Happening(NamedTuple):
    """What happens to a lead, or to a cavity that gets a new wire.

    lead: None for a new wire. place: where it sat; end: where it goes, or whom it joins. fit: of
    its terminal in the new cavity. extend_m: length to be added. diagram: which diagram describes
    it from now on.
    """

    lead: Lead | None
    place: str
    action: Action
    end: str
    function: str
    reason: str
    match: Match | None = None
    want: Want | None = None
    fit: Fit | None = None
    extend_m: float = 0.0
    extend_why: str = ""
    diagram: str = ""


def size_of(repin: Repin, happening: Happening) -> WireSize | None:
    """Return the size of a lead, or of the new wire that comes."""
    if happening.lead is not None:
        return happening.lead.size
    return new_size(repin, happening.want).size if happening.want is not None else None


class RepinPlan:
    """The plan for one repin set."""

    def __init__(self, network: Network, repin: RepinSet) -> None:
        self.repin = Repin(network, repin)
        self.set, self.network = repin, network

    @cached_property
    def matches(self) -> tuple[Match, ...]:
        """What each lead is for."""
        return matches(self.repin)

    @cached_property
    def happenings(self) -> tuple[Happening, ...]:
        """What happens to every lead, then the cavities that get a new wire."""
        found = [self._lead(match) for match in self.matches]
        filled = {happening.end for happening in found if happening.action in _SEATED}
        waiting = {m.want.place for m in self.matches if m.want and not m.settled}
        for want in self.repin.wants:
            if want.place not in filled and want.place not in waiting:
                found.append(self._new(want, found))
        return tuple(found)

    @cached_property
    def undecided(self) -> tuple[Happening, ...]:
        """The leads that wait for the user's word."""
        return tuple(one for one in self.happenings if one.action == "undecided")

    @cached_property
    def unproposed(self) -> tuple[Happening, ...]:
        """Those of them for which no cavity is proposed."""
        return tuple(one for one in self.undecided if not one.end)

    def _lead(self, match: Match) -> Happening:
        lead, want = match.lead, match.want
        extension = next((e for e in self.set.extensions if e.lead == lead.place), None)
        extend = (extension.length_m, extension.why) if extension else (0.0, "")

        def happens(action: Action, end: str = "", reason: str = match.reason) -> Happening:
            verdict = self._fit(lead, end) if action in ("moves", "other connector") else None
            return Happening(
                lead,
                lead.place,
                action,
                end,
                lead.function,
                reason,
                match,
                want,
                verdict,
                *(extend if action in _SEATED else (0.0, "")),
                self._diagram(action, lead),
            )

        if not match.settled:
            return happens("undecided", want.place if want else "")
        if want is not None:
            if want.place == lead.place:
                return happens("stays", want.place)
            same = End.of(want.place).at == End.of(lead.place).at
            return happens("moves" if same else "other connector", want.place)
        word = match.decided
        if word is not None and word.disposition == "join":
            return happens("joins", word.to)
        if word is not None:
            return happens("removed" if word.disposition == "remove" else "stowed")
        mate = self._group_mate(lead)
        if mate:
            reason = f"{match.reason}: splice it to the one in {mate}"
            return happens("joins", mate, reason)
        return happens("undecided")

    def _group_mate(self, lead: Lead) -> str:
        """Return where the lead of the same interchangeable group goes that this one joins."""
        group = lead.said.group
        if not group:
            return ""
        return next(
            (
                m.want.place
                for m in self.matches
                if m.want and m.settled and m.lead.said.group == group == m.want.said.group
            ),
            "",
        )

    def _new(self, want: Want, found: list[Happening]) -> Happening:
        group = want.said.group
        giver = next(
            (
                happening
                for happening in found
                if group
                and happening.action in _SEATED
                and happening.lead
                and happening.lead.said.group == group
            ),
            None,
        )
        diagram = "donor" if self.set.approach == "donor's wiring" else "chassis"
        if giver is not None:
            reason = (
                f"one {group} for more cavities: branch it off {giver.end} with a splice; "
                f"{new_size(self.repin, want).why}"
            )
            return Happening(
                None, "", "splits", want.place, want.function, reason, None, want, diagram=diagram
            )
        reason = f"nothing on the loom is for it: a new wire; {new_size(self.repin, want).why}"
        return Happening(
            None, "", "new", want.place, want.function, reason, None, want, diagram=diagram
        )

    def _diagram(self, action: Action, lead: Lead) -> str:
        """Return whose diagram describes a lead from now on."""
        came_from = "chassis" if Ref.parse(lead.place).code == self.set.target else "donor"
        if action in ("stowed", "removed"):
            return came_from
        if self.set.approach == "donor's wiring":
            return "donor"
        return "chassis" if self.set.approach == "chassis wiring" else came_from

    def _fit(self, lead: Lead, end: str) -> Fit | None:
        source = self.network.job.connector(End.of(lead.place).at)
        target = self.network.job.connector(End.of(end).at)
        if source is None or target is None:
            return None
        return fit(lead, source, target, End.of(end).cavity)

    # the order

    @cached_property
    def _ordered(self) -> tuple[tuple[Op, ...], tuple[Blocked, ...]]:
        moves, leaving, new = {}, set(), set()
        for happening in self.happenings:
            if happening.action in ("moves", "other connector"):
                moves[happening.place] = happening.end
            elif happening.action in ("joins", "stowed", "removed"):
                leaving.add(happening.place)
            elif happening.action in ("new", "splits"):
                new.add(happening.end)
        seated = [lead.place for lead in self.repin.leads]
        return order(moves, leaving, new, seated, self.repin.ranks)

    @cached_property
    def ops(self) -> tuple[Op, ...]:
        """What is done, in order: the user's where there is one, else the best found."""
        best, _ = self._ordered
        place = {key: index for index, key in enumerate(self.set.order)}
        if not place:
            return best
        known = sorted((op for op in best if op.key in place), key=lambda op: place[op.key])
        return (*known, *(op for op in best if op.key not in place))

    @cached_property
    def blocked(self) -> tuple[Blocked, ...]:
        """Leads that cannot go where they should, because who sits there is undecided or stays."""
        return self._ordered[1]

    @cached_property
    def broken(self) -> tuple[Problem, ...]:
        """What goes wrong in this order, by playing it out."""
        return play(self.ops, [lead.place for lead in self.repin.leads])[0]

    @cached_property
    def back(self) -> tuple[Op, ...]:
        """The steps back to stock, once all is done."""
        moves, leaving, new = reverse(self.ops)
        return order(moves, leaving, new, self.seated_after, self.repin.ranks)[0]

    @cached_property
    def seated_after(self) -> dict[str, str]:
        """Which lead sits in which cavity once all is done."""
        return play(self.ops, [lead.place for lead in self.repin.leads])[1]

    @cached_property
    def by_lead(self) -> dict[str, Happening]:
        """What happens by the name of a lead, as in ``Op``."""
        return {happening.place or f"+{happening.end}": happening for happening in self.happenings}

    @cached_property
    def empty(self) -> dict[str, tuple[str, ...]]:
        """The cavities of each connector that are empty at the end, and so get a plug; one that
        waits for a decision is not among them.
        """
        kept = {*self.seated_after, *self.repin.wanted_at}
        return {
            connector.code: tuple(
                c for c in cavities(connector.grid) if end_text(connector.code, c) not in kept
            )
            for connector in self.repin.connectors
        }

    # the steps

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """Everything to be done at the bench, in order."""
        return (*self._opening(), *self.moves, *self._closing())

    @cached_property
    def moves(self) -> tuple[Step, ...]:
        """The steps that take leads out and push them in."""
        opened: set[str] = set()
        return tuple(self._step(op, opened) for op in self.ops)

    def _opening(self) -> tuple[Step, ...]:
        if self.set.kind != "one to one" or not self.ops:
            return ()
        return (
            Step(
                f"{self.set.code} number",
                self.set.sources[0] if self.set.sources else "",
                "Number the wires",
                "a flag on each with its cavity, before the first comes out",
            ),
            Step(
                f"{self.set.code} key",
                self.set.target,
                "Compare key and numbers",
                "both housings side by side, mating face up: same key, pin 1 in the same corner",
            ),
        )

    def _step(self, op: Op, opened: set[str]) -> Step:
        happening = self.by_lead[op.lead]
        lead = happening.lead
        name = happening.function or "Lead"
        thing = happening.lead or happening.want
        wire = self._wire_words(happening)
        touched = [End.of(place).at for place in (op.begin, op.end) if place]
        fresh = [code for code in dict.fromkeys(touched) if code not in opened]
        opened.update(fresh)
        first = ""
        if fresh:
            names = ", ".join(self._connector_name(code) for code in fresh)
            first = f"Battery off. Lever or cover off, open the secondary lock: {names}"
        # A lead with wires is known by its wire everywhere else in the program.
        subject = lead.wires[0][0] if lead and lead.wires else (op.begin or op.end)
        begin, end = End.of(op.begin).cavity, End.of(op.end).cavity
        details = [wire]
        make_fit = [] if happening.fit is None else self._fit_ticks(happening.fit)
        longer = [f"extended by {happening.extend_m:.2f} m"] if happening.extend_m else []
        match op.kind:
            case "move":
                ticks = [OUT, *longer, *make_fit, IN, TUG]
                do = f"{name}: {begin} to {end}"
                if End.of(op.begin).at != End.of(op.end).at:
                    do = f"{name}: {op.begin} to {op.end}"
            case "park":
                ticks = [OUT, "tied back, labelled"]
                do = f"{name}: take out of {begin} and park"
                details.append(f"label it {happening.end}: it comes in last")
            case "unpark":
                ticks = [*longer, *make_fit, IN, TUG]
                do = f"{name}: parked, into {end}"
            case "leave":
                ticks = [OUT, *_LEAVES[happening.action]]
                do = f"{name}: take out of {begin}"
                joins = f" to {happening.end}" if happening.action == "joins" else ""
                details.append(f"{happening.action}{joins}")
            case "new":
                ticks = ["wire made", IN, TUG]
                do = f"{name}: new, into {end}"
                details.append(happening.reason)
        return Step(
            f"{self.set.code} {op.key}",
            subject,
            do,
            " · ".join(filter(None, details)),
            tuple(ticks),
            first,
            op.begin,
            op.end,
            thing.colour if thing else None,
        )

    @staticmethod
    def _fit_ticks(verdict: Fit) -> list[str]:
        return {"re-terminate": ["new terminal"], "will not fit": ["tail spliced in"]}.get(
            verdict.verdict, []
        )

    def _wire_words(self, happening: Happening) -> str:
        thing = happening.lead or happening.want
        if thing is None:
            return ""
        tint = thing.colour
        words = [colour_name(tint.base, tint.tracer)] if tint else ["colour not known"]
        size = size_of(self.repin, happening)
        words += [str(size)] if size else []
        return ", ".join(words)

    def _connector_name(self, code: str) -> str:
        part = self.network.parts.get(code)
        return f"{code} {part.name}" if part else code

    def _closing(self) -> tuple[Step, ...]:
        if not self.ops:
            return ()
        found = []
        target = self.repin.target
        for connector in self.repin.connectors:
            gaps = self.empty[connector.code]
            if gaps and connector is target:
                found.append(
                    Step(
                        f"{self.set.code} plugs {connector.code}",
                        connector.code,
                        f"Cavity plugs into {len(gaps)} empty cavities of {connector.code}",
                        ", ".join(gaps),
                    )
                )
            found.append(
                Step(
                    f"{self.set.code} lock {connector.code}",
                    connector.code,
                    f"Close the secondary lock of {connector.code}",
                    "it closes flush only when every terminal is home",
                )
            )
        for place, code in self.moved_wires.items():
            found.append(
                Step(
                    f"{self.set.code} test {place}",
                    code,
                    f"Continuity of {code}",
                    "end to end, in Proving; then to its neighbours: open",
                    ("measured",),
                )
            )
        return tuple(found)

    @cached_property
    def moved_wires(self) -> dict[str, str]:
        """A wire at each terminal that came out and went in again, by where that sat."""
        moved: dict[str, str] = {}
        for op in self.ops:
            lead = self.by_lead[op.lead].lead
            if op.end and lead is not None and lead.wires:
                moved[lead.place] = lead.wires[0][0]
        return moved

    # how far it is

    def where(self, place: str, ticked: Iterable[str]) -> End:
        """Return where a lead's end is now, by what is ticked."""
        done, now = set(ticked), End.of(place)
        for step, op in zip(self.moves, self.ops, strict=True):
            if op.lead != place or op.kind == "new":
                continue
            if step.tick_key(IN) in done and op.end:
                now = End.of(op.end)
            elif op.begin and step.tick_key(OUT) in done:
                now = LOOSE
        return now

    def astray(self, ticked: Iterable[str]) -> tuple[str, ...]:
        """Return what is not where the plan has it: the job was edited meanwhile."""
        if not self.set.start:
            return ()
        done, found = set(ticked), []
        gone = {
            op.lead
            for step, op in zip(self.moves, self.ops, strict=True)
            if op.kind == "leave" and step.is_done(done)
        }
        for lead in self.repin.leads:
            if lead.place in gone:
                continue  # spliced, capped or drawn out: where its end is now is not ours to say
            expected = self.where(lead.place, done)
            for code, side in lead.wires:
                wire = self.network.wires.get(code)
                if wire is None:
                    found.append(f"{code} is no longer in the job; the plan has it in {expected}.")
                    continue
                is_at = wire.start if side == "start" else wire.finish
                if is_at != expected:
                    found.append(f"{code} is {_at(is_at)} now; the plan has it {_at(expected)}.")
        return tuple(found)


_SEATED: tuple[Action, ...] = ("stays", "moves", "other connector")

_LEAVES: dict[Action, list[str]] = {
    "joins": [SPLICED],
    "stowed": [CAPPED],
    "removed": ["drawn out"],
}


def _at(end: End) -> str:
    return f"in {end}" if end.at else "loose"


def ticks_of(network: Network, code: str) -> set[str]:
    """Return what is ticked of a set."""
    return {tick.step for tick in network.job.ticks if tick.list == list_name(code)}
