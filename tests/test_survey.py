"""The loom as found: its tree, its measures, its faults and what to do about them."""

import json
import math
from collections import defaultdict
from itertools import pairwise
from pathlib import Path
from typing import Any, get_args

import networkx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import put_job
from jobs import words_on
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.desktop.stages.survey.found import show_found
from molvik.files.errors import JobFileError
from molvik.files.jobtext import decode_job, encode_job
from molvik.findings import find_all
from molvik.model import edits, loom_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.loom import Fault, FaultKind, FoundWire, Loom, Node, Segment
from molvik.model.parts import WireSize
from molvik.netlist.network import Network
from molvik.netlist.placing import UNKNOWN_M
from molvik.parsing.quantities import QuantityError
from molvik.reference.coverings import find_covering
from molvik.sheetset import every_sheet
from molvik.survey.candidates import candidates
from molvik.survey.decide import condemned, decide, whole_loom
from molvik.survey.layout import lay_out
from molvik.survey.materials import new_loom_needs
from molvik.survey.measured import reckon
from molvik.survey.repair_method import repair_method_text
from molvik.survey.spread import REACH_M, spread
from molvik.survey.tree import LoomTree
from molvik.typed.found import FAULT_FIELDS, FOUND_FIELDS, SEGMENT_FIELDS

# Sizes as measured


@pytest.mark.parametrize(
    ("text", "metric", "awg"),
    [
        # ASTM B258 solid diameters (from memory of the table): 14 AWG 1.628 mm, 10 AWG 2.588 mm.
        ("solid 1.63 mm", 2, 14),
        ("solid 2.59", 5, 10),
        ("solid 0.81 mm", 0.5, 20),
        # IEC 60228 class 5, usual stranding (from memory): 2.5 mm2 is 50 x 0.25, 1 mm2 32 x 0.20.
        ("50 x 0.25 mm", 2.5, 14),
        ("32x0,20", 1, 18),
        ("19 strands of 0.3 mm", 1.5, 16),
    ],
)
def test_a_measure_gives_the_nearest_standard_sizes(text: str, metric: float, awg: float) -> None:
    found = reckon(text)
    assert found.metric == WireSize("metric", metric)
    assert found.awg == WireSize("awg", awg)
    assert found.least_mm2 < found.area_mm2 < found.most_mm2
    assert "mm²" in found.text


def test_the_outside_alone_leaves_a_wide_doubt_and_says_so() -> None:
    found = reckon("outside 2.5 mm")
    assert found.most_mm2 / found.least_mm2 > 1.5
    assert "measure over the copper" in found.how


@pytest.mark.parametrize("text", ["", "thick", "copper", "copper 900 mm", "9999 x 0.3", "-3 x 0.2"])
def test_what_is_no_measure_is_refused_with_what_to_type(text: str) -> None:
    with pytest.raises(QuantityError):
        reckon(text)


# The tree


def loom(
    segments: dict[str, tuple[str, str, float]], wires: dict[str, tuple[str, str]], **more: Any
) -> Loom:
    codes = sorted({end for start, finish, _ in segments.values() for end in (start, finish)})
    return Loom(
        tuple(Node(code, code) for code in codes),
        tuple(Segment(c, a, b, length, "tape") for c, (a, b, length) in segments.items()),
        tuple(FoundWire(code, a, b) for code, (a, b) in wires.items()),
        **more,
    )


Y = loom(
    {"B1": ("N1", "N2", 1.0), "B2": ("N2", "N3", 0.5), "B3": ("N2", "N4", 0.7)},
    {"L1": ("N1", "N3"), "L2": ("N1", "N4"), "L3": ("N3", "N4")},
)


def test_a_wire_is_as_long_as_the_stretches_it_runs_through() -> None:
    tree = LoomTree(Y)
    assert tree.length_m("L1") == pytest.approx(1.5)
    assert tree.length_m("L3") == pytest.approx(1.2)
    assert tree.wires_in["B1"] == ("L1", "L2")
    assert [tree.is_end(code) for code in ("N1", "N2")] == [True, False]
    for at, segment, along in ((0.6, "B3", 0.1), (0.2, "B2", 0.3)):
        spot = tree.place("L3", at)
        assert spot is not None
        assert spot[0] == segment
        assert spot[1] == pytest.approx(along)
    assert tree.place("L3", 9.0) is None


