"""The continuity list: what to measure, what to expect, and what was measured."""

from molvik.model.job import Reading, code_order
from molvik.model.parts import Wire
from molvik.netlist.network import Network
from molvik.proving.continuity import verdicts
from molvik.proving.proofplan import ProofPlan
from molvik.proving.wiretest import continuity_test, latest
from molvik.sheet import Sheet, Table, Ticks, notes


def continuity_list(network: Network, plan: ProofPlan) -> Sheet:
    """Return the continuity list of a job, with room to write where nothing was measured yet."""
    job = network.job
    judged, last = verdicts(plan), latest(job.readings)
    rows = [
        (*_asked(network, plan.wire(wire)), *_told(last.get(wire.code), judged[wire.code].outcome))
        for wire in sorted(job.wires, key=lambda wire: code_order(wire.code))
        if wire.code in judged
    ]
    leads = job.settings.meter_leads_ohm
    table = Table(
        (
            "Wire",
            "Function",
            "From",
            "From, in words",
            "To",
            "To, in words",
            "Expect Ω",
            "Limit Ω",
            "Read Ω",
            "Verdict",
            "When",
            "By",
        ),
        (4, 14, 5, 14, 5, 14, 6, 6, 6, 8, 10, 8),
        tuple(rows),
    )
    before = Ticks(("Battery disconnected, fuses and relays out, plugs off at both ends.",))
    below = notes(
        f"Readings include the meter's leads, {leads:g} Ω. OL means open.",
        "Continuity shows where a wire goes, not that every strand is whole.",
    )
    return Sheet("continuity-list", "Continuity list", (before, table, *below))


def _asked(network: Network, wire: Wire) -> tuple[str, ...]:
    """Return what is to be measured, and what is expected."""
    test = continuity_test(wire, network.job.settings)
    return (
        wire.code,
        wire.function,
        str(wire.start),
        network.end_name(wire.start),
        str(wire.finish),
        network.end_name(wire.finish),
        f"{test.expected_ohm:.2f}",
        f"{test.limit_ohm:.2f}",
    )


def _told(reading: Reading | None, outcome: str) -> tuple[str, ...]:
    """Return what was measured last."""
    if reading is None:  # proved by a way through it, or not at all
        return "", "" if outcome == "not measured" else outcome, "", ""
    shown = "OL" if reading.value is None else f"{reading.value:g}"
    return shown, outcome, reading.at[:16].replace("T", " "), reading.by
