"""Where it failed: what was found at each cavity, as it is marked on the faces of the plugs."""

import itertools
from functools import partial
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from conftest import page
from jobs import grids
from molvik.analysis import Analysis
from molvik.desktop.window import MainWindow
from molvik.drawing.face import Cavity
from molvik.drawing.faces import Plug, Terminal, TerminalRow, faces_scene, lay_out_faces
from molvik.drawing.marks import FOUND, TIED, Mark, Marked, over, under
from molvik.drawing.scene import Box, Pen
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.geometry import places
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End, Grid
from molvik.netlist.network import Network
from molvik.netlist.plugmap import PlugMap
from molvik.proving.found import found_at
from molvik.proving.proofplan import ProofPlan
from molvik.proving.report import report_sheet
from molvik.proving.taken import taken
from molvik.proving.touching import apart_by_itself, between, isolated, isolation_words, touching
from molvik.proving.validity import mended_text
from molvik.sheet import Drawing, Table
from test_plan import AT, loom_job, looms

LEFT = Qt.MouseButton.LeftButton


def star() -> Job:
    """C1/1 by a splice to three plugs; two wires by themselves beside it."""
    return loom_job(
        ("C1/1", "S1"),
        ("S1", "C2/1"),
        ("S1", "C3/1"),
        ("S1", "C4/1"),
        ("C1/2", "C2/2"),
        ("C1/3", "C3/3"),
    )


def read(job: Job, shown: dict[tuple[str, str], float | None]) -> Job:
    """Read between places, as the wires are."""
    signs = {frozenset((m.red, m.black)): m.fingerprint for m in ProofPlan(job).measurements}
    for ends, ohm in shown.items():
        points = End.of(ends[0]), End.of(ends[1])
        made = taken(
            job.settings, AT, "resistance", ohm, points, fingerprint=signs[frozenset(points)]
        )
        job = edits.record(job, made)
    return job


def marks(job: Job) -> dict[str, Mark]:
    return {str(point): found.mark for point, found in found_at(ProofPlan(job)).items()}


def test_what_failed_is_marked_where_nothing_else_passed() -> None:
    """The cavity from which another way passed is sound: the fault is beyond."""
    job = read(star(), {("C1/1", "C2/1"): None, ("C1/1", "C3/1"): 0.3, ("C1/2", "C2/2"): 9.0})
    assert marks(job) == {
        "C1/1": "passed",
        "C2/1": "failed",
        "C3/1": "passed",
        "C4/1": "",
        "C1/2": "failed",
        "C2/2": "failed",
        "C1/3": "",
        "C3/3": "",
    }
    found = found_at(ProofPlan(job))
    assert "open" in found[End("C2", "1")].words
    assert "9 Ω is above" in found[End("C1", "2")].words
    assert found[End("C1", "1")].words == "1 of 3 measurements from here passed"
    assert "not measured yet" in found[End("C3", "3")].words
    longer = edits.change_wire(job, "W5", length_m=4.0)
    assert marks(longer)["C1/2"] == marks(longer)["C2/2"] == "again"
    mended = edits.record(job, mended_text(job, "W2 new terminal", AT))
    assert marks(mended)["C2/1"] == "again"


def test_nets_that_touch_are_marked_whole_until_they_were_found_apart() -> None:
    job = star()
    plan = ProofPlan(job)
    nets = plan.bench.net_of
    pair = nets[End("C1", "1")], nets[End("C1", "2")]
    job = edits.record(job, between(plan, pair, 0.4, AT, "", "isolation"))
    assert {place for place, mark in marks(job).items() if mark == "touches"} == {
        "C1/1",
        "C2/1",
        "C3/1",
        "C4/1",
        "C1/2",
        "C2/2",
    }
    said = found_at(ProofPlan(job))[End("C4", "1")].words
    assert said.startswith(
        "C1/1 is shorted to C1/2, 0.4 Ω: C1/1 lies beside C1/2, look there first"
    )
    (finding,) = [one for one in find_all(Analysis(job)) if one.rule == "touching-nets"]
    assert (finding.severity, finding.subject) == ("stop", "C1/1")
    assert "C1/1 and C1/2 are shorted together" in finding.what
    mended = edits.record(job, mended_text(job, "W5 taped", AT))
    assert not touching(ProofPlan(mended))
    far = edits.record(job, between(plan, pair, 2e6, AT, "", "isolation"))
    assert not touching(ProofPlan(far)), "two megohms do not touch"
    *apart, run = isolated(ProofPlan(job), [], 3, AT, "", "isolation")
    assert [one.value for one in apart] == [None]
    for one in (*apart, run):
        job = edits.record(job, one)
    assert "touches" not in marks(job).values()
    assert isolation_words(ProofPlan(job)).endswith("passed; 3 measurements of 3 circuits.")
    # Nothing was mended: it comes and goes, until it was apart while it was moved, and warm.
    for still in (True, True, False):
        found = [one.what for one in find_all(Analysis(job)) if one.rule == "touching-nets"]
        assert found == (["C1/1 and C1/2 touched, 0.4 Ω, and are apart now."] if still else [])
        assert (marks(job)["C1/1"] == "again") is still
        assert not apart_by_itself(ProofPlan(edits.record(job, mended_text(job, "W5 taped", AT))))
        for one in isolated(ProofPlan(job), [], 3, AT, "", "isolation"):
            job = edits.record(job, one)
    mended = edits.record(job, mended_text(job, "W5 taped", AT))
    assert "changed or repaired since: measure it again" in isolation_words(ProofPlan(mended))


