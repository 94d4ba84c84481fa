"""What routing says of a wire in hand: its way, and what it is cut to."""

from molvik.analysis import Analysis
from molvik.desktop.facts import Facts
from molvik.desktop.stages.page import known_now
from molvik.model.refs import Ref
from molvik.routing.lengths import CutLength


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return the way of a wire in hand."""
    if ref.code not in analysis.network.wires or not analysis.job.routing.joints:
        return []
    if not known_now(analysis):
        return [("Way", "is being looked for …", "")]
    way = analysis.ways.of.get(ref.code)
    if way is None:
        return []
    if way.problem:
        return [("Way", f"none: {way.problem}", "bad" if way.start else "look")]
    facts: Facts = [("Way", " ".join(step.run for step in way.steps) or "at one end", "")]
    cut = analysis.cut_lengths.get(ref.code)
    if cut is None:
        return [*facts, ("Cut to", "not known: a stretch has no length yet", "look")]
    facts.append(("Cut to", cut_words(cut), ""))
    if cut.differs_m is not None:
        more = (
            f"{abs(cut.differs_m):.2f} m {'longer' if cut.differs_m > 0 else 'shorter'} than that"
        )
        facts.append(
            ("Its length", f"{cut.now_m:.2f} m, {more}", "bad" if cut.differs_m < 0 else "")
        )
    return facts


def cut_words(cut: CutLength) -> str:
    """Return what a wire is cut to, with what it is made of."""
    words = [f"{cut.way_m:.2f} way", f"{sum(cut.ends_m):.2f} ends"]
    words += [f"{cut.slack_m:.2f} slack"] if cut.slack_m else []
    words += [f"{cut.twist_m:.2f} twist"] if cut.twist_m >= 0.005 else []
    return f"{cut.cut_m:.2f} m: {' + '.join(words)}"
