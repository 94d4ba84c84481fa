"""In what two values of a job differ, thing by thing."""

from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from jobs import edited, jobs_of_every_kind
from molvik.model import edits, loom_edits
from molvik.model.differing import differences
from molvik.model.job import Job
from molvik.model.loom import Node
from molvik.model.parts import Colour, Wire


def test_each_field_is_told_with_what_it_was_and_is() -> None:
    old = edits.add(Job("x", title="a"), Wire("W1", function="lamp"))
    new = edits.change_wire(old, "W1", colour=Colour("RD", "WH"), length_m=1.5)
    new = edits.add(new, Wire("W2", function="horn"))
    new = loom_edits.add(replace(new, title="b"), Node("N1", "bulkhead"))
    new = edits.change_settings(new, ambient_c=31.0)
    assert set(differences(old, new)) == {
        ("the job", "title", "a", "b"),
        ("W1", "colour", "", "RD/WH"),
        ("W1", "length, m", "", "1.5"),
        ("W2", "wire", "", "horn"),
        ("N1", "node", "", "bulkhead"),
        ("settings", "ambient, °C", f"{old.settings.ambient_c:g}", "31"),
    }
    assert ("W2", "wire", "horn", "") in differences(new, old)


@settings(max_examples=40)
@given(st.data(), jobs_of_every_kind())
def test_nothing_differs_from_itself_and_something_from_all_else(data: Any, job: Job) -> None:
    assert differences(job, job) == ()
    other = data.draw(edited(job))
    assert bool(differences(job, other)) == (replace(other, spent=job.spent) != job)
