"""After a round: what each step told, how the program would have gone, and the habit to change."""

import math
from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from molvik.proving.diagnose import LIKELY, Diagnosis
from molvik.proving.points import Point
from molvik.proving.practice.costs import HABITS, Step
from molvik.proving.practice.round import Round
from molvik.stopping import look_up

MOST_STEPS = 40
LEAST_SHARE = 1e-6
"""What was thought of so little before counts as this, so that it tells a finite amount."""

NOTHING_NEW = 0.05
"""A step that tells less than this, in bits, told nothing new (our choice)."""


class Told(NamedTuple):
    """A step, with what it told, in bits, and how many causes it left; None where it told of
    nothing.
    """

    step: Step
    bits: float | None
    left: int | None


def told(played: Round) -> tuple[Told, ...]:
    """Return what each step of a round told: how far it moved what was thought likely (the
    divergence of Kullback and Leibler of after from before).
    """
    seen, sound = list(played.again().told), frozenset[str]()
    before = _shares(played.leaves_of(seen, sound))
    found: list[Told] = []
    for step in played.steps:
        look_up()
        if step.known is not None:  # what was repaired tells no more of what is left
            seen = list(step.known)
        if step.sound:
            sound |= {step.sound}
        if step.known is not None or step.sound:
            before = _shares(played.leaves_of(seen, sound))
        if not step.seen:
            found.append(Told(step, None, None))
            continue
        seen += step.seen
        after = _shares(played.leaves_of(seen, sound))
        bits = sum(
            share * math.log2(share / max(LEAST_SHARE, before[key]))
            for key, share in after.items()
            if share > 0
        )
        left = sum(share >= LIKELY for share in after.values())
        found.append(Told(step, max(0.0, bits), left))
        before = after
    return tuple(found)


def _shares(found: Diagnosis) -> dict[tuple[str, ...], float]:
    shares: dict[tuple[str, ...], float] = defaultdict(float)
    for one in found.ranked:
        shares[tuple(cause.key for cause in one.causes)] += one.share
    return shares


def program_way(played: Round) -> Round:
    """Return the same round as the program would have gone: it measures what tells most for the
    trouble, and names what is likeliest.
    """
    own = played.again()
    if own.hidden.trigger == "warm":
        own.heat(True)
    if own.hidden.trigger == "moved":
        own.move(True)
    named: set[str] = set()
    for _ in range(MOST_STEPS):
        look_up()
        if own.is_over:
            break
        found = own.leaves()
        if not found.odd:
            own.nothing()  # what the customer says is as it is meant to be
            continue
        proposal = found.next
        if proposal is not None and not _measured(own, proposal.point):
            _measure(own, proposal.point)
            continue
        _name(own, found, named)
    return own


def _measured(own: Round, point: Point) -> bool:
    """Return whether something was measured so often that it is no slip any more."""
    return sum(seen.point == point for seen in own.told) > 1


def _measure(own: Round, point: Point) -> None:
    if point.is_on_bench:
        own.unplug()
        own.measure("Ω", point.red, point.black)
        return
    own.turn(point.state)
    if point.what == "device":
        own.look(point.red.at)
    else:
        own.measure("V", point.red, point.black)


def _name(own: Round, found: Diagnosis, named: set[str]) -> None:
    """Name the likeliest that was not named yet; of two faults those that are known first."""
    for code in _likeliest(own, found):
        if code not in named:
            named.add(code)
            own.name(code)
            return
    own.nothing()


def _likeliest(own: Round, found: Diagnosis) -> Iterator[str]:
    for cause in found.known:
        yield cause.on[0]
    for one in found.ranked:
        if not one.causes and len(own.hidden.symptoms) == 1:
            return  # nothing is wrong
        for cause in one.causes:
            yield cause.on[0]


class Habit(NamedTuple):
    """What to change: in words, and the minutes it cost."""

    words: str
    minutes: float


def habit(steps: tuple[Told, ...]) -> Habit | None:
    """Return the one habit that cost most; None where there is none to change."""
    lost: dict[str, float] = defaultdict(float)
    for one in steps:
        if one.step.badly:
            lost[one.step.badly] += one.step.minutes
        elif one.bits is not None and one.bits < NOTHING_NEW:
            lost["nothing new"] += one.step.minutes
    telling = sum(one.bits is not None for one in steps)
    dull = sum(one.bits is not None and one.bits < NOTHING_NEW for one in steps)
    if dull < 2 or dull * 3 < telling:
        lost.pop("nothing new", None)  # one or two of many are no habit
    if not lost:
        return None
    worst = max(lost, key=lambda key: lost[key])
    return Habit(HABITS[worst], lost[worst])


class Debrief(NamedTuple):
    """What is said after a round. program: its steps and its minutes."""

    answer: str
    steps: tuple[Told, ...]
    program: tuple[Step, ...]
    minutes: float
    program_minutes: float
    habit: Habit | None

    @property
    def bits(self) -> float:
        """What all steps told together."""
        return sum(one.bits or 0.0 for one in self.steps)


def debrief(played: Round) -> Debrief:
    """Look back at a round."""
    steps = told(played)
    own = program_way(played)
    return Debrief(
        played.answer, steps, tuple(own.steps), played.minutes, own.minutes, habit(steps)
    )