def test_a_loop_a_loose_piece_and_an_unknown_length_are_said() -> None:
    ring = loom(
        {
            "B1": ("N1", "N2", 1.0),
            "B2": ("N2", "N3", 1.0),
            "B3": ("N3", "N1", 5.0),
            "B4": ("N7", "N8", 1.0),
        },
        {"L1": ("N1", "N3"), "L2": ("N1", "N7")},
    )
    tree = LoomTree(ring)
    words = " ".join(tree.problems)
    assert "2 pieces" in words
    assert "has a loop" in words
    assert tree.length_m("L1") == pytest.approx(2.0), "the shorter way round"
    assert tree.ways["L2"] == ()
    vague = Loom(
        (Node("N1", "a"), Node("N2", "b")), (Segment("B1", "N1", "N2"), Segment("B2", "N1"))
    )
    words = " ".join(LoomTree(vague).problems)
    assert "No length yet: B1" in words
    assert "Goes nowhere yet: B2" in words
    assert lay_out(LoomTree(vague)).places


@st.composite
def looms(draw: st.DrawFn) -> Loom:
    """A random tree of stretches with wires between random nodes, and faults on them."""
    count = draw(st.integers(2, 12))
    segments = {
        f"B{n}": (f"N{draw(st.integers(0, n - 1))}", f"N{n}", draw(st.floats(0.05, 3)))
        for n in range(1, count)
    }
    node = st.integers(0, count - 1).map(lambda n: f"N{n}")
    wires = {f"L{n}": (draw(node), draw(node)) for n in range(draw(st.integers(1, 12)))}
    wires = {code: ends for code, ends in wires.items() if ends[0] != ends[1]}
    faults = []
    for n, code in enumerate(wires):
        kinds: list[FaultKind] = ["burnt", "cut", "bad repair"]
        kind = draw(st.sampled_from(kinds))
        at = draw(st.none() | st.floats(0, 2))
        faults.append(Fault(f"X{n}", code, kind, at))
    return loom(segments, wires, faults=tuple(faults))


@given(looms())
def test_spread_agrees_with_an_independent_walk_of_the_same_tree(found: Loom) -> None:
    tree = LoomTree(found)
    # Walked anew: the loom cut into pieces of a millimetre, each piece with the wires in it.
    graph: networkx.Graph[str] = networkx.Graph()
    for segment in found.segments:
        graph.add_edge(segment.start, segment.finish, segment=segment)
    at: dict[str, list[tuple[str, float, float]]] = {}
    for wire in found.wires:
        nodes = networkx.shortest_path(graph, wire.start, wire.finish)
        run = 0.0
        for a, b in pairwise(nodes):
            segment = graph[a][b]["segment"]
            at.setdefault(wire.code, []).append((segment.code, run, run + segment.length_m))
            run += segment.length_m
    for fault in found.faults:
        reach = spread(tree, fault)
        whole = fault.kind == "burnt" or fault.at_m is None
        wanted: dict[str, float] = defaultdict(float)
        opened = 0.0
        for code, begin, end in at[fault.on]:
            low, high = begin, end
            if not whole:
                assert fault.at_m is not None
                if not begin <= fault.at_m <= end or opened:
                    continue
                low, high = max(begin, fault.at_m - REACH_M), min(end, fault.at_m + REACH_M)
            opened += high - low
            for other, way in at.items():
                if other != fault.on and any(c == code for c, _, _ in way):
                    wanted[other] += high - low
        assert reach.open_m == pytest.approx(opened, abs=1e-9)
        assert reach.inspect == pytest.approx(dict(wanted), abs=1e-9)


