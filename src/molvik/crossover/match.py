"""Which lead is for which cavity: scores, the best assignment, and what is left for the user.

Nothing is matched in silence: a match is sure when both say so and nothing else comes near; the
rest is proposed and waits. What the user decided stands, also over a new import.
"""

from collections import Counter
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from molvik.crossover.alike import alike as alike_in_words
from molvik.crossover.alike import is_known, parted
from molvik.crossover.leads import Lead, Repin, Want
from molvik.model.crossover import Decided
from molvik.model.refs import Ref, end_text
from molvik.parsing.functions.telling import Telling, same_group
from molvik.parsing.functions.words import Said, differences

if TYPE_CHECKING:
    import numpy
    from numpy.typing import NDArray

State = Literal["confirmed", "sure", "spare", "look", "converter", "none"]

SURE = 80.0
"""From this score on a match can be sure (our choice, checked against hand-made answers)."""

WORTH_A_LOOK = 60.0
"""Below this score nothing is proposed (our choice)."""

LEAD_BY = 8.0
"""So far a sure match is ahead of every other for either side (our choice)."""

OTHER_CIRCUIT = 0.5
"""So much less alike are two that say the same and are of other circuits: it breaks a tie."""

OTHER_NUMBER = 30.0
"""At most this for signals of one name and different numbers: injector 1 is not injector 2."""

WITHIN = 0.7
"""What a name that is part of another counts for (our choice)."""

STAYS = 6.0
"""Added where a lead sits already: no move for its own sake."""


class Runner(NamedTuple):
    """Another cavity a lead might be for."""

    place: str
    function: str
    score: float


class Match(NamedTuple):
    """What a lead is for. want is None when it has no place in the target.

    state: "confirmed" and "sure" ones are acted on, and "spare" ones, which may join another of
    their group; a lead that nothing is proposed for waits for the user like every other. decided:
    the user's word, if there is one.
    """

    lead: Lead
    want: Want | None
    score: float
    state: State
    reason: str
    runners: tuple[Runner, ...] = ()
    decided: Decided | None = None

    @property
    def settled(self) -> bool:
        """Whether it can be acted on."""
        if self.decided is not None:
            return self.state == "confirmed"
        return self.state in ("sure", "spare")


def matches(repin: Repin) -> tuple[Match, ...]:
    """Return a match for every lead, in the order of the leads."""
    leads, wants = repin.leads, repin.wants
    if repin.set.kind == "one to one":
        return _one_to_one(repin)
    decided = {decided.lead: decided for decided in repin.set.decided}
    taken = {decision.to for decision in decided.values() if decision.disposition == "match"}
    open_leads = [lead for lead in leads if lead.place not in decided]
    rejected = repin.set.rejected
    fresh = {rejection.to for rejection in rejected if rejection.fresh}
    open_wants = [want for want in wants if want.place not in taken | fresh]
    found: dict[str, Match] = {
        lead.place: _by_user(repin, lead, decided[lead.place])
        for lead in leads
        if lead.place in decided
    }
    never = frozenset((rejection.lead, rejection.to) for rejection in rejected)
    found.update(_proposed(tuple(open_leads), tuple(open_wants), never))
    return tuple(found[lead.place] for lead in leads)


def _one_to_one(repin: Repin) -> tuple[Match, ...]:
    target = repin.set.target
    decided = {decided.lead: decided for decided in repin.set.decided}
    taken = {other.to: other.lead for other in decided.values() if other.disposition == "match"}
    never = {(rejected.lead, rejected.to) for rejected in repin.set.rejected}
    found = []
    for lead in repin.leads:
        if lead.place in decided:
            found.append(_by_user(repin, lead, decided[lead.place]))
            continue
        place = end_text(target, Ref.parse(lead.place).cavity)
        want = None if Ref.parse(lead.place).code == target else repin.wanted_at.get(place)
        reason = "the same cavity of the new housing" if want else "the new housing has no such"
        if want is not None and (lead.place, want.place) in never:
            want, reason = None, "you said that it is not for the same cavity"
        if want is not None and place in taken:
            reason = f"{taken[place]} goes into that cavity: say where this one goes"
            found.append(Match(lead, None, 0.0, "look", reason))
            continue
        taken[place] = lead.place
        found.append(Match(lead, want, 100.0, "sure" if want else "look", reason))
    return tuple(found)


