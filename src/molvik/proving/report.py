"""The test report: what was to be measured, what was read, what failed, what was not tested."""

from collections.abc import Iterator

from molvik.drawing.face import face_size
from molvik.drawing.faces import STEP, faces_scene
from molvik.model.job import Job
from molvik.model.log import Tick
from molvik.netlist.network import Network
from molvik.netlist.plugmap import PlugMap
from molvik.proving.codes import codes_of, judge_codes, last_codes
from molvik.proving.found import found_at
from molvik.proving.items import item_readings, judge_item, shown_text
from molvik.proving.joints import joint_tests
from molvik.proving.parts import part_tests
from molvik.proving.plan import Plan
from molvik.proving.power import POWER
from molvik.proving.standing import loom_sign
from molvik.proving.touching import isolation_words, touching
from molvik.sheet import Block, Drawing, Sheet, Table, Ticks, notes


def report_sheet(network: Network, plan: Plan) -> Sheet:
    """Return the report of a job's loom as it stands. What was not tested stays on it."""
    job, judged = network.job, plan.judged
    rows = _rows(plan)
    failed = tuple(
        (f"{one.red} to {one.black}", judged[one.key].text)
        for one in plan.measurements
        if judged[one.key].outcome in ("high", "open", "below leads")
    )
    counts = {name: sum(one.outcome == name for one in judged.values())
              for name in ("passed", "not measured", "changed")}  # fmt: skip
    sign = loom_sign(plan)
    heads = notes(
        f"{job.title}{f', {job.subtitle}' if job.subtitle else ''}. Loom {sign}: {len(job.wires)} "
        "wires; another sign means that something was changed since.",
        f"{counts['passed']} of {len(rows)} measurements passed, {len(failed)} failed, "
        f"{counts['changed']} to be measured again after a change, {counts['not measured']} not "
        "measured.",
    )  # fmt: skip
    blocks: list[Block] = [
        *heads,
        Table(("Red", "Black", "Through", "Expect Ω", "Limit Ω", "Read Ω", "When", "By", "With",
               "°C", "Verdict"), (7, 7, 14, 7, 7, 7, 11, 7, 10, 4, 9), tuple(rows)),
    ]  # fmt: skip
    touches = tuple(
        (f"{one.points[0]} and {one.points[1]}", f"touch, and should not: {one.shown}, {one.note}")
        for one in touching(plan).values()
    )
    if failed or touches:
        blocks.append(Table(("Where", "What it means"), (12, 40), (*failed, *touches)))
        blocks += _drawn(network, plan)
    blocks += _items(network, plan)
    blocks += notes(*_untested(network, plan))
    blocks.append(Ticks(("Tested by, date, signature", "Handed over to, date, signature")))
    return Sheet("test-report", "Test report", tuple(blocks))


def _drawn(network: Network, plan: Plan) -> Iterator[Drawing]:
    """Draw each plug at which something failed."""
    for plug in PlugMap(network, found_at(plan)).plugs("wire side", wrong=True):
        wide, _ = face_size(plug.connector, STEP)
        scene = faces_scene((plug._replace(title=""),), (), wide, "wire side")
        yield Drawing(f"{plug.title}, wire side: crossed failed, barred touch, ticked passed",
                      scene)  # fmt: skip


def _powered(ticked: list[Tick]) -> str:
    if not ticked:
        return "Power was not brought up step by step yet."
    last = max(tick.at for tick in ticked)
    return (
        f"{len(ticked)} steps of power and engine ticked, the last {last[:16].replace('T', ' ')}."
    )


def _rows(plan: Plan) -> list[tuple[str, ...]]:
    """Return a row for each measurement, read or not."""
    judged = plan.judged
    rows: list[tuple[str, ...]] = []
    for one in plan.measurements:
        reading = plan.reading(one)
        read = "" if reading is None else "open" if reading.value is None else f"{reading.value:g}"
        when = "" if reading is None else reading.at[:16].replace("T", " ")
        by, tool = ("", "") if reading is None else (reading.by, reading.instrument or "by eye")
        warm = "" if reading is None or reading.bench_c is None else f"{reading.bench_c:g}"
        rows.append((
            str(one.red), str(one.black), " ".join(one.wires), f"{one.expected_ohm:.2f}",
            f"{one.limit_ohm:.2f}", read, when, by, tool, warm, judged[one.key].outcome,
        ))  # fmt: skip
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
        f"Mended {reading.at[:16].replace('T', ' ')}: {reading.item or reading.points[0].at}, "
        f"{reading.said}"
        for reading in job.readings
        if reading.of == "mended"
    ]


def _items(network: Network, plan: Plan) -> Iterator[Block]:
    """What was measured of parts and joints by themselves, and how many were not."""
    job = network.job
    last = item_readings(job.readings)
    for name, tests in (("Parts", part_tests(job)), ("Joints", joint_tests(network, plan))):
        judged = [(test, judge_item(test, last, job.settings)) for test in tests]
        rows = tuple(
            (test.subject, test.name, test.what, test.expect, shown_text(verdict.by),
             verdict.by.at[:16].replace("T", " "), verdict.outcome)
            for test, verdict in judged if verdict.by is not None
        )  # fmt: skip
        left = len(judged) - len(rows)
        yield from notes(f"{name}: {len(rows)} of {len(judged)} measured, {left} not.")
        if rows:
            yield Table(("On", "Name", "What", "Expect", "Read", "When", "Verdict"),
                        (5, 14, 16, 16, 10, 12, 9), rows)  # fmt: skip


def _untested(network: Network, plan: Plan) -> list[str]:
    """Say what was not tested, what was beside the plan, and what was accepted."""
    left: list[str] = []
    of_ours = sum("stand-in" in reading.instrument for reading in network.job.readings)
    if of_ours:
        left.append(f"{of_ours} readings are of a stand-in, which measures the job and not a loom: "
                    "they prove nothing. Measure those again.")  # fmt: skip
    job = network.job
    hidden = [code for wires in plan.not_told_apart for code in wires]
    if hidden:
        left.append(f"Not told apart by continuity: {', '.join(hidden)}.")
    if plan.unreached:
        left.append(f"No probe reached both ends of {', '.join(plan.unreached)}.")
    left.append(isolation_words(plan))
    ticked = [tick for tick in job.ticks if tick.list == POWER]
    left.append(_powered(ticked))
    accepted = [f"Accepted: {one.finding}, {one.reason} ({one.by or 'unnamed'})"
                for one in job.accepted]  # fmt: skip
    return [*left, *_codes(network), *_mended(job), *accepted]