@given(looms())
def test_the_drawing_is_to_scale(found: Loom) -> None:
    tree = LoomTree(found)
    placed = lay_out(tree)
    assert set(placed.places) == {node.code for node in found.nodes}
    for segment in found.segments:
        path = placed.paths[segment.code]
        assert path[0] == pytest.approx(placed.places[segment.start])
        assert path[-1] == pytest.approx(placed.places[segment.finish])
        drawn = sum(math.dist(a, b) for a, b in pairwise(path))
        assert drawn == pytest.approx(segment.length_m or UNKNOWN_M)


@given(looms())
def test_a_loom_saved_and_opened_is_equal(found: Loom) -> None:
    job = Job("x", loom=found)
    assert decode_job(encode_job(job), "x") == job


# Decisions

# Judged by hand, wire by wire, before the rules were run: what, and the word that carries why.
BY_HAND = {
    "X1": ("replace end to end", "no fuse"),  # the beacon, added later, burnt
    "X2": ("replace the family", "crumbles everywhere"),
    "X3": ("splice in a piece", "sound"),  # one of the cut pair
    "X4": ("splice in a piece", "sound"),
    "X5": ("splice in a piece", "sensor wire"),  # the tank sender's twisted repair
    "X6": ("replace end to end", "no fuse"),  # the heater, melted to its neighbour
    "X7": ("re-terminate", "even if it works"),  # a dull sensor terminal
    "X8": ("re-terminate", "creeps"),  # green at the floor
    "X9": ("replace the covering", "chafe"),
    "X10": ("re-terminate", "click"),
    "X11": ("replace the part", "locks"),
    "X12": ("splice in a piece", "sound"),
    "X13": ("splice in a piece", "never trusted"),
    "X14": ("leave", "paint"),
}


def test_the_demos_faults_are_decided_as_by_hand(demo: Job) -> None:
    tree = LoomTree(demo.loom)
    for fault in demo.loom.faults:
        action, word = BY_HAND[fault.code]
        decision = decide(tree, fault)
        assert (fault.code, decision.action) == (fault.code, action)
        assert word in decision.reason, (fault.code, decision.reason)
    assert set(BY_HAND) == {fault.code for fault in demo.loom.faults}


def test_the_demos_loom_is_as_large_as_promised(demo: Job) -> None:
    tree = LoomTree(demo.loom)
    ends = [node for node in demo.loom.nodes if tree.is_end(node.code)]
    assert len(demo.loom.nodes) - len(ends) >= 6
    assert len(ends) >= 14
    assert len(demo.loom.wires) >= 45
    assert len({fault.kind for fault in demo.loom.faults}) >= 12
    assert tree.problems == ()


def test_a_burnt_unfused_wire_has_its_whole_way_opened_and_all_neighbours_named(
    demo: Job,
) -> None:
    tree = LoomTree(demo.loom)
    burnt = demo.loom.faults[0]
    reach = spread(tree, burnt)
    # By hand: bulkhead to dash, dash centre, heater, pillar, roof rail, beacon.
    assert reach.open_m == pytest.approx(0.48 + 0.40 + 0.50 + 0.60 + 0.90 + 0.70)
    assert "L18" in reach.inspect, "the beacon's earth lies beside it"
    assert reach.inspect["L18"] == pytest.approx(0.70 + 0.90 + 0.60)
    assert "L10" not in reach.inspect, "the tail lamps go the other way"


def test_crumbling_condemns_every_wire_of_the_family(demo: Job) -> None:
    tree = LoomTree(demo.loom)
    family = {w.code for w in demo.loom.wires if w.family == "rubber and cotton"}
    assert family <= set(condemned(tree))
    assert whole_loom(tree) == ""
    rubber = tuple(FoundWire(f"L{n}", "N1", "N2", family="Rubber ") for n in range(4))
    nodes = (Node("N1", "a"), Node("N2", "b"))
    old = Loom(nodes, (Segment("B1", "N1", "N2", 1.0),), rubber, (Fault("X1", "L0", "crumbling"),))
    assert "consider replacing the loom" in whole_loom(LoomTree(old))


def test_the_users_own_decision_stands_with_its_reason(demo: Job) -> None:
    job = loom_edits.change(demo, "X1", decision="leave", reason="it is going to the museum")
    decision = decide(LoomTree(job.loom), job.loom.faults[0])
    assert (decision.action, decision.reason, decision.own) == (
        "leave",
        "it is going to the museum",
        True,
    )


