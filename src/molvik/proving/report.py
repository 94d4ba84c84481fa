"""The test report: what was to be measured, what was read, what failed, what was not tested."""

from collections import Counter
from collections.abc import Iterator, Sequence

from molvik.drawing.face import face_size
from molvik.drawing.faces import STEP, faces_scene
from molvik.model.job import Job, Reading
from molvik.model.log import Tick
from molvik.netlist.network import Network
from molvik.netlist.plugmap import PlugMap
from molvik.proving.continuity import verdicts
from molvik.proving.found import found_at
from molvik.proving.items import BAD, item_readings, judge_item, shown_text
from molvik.proving.jointtests import joint_tests
from molvik.proving.parttests import part_tests
from molvik.proving.power import POWER
from molvik.proving.proofplan import FAILED, ProofPlan
from molvik.proving.touching import (
    apart_by_itself,
    how_tested,
    isolation_stands,
    isolation_words,
    last_run,
    touching,
)
from molvik.proving.troublecodes import codes_of, judge_codes, last_codes
from molvik.proving.validity import loom_fingerprint
from molvik.sheet import Block, Drawing, Sheet, Table, Ticks, notes
from molvik.wording import counted


def report_sheet(network: Network, plan: ProofPlan, accepted: Sequence[str] = ()) -> Sheet:
    """Return the report of a job's loom as it stands: first what came of it. What was not tested
    stays on it. accepted: what was found and accepted all the same, in words.
    """
    judged = plan.judged
    rows = _rows(plan)
    failed = tuple(
        (f"{one.red} to {one.black}", judged[one.key].text)
        for one in plan.measurements
        if judged[one.key].outcome in FAILED
    )
    touches = tuple(
        (
            f"{one.points[0]} and {one.points[1]}",
            f"are shorted together: {one.shown}, {how_tested(one.note)}",
        )
        for one in touching(plan).values()
    ) + tuple(
        (
            f"{one.points[0]} and {one.points[1]}",
            f"were shorted, {one.shown}, and are apart now, with nothing repaired: move and warm "
            "what lies there, and run the short test again",
        )
        for one in apart_by_itself(plan).values()
    )
    blocks: list[Block] = [*notes(_verdict(network, plan, len(touches)))]
    blocks.append(Table(("This report", ""), (10, 50), tuple(_about(plan))))
    if failed or touches:
        blocks.append(Table(("Where", "What it means"), (12, 40), (*failed, *touches)))
        blocks += _drawn(network, plan)
    blocks += notes("Not tested, and to be known", *_untested(network, plan, accepted))
    blocks.append(
        Table(
            (
                "Red",
                "Black",
                "Through",
                "Expect Ω",
                "Limit Ω",
                "Read Ω",
                "When",
                "By",
                "With",
                "°C",
                "Verdict",
            ),
            (7, 7, 14, 7, 7, 7, 11, 7, 10, 4, 9),
            tuple(rows),
        )
    )
    others = tuple(_others(plan))
    if others:
        blocks += notes("Measured beside the plan")
        blocks.append(
            Table(
                ("Where", "Read", "In", "When", "By", "With", "Verdict"),
                (14, 10, 8, 11, 7, 10, 20),
                others,
            )
        )
    blocks += _items(network, plan)
    blocks.append(Ticks(("Tested by, date, signature", "Handed over to, date, signature")))
    return Sheet("test-report", "Test report", tuple(blocks))


def _counts(plan: ProofPlan) -> Counter[str]:
    """Return how many measurements passed, failed, are to be done again and were not made."""
    return Counter(
        "failed" if one.outcome in FAILED else one.outcome for one in plan.judged.values()
    )


