"""In which order leads change places, so that none is pushed into a full cavity.

Leads and places make paths: a lead goes where the next one sits, which goes on, until one goes to a
free cavity. A path is done from its free end. A path that closes on itself is a cycle: one lead is
parked, which frees its cavity, and comes in last. So exactly one lead is parked for each cycle, and
no more than that one is out beside the one in hand.
"""

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

OpKind = Literal["leave", "move", "park", "unpark", "new"]
Rank = Mapping[str, tuple[int, float, float]]


class Op(NamedTuple):
    """One thing done with one lead. lead: the place it sat in at the start; of a new wire, its
    cavity with a plus before it, because another lead may sit there at the start.

    begin: where it sits now, empty when it hangs. end: where it goes, empty when it is taken out.
    """

    kind: OpKind
    lead: str
    begin: str
    end: str

    @property
    def key(self) -> str:
        """A name for it that stays the same."""
        lead = "" if self.kind == "new" else f" {self.lead}"
        return f"{self.kind}{lead} {self.end}".strip()


class Blocked(NamedTuple):
    """A lead that cannot go where it should: who sits there stays."""

    lead: str
    end: str


def order(
    moves: Mapping[str, str],
    leaving: Iterable[str],
    new: Iterable[str],
    seated: Iterable[str],
    rank: Rank,
) -> tuple[tuple[Op, ...], tuple[Blocked, ...]]:
    """Return the steps, and the leads that cannot go where they should.

    moves: where each lead that changes its place goes. leaving: leads that come out and go to no
    cavity. new: cavities that get a new wire. seated: every lead. Paths are worked along the rows
    of the cavities they begin at.
    """
    leaving, new, seated = set(leaving), set(new), set(seated)
    blocked = _blocked(moves, leaving, new, seated)
    moves = {lead: end for lead, end in moves.items() if lead not in blocked}
    new = {place for place in new if f"+{place}" not in blocked}
    arriving = {end: lead for lead, end in moves.items()}

    def at(place: str) -> tuple[int, float, float, str]:
        return (*rank.get(place, (99, 0.0, 0.0)), place)

    # Open paths, from their free end: a place that somebody goes to and that nobody who moves
    # leaves.
    ends = [end for end in (*arriving, *new) if end not in moves]
    paths = [_open_path(end, arriving, leaving, new) for end in sorted(ends, key=at)]
    done = {op.lead for path in paths for op in path}
    for lead in sorted(moves, key=at):  # what is left closes on itself
        if lead not in done:
            paths.append(_ring(lead, arriving, moves))
            done.update(op.lead for op in paths[-1])
    paths += [[Op("leave", lead, lead, "")] for lead in leaving - done]
    # Along the rows, by the first cavity a person's hand goes to.
    paths.sort(key=lambda path: at(path[0].begin or path[0].end))
    return tuple(op for path in paths for op in path), tuple(
        Blocked(lead, end) for lead, end in blocked.items()
    )


def _open_path(end: str, arriving: Mapping[str, str], leaving: set[str], new: set[str]) -> list[Op]:
    """Return the moves that end at a place: who leaves it, who comes, who follows that one."""
    path = [Op("leave", end, end, "")] if end in leaving else []
    place = end
    while place in arriving:
        lead = arriving[place]
        path.append(Op("move", lead, lead, place))
        place = lead
    if place in new:
        path.append(Op("new", f"+{place}", "", place))
    return path


def _ring(lead: str, arriving: Mapping[str, str], moves: Mapping[str, str]) -> list[Op]:
    """Return the moves of leads that change places in a ring: one is parked meanwhile."""
    path = [Op("park", lead, lead, "")]
    place = lead
    while arriving[place] != lead:
        path.append(Op("move", arriving[place], arriving[place], place))
        place = arriving[place]
    return [*path, Op("unpark", lead, "", moves[lead])]


def _blocked(
    moves: Mapping[str, str], leaving: set[str], new: set[str], seated: set[str]
) -> dict[str, str]:
    """Return the leads and new wires whose cavity is not freed, with that cavity."""
    wanted = {**moves, **{f"+{place}": place for place in new}}
    blocked: dict[str, str] = {}
    changed = True
    while changed:
        changed = False
        for lead, end in wanted.items():
            if lead in blocked:
                continue
            full = end in seated and end not in leaving and (end not in moves or end in blocked)
            if full:
                blocked[lead] = end
                changed = True
    return blocked


class Problem(NamedTuple):
    """What goes wrong at a step, counted from zero."""

    at: int
    text: str


def play(ops: Iterable[Op], seated: Iterable[str]) -> tuple[tuple[Problem, ...], dict[str, str]]:
    """Do the steps as a hand would; return what goes wrong, and who sits where in the end.

    The same play judges an order that the user made.
    """
    ops = tuple(ops)
    sits = {place: place for place in seated}
    problems: list[Problem] = []
    for number, op in enumerate(ops):
        if op.begin:
            if sits.get(op.begin) != op.lead:
                problems.append(Problem(number, f"{op.lead} is not in {op.begin}"))
                continue
            del sits[op.begin]
        elif op.kind == "unpark" and not any(
            other.kind == "park" and other.lead == op.lead for other in ops[:number]
        ):
            problems.append(Problem(number, f"{op.lead} has not been taken out yet"))
            continue
        if op.end:
            if op.end in sits:
                frees = [n for n, other in enumerate(ops) if n > number and other.begin == op.end]
                when = f"; step {frees[0] + 1} frees it" if frees else ""
                problems.append(Problem(number, f"{op.end} is still full{when}"))
                continue
            sits[op.end] = op.lead
    return tuple(problems), sits


def parked(ops: Iterable[Op]) -> int:
    """Return how many leads are parked."""
    return sum(op.kind == "park" for op in ops)


def reverse(ops: Iterable[Op]) -> tuple[dict[str, str], set[str], set[str]]:
    """Return the moves, the leads that leave and the new ones that undo some steps.

    What was taken out for good comes back as new, what was new leaves.
    """
    sits_now: dict[str, str] = {}
    back_in: set[str] = set()
    leaves: set[str] = set()
    for op in ops:
        if op.kind in ("move", "unpark"):
            sits_now[op.end] = op.lead
        elif op.kind == "leave":
            back_in.add(op.lead)
        elif op.kind == "new":
            leaves.add(op.end)
    return {now: was for now, was in sits_now.items() if now != was}, leaves, back_in