@pytest.mark.parametrize(
    ("fields", "action"),
    [
        ({"kind": "burnt"}, "replace end to end"),
        ({"kind": "green copper", "grade": 1}, "clean"),
        ({"kind": "green copper", "grade": 4}, "re-terminate"),
        ({"kind": "crumbling"}, "replace end to end"),
        ({"kind": "cracked", "grade": 4}, "replace end to end"),
        ({"kind": "cracked", "grade": 1}, "leave"),
        ({"kind": "overspray", "grade": 2}, "clean"),
        ({"kind": "missing seal"}, "replace the part"),
        ({"kind": "stretched"}, "splice in a piece"),
        ({}, "leave"),
    ],
)
def test_each_rule_by_itself(fields: dict[str, Any], action: str) -> None:
    wire = FoundWire("L1", "N1", "N2", fused=True)
    nodes = (Node("N1", "a"), Node("N2", "b"))
    fault = Fault("X1", "L1", **fields)
    tree = LoomTree(Loom(nodes, (Segment("B1", "N1", "N2", 1.0),), (wire,), (fault,)))
    decision = decide(tree, fault)
    assert decision.action == action
    if action == "clean":
        assert "gloves" in decision.how


@pytest.mark.parametrize("kind", get_args(FaultKind))
@pytest.mark.parametrize("on", ["L1", "B1", "N1"])
@pytest.mark.parametrize("grade", [3, 4])
@pytest.mark.parametrize("fused", [None, True, False])
def test_no_bad_or_dangerous_fault_is_left(
    kind: FaultKind, on: str, grade: int, fused: bool | None
) -> None:
    wire = FoundWire("L1", "N1", "N2", fused=fused)
    nodes = (Node("N1", "a"), Node("N2", "b"))
    loom = Loom(
        nodes, (Segment("B1", "N1", "N2", 1.0),), (wire,), (Fault("X1", on, kind, grade=grade),)
    )
    assert decide(LoomTree(loom), loom.faults[0]).action != "leave"
    job = Job("x", loom=loom)
    (told,) = [one for one in find_all(Analysis(job)) if one.rule == "fault-found"]
    assert told.severity == (
        "stop" if grade == 4 else "look" if fused is not False else told.severity
    )


def test_crumbling_on_a_stretch_asks_which_wires_and_names_them() -> None:
    wire = FoundWire("L1", "N1", "N2")
    nodes = (Node("N1", "a"), Node("N2", "b"))
    fault = Fault("X1", "B1", "crumbling", grade=4)
    tree = LoomTree(Loom(nodes, (Segment("B1", "N1", "N2", 1.0),), (wire,), (fault,)))
    decision = decide(tree, fault)
    assert decision.action == "replace end to end"
    assert "L1 lies there" in decision.how


def test_a_wire_cut_off_is_guessed_at_by_colour_and_said_to_be_a_guess(demo: Job) -> None:
    tree, network = LoomTree(demo.loom), Analysis(demo).network
    cut = next(w for w in demo.loom.wires if w.code == "L43")
    likely = candidates(tree, cut, network)
    assert {one.function for one in likely[:2]} == {"Tachometer", "Engine speed out"}
    assert all("colour" in one.why for one in likely)
    assert candidates(tree, FoundWire("L9", "N1"), network) == ()


# Edits and files


@pytest.mark.parametrize(
    ("thing", "words"),
    [
        (Segment("", "N1", "N9", 1.0), "There is no node N9"),
        (Segment("", "N1", "N1", 1.0), "starts and ends at N1"),
        (Segment("", "N1", "N2", -1.0), "above zero"),
        (FoundWire("", "N1", "N9"), "There is no node N9"),
        (FoundWire("", "N1", left_m=-2.0), "above zero"),
        (Fault("", "L9"), "There is no L9"),
        (Fault("", "B1", grade=7), "0 .as new. to 4"),
        (Fault("", "B1", at_m=-0.1), "not below zero"),
        (Node("", " "), "Give the node a name"),
        (Node("N1", "again"), "N1 is already"),
    ],
)
def test_what_cannot_be_is_refused_in_words(thing: Any, words: str) -> None:
    with pytest.raises(EditError, match=words):
        loom_edits.add(Job("x", loom=Y), thing)


