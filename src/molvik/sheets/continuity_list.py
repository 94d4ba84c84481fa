"""The continuity list: what to measure, what to expect, and what was measured."""

from molvik.model.job import code_order
from molvik.netlist.network import Network
from molvik.proving.continuity import continuity_test, latest, verdicts
from molvik.sheet import Sheet, Table, Ticks, notes


def continuity_list(network: Network) -> Sheet:
    """Return the continuity list of a job, with room to write where nothing was measured yet."""
    job = network.job
    judged, last = verdicts(job), latest(job.readings)
    rows = []
    for wire in sorted(job.wires, key=lambda wire: code_order(wire.code)):
        if wire.code not in judged:
            continue
        test = continuity_test(wire, job.settings)
        reading = last.get(wire.code)
        shown = "" if reading is None else "OL" if reading.value is None else f"{reading.value:g}"
        rows.append(
            (
                wire.code,
                wire.function,
                str(wire.start),
                network.end_name(wire.start),
                str(wire.finish),
                network.end_name(wire.finish),
                f"{test.expected_ohm:.2f}",
                f"{test.limit_ohm:.2f}",
                shown,
                "" if reading is None else judged[wire.code].outcome,
                "" if reading is None else reading.at[:16].replace("T", " "),
                "" if reading is None else reading.by,
            )
        )
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
