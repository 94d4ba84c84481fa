"""What waits at each stage, for the trunk."""

from collections import Counter

from molvik.analysis import Analysis
from molvik.desktop.widgets.trunk import Waits
from molvik.findings import open_findings
from molvik.stages import STAGES


def waits_of(analysis: Analysis) -> list[Waits]:
    """Return what waits at each stage, in their order."""
    counts = Counter[tuple[str, str]](
        (found.stage, found.severity) for found in open_findings(analysis)
    )
    found = [
        Waits(counts[key, "stop"], counts[key, "look"], counts[key, "note"]) for key, *_ in STAGES
    ]
    unproved = sum(verdict.outcome != "passed" for verdict in analysis.proof.values())
    index = next(index for index, (key, *_) in enumerate(STAGES) if key == "proving")
    found[index] = found[index]._replace(to_do=unproved, words="wires to measure")
    return found