def test_nothing_that_others_hang_on_is_taken_out() -> None:
    job = loom_edits.add(Job("x", loom=Y), Fault("", "B1", "sleeve gone"))
    with pytest.raises(EditError, match=r"N1 stays: B1, L1 and L2 go to it. Move them first."):
        loom_edits.remove(job, "N1")
    with pytest.raises(EditError, match="B1 stays: X1 is recorded on it"):
        loom_edits.remove(job, "B1")
    assert loom_edits.remove(job, "X1").loom == Y
    with pytest.raises(EditError, match="no X9"):
        loom_edits.remove(job, "X9")


def test_a_file_with_an_impossible_loom_is_refused_by_name(demo: Job) -> None:
    data = json.loads(encode_job(demo))
    data["job"]["loom"]["segments"][0]["finish"] = "N99"
    with pytest.raises(JobFileError, match="B1 is about N99, which is not there"):
        decode_job(json.dumps(data).encode(), "x")
    data = json.loads(encode_job(demo))
    data["job"]["loom"]["segments"][0]["length_m"] = -2
    with pytest.raises(JobFileError, match="above zero"):
        decode_job(json.dumps(data).encode(), "x")


def test_what_is_typed_in_the_tables_is_read_or_refused() -> None:
    def read(fields: Any, name: str, text: str) -> Any:
        return next(f for f in fields if f.name == name).read(text, Network(Job("")))

    assert read(SEGMENT_FIELDS, "Length", "22 in")["length_m"] == pytest.approx(0.5588)
    assert read(SEGMENT_FIELDS, "Diameter", "18") == {"diameter_mm": pytest.approx(18)}
    assert read(SEGMENT_FIELDS, "Diameter", "0.5 in") == {"diameter_mm": pytest.approx(12.7)}
    assert read(FOUND_FIELDS, "Measured", "50 x 0.25")["size"] == WireSize("metric", 2.5)
    assert read(FOUND_FIELDS, "Fused", "no") == {"fused": False}
    assert read(FAULT_FIELDS, "Fault", "crumb") == {"kind": "crumbling"}
    assert read(FAULT_FIELDS, "At", "0") == {"at_m": 0.0}
    for fields, name, text in (
        (SEGMENT_FIELDS, "Length", "-3 m"),
        (SEGMENT_FIELDS, "Ties", "many"),
        (FOUND_FIELDS, "Fused", "perhaps"),
        (FAULT_FIELDS, "Fault", "c"),
        (FAULT_FIELDS, "Grade", "9"),
        (FAULT_FIELDS, "Own decision", "burn it"),
    ):
        with pytest.raises(ValueError, match=r"\w"):
            read(fields, name, text)


