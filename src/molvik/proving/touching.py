"""Nets that were found to touch and should not: what isolation leaves as readings of the job."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from itertools import takewhile

from molvik.model.job import Reading, code_order
from molvik.proving.isolation import APART_OHM, CLIPS, measurements_if_sound
from molvik.proving.proofplan import STEADY_WHILE, ProofPlan
from molvik.proving.taken import taken
from molvik.proving.validity import loom_fingerprint, standing
from molvik.wording import counted, some

Pair = tuple[int, int]

ONE_CAUSE = 4
"""So many pairs that touch at one part have one cause more often than as many (common practice)."""


def touching(plan: ProofPlan) -> dict[frozenset[int], Reading]:
    """Return the pairs of nets that touch by what was read last, with that reading. What was
    measured again and is apart, or mended or changed since, is none of them.
    """
    return {nets: shown[-1] for nets, shown in _between_nets(plan).items() if _touch(shown[-1])}


def apart_by_itself(plan: ProofPlan) -> dict[frozenset[int], Reading]:
    """Return the pairs of nets that touched and are apart now, with nothing mended between, with
    the reading that they touched: such a touch comes and goes. Apart for several readings, while
    it was moved and warmed, they are none of them.
    """
    found: dict[frozenset[int], Reading] = {}
    for nets, shown in _between_nets(plan).items():
        apart = list(takewhile(lambda one: not _touch(one), reversed(shown)))
        if 0 < len(apart) < len(shown) and len(apart) <= len(STEADY_WHILE):
            found[nets] = shown[-1 - len(apart)]
    return found


def gathered(
    plan: ProofPlan, pairs: Mapping[frozenset[int], Reading]
) -> list[tuple[str, list[Reading]]]:
    """Return pairs of nets that touch by what they have in common, each pair once: a part where
    many do, the one with the most first; then, without one, those that touch one by another.
    """
    left, found = dict(pairs), list[tuple[str, list[Reading]]]()
    beside = {nets: _beside(plan, nets) for nets in pairs}
    while left:
        at = Counter(part for nets in left for part in beside[nets])
        part = min(at, key=lambda one: (-at[one], code_order(one)), default="")
        if at[part] < ONE_CAUSE:
            break
        here = [nets for nets in left if part in beside[nets]]
        found.append((part, [left.pop(nets) for nets in here]))
    for met in _joined(sorted((*nets,)) for nets in left):
        readings = [reading for nets, reading in left.items() if nets <= met]
        found.append(("", readings))
    return found


def _beside(plan: ProofPlan, nets: frozenset[int]) -> set[str]:
    """Return the parts at which all of some nets have a point."""
    return set.intersection(*({point.at for point in plan.bench.nets[net].points} for net in nets))


def _between_nets(plan: ProofPlan) -> dict[frozenset[int], list[Reading]]:
    """Return what was read between each two nets, as they are now, in its order."""
    bench, across = plan.bench, dict[int, frozenset[int]]()
    for reading in plan.job.readings:
        nets = frozenset(bench.net_of.get(point, -1) for point in reading.points)
        if len(nets) == 2 and -1 not in nets and reading.quantity == "resistance":
            across[id(reading)] = nets
    found: dict[frozenset[int], list[Reading]] = defaultdict(list)
    for one in standing(plan).readings if across else ():
        if id(one) in across and not one.state:
            found[across[id(one)]].append(one)
    return found


def _touch(reading: Reading) -> bool:
    return reading.value is not None and reading.value < APART_OHM


def between(
    plan: ProofPlan,
    pair: Iterable[int],
    ohm: float | None,
    at: str,
    instrument: str,
    note: str,
    leads_ohm: float | None = None,
) -> Reading:
    """Return a reading between two nets, where isolation ties them. ohm: the leads included,
    leads_ohm, None for those of the job's meter; at: local time, ISO 8601; note: how it was
    measured.
    """
    points = tuple(plan.bench.tied_at[net] for net in pair)
    return taken(
        plan.job.settings,
        at,
        "resistance",
        ohm,
        points,
        instrument=instrument,
        note=note,
        leads_ohm=leads_ohm,
    )


def how_tested(note: str) -> str:
    """Return how a short test was made, which a reading notes: at what voltage. Jobs of old call it
    isolation.
    """
    return note.replace("isolation", "short test")


def isolated(
    plan: ProofPlan, found: Sequence[Pair], measured: int, at: str, instrument: str, note: str
) -> list[Reading]:
    """Return the readings of a whole run of isolation: that nets which touched before are apart
    now, and at last what came of it. found: what touches; measured: how often was measured.
    """
    still = _joined(found)
    apart = [
        between(plan, sorted(pair), None, at, instrument, note)
        for pair in (*touching(plan), *apart_by_itself(plan))
        if not any(pair <= nets for nets in still)
    ]
    tied = plan.bench.tied_at
    names = some([f"{tied[a]} is shorted to {tied[b]}" for a, b in found])
    said = f"{names or 'passed'}; {counted(measured, 'measurement')} of {len(tied)} circuits"
    whole = taken(
        plan.job.settings,
        at,
        "words",
        None,
        (),
        instrument=instrument,
        note=note,
        said=said,
        fingerprint=loom_fingerprint(plan),
        of="isolation",
    )
    return [*apart, whole]


def isolation_words(plan: ProofPlan) -> str:
    """Return what came of isolation, and whether it still tells of the loom as it is."""
    last = last_run(plan)
    if last is None:
        return "The short test was not done."
    how = how_tested(last.note).removeprefix("short test")
    words = f"Short test{how}, {last.at[:16].replace('T', ' ')}: {last.said}."
    if not isolation_stands(plan):
        return f"{words} The loom was changed or repaired since: measure it again."
    return words


def isolation_stands(plan: ProofPlan) -> bool:
    """Return whether isolation was measured of the loom as it is."""
    last = last_run(plan)
    return (
        last is not None
        and last.fingerprint == loom_fingerprint(plan)
        and not plan.mended_since(last)
    )


def what_else_touches(plan: ProofPlan) -> str:
    """Say, where something was read that touches, that isolation finds the rest; empty where
    nothing was, or where isolation was measured of the loom as it is. Single probes would go on
    for as many pairs as there are: what crushed or melted two wires seldom left the next alone.
    """
    if not touching(plan) or isolation_stands(plan):
        return ""
    by_clips, at_once = (measurements_if_sound(plan.bench, clips) for clips in (CLIPS, None))
    few = f", {at_once} with plugs wired for it" if at_once < by_clips else ""
    return (
        "A short here may not be the only one: the short test finds them all, in about "
        f"{by_clips} measurements with {CLIPS} clips a side{few}."
    )


def last_run(plan: ProofPlan) -> Reading | None:
    """Return what came of isolation last, None where it was not measured."""
    runs = [reading for reading in plan.job.readings if reading.of == "isolation"]
    return runs[-1] if runs else None


def _joined(pairs: Iterable[Sequence[int]]) -> list[set[int]]:
    """Return what pairs join, one through another."""
    found: list[set[int]] = []
    for pair in pairs:
        met = [nets for nets in found if nets & set(pair)]
        found = [nets for nets in found if nets not in met]
        found.append(set(pair).union(*met))
    return found