def test_thirty_touches_at_one_plug_are_one_finding() -> None:
    """A wet plug, two nets far from it that touch as well, and three that touch in a chain."""
    wet = [(f"C1/{n}", f"C{n + 1}/1") for n in range(1, 9)]
    far = [(f"C{n}/1", f"C{n}/2") for n in range(20, 25)]
    job = loom_job(*wet, *far)
    plan = ProofPlan(job)
    nets = {str(point): net for point, net in plan.bench.net_of.items()}
    at_plug = [(nets[f"C1/{a}"], nets[f"C1/{b}"]) for a in range(1, 9) for b in range(1, a)]
    chain = [(nets["C20/1"], nets["C21/1"]), (nets["C21/1"], nets["C22/1"])]
    for pair in [*at_plug, *chain, (nets["C23/1"], nets["C24/1"])]:
        job = edits.record(job, between(plan, pair, 0.4, AT, "", "isolation"))

    def told() -> dict[str, str]:
        return {f.subject: f.what for f in find_all(Analysis(job)) if f.rule == "touching-nets"}

    found = told()
    assert set(found) == {"C1", "C20/1", "C23/1"}
    assert found["C1"].startswith("At C1: ")
    assert found["C1"].endswith(" and 24 more pairs are shorted together.")
    assert found["C20/1"] == "C20/1 and C21/1, C21/1 and C22/1 are shorted together."
    for one in isolated(ProofPlan(job), [], 20, AT, "", "isolation"):
        job = edits.record(job, one)
    assert set(told()) == {"C1", "C20/1", "C23/1"}, "apart by themselves"


def test_nets_that_have_no_part_in_common_are_not_gathered_at_one() -> None:
    """Four far nets touch one each of a plug's: nothing says that it happens at the plug."""
    job = loom_job(
        *((f"C1/{n}", f"C9/{n}") for n in range(1, 5)),
        *((f"C{n}/1", f"C{n}/2") for n in range(20, 24)),
    )
    plan = ProofPlan(job)
    nets = {str(point): net for point, net in plan.bench.net_of.items()}
    for n in range(1, 5):
        pair = nets[f"C1/{n}"], nets[f"C{19 + n}/1"]
        job = edits.record(job, between(plan, pair, 0.4, AT, "", "isolation"))
    found = [f.subject for f in find_all(Analysis(job)) if f.rule == "touching-nets"]
    assert len(found) == 4


def test_what_touches_by_another_net_is_not_called_apart() -> None:
    """A run names as many pairs as join all that touch, not each: A to C and B to C, not A to B."""
    job = loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 5)))
    plan = ProofPlan(job)
    job = edits.record(job, between(plan, (0, 1), 0.4, AT, "", "isolation"))
    again = isolated(ProofPlan(job), [(0, 2), (2, 1)], 9, AT, "", "isolation")
    assert [one.of for one in again] == ["isolation"]
    (apart, _) = isolated(ProofPlan(job), [(0, 2), (1, 3)], 9, AT, "", "isolation")
    assert {str(point) for point in apart.points} == {"C1/1", "C1/2"}


@settings(max_examples=80, deadline=None)
@given(looms())
def test_every_net_is_tied_at_a_point_of_its_own(job: Job) -> None:
    bench = ProofPlan(job).bench
    reached = {number for number, net in enumerate(bench.nets) if net.points}
    assert set(bench.tied_at) == reached
    assert all(point in bench.nets[number].points for number, point in bench.tied_at.items())
    plugs = {point.at for point in bench.tied_at.values()}
    reach = [{point.at for point in bench.nets[number].points} for number in reached]
    everywhere = sorted(set().union(*reach))
    fewest = next(
        count
        for count in range(len(everywhere) + 1)
        for some in itertools.combinations(everywhere, count)
        if all(at & set(some) for at in reach)
    )
    assert len(plugs) <= fewest + 1, "of three plugs the greedy cover takes one too many at most"