def _by_user(repin: Repin, lead: Lead, word: Decided) -> Match:
    want = repin.wanted_at.get(word.to)
    if word.disposition != "match":
        because = f", {word.why}" if word.why else ""
        reason = f"you decided: {word.disposition}{because}"
        return Match(lead, None, 0.0, "confirmed", reason, (), word)
    if want is None:
        known = word.to in repin.ranks
        why = "is for nothing now" if known else "does not exist"
        reason = f"you chose {word.to}, which {why}: decide again"
        return Match(lead, None, 0.0, "look", reason, (), word)
    if word.said != ("", "") and word.said != (lead.function, want.function):
        reason = (
            f"you matched “{word.said[0]}” to “{word.said[1]}”; the tables now say "
            f"“{lead.function}” and “{want.function}”: confirm again"
        )
        return Match(lead, want, 0.0, "look", reason, (), word)
    return Match(lead, want, 100.0, "confirmed", "you confirmed it", (), word)


def _assigned(plain: "NDArray[numpy.float64]", there: "Sequence[int | None]") -> dict[int, int]:
    """Return the best assignment of rows to columns. there: the column a row sits at already."""
    import numpy
    from scipy.optimize import linear_sum_assignment

    bonus = numpy.zeros_like(plain)
    for row, column in enumerate(there):
        if column is not None and plain[row, column] >= WORTH_A_LOOK:
            bonus[row, column] = STAYS
    # Squared, so that one good match is worth more than two poor ones.
    worth = numpy.where(plain >= WORTH_A_LOOK, (plain + bonus) ** 2, 0.0)
    rows, columns = linear_sum_assignment(worth, maximize=True)
    return {int(r): int(c) for r, c in zip(rows, columns, strict=True) if worth[r, c] > 0}


@lru_cache(maxsize=32)
def _proposed(
    leads: tuple[Lead, ...], wants: tuple[Want, ...], never: frozenset[tuple[str, str]]
) -> dict[str, Match]:
    """Return the best assignment of what the user has not decided. never: leads and cavities that
    do not go together, by the user's word.

    Kept, because most edits of a job change neither leads nor tables.
    """
    import numpy

    if not leads or not wants:
        return {
            lead.place: Match(lead, None, 0.0, "none", "no similar function found")
            for lead in leads
        }
    plain = scores(leads, wants)
    rows_of = {lead.place: index for index, lead in enumerate(leads)}
    places = {want.place: index for index, want in enumerate(wants)}
    for lead_place, want_place in never:
        if lead_place in rows_of and want_place in places:
            plain[rows_of[lead_place], places[want_place]] = 0.0
    chosen = _assigned(plain, [places.get(lead.place) for lead in leads])
    found: dict[str, Match] = {}
    groups = [numpy.array([want.said.group for want in ones]) for ones in (leads, wants)]
    told_leads, told_wants = (Counter(want.telling for want in ones) for ones in (leads, wants))
    for row, lead in enumerate(leads):
        best = numpy.argsort(-plain[row], kind="stable")[:4]
        column = chosen.get(row)
        runners = tuple(
            Runner(wants[c].place, wants[c].function, float(plain[row, c]))
            for c in best
            if c != column and plain[row, c] >= OTHER_NUMBER
        )[:3]
        if column is None:
            near = wants[int(best[0])]
            found[lead.place] = _unmatched(lead, near, runners, float(plain[row].max()))
            continue
        score = float(plain[row, column])
        same = _says_the_same(lead, wants[column])
        sure = same and (
            score - _rival(plain, row, column, groups[0], groups[1]) >= LEAD_BY
            or _no_other_says(lead, wants[column], told_leads, told_wants)
        )
        found[lead.place] = _match(lead, wants[column], score, sure, runners)
    return found


