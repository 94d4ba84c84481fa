"""What is asked of a wire, its bundle and its fuse, as facts in words."""

import math

from molvik.analysis import Analysis
from molvik.desktop.panel.facts import Fact, Facts
from molvik.desktop.stages.page import known_now
from molvik.electrical.conductor import area_mm2, resistance_20_ohm_per_m
from molvik.model.parts import Wire
from molvik.model.refs import Ref
from molvik.parsing.quantities import ohm_text, seconds_text
from molvik.reference.limits import CRANK_S
from molvik.sizes.assessment import standing
from molvik.sizes.bundles import BundleSummary
from molvik.sizes.drop import drop_v
from molvik.sizes.fuses import FuseWork
from molvik.sizes.hot import temperature_c
from molvik.sizes.short import FarShort
from molvik.sizes.sizing_case import SizingCase
from molvik.wording import figures


def facts_of(analysis: Analysis, ref: Ref) -> Facts:
    """Return what there is to say of a wire in hand: its size, what protects it, its heat."""
    wire = analysis.network.wires.get(ref.code)
    if wire is None:
        return []
    if not known_now(analysis):
        judged = "is being judged …"
        return [("Verdict", judged, "") if wire.size else NO_SIZE, ("Protected by", judged, "")]
    facts: Facts = [_verdict_fact(analysis, wire), _fuse_fact(analysis, wire)]
    requirements = analysis.electrics.sizing_cases[wire.code]
    heat = temperature_c(wire.size, requirements) if wire.size else None
    if heat is not None:
        hot = heat > requirements.kind.limit_c
        facts.append(
            ("Heat", f"{heat:.0f} °C of {requirements.kind.limit_c:g} °C", "bad" if hot else "")
        )
    return facts


NO_SIZE: Fact = ("Verdict", "no size: cannot be judged", "look")


def _verdict_fact(analysis: Analysis, wire: Wire) -> Fact:
    sizing = analysis.electrics.sizings.get(wire.code)
    if sizing is None:
        return NO_SIZE
    stands = standing(sizing)
    if stands.group == "fails":
        least = analysis.electrics.least_sizes.get(wire.code)
        needs = f"needs {least}: " if least and not sizing.is_enough else "fails: "
        return "Verdict", f"{needs}{stands.because}", "bad"
    if stands.group == "not judged":
        return "Verdict", f"not judged: {stands.because}", "look"
    return "Verdict", f"{sizing.size} is enough", "proved"


def _fuse_fact(analysis: Analysis, wire: Wire) -> Fact:
    feed = analysis.network.feed(wire)
    if feed is None:
        back = analysis.electrics.sizing_cases[wire.code]
        if back.fuse_a is not None:
            return "Protected by", f"{back.fuse_from}, {figures(back.fuse_a)} A", ""
        return "Protected by", "not fed by the battery", ""
    if math.isinf(feed.limit_a):
        requirements = analysis.electrics.sizing_cases[wire.code]
        if requirements.fuse_from:
            return (
                "Protected by",
                f"{requirements.fuse_from}, {figures(requirements.fuse_a or 0.0)} A",
                "",
            )
        return "Protected by", "no fuse", "bad" if requirements.bare else ""
    return "Protected by", f"{feed.named}, {figures(feed.limit_a)} A", ""