def test_nets_are_tied_where_one_plug_reaches_them_all() -> None:
    """Seen from the plugs that come first they would be tied at six."""
    job = loom_job(*((f"C{n}/1", f"C9/{n}") for n in range(1, 7)))
    assert {point.at for point in ProofPlan(job).bench.tied_at.values()} == {"C9"}


# drawn


EVERY: list[Mark] = ["", "passed", "failed", "touches", "again", "one", "other"]


@pytest.mark.parametrize(("one", "other"), list(itertools.combinations(EVERY, 2)))
def test_marks_differ_without_their_colours(one: Mark, other: Mark) -> None:
    """Shapes tell, for who does not see red and green apart."""

    def shape(mark: Mark) -> list[Any]:
        box = Box(0, 0, 26, 26)
        drawn = [*under(box, mark), *over(box, box.middle, 7, mark)]
        return [
            (
                type(s),
                getattr(s, "points", ()),
                getattr(s, "radius", 0),
                getattr(s, "pen", Pen("", 1)).dash,
            )
            for s in drawn
        ]

    assert shape(one) != shape(other)


def test_every_mark_that_is_used_has_a_name() -> None:
    assert {mark for mark, _ in FOUND} == {"passed", "failed", "touches", "again", ""}
    assert [mark for mark, _ in TIED] == ["one", "other"]


@settings(max_examples=60, deadline=None)
@given(st.lists(grids, min_size=1, max_size=6), st.integers(0, 9), st.floats(420, 1400))
def test_many_plugs_stand_beside_each_other(drawn: list[Grid], count: int, width: float) -> None:
    plugs = []
    for n, grid in enumerate(drawn, 1):
        cavities = tuple(Cavity(place, "empty") for place in places(grid))
        plugs.append(Plug(Connector(f"C{n}", "n", grid), cavities, f"C{n}"))
    rows = [
        TerminalRow(
            f"F{n}",
            (Terminal(f"F{n}/in", "in", "failed", ""), Terminal(f"F{n}/out", "out", "", "")),
        )
        for n in range(count)
    ]
    scene = faces_scene(plugs, rows, width, "mating face")
    assert len(scene.areas) == sum(len(plug.cavities) for plug in plugs) + 2 * count
    assert len({area.ref for area in scene.areas}) == len(scene.areas)
    boxes = [box for _, box in lay_out_faces(plugs, rows, width).plugs]
    boxes += [box for _, box in lay_out_faces(plugs, rows, width).rows]
    for one, other in itertools.combinations(boxes, 2):
        assert not one.grown(-0.01, -0.01).overlaps(other)
    assert all(box.x >= 0 and box.right <= width + 1 for box in boxes)
    for area in scene.areas:
        assert area.box.bottom <= scene.height
        assert sum(box.grown(1, 1).covers(area.box) for box in boxes) == 1


def test_what_failed_comes_first_and_alone_where_it_is_asked_for() -> None:
    job = star()
    found = {
        End("C3", "1"): Marked("failed", "open"),
        End("C1", "1"): Marked("passed"),
        End("F1", "in"): Marked("touches"),
        End("F2", "in"): Marked(),
    }
    plugs = PlugMap(Network(job), found)
    assert [plug.connector.code for plug in plugs.plugs("wire side")] == ["C3", "C1"]
    assert [plug.connector.code for plug in plugs.plugs("wire side", wrong=True)] == ["C3"]
    assert [row.code for row in plugs.rows()] == ["F1", "F2"]
    assert [row.code for row in plugs.rows(wrong=True)] == ["F1"]
    (first, *_) = [c for c in plugs.plugs("wire side")[0].cavities if c.place.cavity == "1"]
    assert (first.mark, first.words.rpartition(" · ")[2]) == ("failed", "open")


def test_the_report_draws_the_plugs_at_which_something_failed() -> None:
    job = read(star(), {("C1/2", "C2/2"): None})
    plan = ProofPlan(job)
    nets = plan.bench.net_of
    pair = nets[End("C1", "1")], nets[End("C1", "3")]
    job = edits.record(job, between(plan, pair, 0.4, AT, "tester", "isolation"))
    sheet = report_sheet(Network(job), ProofPlan(job))
    drawn = [block for block in sheet.blocks if isinstance(block, Drawing)]
    assert [block.title.split()[0] for block in drawn] == ["C1", "C2", "C3", "C4"]
    rows = [row for block in sheet.blocks if isinstance(block, Table) for row in block.rows]
    assert ("C1/1 and C1/3", "are shorted together: 0.4 Ω, short test") in rows
    sound = report_sheet(Network(star()), ProofPlan(star()))
    assert not [block for block in sound.blocks if isinstance(block, Drawing)]


# in the window