def _rival(
    plain: "NDArray[numpy.float64]",
    row: int,
    column: int,
    lead_groups: "NDArray[Any]",
    want_groups: "NDArray[Any]",
) -> float:
    """Return the best score of any other pair that has this lead or this cavity."""
    rivals, across = plain[row].copy(), plain[:, column].copy()
    rivals[column] = across[row] = 0.0
    group = lead_groups[row]
    if group and group == want_groups[column]:
        # Another pin of an interchangeable group is no rival: either will do.
        rivals[want_groups == group] = 0.0
        across[lead_groups == group] = 0.0
    return max(float(rivals.max()), float(across.max()))


def _unmatched(lead: Lead, near: Want, runners: tuple[Runner, ...], best: float) -> Match:
    if best >= WORTH_A_LOOK:
        reason = f"{runners[0].function} goes to another that is more like it"
        group = lead.said.group
        if group:
            return Match(
                lead, None, best, "spare", f"one more {group} than there are cavities", runners
            )
        return Match(lead, None, best, "look", reason, runners)
    reason = "no cavity mentions it" + _unlisted(lead)
    if best > 0 and near.function:
        apart = _apart_in(lead.telling, near.telling)
        reason = f"no similar function found; {near.function} ({near.place}) is nearest: {apart}"
    return Match(lead, None, 0.0, "none", reason.rstrip(": "), runners)


def _unlisted(*ones: Lead | Want) -> str:
    """Name the words that are in no list, which are compared by their letters alone."""
    words = sorted({word for one in ones for word in one.telling.words if not is_known(word)})
    if not words:
        return ""
    verb = "is" if len(words) == 1 else "are"
    return f" (“{'”, “'.join(words)}” {verb} in no list, and judged by the letters)"


def _match(lead: Lead, want: Want, score: float, sure: bool, runners: tuple[Runner, ...]) -> Match:
    said, other = lead.said, want.said
    reason = _reason(lead, want)
    apart = differences(said, other)
    if apart:
        words = f"{reason}, but not of one kind ({'; '.join(apart)}): it needs a converter"
        return Match(lead, want, score, "converter", words, runners)
    if sure:
        return Match(lead, want, score, "sure", reason, runners)
    apart_in = _apart_in(lead.telling, want.telling)
    if apart_in:
        reason += f", but not the same: {apart_in}"
    elif runners:
        reason += f"; {runners[0].function} is as near"
    return Match(lead, want, score, "look", reason, runners)


def _says_the_same(lead: Lead, want: Want) -> bool:
    """Return whether every word and number that tells functions apart agrees."""
    group = lead.said.group
    if group and group == want.said.group:
        return same_group(lead.telling, want.telling)
    told = lead.telling
    return told == want.telling and bool(told.words or told.numbers)


def _no_other_says(
    lead: Lead, want: Want, leads: "Counter[Telling]", wants: "Counter[Telling]"
) -> bool:
    return leads[lead.telling] == 1 and wants[want.telling] == 1


def _apart_in(telling: Telling, other: Telling) -> str:
    """Say in which words two functions differ."""
    here = sorted(telling.words - other.words) + list(telling.numbers)
    there = sorted(other.words - telling.words) + list(other.numbers)
    if telling.numbers == other.numbers:
        here = here[: len(here) - len(telling.numbers)]
        there = there[: len(there) - len(other.numbers)]
    if not here and not there:
        return ""
    return f"{' '.join(here) or 'not mentioned'} here, {' '.join(there) or 'not mentioned'} there"


def _reason(lead: Lead, want: Want) -> str:
    said, other = lead.said, want.said
    if said.group and said.group == other.group:
        return f"both are {_GROUP_WORDS.get(said.kind, said.kind)}: any of them will do"
    if said.words == other.words and said.number == other.number:
        number = f" {said.number}" if said.number else ""
        return f"both are {said.words}{number}"
    if lead.circuit and lead.circuit == want.circuit:
        return f"both are circuit {lead.circuit}"
    both = sorted(parted(lead.telling.words) & parted(want.telling.words))
    return (f"both say {' and '.join(both)}" if both else "their letters are alike") + _unlisted(
        lead, want
    )