def _verdict(network: Network, plan: ProofPlan, touches: int) -> str:
    """Say in one line what came of it all."""
    counts, of = _counts(plan), len(plan.judged)
    last = item_readings(plan.job.readings)
    tests = (*part_tests(plan.job), *joint_tests(network, plan))
    bad_items = sum(judge_item(test, last, plan.job.settings).outcome in BAD for test in tests)
    figures = (
        f"{counts['passed']} of {of} measurements passed, {counts['failed']} failed, "
        f"{counts['changed']} to be measured again after a change, {counts['not measured']} not "
        "measured."
    )
    read = last_codes(plan.job.readings)
    judged = judge_codes(network, codes_of(read)) if read is not None else ()
    codes = sum(one.meaning == "genuine" for one in judged)
    if counts["failed"] or touches or bad_items or codes:
        more = [
            f"{count} {name}"
            for count, name in (
                (
                    touches,
                    "pairs of circuits are shorted, or were"
                    if touches > 1
                    else "pair is shorted, or was",
                ),
                (bad_items, "parts or joints failed" if bad_items > 1 else "part or joint failed"),
                (
                    codes,
                    "codes that are not harmless" if codes > 1 else "code that is not harmless",
                ),
            )
            if count
        ]
        return f"FAILED. {figures}{' ' + ', '.join(more) + '.' if more else ''}"
    missing = [
        words
        for words, lacks in (
            ("not all of it was measured", counts["passed"] < of),
            ("the short test was not done on the loom as it is", not isolation_stands(plan)),
            ("no measurement reaches some wires, or tells them apart", _untold(network, plan)),
            ("readings of a stand-in prove nothing", _of_a_stand_in(plan)),
        )
        if lacks
    ]
    if missing:
        return f"NOT COMPLETE: {'; '.join(missing)}. {figures}"
    return (
        f"PASSED on the bench: continuity and short test. {figures} What else was tested, and "
        "what was not, is listed below."
    )


def _untold(network: Network, plan: ProofPlan) -> bool:
    """Return whether there are wires that no measurement reaches, or that lie beside others and
    were not measured under a current either.
    """
    hidden = {code for wires in plan.not_told_apart for code in wires}
    last = item_readings(plan.job.readings)
    told = {
        test.subject
        for test in joint_tests(network, plan)
        if test.of == "drop" and judge_item(test, last, plan.job.settings).outcome == "passed"
    }
    return bool(hidden - told or plan.unreached)


def _of_a_stand_in(plan: ProofPlan) -> int:
    """Return how many of the readings that something rests on are of a stand-in, which measures the
    job and not a loom. Those that were measured again since are none of them.
    """
    job = plan.job
    found = [*map(plan.reading, plan.measurements), last_codes(job.readings), last_run(plan)]
    found += [some[-1] for some in item_readings(job.readings).values()]
    return sum(one is not None and "stand-in" in one.instrument for one in found)


def _about(plan: ProofPlan) -> Iterator[tuple[str, str]]:
    """Yield what stands at a report's head, by name."""
    job, settings = plan.job, plan.job.settings
    said = "not said"
    yield "Number", settings.report_number or said
    yield "For", settings.customer or said
    yield "Loom", f"{job.title}{f', {job.subtitle}' if job.subtitle else ''}"
    yield (
        "As built",
        (
            f"{loom_fingerprint(plan)}: {counted(len(job.wires), 'wire')}; a different check "
            "mark means the job was changed after this print"
        ),
    )
    by = dict.fromkeys(one.by for one in job.readings if one.by)
    yield "Measured by", ", ".join(by) or settings.measured_by or said
    days = sorted(one.at[:10] for one in job.readings)
    if days:
        yield "On", days[0] if days[0] == days[-1] else f"{days[0]} to {days[-1]}"
    yield "Meter, by eye", f"{settings.meter or said}; calibrated {settings.calibrated or said}"
    tools = dict.fromkeys(one.instrument for one in job.readings if one.instrument)
    if tools:
        yield "Instruments", "; ".join(tools)
    yield (
        "What decides",
        (
            "A reading passes up to its limit: copper of the wire's size and length at "
            f"{settings.bench_c:g} °C with the joints a sound one may have at most, the meter's "
            f"leads, {settings.meter_leads_ohm:g} Ω, and what the meter may be off, "
            f"{settings.meter_percent:g} % and {settings.meter_counts} digits of "
            f"{settings.meter_step_ohm:g} Ω. Continuity does not prove that every strand is whole."
        ),
    )


def _others(plan: ProofPlan) -> Iterator[tuple[str, ...]]:
    """Yield what was measured of the loom beside the plan: wires by themselves, voltages, points
    that were looked at freely.
    """
    planned = {id(plan.reading(one)) for one in plan.measurements}
    judged = {id(one.by): f"{one.outcome}: {one.text}" for one in verdicts(plan).values()}
    for reading in plan.job.readings:
        if reading.of not in ("loom", "power") or id(reading) in planned:
            continue
        where = " to ".join(map(str, reading.points))
        if reading.item in plan.bench.wires:
            where = f"{reading.item}: {where}"
        when = reading.at[:16].replace("T", " ")
        state, said = reading.state or "power off", judged.get(id(reading), "")
        if reading.of == "power":
            state += ", every switch off"
        if reading.out:
            state += f", {', '.join(reading.out)} out"
        yield where, reading.shown, state, when, reading.by, _with(plan, reading), said


