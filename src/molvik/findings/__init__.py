"""Design rules: small functions from an analysis to findings, listed here in one place.

To add a rule, write a function that yields findings in the module of its subject, say in
``findings.kinds`` what it finds, and list it in ``RULES``.
"""

from collections.abc import Iterable

from molvik.analysis import Analysis
from molvik.devices.kinds.alternator import alternators
from molvik.findings import (
    alive,
    building,
    bus,
    cavities,
    charging,
    circuits,
    ends,
    gauges,
    proof,
    protection,
    repinning,
    routing,
    sizing,
    solving,
    supply,
    survey,
)
from molvik.findings.accepting import Judged, judged
from molvik.findings.finding import Finding
from molvik.findings.kinds import SEVERITIES
from molvik.findings.rule import Rule
from molvik.stopping import look_up

RULES: tuple[Rule, ...] = (
    Rule(cavities.two_wires_in_one_cavity, ("two-wires-one-cavity",)),
    Rule(cavities.no_such_cavity, ("no-such-cavity",)),
    Rule(cavities.wire_in_closed_cavity, ("closed-cavity",)),
    Rule(cavities.named_but_not_wired, ("named-not-wired",)),
    Rule(cavities.listed_but_no_wires, ("listed-no-wires",)),
    Rule(cavities.wire_is_too_thick_or_thin_for_its_terminal, ("terminal-size",)),
    Rule(cavities.differs_from_the_pinout, ("colour-differs",)),
    Rule(cavities.halves_do_not_mate, ("halves-do-not-mate",)),
    Rule(ends.loose_end, ("loose-end",)),
    Rule(ends.ends_not_drawn, ("ends-not-drawn",)),
    Rule(ends.no_such_place, ("no-such-place",)),
    Rule(ends.both_ends_in_one_place, ("ends-in-one-place",)),
    Rule(ends.two_wires_side_by_side, ("side-by-side",)),
    Rule(ends.earth_meets_supply, ("earth-meets-supply",)),
    Rule(
        sizing.undersized,
        ("runs-hot", "undersized", "too-thin-to-handle"),
    ),
    Rule(sizing.loses_too_much_voltage, ("voltage-drop",)),
    Rule(sizing.terminal_overloaded, ("terminal-overloaded",)),
    Rule(sizing.short_not_cleared, ("short-not-cleared",)),
    Rule(sizing.carries_more_than_was_typed, ("current-differs",)),
    Rule(
        sizing.cannot_be_judged,
        ("no-battery", "cannot-be-judged"),
    ),
    Rule(protection.no_fuse, ("no-fuse",)),
    Rule(protection.long_way_to_the_first_fuse, ("far-fuse",)),
    Rule(protection.fuse_larger_than_the_wire_may_carry, ("fuse-too-large",)),
    Rule(protection.fuse_too_small, ("fuse-too-small",)),
    Rule(protection.fuse_that_a_start_may_open, ("fuse-inrush",)),
    Rule(protection.fuse_that_cranking_may_open, ("fuse-cranking",)),
    Rule(protection.fuses_in_the_wrong_order, ("fuse-order",)),
    Rule(protection.no_such_fuse, ("no-such-fuse",)),
    Rule(solving.cannot_solve, ("cannot-solve",), needs=("battery",)),
    Rule(
        alive.does_not_start,
        ("dead-in-crank",),
        needs=("battery", "starter"),
    ),
    Rule(
        alive.runs_on,
        ("runs-on", "stays-alive"),
        needs=("battery", "alternator"),
    ),
    Rule(
        alive.isolator_does_not_stop,
        ("isolator-no-stop", "no-run-down"),
        needs=("battery", "alternator", "isolator"),
    ),
    Rule(
        alive.does_not_charge,
        ("no-charge",),
        needs=("battery", "alternator"),
    ),
    Rule(charging.gives_less_than_is_drawn, ("charge-short",), needs=("battery", "alternator")),
    Rule(charging.start_contact, ("start-contact",), needs=("battery", "starter")),
    Rule(alive.fuse_blows, ("fuse-blows",), needs=("battery",)),
    Rule(
        alive.chatters,
        ("chatter",),
        needs=("battery", "relay"),
    ),
    Rule(alive.two_rests, ("two-rests",), needs=("battery", "relay")),
    Rule(supply.over_voltage, ("over-voltage",), needs=("battery",)),
    Rule(supply.batteries_in_series, ("batteries-in-series",), needs=("battery",)),
    Rule(supply.knows_its_poles, ("made-for-minus",)),
    Rule(alive.drains, ("drain",), needs=("battery",)),
    Rule(gauges.shows_something_else, ("gauge-off", "gauge-lost"), needs=("gauge",)),
    Rule(gauges.lamp_says_something_else, ("lamp-wrong",), needs=("battery",)),
    Rule(
        gauges.sensor_with_two_supplies,
        ("sensor-shared", "sensor-out-of-range"),
        needs=("thermistor", "controller"),
    ),
    Rule(circuits.feeds_joined, ("feeds-joined",)),
    Rule(circuits.returns_through, ("returns-through",), needs=("battery",)),
    Rule(circuits.screens, ("screen-earths",)),
    Rule(
        bus.of_bus,
        (
            "network-terminators",
            "network-terminator-odd",
            "network-terminator-inside",
            "network-too-long",
            "network-stub",
            "network-ring",
            "network-untwisted",
            "network-crossed",
            "network-one-wire",
            "network-alone",
            "network-rates",
            "network-nodes",
        ),
    ),
    Rule(circuits.diodes, ("diode-reversed",), needs=("battery",)),
    Rule(circuits.coil_without_suppression, ("no-suppression",)),
    Rule(repinning.does_not_fit, ("lead-does-not-fit",)),
    Rule(repinning.thinner_than_the_table_says, ("lead-thinner",)),
    Rule(repinning.order_breaks, ("order-breaks",)),
    Rule(repinning.wires_astray, ("wires-astray",)),
    Rule(repinning.match_to_decide, ("match-to-decide",)),
    Rule(repinning.left_undone, ("lead-left-undone",)),
    Rule(repinning.needs_converter, ("needs-converter",)),
    Rule(survey.fault_found, ("fault-found",)),
    Rule(survey.odd_tree, ("odd-tree",)),
    Rule(survey.loom_not_worth_it, ("loom-not-worth-it",)),
    Rule(routing.no_way, ("no-way",)),
    Rule(routing.sits_nowhere, ("sits-nowhere",)),
    Rule(routing.odd_looms, ("odd-loom",)),
    Rule(routing.length_differs, ("length-differs", "longer-than-its-way")),
    Rule(routing.too_hot, ("too-hot-here",)),
    Rule(routing.splice_lies_badly, ("splice-moves", "splice-near")),
    Rule(routing.does_not_pass, ("does-not-pass",)),
    Rule(routing.not_held, ("not-held",)),
    Rule(building.fits_nothing, ("covering-fits-nothing",)),
    Rule(building.cannot_go_on, ("sleeve-cannot-go-on",)),
    Rule(building.plug_does_not_pass, ("plug-does-not-pass",)),
    Rule(building.bends_too_tight, ("bent-too-tight",)),
    Rule(building.moves_without_slack, ("moves-without-slack", "stiff-where-it-moves")),
    Rule(building.plug_not_held, ("plug-not-held",)),
    Rule(building.cores_part, ("cores-part",)),
    Rule(building.look_alikes, ("look-alikes",)),
    Rule(building.part_here, ("part-here",)),
    Rule(building.splice_of_one, ("splice-of-one",)),
    Rule(building.splice_wastes, ("splice-elsewhere",)),
    Rule(
        proof.measured_and_failed,
        ("failed-continuity", "below-leads"),
    ),
    Rule(proof.touching_nets, ("touching-nets",)),
    Rule(proof.moved_since_measured, ("moved-since-measured",)),
)