_GROUP_WORDS = {
    "permanent": "permanent supplies",
    "key": "key supplies",
    "relay": "supplies from the main relay",
    "earth": "earths",
    "reference": "5 V references",
}


def _compared(
    first: "Sequence[Any]", second: "Sequence[Any]"
) -> "tuple[NDArray[numpy.bool_], NDArray[numpy.bool_]]":
    """Return for each two whether they are the same, and whether both say anything."""
    import numpy

    a = numpy.fromiter(first, dtype=object, count=len(first))[:, None]
    b = numpy.fromiter(second, dtype=object, count=len(second))
    return a == b, (a != "") & (b != "")


def scores(leads: Sequence[Lead], wants: Sequence[Want]) -> "NDArray[numpy.float64]":
    """Return how alike each lead and each want are, 0 to 100: names by their words, circuits where
    they are told once on either side, kinds and numbers that must not differ.
    """
    import numpy

    ones, others = [lead.said for lead in leads], [want.said for want in wants]
    alike = alike_in_words(
        [lead.telling.words for lead in leads], [want.telling.words for want in wants]
    )
    told = [[one.telling.numbers for one in some] for some in (leads, wants)]
    number_limits = numpy.array([[_number_limit(a, b) for b in told[1]] for a in told[0]])
    same_circuit, both_circuits = _compared(_once(leads), _once(wants))
    known = both_circuits & same_circuit
    alike[known] = numpy.maximum(alike[known], 92.0)
    numpy.minimum(alike, number_limits, out=alike)
    same_group, both_groups = _compared([o.group for o in ones], [o.group for o in others])
    alike[both_groups & same_group] = 96.0
    same_kind, _ = _compared([o.kind for o in ones], [o.kind for o in others])
    # A return is a return: which one must be judged, but it is not nothing.
    bare = numpy.array([o.kind in ("return", "screen") for o in ones])[:, None]
    alike[same_kind & bare] = numpy.maximum(alike[same_kind & bare], WORTH_A_LOOK + 2)
    # Names that say the same, word for word, are for each other before all that are alike.
    same_told, _ = _compared([lead.telling for lead in leads], [want.telling for want in wants])
    spoken = numpy.array([bool(lead.telling.words) for lead in leads])[:, None]
    agree = same_told & spoken & same_kind
    alike[agree] = 100.0
    # Of several that say the same, those of the same circuit are for each other.
    alike[agree & both_circuits & ~same_circuit] -= OTHER_CIRCUIT
    vague = _vague(ones)[:, None] | _vague(others)
    alike[~same_kind & ~vague] = 0.0
    alike[~same_kind & vague] = numpy.minimum(alike[~same_kind & vague], SURE - 6)
    return alike


def _number_limit(one: tuple[str, ...], other: tuple[str, ...]) -> float:
    """Return how alike two functions can be at most by their numbers."""
    if one == other:
        return 100.0
    if not one or not other:
        return SURE - 2  # told by a number here, by none there: alike, but never sure
    if one[0].isalpha() != other[0].isalpha():
        # Coil A may be coil 1: in the order of the letters, as the nearest that can be said.
        letter, figure = (one[0], other[0]) if one[0].isalpha() else (other[0], one[0])
        return SURE - 2 if ord(letter) - ord("A") + 1 == int(figure) else SURE - 10
    if set(one) < set(other) or set(other) < set(one):
        return SURE - 12  # a coil for cylinder 1, and one for 1 and 4
    return OTHER_NUMBER


def _vague(all_said: list[Said]) -> "NDArray[numpy.bool_]":
    import numpy

    return numpy.array([said.kind == "" for said in all_said])


def _once(things: Sequence[Lead] | Sequence[Want]) -> list[str]:
    """Return the circuit numbers, those that stand more than once left out."""
    circuits = [thing.circuit.strip().upper() for thing in things]
    count = Counter(circuits)
    return [circuit if count[circuit] == 1 else "" for circuit in circuits]