def opened(window: MainWindow, job: Job) -> Any:
    window.files.new()
    made = replace(job, id=window.store.job.id)
    window.store.do("a loom", lambda _: made)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.map)
    return shown


def click(shown: Any, qtbot: QtBot, ref: str) -> None:
    drawing = shown.map.map
    qtbot.mouseClick(drawing.viewport(), LEFT, pos=drawing.spot(ref))


def test_a_cavity_says_what_was_found_there_and_leads_to_its_measurement(
    window: MainWindow, qtbot: QtBot
) -> None:
    lamp = Device("D1", "Lamp", "lamp")
    job = replace(star(), devices=(lamp,))
    to_lamp = replace(job.wires[0], code="W7", start=End("C1", "4"), finish=End("D1", "+"))
    job = replace(job, wires=(*job.wires, to_lamp))
    shown = opened(
        window, read(job, {("C1/1", "C2/1"): None, ("C1/1", "C3/1"): 0.3, ("C1/2", "C2/2"): 0.3})
    )
    view = shown.map
    assert "4 passed, 1 failed, 5 not measured. Seen at the wire side." in view.words.text()
    assert not shown.bench.isVisible()
    click(shown, qtbot, "C2/1")
    assert view.said.text().startswith("C2/1: C1/1 to C2/1, open")
    assert window.hand.subject == "C2/1"
    click(shown, qtbot, "D1/+")
    assert window.hand.subject == "D1"
    assert "not measured yet" in view.said.text()
    click(shown, qtbot, "C1/9")
    assert not view.measure_button.isEnabled(), "nothing ends there"
    QTest.keyClick(view.map, Qt.Key.Key_F)
    assert "Seen at the mating face" in view.words.text()
    refs = {area.ref.split("/")[0] for area in view.map.drawing.areas}
    assert refs == {"C1", "C2", "C3", "C4", "D1"}
    view.only.click()
    assert {area.ref.split("/")[0] for area in view.map.drawing.areas} == {"C2"}
    click(shown, qtbot, "C2/1")
    qtbot.mouseClick(view.measure_button, LEFT)
    assert shown.tabs.currentWidget() is shown.plan
    assert {str(end) for end in (shown.plan.current.red, shown.plan.current.black)} == {
        "C1/1",
        "C2/1",
    }
    assert shown.plan.table.current_key() == shown.plan.current.key
    shown.tabs.setCurrentWidget(view)
    view.only.click()
    click(shown, qtbot, "C1/1")
    qtbot.mouseClick(view.measure_button, LEFT)
    chosen = shown.plan.current
    assert window.store.analysis.plan.judged[chosen.key].outcome != "passed", "what is left to do"


def test_an_empty_job_says_that_there_is_nothing_to_measure(window: MainWindow) -> None:
    shown = opened(window, Job("x"))
    assert shown.map.map.drawing is None
    assert "No wire has both ends yet" in shown.map.map.empty
    shown = opened(window, star())
    shown.map.only.click()
    assert shown.map.map.drawing is None
    assert shown.map.map.empty == "Nothing failed so far."


def test_a_tester_run_that_fails_ends_at_the_map(
    window: MainWindow, qtbot: QtBot, stand_ins: Any
) -> None:
    """A process of its own; then a sound one: what touched is apart again."""
    shown = opened(window, star())
    shown.tabs.setCurrentWidget(shown.plan)
    bar = shown.plan.instruments
    for faults, wrong in ((("W2", "short W5 W6"), True), (("W2",), True), ((), False)):
        hidden = [word for fault in faults for word in ("--fault", fault)]
        resource, _ = stand_ins(star(), "tester", *hidden)
        bar.address.setText(resource)
        QTest.keyClick(bar.address, Qt.Key.Key_Return)
        qtbot.waitUntil(bar.run_button.isEnabled)
        if not wrong:
            made = mended_text(window.store.job, "W2 new terminal", AT)
            window.store.do("mended", partial(edits.record, reading=made))
        known = len(window.store.job.readings)

        def ran(known: int = known) -> bool:
            return any(one.of == "isolation" for one in window.store.job.readings[known:])

        qtbot.mouseClick(bar.run_button, LEFT)
        qtbot.waitUntil(ran)
        found = marks(window.store.job)
        failed = {"C2/1"} if wrong else set()
        touch = {"C1/2", "C2/2", "C1/3", "C3/3"} if len(faults) > 1 else set()
        assert {place for place, mark in found.items() if mark == "failed"} == failed
        assert {place for place, mark in found.items() if mark == "touches"} == touch
        assert (shown.tabs.currentWidget() is shown.map) == wrong
        assert ("shorted" in shown.notice.text()) == (len(faults) > 1)
        shown.tabs.setCurrentWidget(shown.plan)
    bar.forget()
