"""What is done about each fault: by its kind, its grade, and what it sits on.

``what_is_done.txt`` is the whole grid, read line by line as one who restores looms reads it (common
practice, no source): kind | where | grades | what is done | how | why. A change of any of it is
seen there.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import get_args

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from molvik.analysis import Analysis
from molvik.desktop.window import MainWindow
from molvik.findings import judged_findings
from molvik.findings.findingsheet import findings_sheet
from molvik.model import loom_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.loom import Fault, FaultKind, FoundWire, Loom, Node, Role, Segment
from molvik.netlist.network import Network
from molvik.survey.decide import decide
from molvik.survey.rules import DANGEROUS, NOT_LEFT, grade_of
from molvik.survey.surveysheet import fault_sheet
from molvik.survey.tree import LoomTree
from molvik.typed.field import named
from molvik.typed.found import FAULT_FIELDS, type_found

PLACES: dict[str, tuple[str, Role, bool | None]] = {
    "a supply behind a fuse": ("L1", "supply", True),
    "a supply without a fuse": ("L1", "supply", False),
    "a supply, fuse not known": ("L1", "supply", None),
    "an earth": ("L1", "earth", False),
    "a sensor's wire": ("L1", "sensor", None),
    "a signal's wire": ("L1", "signal", None),
    "a stretch": ("B1", "supply", None),
    "a plug": ("N1", "supply", None),
    "a breakout": ("N2", "supply", None),
}


def loom(place: str, kind: FaultKind, grade: int) -> Loom:
    """A loom of three stretches and two wires with a fault in it."""
    on, role, fused = PLACES[place]
    nodes = (Node("N1", "Plug"), Node("N2", "Breakout"), Node("N3", "Far"), Node("N4", "Other"))
    runs = (
        Segment("B1", "N1", "N2", 1.0),
        Segment("B2", "N2", "N3", 1.0),
        Segment("B3", "N2", "N4", 1.0),
    )
    wires = (
        FoundWire("L1", "N1", "N3", role=role, fused=fused, family="PVC"),
        FoundWire("L2", "N1", "N4"),
    )
    return Loom(nodes, runs, wires, (Fault("X1", on, kind, grade=grade),))


def lines() -> Iterator[str]:
    """The grid as it is decided now, grades that come to the same together."""
    for kind in get_args(FaultKind):
        for place in PLACES:
            rows: list[tuple[list[int], str, str]] = []
            for grade in range(5):
                tree = LoomTree(loom(place, kind, grade))
                made, bad = decide(tree, tree.loom.faults[0]), grade_of(tree, tree.loom.faults[0])
                told = f"{made.action} | {made.how} | {made.reason}"
                counts = f" as {bad}" if bad != grade else ""
                if rows and rows[-1][1:] == (counts, told):
                    rows[-1][0].append(grade)
                else:
                    rows.append(([grade], counts, told))
            for grades, counts, told in rows:
                some = "-".join(map(str, dict.fromkeys((grades[0], grades[-1]))))
                yield f"{kind} | {place} | {some}{counts} | {told}"


def test_the_grid_is_the_one_that_was_read() -> None:
    read = (Path(__file__).parent / "what_is_done.txt").read_text(encoding="utf-8").splitlines()
    assert list(lines()) == read


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("kind", get_args(FaultKind))
def test_the_grade_and_what_it_sits_on_decide(kind: FaultKind, place: str) -> None:
    for grade in range(5):
        tree = LoomTree(loom(place, kind, grade))
        (fault,) = tree.loom.faults
        made, bad = decide(tree, fault), grade_of(tree, fault)
        assert bad >= grade, "no rule makes less of it"
        if bad >= NOT_LEFT:
            assert made.action != "leave"
        if place == "an earth":
            assert "fit a fuse" not in made.how
        if place in ("a stretch", "a plug", "a breakout"):
            assert "The rest of the wire" not in made.reason
        if "was hot all along" in made.reason and "if none does" not in made.reason:
            assert place in ("a supply without a fuse", "a stretch", "a breakout")
        if kind in ("burnt", "melted together", "chafed through"):
            assert (bad == DANGEROUS) == (grade == 4 or place == "a supply without a fuse")
    if kind == "missing seal":
        assert "lock" not in decide(tree, fault).reason


def test_a_bare_feed_without_a_fuse_is_the_fire_and_a_stop() -> None:
    """Chafed through against metal, however it was graded."""
    job = Job("x", loom=loom("a supply without a fuse", "chafed through", 1))
    (one,) = [o for o in judged_findings(Analysis(job)) if o.finding.rule == "fault-found"]
    assert one.finding.severity == "stop"
    assert "battery off" in one.finding.remedy


def test_a_terminal_that_is_as_new_stays() -> None:
    tree = LoomTree(loom("a plug", "bad terminal", 0))
    assert decide(tree, tree.loom.faults[0]).action == "leave"


def typed(job: Job, field: str, text: str) -> tuple[Job, str]:
    """Type into a field of the fault."""
    made = type_found(job, Network(job), job.loom.faults[0], named(FAULT_FIELDS, field), text)
    return made.edit(job), made.remark


@pytest.mark.parametrize("grade", [3, 4])
def test_what_is_bad_is_left_for_a_reason_only_and_stays_in_view(grade: int) -> None:
    job = Job("x", loom=loom("a stretch", "cracked", grade))
    with pytest.raises(ValueError, match="say why it is left"):
        typed(job, "Own decision", "leave")
    left, _ = typed(job, "Own decision", "leave: it is for show")
    (fault,) = left.loom.faults
    assert (fault.decision, fault.reason) == ("leave", "it is for show")
    with pytest.raises(ValueError, match="say why it is left"):
        typed(left, "Reason", "")
    blank = loom_edits.change(left, "X1", reason="  ")
    assert decide(LoomTree(blank.loom), blank.loom.faults[0]).action != "leave"
    analysis = Analysis(left)
    (one,) = [o for o in judged_findings(analysis) if o.finding.rule == "fault-found"]
    assert not one.is_open
    assert "it is for show" in one.words
    words = "accepted as it is"
    assert any(
        words in cell
        for row in fault_sheet(analysis.loom, left.settings).tables[0].rows
        for cell in row
    )
    assert any("it is for show" in str(block) for block in findings_sheet(analysis).blocks)


def test_a_decision_to_leave_was_for_the_grade_that_it_had() -> None:
    job = Job("x", loom=loom("a stretch", "cracked", 3))
    left, _ = typed(job, "Own decision", "leave: seen before")
    worse, remark = typed(left, "Grade", "4")
    assert worse.loom.faults[0].decision == ""
    assert "seen before" in remark
    slight = Job("x", loom=loom("a stretch", "cracked", 1))
    kept, _ = typed(typed(slight, "Own decision", "leave")[0], "Grade", "2")
    assert kept.loom.faults[0].decision == "leave"


def test_what_an_older_job_leaves_without_a_reason_is_proposed_and_open() -> None:
    left = loom_edits.change(Job("x", loom=loom("a stretch", "cracked", 4)), "X1", decision="leave")
    tree = LoomTree(left.loom)
    assert decide(tree, left.loom.faults[0]).action == "replace end to end"
    (one,) = [o for o in judged_findings(Analysis(left)) if o.finding.rule == "fault-found"]
    assert one.is_open
    assert "no reason is given" in one.finding.remedy


def test_a_fault_lies_on_what_it_is_on() -> None:
    job = Job("x", loom=loom("a stretch", "cracked", 1))
    with pytest.raises(EditError, match="B1 is 1 m long: a fault at 99 m is not on it"):
        loom_edits.change(job, "X1", at_m=99.0)
    wire = Job("x", loom=loom("an earth", "cracked", 1))
    with pytest.raises(ValueError, match=r"L1 is 2 m long: a fault at 2.5 m is not on it"):
        typed(wire, "At", "2.5 m")
    assert typed(wire, "At", "2 m")[0].loom.faults[0].at_m == 2
    with pytest.raises(EditError, match="There is no N9"):
        typed(wire, "On", "N9")[0]


def test_leaving_is_taken_back_where_findings_are_judged(window: MainWindow, qtbot: QtBot) -> None:
    window.files.new()
    made = loom("a stretch", "cracked", 4)
    window.store.do(
        "a loom",
        lambda job: loom_edits.change(
            replace(job, loom=made), "X1", decision="leave", reason="for show"
        ),
    )
    qtbot.waitUntil(lambda: window.strip.list.count() > 0)
    (one,) = [o for o in judged_findings(window.store.analysis) if not o.is_open]
    window.strip.withdrawn.emit(one.finding)
    assert window.store.job.loom.faults[0].decision == ""
    window.store.history.undo()
    assert window.store.job.loom.faults[0].reason == "for show"
