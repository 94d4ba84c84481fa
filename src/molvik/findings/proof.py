"""Rules about what was measured."""

from collections.abc import Iterator, Sequence

from molvik.analysis import Analysis
from molvik.findings.finding import ENDLESS, Figure, Finding
from molvik.model.job import Reading
from molvik.model.parts import Connector
from molvik.proving.touching import ONE_CAUSE, apart_by_itself, gathered, touching
from molvik.proving.wiretest import Verdict
from molvik.wording import some


def _shown(verdict: Verdict) -> tuple[Figure, ...]:
    """What the meter showed, as a figure; an open circuit is worse than any."""
    ohm = None if verdict.by is None else verdict.by.value
    return (Figure("the reading", ENDLESS if ohm is None else ohm, "Ω", endless="open"),)


def measured_and_failed(analysis: Analysis) -> Iterator[Finding]:
    """A reading that fails is a stop; one below the leads' own is a look."""
    for code, verdict in analysis.proof.items():
        if verdict.outcome in ("high", "open"):
            yield Finding(
                "failed-continuity",
                "stop",
                code,
                f"{code} failed its continuity test: {verdict.text}.",
                "It will not carry its load, or not for long.",
                "Find and repair the joint, then measure again.",
                _shown(verdict),
            )
        elif verdict.outcome == "comes and goes":
            yield Finding(
                "failed-continuity",
                "stop",
                code,
                f"{code} comes and goes: {verdict.text}.",
                "What fails now and then on the bench fails on the road.",
                "Find what moves or warms where it failed, repair it, then measure again.",
                _shown(verdict),
            )
        elif verdict.outcome == "below leads":
            yield Finding(
                "below-leads",
                "look",
                code,
                f"{code}: {verdict.text}.",
                "A reading below the leads' own says the zero was wrong, so the others are too.",
                "Set the leads' resistance in the list and measure this wire again.",
            )


def touching_nets(analysis: Analysis) -> Iterator[Finding]:
    """Nets that isolation found joined are a stop: one for what has one cause, a list of thirty
    hides it.
    """
    plan = analysis.plan
    for part, readings in gathered(plan, touching(plan)):
        where = f"At {part}: " if part else ""
        yield Finding(
            "touching-nets",
            "stop",
            part or _leads_to(analysis, readings),
            f"{where}{_pairs(readings)} are shorted together.",
            "What is live there feeds, or is shorted by, what it has nothing to do with.",
            f"{_one_cause(readings)}Look where they lie beside each other, repair it, then run the "
            "short test again.",
            _least(readings),
        )
    for part, readings in gathered(plan, apart_by_itself(plan)):
        shown = f", {readings[0].shown}" if len(readings) == 1 else ""
        yield Finding(
            "touching-nets",
            "stop",
            part or _leads_to(analysis, readings),
            f"{_pairs(readings)} touched{shown}, and are apart now.",
            "Nothing was repaired: a short that comes and goes will do so on the road.",
            f"{_one_cause(readings)}Find where they lie beside each other and what moves "
            "there, repair it and note it, then run the short test again.",
            _least(readings),
        )


def _pairs(readings: Sequence[Reading]) -> str:
    pairs = [f"{one.points[0]} and {one.points[1]}" for one in readings]
    return some(pairs, 4) + (" pairs" if len(pairs) > 4 else "")


def _leads_to(analysis: Analysis, readings: Sequence[Reading]) -> str:
    point = readings[0].points[0]
    plug = isinstance(analysis.network.parts.get(point.at), Connector)
    return str(point) if plug else point.at


def _one_cause(readings: Sequence[Reading]) -> str:
    if len(readings) < ONE_CAUSE:
        return ""
    return (
        f"{len(readings)} pairs at once have one cause more often than {len(readings)}: water "
        f"or dirt in a plug, a stretch that is crushed or melted, a plug still on, clips left "
        "on. "
    )


def _least(readings: Sequence[Reading]) -> tuple[Figure, ...]:
    least = min(reading.value or 0.0 for reading in readings)
    return Figure("the reading", least, "Ω", "less"), Figure("pairs", len(readings))


def moved_since_measured(analysis: Analysis) -> Iterator[Finding]:
    """A wire moved after its reading is not proved."""
    for code, verdict in analysis.proof.items():
        if verdict.outcome == "moved":
            yield Finding(
                "moved-since-measured",
                "note",
                code,
                f"{code} was moved, changed or repaired after it was measured.",
                "The reading was of what it was before.",
                "Measure it again.",
            )
