"""What proving says of what is in hand."""

from molvik.analysis import Analysis
from molvik.desktop.panel.facts import Facts
from molvik.desktop.stages.page import plan_known
from molvik.model.refs import Ref


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return whether a wire in hand was proved."""
    if ref.code not in analysis.network.wires:
        return []
    if not plan_known(analysis):
        return [("Proved", "being looked over …", "faint")]
    verdict = analysis.proof.get(ref.code)
    if verdict is None:
        return [("Proved", "no: it has a loose end", "bad")]
    role = {"passed": "proved", "not measured": "look"}.get(verdict.outcome, "bad")
    return [("Proved", verdict.text, role)]