def find_all(analysis: Analysis) -> tuple[Finding, ...]:
    """Return every finding, the worst first."""
    found: list[Finding] = []
    devices = {device.kind for device in analysis.job.devices}
    if alternators(analysis.job.devices):
        devices.add("alternator")  # what holds of one holds of a dynamo
    for rule in RULES:
        look_up()
        found += rule.apply(analysis, devices)
    say = analysis.spoken.say
    if not analysis.spoken.is_plain:
        found = [
            finding._replace(
                what=say(finding.what), why=say(finding.why), remedy=say(finding.remedy)
            )
            for finding in found
        ]
    return tuple(
        sorted(found, key=lambda finding: (SEVERITIES.index(finding.severity), finding.order))
    )


def judged_findings(analysis: Analysis) -> tuple[Judged, ...]:
    """Return every finding with what was decided of it, the worst first."""
    return judged(analysis.job, analysis.once(find_all), survey.decided(analysis))


def open_findings(analysis: Analysis) -> tuple[Finding, ...]:
    """Return the findings that somebody has to judge."""
    return tuple(entry.finding for entry in analysis.once(judged_findings) if entry.is_open)


def unjudged(findings: Iterable[Finding]) -> str:
    """Say what was not judged, to stand beside the counts of findings; empty when all was.

    Accepted findings count too: accepting that a size is not known does not make it known.
    """
    rules = [finding.rule for finding in findings]
    said = []
    if broke := rules.count("rule-failed"):
        said.append(f"{broke} rule{'s' if broke > 1 else ''} broke off")
    count = rules.count("cannot-be-judged")
    if "no-battery" in rules:
        said.append("no wire judged: there is no battery")
    elif count:
        said.append(f"{count} live wire{'s' if count > 1 else ''} not judged")
    return ", ".join(said)
