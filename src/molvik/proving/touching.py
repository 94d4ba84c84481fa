"""Nets that were found to touch and should not: what isolation leaves as readings of the job."""

from collections.abc import Iterable, Sequence

from molvik.model.job import Reading
from molvik.proving.isolation import APART_OHM
from molvik.proving.plan import Plan
from molvik.proving.standing import loom_sign, standing
from molvik.proving.taken import taken

Pair = tuple[int, int]


def touching(plan: Plan) -> dict[frozenset[int], Reading]:
    """Return the pairs of nets that touch by what was read last, with that reading. What was
    measured again and is apart, or mended or changed since, is none of them.
    """
    bench, across = plan.bench, dict[int, frozenset[int]]()
    for reading in plan.job.readings:
        nets = frozenset(bench.net_of.get(point, -1) for point in reading.points)
        if len(nets) == 2 and -1 not in nets and reading.quantity == "resistance":
            across[id(reading)] = nets
    if not across:
        return {}
    last = {across[id(one)]: one for one in standing(plan).readings
            if id(one) in across and not one.state}  # fmt: skip
    return {nets: one for nets, one in last.items() if one.value is not None
            and one.value < APART_OHM}  # fmt: skip


def between(
    plan: Plan, pair: Iterable[int], ohm: float | None, at: str, instrument: str, note: str,
    leads_ohm: float | None = None,
) -> Reading:  # fmt: skip
    """Return a reading between two nets, where isolation ties them. ohm: the leads included,
    leads_ohm, None for those of the job's meter; at: local time, ISO 8601; note: how it was
    measured.
    """
    points = tuple(plan.bench.tied_at[net] for net in pair)
    return taken(plan.job.settings, at, "resistance", ohm, points, instrument=instrument,
                 note=note, leads_ohm=leads_ohm)  # fmt: skip


def isolated(
    plan: Plan, found: Sequence[Pair], measured: int, at: str, instrument: str, note: str
) -> list[Reading]:
    """Return the readings of a whole run of isolation: that nets which touched before are apart
    now, and at last what came of it. found: what touches; measured: how often was measured.
    """
    still = _joined(found)
    apart = [between(plan, sorted(pair), None, at, instrument, note)
             for pair in touching(plan) if not any(pair <= nets for nets in still)]  # fmt: skip
    tied = plan.bench.tied_at
    names = ", ".join(f"{tied[a]} touches {tied[b]}" for a, b in found)
    said = f"{names or 'passed'}; {measured} measurements of {len(tied)} nets"
    whole = taken(plan.job.settings, at, "words", None, (), instrument=instrument, note=note,
                  said=said, sign=loom_sign(plan), of="isolation")  # fmt: skip
    return [*apart, whole]


def isolation_words(plan: Plan) -> str:
    """Return what came of isolation, and whether it still tells of the loom as it is."""
    last = _last_run(plan)
    if last is None:
        return "Isolation was not measured."
    how = f" {last.note.removeprefix('isolation ')}" if last.note != "isolation" else ""
    words = f"Isolation{how}, {last.at[:16].replace('T', ' ')}: {last.said}."
    if not isolation_stands(plan):
        return f"{words} The loom was changed or mended since: measure it again."
    return words


def isolation_stands(plan: Plan) -> bool:
    """Return whether isolation was measured of the loom as it is."""
    last = _last_run(plan)
    return last is not None and last.sign == loom_sign(plan) and not plan.mended_since(last)


def _last_run(plan: Plan) -> Reading | None:
    runs = [reading for reading in plan.job.readings if reading.of == "isolation"]
    return runs[-1] if runs else None


def _joined(pairs: Iterable[Pair]) -> list[set[int]]:
    """Return what pairs join, one through another."""
    found: list[set[int]] = []
    for pair in pairs:
        met = [nets for nets in found if nets & set(pair)]
        found = [nets for nets in found if nets not in met]
        found.append(set(pair).union(*met))
    return found