def test_survey_on_the_command_line(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "demo.molvik"
    put_job(demo, path)
    assert main(["survey", str(path)]) == 0
    assert "X1 on L17: burnt, dangerous" in capsys.readouterr().out
    assert main(["survey", str(path), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["faults"][0]["grade"] == 4
    assert "L4" in report["condemned"]
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for key in (*report, *report["faults"][0]):
        assert f"`{key}`" in documented
    assert main(["survey", str(tmp_path / "gone.molvik")]) == 2


@pytest.mark.parametrize(
    ("joints", "words"), [("crimped", "tool made for the splice"), ("soldered", "stiffens")]
)
def test_both_schools_of_joint_are_told_with_where_each_is_poor(
    demo: Job, joints: str, words: str
) -> None:
    # Common practice: staggered joints, the sleeve first, crimp where it flexes.
    job = edits.change_settings(demo, joints=joints, stagger_m=0.05)
    text = repair_method_text(job.settings)
    assert words in text
    assert "50 mm apart" in text
    assert text.startswith("Sleeve on the wire first")
    sheet = next(one for one in every_sheet(Analysis(job)) if one.name == "survey")
    assert any(words in note for note in words_on(sheet))
    cut = next(fault for fault in job.loom.faults if fault.kind == "cut")
    facts = show_found(Analysis(job), cut).facts
    assert any(name == "Joints" and words in value for name, value, _ in facts)


def test_an_odd_tree_is_a_note_and_a_loom_mostly_gone_a_look() -> None:
    ring = loom({"B1": ("N1", "N2", 1.0), "B2": ("N2", "N3", 1.0), "B3": ("N3", "N1", 1.0)}, {})
    notes = {one.rule: one for one in find_all(Analysis(Job("x", loom=ring)))}
    assert set(notes) == {"odd-tree"}
    assert notes["odd-tree"].severity == "note"
    assert "has a loop" in notes["odd-tree"].what
    wires = {f"L{n}": ("N1", "N2") for n in range(1, 5)}
    faults = tuple(Fault(f"X{n}", f"L{n}", "burnt", grade=3) for n in (1, 2))
    gone = loom({"B1": ("N1", "N2", 1.0)}, wires, faults=faults)
    looks = {one.rule: one for one in find_all(Analysis(Job("x", loom=gone)))}
    assert looks["loom-not-worth-it"].severity == "look"
    assert "2 of 4 wires" in looks["loom-not-worth-it"].what
    fewer = loom({"B1": ("N1", "N2", 1.0)}, wires, faults=faults[:1])
    assert "loom-not-worth-it" not in {one.rule for one in find_all(Analysis(Job("x", loom=fewer)))}


@pytest.mark.parametrize("kind", ["burnt", "melted together"])
@pytest.mark.parametrize(("fused", "severity"), [(False, "stop"), (True, "note"), (None, "note")])
def test_what_burnt_with_no_fuse_before_it_is_dangerous_however_it_was_graded(
    kind: FaultKind, fused: bool | None, severity: str
) -> None:
    loom = Loom(
        (Node("N1", "plug"), Node("N2", "end")),
        (Segment("B1", "N1", "N2", 1.0),),
        (FoundWire("L1", "N1", "N2", fused=fused, function="Charge cable"),),
        (Fault("X1", "L1", kind, grade=1),),
    )
    found = find_all(Analysis(Job("burnt", loom=loom)))
    (one,) = [one for one in found if one.rule == "fault-found"]
    assert one.severity == severity
    assert ("dangerous" in one.what) == (severity == "stop")


@pytest.mark.parametrize(
    ("text", "key"),
    [
        ("", ""),
        ("bare", ""),
        ("Cloth tape", "tape"),
        ("loom  TAPE", "tape"),
        ("PVC tube", "tube"),
        ("black convoluted tube, 13 mm", "split tube"),
        ("split tube", "split tube"),
        ("braided sleeve", "braid"),
        ("glass sleeve", "heat sleeve"),
        ("heat shrink", "heat-shrink"),
    ],
)
def test_coverings_are_known_by_the_words_people_use(text: str, key: str) -> None:
    found = find_covering(text)
    assert found is not None
    assert found.key == key
    assert find_covering(found.key) is found


def test_a_covering_nobody_knows_is_told() -> None:
    assert find_covering("old newspaper") is None
    field = next(one for one in SEGMENT_FIELDS if one.name == "Covering")
    assert field.read("PVC tube", Network(Job(""))) == {"covering": "tube"}
    with pytest.raises(ValueError, match=r"not a covering known here\. Type one of: tape"):
        field.read("old newspaper", Network(Job("")))


def test_coverings_of_files_from_before_count_as_before() -> None:
    """There they stand as they were typed."""
    loom = Loom(
        (Node("N1", "a"), Node("N2", "b"), Node("N3", "c")),
        (Segment("B1", "N1", "N2", 1.0, "Cloth tape"), Segment("B2", "N2", "N3", 2.0, "newspaper")),
    )
    needs = {one.kind: one.amount for one in new_loom_needs(LoomTree(loom))}
    assert needs["tape"] == pytest.approx(1.0)
    assert needs["sleeve"] == pytest.approx(2.0)
