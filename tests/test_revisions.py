"""Which state of a board was given out, and whether it was changed since."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from conftest import answer
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.stages.routing.boarddialog import BoardDialog
from molvik.desktop.window import MainWindow
from molvik.files.board import board_pdf
from molvik.files.jobtext import decode_job, encode_job
from molvik.model import edits, routing_edits, run_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.routing import Revision
from molvik.parsing.revisions import read_revisions, revisions_text
from molvik.routing.board.revisions import given_out, next_mark, standing, state_of
from molvik.typed.field import named
from molvik.typed.routed import LOOM_FIELDS
from test_board import over

FIRST = Revision("A", "2026-03-14", "First issue", "Mirel")


def issued() -> Job:
    return given_out(bare(), "H1", "First issue", "2026-03-14", "Mirel")


def bare() -> Job:
    """Return the demo without revisions."""
    job = demo_job()
    for loom in job.routing.looms:
        job = routing_edits.change(job, loom.code, revisions=())
    return job


def test_letters_that_read_like_others_are_left_out_and_none_comes_twice() -> None:
    found: tuple[Revision, ...] = ()
    for _ in range(45):
        found = (*found, replace(FIRST, mark=next_mark(found)))
    marks = [one.mark for one in found]
    assert marks[:20] == list("ABCDEFGHJKLMNPRTUVWY")
    assert marks[20:23] == ["AA", "AB", "AC"]
    assert len(set(marks)) == 45
    assert next_mark((replace(FIRST, mark="B"),)) == "C"


def test_what_is_given_out_stands_with_its_day_and_name() -> None:
    job = issued()
    (loom, _) = job.routing.looms
    (revision,) = loom.revisions
    assert revision == replace(FIRST, state=state_of(job, "H1"))
    assert standing(job, "H1").words == "revision A"
    assert standing(job, "H2").words == "revision"
    again = given_out(job, "H1", "  C9 moved; tube\n longer ", "2026-04-02", "A: (B); C")
    last = again.routing.looms[0].revisions[-1]
    assert (last.mark, last.what, last.by) == ("B", "C9 moved, tube longer", "A B C")
    with pytest.raises(EditError, match="Say in a few words"):
        given_out(job, "H1", " ", "2026-04-02", "")
    with pytest.raises(EditError, match="80 letters at most"):
        given_out(job, "H1", "x" * 81, "2026-04-02", "")
    with pytest.raises(EditError, match="There is no loom H9"):
        given_out(job, "H9", "x", "2026-04-02", "")


def test_a_change_of_this_loom_is_told_and_of_another_not() -> None:
    job = issued()
    own = next(run for run in job.routing.runs if run.start in _joints(job, "H1"))
    other = next(run for run in job.routing.runs if run.start in _joints(job, "H2"))
    carried = {code for j in job.routing.joints if j.loom == "H1" for code in j.carries}
    wire = next(wire for wire in job.wires if wire.start.at in carried)
    changed = (
        routing_edits.change(job, own.code, length_m=0.999),
        run_edits.turned(job, {own.code: (33.0, 0.0)}),
        edits.change_wire(job, wire.code, note="looked at"),
        routing_edits.change(job, "H1", name="Another name"),
    )
    for one in changed:
        assert standing(one, "H1").words == "revision A, changed since"
    same = (
        routing_edits.change(job, other.code, length_m=0.999),
        edits.change_settings(job, measured_by="Somebody"),
        routing_edits.change(job, "H2", name="Another name"),
    )
    for one in same:
        assert standing(one, "H1").changed is False
    typed = routing_edits.change(job, "H1", revisions=(FIRST,))
    assert standing(typed, "H1").changed is None


def test_a_job_that_was_saved_and_opened_is_the_same_state() -> None:
    job = bare()
    job = routing_edits.change(job, job.routing.runs[0].code, length_m=1)
    same = decode_job(encode_job(job), "x")
    assert state_of(same, "H1") == state_of(job, "H1")
    assert standing(demo_job(), "H1").words == "revision B"


def _joints(job: Job, loom: str) -> set[str]:
    return {joint.code for joint in job.routing.joints if joint.loom == loom}


def test_the_sheet_tells_the_last_revisions_the_newest_first_and_over_nothing() -> None:
    job = bare()
    for number in range(8):
        job = given_out(job, "H1", f"Change {number}", f"2026-03-1{number}", "Mirel")
    sheet = Analysis(job).board_sheet("H1")
    texts = sheet.scene.texts()
    told = [text for text in texts if text.startswith("Change ")]
    assert told == [f"Change {number}" for number in range(7, 1, -1)]
    assert "revision H" in texts
    assert over(sheet) == []
    import pypdfium2

    pages = pypdfium2.PdfDocument(board_pdf(sheet, "A4"))
    cover = pages[0].get_textpage().get_text_range()
    assert "Change 7" in cover
    assert "revision H" in cover


names = st.text(st.sampled_from("abcXYZ '-"), max_size=8).map(lambda t: " ".join(t.split()))


@given(
    st.lists(
        st.builds(
            Revision,
            st.sampled_from("ABCDEFG"),
            st.dates().map(str),
            st.text(st.sampled_from("abc9 :,()±"), min_size=1, max_size=12)
            .map(str.strip)
            .filter(bool),
            names,
            st.sampled_from(["", "0a1b2c3d"]),
        ),
        unique_by=lambda one: one.mark,
        max_size=4,
    )
)
def test_revisions_come_back_as_they_were_typed(revisions: list[Revision]) -> None:
    kept = [one for one in revisions if not one.by.lower().startswith("by ")]
    assert read_revisions(revisions_text(tuple(kept))) == tuple(kept)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("A first issue", "is not understood"),
        ("A 2026-02-30: x", "is not a day"),
        ("A 2026-02-03: x; a 2026-02-04: y", "is there twice"),
        ("A 2026-02-03:", "is not understood"),
    ],
)
def test_a_revision_without_a_day_or_with_a_mark_that_is_there_is_refused(
    text: str, told: str
) -> None:
    with pytest.raises(ValueError, match=told):
        read_revisions(text)


def test_revisions_are_typed_with_the_loom() -> None:
    field = named(LOOM_FIELDS, "Revisions")
    loom = issued().routing.looms[0]
    network = Analysis(issued()).network
    assert field.read(field.show(loom), network) == {"revisions": loom.revisions}
    assert field.read("", network) == {"revisions": ()}


def test_a_revision_is_given_out_from_the_board_and_undone_as_a_step(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.store.load(bare(), None)
    dialog = BoardDialog(window, window.store, "H1")
    qtbot.addWidget(dialog)
    qtbot.waitUntil(lambda: dialog.save.isEnabled())

    def say(question: LineQuestion) -> None:
        assert isinstance(question.field, QLineEdit)
        question.field.setText("C9 moved")
        question.accept()

    answer(LineQuestion, say)
    dialog.revise.click()
    loom = window.store.job.routing.looms[0]
    assert [(one.mark, one.what) for one in loom.revisions] == [("A", "C9 moved")]
    qtbot.waitUntil(lambda: dialog.save.isEnabled())
    sheet = dialog.sheet
    assert sheet is not None
    assert "C9 moved" in sheet.scene.texts()
    window.store.history.undo()
    assert window.store.job.routing.looms[0].revisions == ()