def asked_facts(wire: Wire, requirements: SizingCase) -> Facts:
    """Return what is asked of a wire and what follows from it."""
    facts: Facts = [
        ("Insulation", f"{requirements.kind.name}", ""),
        (
            "Air",
            "; ".join(f"{lying.ambient_c:g} °C, {lying.place}" for lying in requirements.lies),
            "",
        ),
        ("Used for", requirements.use.name, ""),
    ]
    if wire.load_a is None and requirements.load_a is not None:
        facts.append(
            ("Current", f"{requirements.load_a:g} A in its worst state, none was typed", "")
        )
    if requirements.duty is not None and requirements.mean_a is not None:
        on_s, off_s = requirements.duty
        mean = figures(requirements.mean_a)
        words = f"{on_s:g} s on, {off_s:g} s off: in the long run as warm as {mean} A"
        facts.append(("Loaded", words, ""))
    if requirements.crank_a is not None:
        facts.append(("Cranking", f"{figures(requirements.crank_a)} A", ""))
    if wire.size is None:
        return facts
    facts.append(("Copper", f"{area_mm2(wire.size):.2f} mm²", ""))
    per_metre = resistance_20_ohm_per_m(wire.size)
    if requirements.length_m is not None:
        whole = ohm_text(per_metre * requirements.length_m)
        facts.append(
            (
                "Resistance",
                f"{whole} over {requirements.length_m:g} m ({per_metre * 1000:.2f} mΩ/m)",
                "",
            )
        )
    else:
        facts.append(("Resistance", f"{per_metre * 1000:.2f} mΩ/m at 20 °C", ""))
    lost = drop_v(wire.size, requirements)
    if lost is not None:
        facts.append(("Drop", f"{lost:.3f} V, as warm as it gets", ""))
    for path, use in requirements.paths:
        limit = use.drop_share * requirements.system_v
        words = (
            f"to {path.name} ({path.device}) and back, {path.state.name}: {path.lost_v:.2f} V "
            f"dropped of {limit:.2f} V; most in {path.worst}, {path.worst_v:.2f} V"
        )
        facts.append(("Its path", words, "bad" if path.lost_v > limit else ""))
    heat = temperature_c(wire.size, requirements)
    if heat is not None:
        role = "bad" if heat > requirements.kind.limit_c else ""
        facts.append(("Conductor", f"{heat:.0f} °C of {requirements.kind.limit_c:g} °C", role))
    return facts


def short_facts(short: FarShort | None) -> Facts:
    """Return what a dead short at the wire's far end comes to."""
    if short is None:
        return []
    opens = "it may never blow" if math.isinf(short.opens_s) else seconds_text(short.opens_s)
    stands = "for ever" if math.isinf(short.stands_s) else seconds_text(short.stands_s)
    words = (
        f"{short.amps:.0f} A at its far end; {short.fuse} blows after {opens} at its slowest, the "
        f"wire stands it {stands}"
    )
    return [("Shorted", words, "" if short.guarded else "bad")]


def fuse_facts(work: FuseWork | None) -> Facts:
    """Return what the fuse before a wire has to bear."""
    if work is None:
        return []
    fuse = work.fuse
    facts: Facts = [
        (
            "Before it",
            f"{fuse.code} {fuse.name}, {fuse.rating_a:g} A {fuse.kind}, carries "
            f"{figures(work.load_a)} A",
            "",
        ),
    ]
    if work.inrush is not None:
        holds = "holds" if work.bears_inrush else "may blow"
        words = f"{work.inrush[0]:.0f} A for {work.inrush[1]:g} s, {work.starter}: it {holds}"
        facts.append(("At a start", words, "" if work.bears_inrush else "bad"))
    if work.crank_a > 1:
        holds = "holds" if work.bears_cranking else f"may blow within {CRANK_S:g} s"
        facts.append(
            ("Cranking", f"{work.crank_a:.0f} A: it {holds}", "" if work.bears_cranking else "bad")
        )
    if work.before is not None:
        most = work.alone_up_to_a
        if math.isinf(most):
            words = f"it blows alone; {work.before.code}, {work.before.rating_a:g} A, holds"
        elif most > fuse.rating_a:
            words = (
                f"up to {most:.0f} A it blows alone, above that {work.before.code} may blow first"
            )
        else:
            words = f"{work.before.code}, {work.before.rating_a:g} A, may blow first"
        facts.append(("In a fault", words, "" if most > 2 * fuse.rating_a else "look"))
    return facts


def bundle_facts(found: BundleSummary | None) -> Facts:
    """Return what the bundle of a wire comes to."""
    if found is None:
        return []
    facts: Facts = [
        ("Wires", f"{len(found.wires)}, {found.across_mm:.1f} mm across with its covering", ""),
        ("Hottest", f"{found.hottest}, {found.hottest_c:.0f} °C, all loaded at once", ""),
    ]
    if found.unknown:
        codes = ", ".join(found.unknown[:6])
        facts.append(("Not counted", f"{codes}: no size", "look"))
    return facts
