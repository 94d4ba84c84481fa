"""A place is written and read in one way."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from molvik.demo import demo_job
from molvik.devices.nodes import owner_of
from molvik.model.parts import LOOSE, End
from molvik.model.references import codes
from molvik.model.refs import Ref

CODES = st.from_regex(r"[A-Z0-9][A-Z0-9_.-]{0,19}", fullmatch=True)
"""What ``model.edits.change_code`` lets a code be."""

CAVITIES = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=8)


@given(CODES, CAVITIES, st.integers(0, 10**8))
def test_what_is_written_is_read_back(code: str, cavity: str, micrometres: int) -> None:
    for one in (Ref(code), Ref(code, cavity), Ref(code, "", micrometres / 1e6)):
        read = Ref.parse(str(one))
        assert (read.code, read.cavity) == (one.code, one.cavity)
        assert read.at_m == pytest.approx(one.at_m, abs=1e-6)
        assert read.thing == Ref(code)


@given(CODES, CAVITIES)
def test_an_end_is_a_place(code: str, cavity: str) -> None:
    for end in (End(code), End(code, cavity)):
        assert End.of(str(end)) == end
        assert Ref.parse(str(end)) == Ref(end.at, end.cavity)


@pytest.mark.parametrize(
    ("text", "ref"),
    [
        ("C3/5", Ref("C3", "5")),
        ("F7/in", Ref("F7", "in")),
        ("W12", Ref("W12")),
        ("B4@0.35", Ref("B4", "", 0.35)),
        ("IGN-1.A", Ref("IGN-1.A")),
        ("C1/1/2", Ref("C1", "1/2")),
        ("", Ref()),
    ],
)
def test_as_it_stands_on_labels(text: str, ref: Ref) -> None:
    assert Ref.parse(text) == ref
    assert str(ref) == text


def test_a_loose_end_is_no_place_but_is_told() -> None:
    assert str(LOOSE) == "loose"


def test_every_code_of_the_demos_is_read_as_itself() -> None:
    for name in ("marten", "plover"):
        assert all(Ref.parse(code) == Ref(code) for code in codes(demo_job(name)))


def test_nodes_and_elements_of_a_solution_say_whose_they_are() -> None:
    assert [owner_of(one) for one in ("D5/12", "W3 middle", "K1 coil", "F1 F1/in F1/out")] == [
        "D5",
        "W3",
        "K1",
        "F1",
    ]


def test_places_are_read_in_one_module() -> None:
    source = Path(__file__).parent.parent / "src" / "molvik"
    reads = re.compile(r"(?:place|subject|\.at|node|word|on)\.r?(?:partition|split)\(\"[/@]\"\)")
    found = [str(p) for p in source.rglob("*.py") if reads.search(p.read_text(encoding="utf-8"))]
    assert found == []
