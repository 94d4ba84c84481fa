"""Rules about what was measured."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import Finding


def measured_and_failed(analysis: Analysis) -> Iterator[Finding]:
    """A reading that fails is a stop; one below the leads' own is a look."""
    for code, verdict in analysis.proof.items():
        if verdict.outcome in ("high", "open"):
            yield Finding(
                "failed-continuity",
                "stop",
                "proving",
                code,
                f"{code} failed its continuity test: {verdict.text}.",
                "It will not carry its load, or not for long.",
                "Find and mend the joint, then measure again.",
            )
        elif verdict.outcome == "below leads":
            yield Finding(
                "below-leads",
                "look",
                "proving",
                code,
                f"{code}: {verdict.text}.",
                "A reading below the leads' own says the zero was wrong, so the others are too.",
                "Set the leads' resistance in the list and measure this wire again.",
            )


def moved_since_measured(analysis: Analysis) -> Iterator[Finding]:
    """A wire moved after its reading is not proved."""
    for code, verdict in analysis.proof.items():
        if verdict.outcome == "moved":
            yield Finding(
                "moved-since-measured",
                "note",
                "proving",
                code,
                f"{code} was moved after it was measured.",
                "The reading was of another way.",
                "Measure it again.",
            )