def _with(plan: ProofPlan, reading: Reading) -> str:
    """Say what was measured with."""
    return reading.instrument or plan.job.settings.meter or "meter, by eye"


def _drawn(network: Network, plan: ProofPlan) -> Iterator[Drawing]:
    """Draw each plug at which something failed."""
    for plug in PlugMap(network, found_at(plan)).plugs("wire side", wrong=True):
        wide, _ = face_size(plug.connector, STEP)
        scene = faces_scene((plug._replace(title=""),), (), wide, "wire side")
        yield Drawing(
            f"{plug.title}, wire side: crossed failed, barred shorted, ticked passed", scene
        )


def _powered(ticked: list[Tick]) -> str:
    if not ticked:
        return "Power was not brought up step by step yet."
    last = max(tick.at for tick in ticked)
    return (
        f"{counted(len(ticked), 'step')} of power and engine ticked, the last "
        f"{last[:16].replace('T', ' ')}."
    )


def _rows(plan: ProofPlan) -> list[tuple[str, ...]]:
    """Return a row for each measurement, read or not."""
    judged = plan.judged
    rows: list[tuple[str, ...]] = []
    for measurement in plan.measurements:
        reading = plan.reading(measurement)
        read = "" if reading is None else "open" if reading.value is None else f"{reading.value:g}"
        if reading is None and judged[measurement.key].outcome != "not measured":
            read = "by its wires"
        when = "" if reading is None else reading.at[:16].replace("T", " ")
        by, tool = ("", "") if reading is None else (reading.by, _with(plan, reading))
        warm = "" if reading is None or reading.bench_c is None else f"{reading.bench_c:g}"
        rows.append(
            (
                str(measurement.red),
                str(measurement.black),
                " ".join(measurement.wires),
                f"{measurement.expected_ohm:.2f}",
                f"{measurement.limit_ohm:.2f}",
                read,
                when,
                by,
                tool,
                warm,
                judged[measurement.key].outcome,
            )
        )
    return rows


def _codes(network: Network) -> list[str]:
    """Say which codes were read last, and which of them are harmless, and why."""
    job = network.job
    reading = last_codes(job.readings)
    if reading is None:
        return ["Codes were not read."]
    verdicts = judge_codes(network, codes_of(reading))
    when = reading.at[:16].replace("T", " ")
    if not verdicts:
        return [f"Codes, {when}: none."]
    return [f"Code {one.code}, {when}: {one.meaning}. {one.words}: {one.why}" for one in verdicts]


def _mended(job: Job) -> list[str]:
    return [
        f"Repaired {reading.at[:16].replace('T', ' ')}: {reading.item or reading.points[0].at}, "
        f"{reading.said}"
        for reading in job.readings
        if reading.of == "mended"
    ]


def _items(network: Network, plan: ProofPlan) -> Iterator[Block]:
    """What was measured of parts and joints by themselves, and how many were not."""
    job = network.job
    last = item_readings(job.readings)
    for name, tests in (("Parts", part_tests(job)), ("Joints", joint_tests(network, plan))):
        judged = [(test, judge_item(test, last, job.settings)) for test in tests]
        rows = tuple(
            (
                test.subject,
                test.name,
                test.what,
                test.expect,
                shown_text(verdict.by),
                verdict.by.at[:16].replace("T", " "),
                verdict.outcome,
            )
            for test, verdict in judged
            if verdict.by is not None
        )
        left = len(judged) - len(rows)
        yield from notes(f"{name}: {len(rows)} of {len(judged)} measured, {left} not.")
        if rows:
            yield Table(
                ("On", "Name", "What", "Expect", "Read", "When", "Verdict"),
                (5, 14, 16, 16, 10, 12, 9),
                rows,
            )


def _untested(network: Network, plan: ProofPlan, accepted: Sequence[str]) -> list[str]:
    """Say what was not tested, what was beside the plan, and what was accepted."""
    left: list[str] = []
    if of_ours := _of_a_stand_in(plan):
        left.append(
            f"Readings of a stand-in: {of_ours}. It measures the job and not a loom: they "
            "prove nothing. Measure those again."
        )
    job = network.job
    hidden = [code for wires in plan.not_told_apart for code in wires]
    if hidden:
        left.append(f"Not told apart by continuity: {', '.join(hidden)}.")
    if plan.unreached:
        left.append(f"No probe reached both ends of {', '.join(plan.unreached)}.")
    left.append(isolation_words(plan))
    ticked = [tick for tick in job.ticks if tick.list == POWER]
    left.append(_powered(ticked))
    words = [f"Accepted: {one}" for one in accepted]
    return [*left, *_codes(network), *_mended(job), *words]
